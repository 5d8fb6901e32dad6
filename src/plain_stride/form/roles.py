"""Roles: what a stretch of line is for."""

from dataclasses import dataclass

from plain_stride.errors import StrideError

ROLES = ("outer", "inner", "detail", "texture", "ruled", "halo")
HAND, FOUND = "hand", "found"
GIVEN_BY = (HAND, FOUND)


class RoleError(StrideError):
    """A role that is not known."""


@dataclass(frozen=True)
class RoleStretch:
    """start, end: the line's source parameters between which it has the role, None past its end; by: who gave it."""

    start: float | None
    end: float | None
    role: str
    by: str = HAND


def check_role(role: object) -> str:
    """A role by its name. Raises RoleError."""
    if role not in ROLES:
        raise RoleError(f"role '{role}' is not known: {', '.join(ROLES)}")
    return str(role)


def whole_role(role: object, by: str = HAND) -> tuple[RoleStretch, ...]:
    """One role from end to end. Raises RoleError."""
    return (RoleStretch(None, None, check_role(role), by),)
