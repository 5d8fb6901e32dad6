"""Work of seconds that another process does for the window: the pencils read, the lines of an import worked out."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from plain_stride.job.job import Job
from plain_stride.job.job_files import opened
from plain_stride.job.laying_out import Sheet, laid_out
from plain_stride.job.pencil_reading import read_job, reading_json
from plain_stride.job.pencils_and_ink import coverage_json, coverage_of, lost_json, lost_of
from plain_stride.job.serving import Progress, StoppedError
from plain_stride.job.shapes import Shapes
from plain_stride.lines.recipe import Worked

BATCH = 10
"""Lines that are worked out between two looks at whether to stop."""


class NoJob:
    """What errands are done with: they open the files that they need."""

    def follow(self, change: object) -> None:
        """There is nothing that could follow."""


@dataclass(frozen=True)
class ReadPencils:
    """What the pencils of a job's file hold, as the command line tells it. with_map: the map of what the ink lost."""

    path: Path
    with_map: bool = False

    def answered(self, at: object, progress: Progress) -> dict[str, Any]:
        with opened(self.path) as (job, store):
            return told_reading(job, Shapes(job, store), progress, self.with_map)


def told_reading(job: Job, shapes: Shapes, progress: Progress, with_map: bool) -> dict[str, Any]:
    """The reading of a job's pencils, and what the ink has of them, as JSON tells it. Raises StrideError."""
    reading = read_job(job, progress)
    out = reading_json(reading)
    if job.rows.lines:
        out["coverage"] = coverage_json(coverage_of(job, shapes, reading))
        out["lost"] = lost_json(lost_of(job, shapes, reading), with_map)
    return out


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
