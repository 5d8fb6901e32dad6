"""What a file of final art will not hold as it is seen, told before it is written."""

from plain_stride import colour
from plain_stride.finish.passes import Soft
from plain_stride.finish.png import HALF
from plain_stride.job.art_files import CURVES, Asked, dpi_asked
from plain_stride.job.finished import passes_of
from plain_stride.job.inks import Colours
from plain_stride.job.job import Job
from plain_stride.job.shapes import Shapes
from plain_stride.job.thin_lines import thin_lines
from plain_stride.measure import MM_PER_INCH
from plain_stride.texts import counted


def thin_words(job: Job, shapes: Shapes, asked: Asked) -> str:
    """Lines thinner than one pixel of the file; '' where none is."""
    pixel = MM_PER_INCH / dpi_asked(job, asked)
    thin = thin_lines(job, shapes, pixel)
    if not thin:
        return ""
    key, mm = thin[0]
    verb, dpi = "is" if len(thin) == 1 else "are", dpi_asked(job, asked)
    return (f"{counted(len(thin), 'line')} {verb} thinner than a pixel of {pixel:.2f} mm at {dpi:.0f} dpi, the"
            f" thinnest, {key}, {mm:.2f} mm: grey then, or broken at one bit")  # fmt: skip


def dropped_words(job: Job, asked: Asked, kind: str) -> list[str]:
    """What one bit drops, and what are pictures in a file of curves."""
    out = []
    colours = Colours(job)
    if asked.choices.bw:
        used = {colours.ink_of(key) for key in job.ink_ids()}
        rows = sorted((row for key, row in job.rows.inks.items() if key in used), key=lambda row: row.name)
        if rows:
            light = [row.name for row in rows if colour.grey(row.colour) >= HALF / 255.0]
            after = f"; {', '.join(light)} would go white" if light else "; they come out black"
            out.append(f"one bit drops the colours of {', '.join(row.name for row in rows)}{after}")
        soft = [one.title for one in passes_of(job) if one.on and isinstance(one, Soft)]
        if soft and not asked.plain:
            out.append(f"one bit cannot hold '{soft[0]}': what of it is darker than half comes out black")
    pictures = [one.title for one in passes_of(job) if one.on and one.pixels]
    if pictures and not asked.plain and kind in CURVES:
        out.append(f"{', '.join(pictures)}: {'is a picture' if len(pictures) == 1 else 'are pictures'} in the file, all"
                   " else stays curves")  # fmt: skip
    return out
