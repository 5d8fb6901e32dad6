"""Hatching that was drawn stroke by stroke: rows of many that lie close together."""

from collections.abc import Sequence

import numpy as np

from plain_stride.form.strokes_beside import Beside, measures_of, strokes_beside
from plain_stride.lines.shape import Path

LEAST_STROKES, PITCH_MM, PITCH_SHARE = 12, 2.0, 0.25
"""How many strokes a row has at least; how far apart they lie at most, in mm and as a share of their length."""


def hatching_rows(paths: Sequence[Path], beside: Beside | None = None) -> np.ndarray:
    """Which of some lines (n,) are strokes of hatching. beside: theirs, where it is known. n log n in the lines."""
    found = beside if beside is not None else strokes_beside(paths)
    out = np.zeros(len(paths), bool)
    if not len(found.a):
        return out
    lengths = np.array([measures_of(path)[4] for path in paths])
    close = found.apart <= np.minimum(PITCH_MM, PITCH_SHARE * lengths[found.a])
    has = np.zeros(len(paths), bool)
    has[found.a[close]], has[found.b[close]] = True, True
    rows = np.bincount(found.which[has], minlength=int(found.which.max(initial=0)) + 1)
    out[has] = rows[found.which[has]] >= LEAST_STROKES
    return out
