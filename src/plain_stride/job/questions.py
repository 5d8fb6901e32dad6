"""What is asked of a drawing beside the window: each question answers itself from the job at work.

**To add one:** a frozen dataclass with `answered`, whose answer is frozen and small enough to be sent.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Protocol

from plain_stride.form.contacts import Contact
from plain_stride.form.roles import ROLES
from plain_stride.job.drawn import JobDrawing
from plain_stride.job.found_roles import FoundRole, found_roles
from plain_stride.job.reports import Past, past_ceilings, weighed
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.job.tidying import Mend, mends_of
from plain_stride.weight.plan import TIERS
from plain_stride.weight.report import Spread, spread


class DrawingAtWork(Protocol):
    """What questions are answered from."""

    @property
    def job(self) -> JobRows: ...
    @property
    def shapes(self) -> Shapes: ...
    @property
    def drawing(self) -> JobDrawing: ...


@dataclass(frozen=True)
class ContactsNow:
    """The contacts of some lines, by line; of all where none are named."""

    lines: tuple[str, ...] = ()

    def answered(self, at: DrawingAtWork, progress: Callable[[float], bool]) -> Mapping[str, tuple[Contact, ...]]:
        every = at.drawing.now().contacts
        return {key: every[key] for key in self.lines if key in every} if self.lines else dict(every)


@dataclass(frozen=True)
class MendsOf:
    """What would close gaps and take stubs off at the ends of some lines, of at most so many mm."""

    lines: tuple[str, ...]
    gap: float
    overshoot: float

    def answered(self, at: DrawingAtWork, progress: Callable[[float], bool]) -> tuple[Mend, ...]:
        keys = [key for key in self.lines if key in at.job.rows.lines and not at.shapes[key].closed]
        return tuple(mends_of(at.shapes, keys, self.gap, self.overshoot))


@dataclass(frozen=True)
class RolesFound:
    """Roles that the drawing tells of the lines of all parts that are not locked, where nobody gave them."""

    def answered(self, at: DrawingAtWork, progress: Callable[[float], bool]) -> tuple[FoundRole, ...]:
        return tuple(found_roles(at.shapes, [part.id for part in at.job.parts() if not part.locked]))


@dataclass(frozen=True)
class Weights:
    """groups: (tier or role, lines in it, what they measure or None without any); past: parts whose inner lines pass
    their ceiling."""

    groups: tuple[tuple[str, int, Spread | None], ...]
    past: tuple[Past, ...]


@dataclass(frozen=True)
class WeightsNow:
    """What lines measure by tier and by role, and who passes a ceiling."""

    def answered(self, at: DrawingAtWork, progress: Callable[[float], bool]) -> Weights:
        groups = weight_groups(at.job)
        measured = tuple((name, len(keys), spread(at.shapes[k] for k in keys)) for name, keys in groups.items())
        return Weights(measured, tuple(past_ceilings(at.job, at.shapes)))


def weight_groups(job: JobRows) -> dict[str, list[str]]:
    """Lines that count for the weight, by tier (named with a capital) and by role."""
    tiers = {part.id: part.tier for part in job.parts()}
    out: dict[str, list[str]] = {tier.capitalize(): [] for tier in TIERS}
    roles: dict[str, list[str]] = {}
    for key in weighed(job):
        row = job.rows.lines[key]
        out[tiers[row.part].capitalize()].append(key)
        roles.setdefault(row.role, []).append(key)
    return out | {role: roles[role] for role in ROLES if role in roles}
