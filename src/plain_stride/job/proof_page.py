"""A job as the proof reads it."""

from plain_stride.form.drawing import Drawing
from plain_stride.job.art import is_draft
from plain_stride.job.board_facts import edges_of, frames_of, target_of
from plain_stride.job.drawn import JobDrawing
from plain_stride.job.reports import inked_of
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.proof.page import Page, Sheet, ToneInk


def page_of(job: JobRows, shapes: Shapes, drawing: Drawing | None = None) -> Page:
    """What the proof of a job reads. drawing: as the job stands, with its contacts, where that is known."""
    now = drawing if drawing is not None else JobDrawing(job, shapes).now()
    hidden = {part.id for part in job.parts() if part.hidden}
    lines = {key: shapes[key] for key, row in job.rows.lines.items()
             if row.part not in hidden and not is_draft(job, key)}  # fmt: skip
    blacks = {key: shapes.black(key) for key, row in job.rows.blacks.items() if row.part not in hidden}
    return Page(sheet_of_job(job), inked_of(job, shapes), lines, now.contacts, blacks,
                {key: job.rows.blacks[key].part for key in blacks}, _tones(job, hidden))  # fmt: skip


def sheet_of_job(job: JobRows) -> Sheet:
    """The board as the proof reads it."""
    page, edges = job.page, edges_of(job)
    frames = tuple(frame.box for frame in frames_of(job).values())
    return Sheet(page.size_mm, page.dpi, edges.bleed, edges.margin, frames, target_of(job))


def _tones(job: JobRows, hidden: set[str]) -> tuple[ToneInk, ...]:
    out = []
    for key, row in job.rows.tones.items():
        ink = [one for one in job.tone_ink(key) if job.inked_rows()[one].part not in hidden]
        lines = tuple(one for one in ink if one in job.rows.lines)
        out.append(ToneInk(key, row.kind, lines, tuple(one for one in ink if one in job.rows.blacks),
                           float(row.told.get("evenness", 0.0) or 0.0)))  # fmt: skip
    return tuple(out)
