"""A job as it was at a mark, as a job of its own."""

from pathlib import Path

from plain_stride.job.errors import JobError
from plain_stride.job.job_files import opened
from plain_stride.job.whole_files import made_whole


def take_out(path: Path, mark: str, out: Path) -> None:
    """Writes a copy of a job that stands at a mark; all of its history goes along. It appears whole under its name, or
    not at all. Raises JobError for an unknown mark, and where the file is there already."""
    with made_whole(out) as part:
        with opened(path) as (job, store):
            if mark not in job.history.marks:
                raise JobError(f"there is no mark '{mark}'")
            step = job.history.marks[mark]
            store.save_copy(part)
        with opened(part, write=True) as (copy, store):
            commit = copy.go_to(step)
            if commit is not None:
                store.commit(commit)
