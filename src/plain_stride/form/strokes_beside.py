"""Strokes that stand side by side: hatching, grass, stitches that were pulled one by one.

Two stand so where they run the same way over most of their length, are about as long as each other, and are each
other's nearest on that side.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np

from plain_stride.form.places import along_of
from plain_stride.lines.shape import Path

WAY_DEG, LENGTHS = 14.0, 2.2
"""By how much neighbours may turn; how many times as long one may be as the next."""
FAR_MM, NEAR_SHARE, LEAST_MM, SHIFTED = 4.0, 0.6, 0.5, 0.6
"""How far apart neighbours stand at most, in mm and as a share of their length; the shortest stroke; how far one may
begin past the other, as a share of their length."""
BENT = 0.85
"""The least straightness (chord by length) of a stroke."""
MOST_NEIGHBOURS = 24


@dataclass(frozen=True, eq=False)
class Beside:
    """a, b (k,): which strokes stand beside each other; apart (k,): mm between their middles, across; which (n,): the
    row that each line is in, -1 where it is no stroke; rows that are one hang together."""

    a: np.ndarray
    b: np.ndarray
    apart: np.ndarray
    which: np.ndarray


def strokes_beside(paths: Sequence[Path]) -> Beside:
    """Which of some lines are strokes side by side. n log n in the lines."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    told = np.array([measures_of(path) for path in paths]).reshape(-1, 5)
    # A closed line has no chord, and is no stroke.
    chords, lengths = np.hypot(told[:, 2], told[:, 3]), told[:, 4]
    strokes = np.flatnonzero((lengths >= LEAST_MM) & (chords >= BENT * lengths))
    which = np.full(len(paths), -1)
    if len(strokes) < 2:
        return Beside(strokes[:0], strokes[:0], np.zeros(0), which)
    a, b, apart = _neighbours(told[strokes])
    graph = coo_matrix((np.ones(len(a)), (a, b)), shape=(len(strokes), len(strokes)))
    which[strokes] = connected_components(graph, directed=False)[1]
    return Beside(strokes[a], strokes[b], apart, which)


_measures: WeakKeyDictionary[Path, tuple[float, float, float, float, float]] = WeakKeyDictionary()


def measures_of(path: Path) -> tuple[float, float, float, float, float]:
    """(x, y of the middle, dx, dy of the chord, length) of a line, mm; kept as long as it."""
    kept = _measures.get(path)
    if kept is None:
        along = along_of(path)
        middle = along.points[len(along.s) // 2].tolist()
        chord = [0.0, 0.0] if path.closed else (path.curve[-1, 3] - path.curve[0, 0]).tolist()
        kept = _measures[path] = (middle[0], middle[1], chord[0], chord[1], float(path.arc.length))
    return kept


def _neighbours(told: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(a (k,), b (k,), mm (k,)): the nearest stroke on each side of each (n, 5) of `measures_of`, where one stands
    there."""
    from scipy.spatial import cKDTree

    middles, lengths = told[:, :2], told[:, 4]
    ways = told[:, 2:4] / np.maximum(np.hypot(told[:, 2], told[:, 3]), 1e-9)[:, None]
    near = min(MOST_NEIGHBOURS, len(told))
    far, other = cKDTree(middles).query(middles, near, distance_upper_bound=FAR_MM * 2.5)
    a, b = np.repeat(np.arange(len(told)), near), other.ravel()
    known = np.isfinite(far.ravel()) & (b != a)
    a, b = a[known], b[known]
    turned = np.abs((ways[a] * ways[b]).sum(axis=1)) >= np.cos(np.radians(WAY_DEG))
    longer, shorter = np.maximum(lengths[a], lengths[b]), np.minimum(lengths[a], lengths[b])
    off = middles[b] - middles[a]
    along = np.abs((off * ways[a]).sum(axis=1))
    side = off[:, 0] * ways[a][:, 1] - off[:, 1] * ways[a][:, 0]
    across = np.abs(side)
    beside = (across <= np.minimum(FAR_MM, NEAR_SHARE * shorter)) & (along <= SHIFTED * shorter) & (across > 0.02)
    those = turned & beside & (longer <= LENGTHS * shorter)
    a, b, across, right = a[those], b[those], across[those], side[those] > 0.0
    order = np.lexsort((across, right, a))
    first = np.ones(len(order), bool)
    first[1:] = (np.diff(a[order]) != 0) | (np.diff(right[order].astype(int)) != 0)
    return a[order[first]], b[order[first]], across[order[first]]
