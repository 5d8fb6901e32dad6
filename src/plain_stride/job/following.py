"""A second copy of an open job, in another process, that follows what is done to the first."""

from functools import cached_property
from pathlib import Path

from plain_stride.compiled.ready import load_if_compiled
from plain_stride.job.commit import Commit
from plain_stride.job.drawn import JobDrawing
from plain_stride.job.kept import ImageRow
from plain_stride.job.opening import open_store
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes


class JobAtWork:
    """job, shapes: as they are after all that was followed; drawing: the job as a value, with its contacts."""

    def __init__(self, job: JobRows, shapes: Shapes) -> None:
        self.job, self.shapes = job, shapes

    @cached_property
    def drawing(self) -> JobDrawing:
        return JobDrawing(self.job, self.shapes)

    def follow(self, commit: Commit) -> None:
        """Takes over a commit. Doing so again changes nothing: one may be in the file already."""
        self.job.follow(commit)
        self.shapes.know_fits(commit.fits)
        self.drawing.changed(commit.rows)


def drawn_of(commit: Commit) -> Commit:
    """What a copy takes over of a commit, little enough to be sent: no step, which holds the rows again, and no
    scans."""
    kept = tuple(row for row in commit.kept if not isinstance(row, ImageRow))
    return Commit(commit.rows, {}, kept=kept, fits=commit.fits)


def followed_job(path: Path) -> JobAtWork:
    """The job of a file as it is written so far, without its history. Raises JobError."""
    load_if_compiled()
    store = open_store(path, write=False)
    try:
        job = JobRows(store)
        return JobAtWork(job, Shapes(job, store))
    finally:
        store.close()
