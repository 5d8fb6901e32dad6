"""Which lines meet which, asked for a few lines at a time."""

from collections.abc import Iterable

import numpy as np

from plain_stride.form.contacts import contacts_between
from plain_stride.form.drawing import strand_of
from plain_stride.job.shapes import Shapes


def meeting_lines(shapes: Shapes, lines: Iterable[str], among: Iterable[str]) -> list[str]:
    """Those of some lines that meet any of others, without these themselves. Looks at boxes first."""
    own = list(dict.fromkeys(lines))
    others = [key for key in among if key not in set(own)]
    if not own or not others:
        return []
    strands = {key: strand_of(key, shapes.worked(key)) for key in own}
    boxes = np.array([shapes[key].box for key in others])
    found: dict[str, None] = {}
    for strand in strands.values():
        x0, y0, x1, y1 = strand.box
        near = (boxes[:, 0] <= x1) & (boxes[:, 2] >= x0) & (boxes[:, 1] <= y1) & (boxes[:, 3] >= y0)
        for k in np.flatnonzero(near).tolist():
            key = others[k]
            if key not in found and any(c.joined for c in contacts_between(strand, strand_of(key, shapes.worked(key)))):
                found[key] = None
    return list(found)
