"""Lines and blacks in words: what each is, and where."""

from plain_stride.job.job import Job
from plain_stride.job.shapes import Shapes


def ink_words(job: Job, shapes: Shapes, key: str) -> str:
    """A line or a black: what and where it is."""
    part = job.part_of(key)
    if key in job.rows.blacks:
        x0, y0, x1, y1 = shapes.black(key).box
        return f"{part.name} ({part.tier}): black, {x1 - x0:.1f} × {y1 - y0:.1f} mm"
    shape = shapes[key]
    full = shape.widths.full
    lock = ", locked" if part.locked else ""
    return (
        f"{part.name} ({part.tier}): {job.rows.lines[key].role}, {shape.length:.1f} mm long,"
        f" {full.min():.2f} to {full.max():.2f} mm wide{lock}"
    )


def short_ink_words(job: Job, shapes: Shapes, key: str) -> str:
    """A line or a black in few words."""
    name = job.part_of(key).name
    if key in job.rows.blacks:
        return f"black · {name}"
    shape = shapes[key]
    return f"{job.rows.lines[key].role}, {shape.length:.0f} mm, {shape.widths.full.max():.2f} mm wide · {name}"
