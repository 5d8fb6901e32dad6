"""The final art of a job as it stands: what is seen, back to front."""

from plain_stride.finish.art import Art, ArtBlack, ArtLine, ArtPart
from plain_stride.job.covers import Covers
from plain_stride.job.job import Job
from plain_stride.job.shapes import Shapes, role_of
from plain_stride.lines.black import Black


def art_of(job: Job, shapes: Shapes) -> Art:
    """Visible parts with their lines and what hides them; pencils and hidden parts are left out."""
    covers = Covers(job, shapes)
    ids = job.ink_ids()
    parts = []
    for part in reversed(job.parts()):
        if not part.hidden:
            ink = tuple(_inked(job, shapes, covers, part.id, k) for k in ids if job.inked(k)["part"] == part.id)
            parts.append(ArtPart(part.name, part.tier, part.ink, ink, tuple(covers.over(part.id))))
    return Art(job.name, job.page, tuple(parts))


def art_of_some(job: Job, shapes: Shapes, keys: list[str]) -> Art:
    """These lines and blacks alone, whole: nothing hides them."""
    parts = []
    ids = [key for key in job.ink_ids() if key in set(keys)]
    for part in reversed(job.parts()):
        if ink := tuple(_inked(job, shapes, None, part.id, k) for k in ids if job.inked(k)["part"] == part.id):
            parts.append(ArtPart(part.name, part.tier, part.ink, ink))
    return Art(job.name, job.page, tuple(parts))


def _inked(job: Job, shapes: Shapes, covers: Covers | None, part: str, key: str) -> ArtLine | ArtBlack:
    shape = shapes.ink(key)
    hiding = covers.hiding(part, shape) if covers is not None else ()
    if isinstance(shape, Black):
        return ArtBlack(key, shape, hiding)
    return ArtLine(key, role_of(job.rows["lines"][key]), shape, hiding)
