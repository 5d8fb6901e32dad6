"""What the window asks of a drawing for handing over: the flats map, colours that lines would have."""

from collections.abc import Callable
from dataclasses import dataclass

from plain_stride.job.darker_lines import Darker, darker_lines
from plain_stride.job.finished_keeping import keeper_of
from plain_stride.job.flats import Flats
from plain_stride.job.questions import DrawingAtWork


@dataclass(frozen=True)
class FlatsNow:
    """The flats map as the drawing and what was said of it make it."""

    def answered(self, at: DrawingAtWork, progress: Callable[[float], bool]) -> Flats:
        return keeper_of(at.shapes).flats(at.job, at.shapes)


@dataclass(frozen=True)
class DarkerNow:
    """For lines, the colours that are darker than the flats beside them by a step of L*."""

    lines: tuple[str, ...]
    step: float

    def answered(self, at: DrawingAtWork, progress: Callable[[float], bool]) -> tuple[Darker, ...]:
        found = keeper_of(at.shapes).flats(at.job, at.shapes)
        known = [key for key in self.lines if key in at.job.rows.lines]
        return tuple(darker_lines(at.shapes, found, known, self.step))
