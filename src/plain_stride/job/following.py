"""A second copy of an open job, in another process, that follows what is done to the first."""

from functools import cached_property
from pathlib import Path

from plain_stride.compiled.ready import load_if_compiled
from plain_stride.job.commit import Commit
from plain_stride.job.drawn import JobDrawing
from plain_stride.job.job import Job
from plain_stride.job.job_files import open_job
from plain_stride.job.shapes import Shapes


class JobAtWork:
    """job, shapes: as they are after all that was followed; drawing: the job as a value, with its contacts."""

    def __init__(self, job: Job, shapes: Shapes) -> None:
        self.job, self.shapes = job, shapes

    @cached_property
    def drawing(self) -> JobDrawing:
        return JobDrawing(self.job, self.shapes)

    def follow(self, commit: Commit) -> None:
        """Takes over a commit. Doing so again changes nothing: one may be in the file already."""
        self.job.follow(commit)
        self.shapes.know_fits(commit.fits)
        self.drawing.changed(commit.rows)


def followed_job(path: Path) -> JobAtWork:
    """The job of a file, read with what is written of it so far. Raises JobError."""
    load_if_compiled()
    job, store = open_job(path, write=False)
    shapes = Shapes(job, store)
    store.close()
    return JobAtWork(job, shapes)
