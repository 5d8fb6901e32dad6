"""What is asked of tones beside the window: what they measure, and what strokes measure that were pulled by hand."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.errors import StrideError
from plain_stride.job.questions import DrawingAtWork
from plain_stride.job.tone_reports import tone_report
from plain_stride.tone.measured import Evenness, evenness_of

Progress = Callable[[float], bool]


@dataclass(frozen=True)
class ToneMeasured:
    """The figures of a tone, as the command line tells them; a sentence where they cannot be told."""

    tone: str

    def answered(self, at: DrawingAtWork, progress: Progress) -> dict[str, Any] | str:
        if self.tone not in at.job.rows.tones:
            return {}
        try:
            return tone_report(at.job, at.shapes, self.tone)
        except StrideError as fault:
            return str(fault)


@dataclass(frozen=True)
class StrokesMeasured:
    """How even strokes of one set lie that were pulled by hand; a smooth trend across them is taken for meant."""

    lines: tuple[str, ...]

    def answered(self, at: DrawingAtWork, progress: Progress) -> Evenness:
        shapes = [at.shapes[key] for key in self.lines if key in at.job.rows.lines]
        widths = [float(np.sum(shape.widths.at(np.array([shape.length / 2.0])))) for shape in shapes]
        return evenness_of([shape.flat[0] for shape in shapes], np.array(widths))
