"""The final art of a job as it stands: what is seen, back to front."""

from plain_stride.finish.art import Art, ArtBlack, ArtLine, ArtPart, OwnCover
from plain_stride.form.cover import Cover
from plain_stride.job.board_facts import frames_cover
from plain_stride.job.covers import Covers
from plain_stride.job.inks import Colours
from plain_stride.job.job import Job
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.lines.black import Black


def art_of(job: JobRows, shapes: Shapes, bleed: float = 0.0) -> Art:
    """Visible parts with their lines, what hides them and what frames clip; pencils, drafts and hidden parts are left
    out. bleed: mm round the page that are wanted as well."""
    name = job.name if isinstance(job, Job) else ""
    return Art(name, job.page, parts_of_art(job, shapes), bleed)


def parts_of_art(job: JobRows, shapes: Shapes) -> tuple[ArtPart, ...]:
    """The same, parts alone, back to front."""
    covers, colours = Covers(job, shapes), Colours(job)
    outside = frames_cover(job)
    ids, rows = [key for key in job.ink_ids() if not is_draft(job, key)], job.inked_rows()
    parts = []
    for part in reversed(job.parts()):
        if not part.hidden:
            clip = None if part.over_frames else outside
            mine = [key for key in ids if rows[key].part == part.id]
            ink = tuple(_inked(job, shapes, covers, colours.of(key), key, clip) for key in mine)
            hiding = (*covers.over(part.id), *([clip] if clip is not None else []))
            form = job.rows.parts[part.id].cover_form
            own = OwnCover(form, part.cover_gap) if part.cover else None
            parts.append(ArtPart(part.name, part.tier, part.ink, ink, hiding, own, part.over_frames,
                                 colours.of_part(part.id)))  # fmt: skip
    return tuple(parts)


def art_of_some(job: Job, shapes: Shapes, keys: list[str]) -> Art:
    """These lines and blacks alone, whole: nothing hides them."""
    parts, rows, wanted, colours = [], job.inked_rows(), set(keys), Colours(job)
    ids = [key for key in job.ink_ids() if key in wanted]
    for part in reversed(job.parts()):
        if ink := tuple(_inked(job, shapes, None, colours.of(k), k) for k in ids if rows[k].part == part.id):
            parts.append(ArtPart(part.name, part.tier, part.ink, ink, colour=colours.of_part(part.id)))
    return Art(job.name, job.page, tuple(parts))


def is_draft(job: JobRows, key: str) -> bool:
    """Whether a line is a draft from the pencils, which is no ink before it is taken."""
    row = job.rows.lines.get(key)
    return row is not None and row.draft


def drafts_of(job: JobRows) -> list[str]:
    """Drafts that are neither taken nor refused yet."""
    return [key for key in job.line_ids() if is_draft(job, key)]


def _inked(
    job: JobRows, shapes: Shapes, covers: Covers | None, colour: str, key: str, clip: Cover | None = None
) -> ArtLine | ArtBlack:
    shape, part = shapes.ink(key), job.inked_rows()[key].part
    hiding = covers.hiding(part, shape) if covers is not None else ()
    if clip is not None and clip.reaches(shape.box):
        hiding = (*hiding, clip)
    if isinstance(shape, Black):
        return ArtBlack(key, shape, hiding, colour)
    row = job.rows.lines[key]
    tone = job.rows.tones[row.tone].kind if row.tone in job.rows.tones else ""
    return ArtLine(key, row.role, shape, hiding, colour, tone)
