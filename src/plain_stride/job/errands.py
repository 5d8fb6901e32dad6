"""Work of seconds that another process does for the window: the pencils read, the lines of an import worked out."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from plain_stride.job.job_files import opened
from plain_stride.job.laying_out import Sheet, laid_out
from plain_stride.job.serving import Progress, StoppedError
from plain_stride.job.shapes import Shapes
from plain_stride.lines.recipe import Worked

BATCH = 10
"""Lines that are worked out between two looks at whether to stop."""


@dataclass(frozen=True)
class ReadPencils:
    """What the pencils of a job's file hold, as the command line tells it. with_map: the map of what the ink lost."""

    path: Path
    with_map: bool = False

    def answered(self, at: object, progress: Progress) -> dict[str, Any]:
        from plain_stride.job.told_reading import told_reading

        with opened(self.path) as (job, store):
            return told_reading(job, Shapes(job, store), progress, self.with_map)


@dataclass(frozen=True)
class ReadMiddle:
    """The pencil lines round a place of the sheet (mm), to be seen while the whole is read; mostly some."""

    path: Path
    middle: tuple[float, float]

    def answered(self, at: object, progress: Progress) -> list[dict[str, Any]]:
        from plain_stride.job.pencil_reading import lines_round

        with opened(self.path) as (job, _):
            return lines_round(job, self.middle, progress)


@dataclass(frozen=True)
class LayOut:
    """Lines of an import worked out, None for each that makes none."""

    sheets: tuple[Sheet, ...]

    def answered(self, at: object, progress: Progress) -> list[Worked | None]:
        lines: list[Worked | None] = []
        for k in range(0, len(self.sheets), BATCH):
            if not progress(k / len(self.sheets)):
                raise StoppedError("stopped: nothing was laid")
            lines += laid_out(self.sheets[k : k + BATCH])
        progress(1.0)
        return lines
