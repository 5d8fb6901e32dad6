"""A copy of a job goes to a senior; the remarks that were written on it come back, and no others."""

from collections.abc import Collection
from pathlib import Path
from typing import Any

from plain_stride.errors import StrideError
from plain_stride.finish.write import write_whole
from plain_stride.job.errors import JobError
from plain_stride.job.ink_pictures import inked_of, page_png
from plain_stride.job.job import Job
from plain_stride.job.job_files import opened
from plain_stride.job.proof_records import RemarkRecord
from plain_stride.job.reading import Wanted
from plain_stride.job.shapes import Shapes
from plain_stride.job.whole_files import free
from plain_stride.proof.remarks import Strokes


def give_out(path: Path, out: Path) -> None:
    """Writes a copy of a job's file, and beside it the PDF: both whole, or neither. Raises StrideError."""
    sheet = out.with_suffix(".pdf")
    free(sheet)
    with opened(path) as (job, store):
        data = review_pdf(job, Shapes(job, store))
        store.save_copy(out)
    try:
        write_whole(sheet, data)
    except StrideError:
        out.unlink(missing_ok=True)
        raise


def review_pdf(job: Job, shapes: Shapes) -> bytes:
    """The page with its remarks, only to be looked at."""
    from plain_stride.finish.proof_sheet import ProofSheet, proof_pdf

    words = tuple(f"{n}. {row.words or 'strokes'}" for n, row in enumerate(job.rows.remarks.values(), 1))
    size = job.page.size_mm
    told = "To be looked at. Remarks are drawn and written on the job's copy, at Proof, Own."
    return proof_pdf(ProofSheet(job.name, told, size, page_png(inked_of(job, shapes), size), (), 0.0, words))


def remarks_back(job: Job, copy: Path) -> Wanted:
    """The changes that bring new remarks of a copy in. Raises JobError where it is another job's, or there are none."""
    with opened(copy) as (other, _):
        if not _same(job, other):
            raise JobError(f"{copy.name} is no copy of this job: they share no history. Nothing was brought in")
        known = {_key(row) for row in job.rows.remarks.values()}
        fresh = [row for row in other.rows.remarks.values() if _key(row) not in known and not row.done]
    if not fresh:
        raise JobError(f"{copy.name} has no remarks that are not here already")
    return [("remark", _told(row)) for row in fresh]


def mark_name(taken: Collection[str], day: str) -> str:
    """A name for the moment before a review, that no mark has."""
    base = f"before the review of {day}"
    return next(name for n in range(1, 10_000) if (name := base if n == 1 else f"{base} ({n})") not in taken)


def _same(job: Job, other: Job) -> bool:
    """Whether one is a copy of the other: they share a step of their histories, or neither has one."""
    mine, theirs = ({(n, step.made, step.args) for n, step in one.history.steps.items()} for one in (job, other))
    return bool(mine & theirs) or (not mine and not theirs and job.page == other.page)


def _key(row: RemarkRecord) -> tuple[float, float, str, Strokes, str]:
    """A remark that was answered is still the same one."""
    return row.x_mm, row.y_mm, row.words, row.strokes, row.author


def _told(row: RemarkRecord) -> dict[str, Any]:
    return {"at": [row.x_mm, row.y_mm], "words": row.words, "by": row.author,
            "strokes": [[list(sample) for sample in stroke] for stroke in row.strokes]}  # fmt: skip
