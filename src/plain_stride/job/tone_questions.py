"""What is asked of tones beside the window: what they measure, and what strokes measure that were pulled by hand."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from plain_stride.job.questions import DrawingAtWork
from plain_stride.job.tone_reports import strokes_measured, tone_report
from plain_stride.tone.measured import Evenness

Progress = Callable[[float], bool]


@dataclass(frozen=True)
class ToneMeasured:
    """The figures of a tone, as the command line tells them; none where there is no such tone any more."""

    tone: str

    def answered(self, at: DrawingAtWork, progress: Progress) -> dict[str, Any]:
        return tone_report(at.job, at.shapes, self.tone) if self.tone in at.job.rows.tones else {}


@dataclass(frozen=True)
class StrokesMeasured:
    """How even strokes of one set lie that were pulled by hand; a smooth trend across them is taken for meant."""

    lines: tuple[str, ...]

    def answered(self, at: DrawingAtWork, progress: Progress) -> Evenness:
        return strokes_measured(at.shapes, [key for key in self.lines if key in at.job.rows.lines])
