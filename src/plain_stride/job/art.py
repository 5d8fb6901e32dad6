"""The final art of a job as it stands: what is seen, back to front."""

from typing import Any

from plain_stride.finish.art import Art, ArtLine, ArtPart
from plain_stride.job.covers import Covers
from plain_stride.job.job import Job
from plain_stride.job.shapes import Shapes, role_of


def art_of(job: Job, shapes: Shapes) -> Art:
    """Visible parts with their lines and what hides them; pencils and hidden parts are left out."""
    covers = Covers(job, shapes)
    rows: Any = job.rows["lines"]
    ids = job.line_ids()
    parts = []
    for part in reversed(job.parts()):
        if not part.hidden:
            lines = tuple(
                ArtLine(k, role_of(rows[k]), shapes[k], covers.hiding(part.id, shapes[k]))
                for k in ids
                if rows[k]["part"] == part.id
            )
            parts.append(ArtPart(part.name, part.tier, part.ink, lines, tuple(covers.over(part.id))))
    return Art(job.name, job.page, tuple(parts))
