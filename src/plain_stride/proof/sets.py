"""Rows of strokes that are one thing: hatching, grass, stitches that were pulled one by one.

Two strokes stand in one row where they run the same way, side by side over most of their length, are about as long as
each other, and no farther apart than a row has it. What hangs together so is a set where it has LEAST_STROKES.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plain_stride.lines.shape import Shape
from plain_stride.proof.fine import stroke_of

LEAST_STROKES, WAY_DEG, LENGTHS = 6, 14.0, 2.2
"""How many strokes make a row; by how much neighbours may turn; how many times as long one may be as the next."""
FAR_MM, NEAR_SHARE, LEAST_MM, SHIFTED = 4.0, 0.6, 0.5, 0.6
"""How far apart neighbours stand at most, in mm and as a share of their length; the shortest stroke; how far one may
begin past the other, as a share of their length."""
BENT = 0.85
"""The least straightness (chord by length) of a stroke in a row."""
MOST_NEIGHBOURS = 24


@dataclass(frozen=True, eq=False)
class Sets:
    """rows: ids of the strokes of each set."""

    rows: tuple[tuple[str, ...], ...]

    @cached_property
    def of(self) -> Mapping[str, int]:
        """In which set a line is."""
        return {key: k for k, row in enumerate(self.rows) for key in row}

    def holds(self, line: str) -> bool:
        """Whether a line is a stroke of a set."""
        return line in self.of


def sets_of(shapes: Mapping[str, Shape]) -> Sets:
    """The sets among lines. n log n in the lines."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    keys = [key for key, shape in shapes.items() if _may_be_stroke(shape)]
    if len(keys) < LEAST_STROKES:
        return Sets(())
    a, b = _neighbours([shapes[key] for key in keys])
    graph = coo_matrix((np.ones(len(a)), (a, b)), shape=(len(keys), len(keys)))
    count, which = connected_components(graph, directed=False)
    sizes = np.bincount(which, minlength=count)
    order = np.argsort(which, kind="stable")
    groups = np.split(order, np.cumsum(sizes)[:-1])
    rows = [tuple(keys[k] for k in group.tolist()) for group in groups if len(group) >= LEAST_STROKES]
    return Sets(tuple(rows))


def _may_be_stroke(shape: Shape) -> bool:
    if shape.closed or shape.length < LEAST_MM:
        return False
    chord = shape.curve[-1, 3] - shape.curve[0, 0]
    return float(np.hypot(*chord)) >= BENT * shape.length


def _neighbours(shapes: list[Shape]) -> tuple[np.ndarray, np.ndarray]:
    """Pairs (k,) of strokes that stand side by side."""
    from scipy.spatial import cKDTree

    middles, ways, lengths = _described(shapes)
    tree = cKDTree(middles)
    near = min(MOST_NEIGHBOURS, len(shapes))
    far, other = tree.query(middles, near, distance_upper_bound=FAR_MM * 2.5)
    a = np.repeat(np.arange(len(shapes)), near)
    b = other.ravel()
    known = np.isfinite(far.ravel()) & (b != a) & (b < len(shapes))
    a, b = a[known], b[known]
    turned = np.abs((ways[a] * ways[b]).sum(axis=1)) >= np.cos(np.radians(WAY_DEG))
    longer, shorter = np.maximum(lengths[a], lengths[b]), np.minimum(lengths[a], lengths[b])
    off = middles[b] - middles[a]
    along = np.abs((off * ways[a]).sum(axis=1))
    across = np.abs(off[:, 0] * ways[a][:, 1] - off[:, 1] * ways[a][:, 0])
    beside = (across <= np.minimum(FAR_MM, NEAR_SHARE * shorter)) & (along <= SHIFTED * shorter) & (across > 0.02)
    those = turned & beside & (longer <= LENGTHS * shorter)
    a, b, across = a[those], b[those], across[those]
    # Only the nearest on each side: a row is strokes next to each other.
    sign = (off[those][:, 0] * ways[a][:, 1] - off[those][:, 1] * ways[a][:, 0]) > 0.0
    order = np.lexsort((across, sign, a))
    first = np.ones(len(order), bool)
    first[1:] = (np.diff(a[order]) != 0) | (np.diff(sign[order].astype(int)) != 0)
    return a[order[first]], b[order[first]]


def _described(shapes: list[Shape]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(middles (n, 2), unit chords (n, 2), lengths (n,)) of strokes."""
    strokes = [stroke_of(shape) for shape in shapes]
    middles = np.array([one.points[len(one.s) // 2] for one in strokes])
    chords = np.array([one.points[-1] - one.points[0] for one in strokes])
    return middles, chords / np.maximum(np.hypot(*chords.T), 1e-9)[:, None], np.array([one.length for one in strokes])
