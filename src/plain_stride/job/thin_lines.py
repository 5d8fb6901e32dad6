"""Lines that are thinner than something: than a printer holds, than a pixel of a file."""

import numpy as np

from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes

THIN_SHARE = 10.0
"""Percentile of a line's widths, its ends left out, that is called thin: a tenth of it is that thin or thinner."""


def thin_lines(job: JobRows, shapes: Shapes, mm: float) -> list[tuple[str, float]]:
    """(id, its thin width in mm) of lines that are final art and thinner than so many mm, the thinnest first."""
    shown = {part.id for part in job.parts() if not part.hidden}
    out = []
    for key in job.line_ids():
        row = job.rows.lines[key]
        if row.part in shown and not row.draft:
            wide = float(np.percentile(shapes[key].body.full, THIN_SHARE))
            if wide < mm:
                out.append((key, wide))
    return sorted(out, key=lambda one: one[1])
