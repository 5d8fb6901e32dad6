"""What ink covers of a grid of pixels: the exact share along each of several scan lines a pixel, and their mean.

A place is covered where outlines go round it, however many of them do. Lines of sight are cut at all edges at once,
sorted, and summed: n log n in the crossings of edges with scan lines.
"""

from collections.abc import Iterable, Sequence

import numpy as np

SCANS = 4
"""Scan lines a row of pixels."""
Box = tuple[float, float, float, float]


def covered(rings: Sequence[np.ndarray], box: Box, per_mm: float, scans: int = SCANS) -> np.ndarray:
    """Shares (rows, columns) of pixels that rings (n, 2) mm cover, outer ones and holes turning opposite ways. box:
    (x0, y0, x1, y1) mm, of which the first pixel begins at the upper left."""
    wide, high = (max(1, round((b - a) * per_mm)) for a, b in ((box[0], box[2]), (box[1], box[3])))
    row, x, up = _crossings(rings, box, per_mm * scans, high * scans)
    if not len(row):
        return np.zeros((high, wide))
    order = np.lexsort((x, row))
    row, x, up = row[order], np.clip(x[order] / scans, 0.0, wide), up[order]
    turns = np.cumsum(up)
    before = np.concatenate([[0], turns[:-1]])
    # Sums of whole rings end at nought in every row: no row needs to know of the one before.
    begins, ends = (before == 0) & (turns != 0), (before != 0) & (turns == 0)
    out = np.zeros(high * (wide + 2))
    for at, sign in ((begins, 1.0), (ends, -1.0)):
        k = np.minimum(x[at].astype(int), wide - 1)
        part = k + 1.0 - x[at]
        cell = (row[at] // scans) * (wide + 2) + k
        out += np.bincount(cell, sign * part, len(out)) + np.bincount(cell + 1, sign * (1.0 - part), len(out))
    return np.asarray(np.clip(np.cumsum(out.reshape(high, -1), axis=1)[:, :wide] / scans, 0.0, 1.0))


def _crossings(
    rings: Sequence[np.ndarray], box: Box, per_mm: float, rows: int
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(row (k,), x (k,) in fine pixels, 1 where an edge goes down and -1 where up (k,)) of edges with scan lines."""
    some = [ring for ring in rings if len(ring) > 2]
    if not some:
        return np.zeros(0, int), np.zeros(0), np.zeros(0, int)
    points = (np.concatenate(some) - box[:2]) * per_mm
    counts = np.array([len(ring) for ring in some])
    last = np.cumsum(counts) - 1
    after = np.arange(len(points)) + 1
    after[last] = last - counts + 1
    a, b = points, points[after]
    down = b[:, 1] > a[:, 1]
    top, foot = np.where(down[:, None], a, b), np.where(down[:, None], b, a)
    # A scan line runs through the middle of its row.
    first = np.maximum(np.ceil(top[:, 1] - 0.5), 0.0).astype(int)
    end = np.minimum(np.ceil(foot[:, 1] - 0.5), rows).astype(int)
    many = np.maximum(end - first, 0)
    edge = np.repeat(np.arange(len(a)), many)
    row = np.arange(len(edge)) - np.repeat(np.cumsum(many) - many, many) + first[edge]
    slope = (foot[edge, 0] - top[edge, 0]) / np.maximum(foot[edge, 1] - top[edge, 1], 1e-12)
    return row, top[edge, 0] + (row + 0.5 - top[edge, 1]) * slope, np.where(down[edge], 1, -1)


def inked_page(inked: Iterable[tuple[bool, Sequence[np.ndarray]]], box: Box, per_mm: float) -> np.ndarray:
    """Darkness (rows, columns), 0 paper to 1 ink, of things laid on each other. inked: back to front, whether each is
    black and not white, and its rings; neighbours of one ink are laid as one."""
    out: np.ndarray | None = None
    for black, rings in _runs(inked):
        share = covered(rings, box, per_mm)
        out = np.zeros_like(share) if out is None else out
        out += (float(black) - out) * share
    return covered([], box, per_mm) if out is None else out


def _runs(inked: Iterable[tuple[bool, Sequence[np.ndarray]]]) -> Iterable[tuple[bool, list[np.ndarray]]]:
    now, rings = True, list[np.ndarray]()
    for black, more in inked:
        if black != now and rings:
            yield now, rings
            rings = []
        now = black
        rings += more
    if rings:
        yield now, rings
