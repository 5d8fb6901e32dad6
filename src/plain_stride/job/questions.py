"""What is asked of a drawing beside the window: each question answers itself from the job at work.

**To add one:** a frozen dataclass with `answered`, whose answer is frozen and small enough to be sent.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Protocol

from plain_stride.form.contacts import Contact
from plain_stride.job.drawn import JobDrawing
from plain_stride.job.found_roles import FoundRole, found_roles
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.job.tidying import Mend, mends_of


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
