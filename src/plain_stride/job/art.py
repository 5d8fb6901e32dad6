"""The final art of a job as it stands: what is seen, back to front."""

from typing import Any

from plain_stride.finish.art import Art, ArtLine, ArtPart
from plain_stride.job.job import Job
from plain_stride.job.shapes import Shapes, role_of


def art_of(job: Job, shapes: Shapes) -> Art:
    """Visible parts with their lines; pencils and hidden parts are left out."""
    rows: Any = job.rows["lines"]
    ids = job.line_ids()
    parts = []
    for part in reversed(job.parts()):
        if not part.hidden:
            lines = tuple(ArtLine(k, role_of(rows[k]), shapes[k]) for k in ids if rows[k]["part"] == part.id)
            parts.append(ArtPart(part.name, part.tier, part.ink, lines))
    return Art(job.name, job.page, tuple(parts))
