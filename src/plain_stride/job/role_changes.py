"""Named changes that give lines the roles that the drawing tells."""

from typing import Any

from plain_stride.form.roles import FOUND, whole_role
from plain_stride.job.change_context import ChangeContext, change
from plain_stride.job.errors import JobError
from plain_stride.job.found_roles import FoundRole, found_roles


@change
def find_roles(m: ChangeContext, part: str | None = None) -> list[str]:
    """Finds which lines are outer and which inner, of a part or of all that are not locked, among those whose role
    nobody gave. Gives the lines whose role is another now. Raises JobError."""
    if part is not None:
        known = m.job.part_named(part)
        if known is None:
            raise JobError(f"there is no part '{part}'")
        if known.locked:
            raise JobError(f"part '{part}' is locked: unlock it to find its lines' roles")
    parts = [p.id for p in m.job.parts() if not p.locked and part in (None, p.name)]
    return _laid(m, found_roles(m.shapes, parts))


@change
def roles_found(m: ChangeContext, roles: list[list[Any]]) -> list[str]:
    """Lays roles that were found beside the window: [[line, role], ..]. One that the hand has given meanwhile stays.
    Gives the lines whose role is another now. Raises JobError."""
    if not isinstance(roles, list) or not all(isinstance(row, list | tuple) and len(row) == 2 for row in roles):
        raise JobError("roles that were found are [[line, role], ..]")
    return _laid(m, [(str(line), str(role)) for line, role in roles])


def _laid(m: ChangeContext, found: list[FoundRole]) -> list[str]:
    out = []
    for line, role in found:
        row = m.line(line)
        if row.roles[0].by == FOUND and row.role != role:
            m.draft.change("lines", line, roles=whole_role(role, FOUND))
            out.append(line)
    return out
