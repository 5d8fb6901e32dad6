"""What the pencils hold and what the ink has of them, as JSON tells it."""

from typing import Any

from plain_stride.job.job import Job
from plain_stride.job.pencil_reading import read_job, reading_json
from plain_stride.job.pencils_and_ink import coverage_json, coverage_of, lost_json, lost_of
from plain_stride.job.serving import Progress
from plain_stride.job.shapes import Shapes


def told_reading(job: Job, shapes: Shapes, progress: Progress, with_map: bool) -> dict[str, Any]:
    """The reading of a job's pencils, and what the ink has of them, as JSON tells it. Raises StrideError."""
    reading = read_job(job, progress)
    out = reading_json(reading)
    if job.rows.lines:
        out["coverage"] = coverage_json(coverage_of(job, shapes, reading))
        out["lost"] = lost_json(lost_of(job, shapes, reading), with_map)
    return out
