"""Lines that are thinner than something: than a printer holds, than a pixel of a file."""

import numpy as np

from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.lines.shape import Shape

THIN_SHARE = 0.1
"""Of a line's widths, its ends left out: so much of it is as thin as what is called its thin width, or thinner."""


def thin_width(shape: Shape) -> float:
    """mm: what a tenth of a line is no wider than, its ends left out."""
    full = shape.body.full
    k = int(THIN_SHARE * (len(full) - 1))
    return float(np.partition(full, k)[k])


def thin_lines(job: JobRows, shapes: Shapes, mm: float) -> list[tuple[str, float]]:
    """(id, its thin width in mm) of lines that are final art and thinner than so many mm, the thinnest first."""
    shown = {part.id for part in job.parts() if not part.hidden}
    out = []
    for key in job.line_ids():
        row = job.rows.lines[key]
        if row.part in shown and not row.draft:
            wide = thin_width(shapes[key])
            if wide < mm:
                out.append((key, wide))
    return sorted(out, key=lambda one: one[1])
