"""Where things go that are lined up, spaced evenly, laid along a line, or put in perspective."""

import numpy as np

from plain_stride.lines.curve import Arc
from plain_stride.lines.errors import LinesError

SIDES = ("left", "middle", "right", "top", "centre", "bottom")
WAYS = ("across", "down")
LEAST_DEPTH = 0.02
"""A perspective may bring places no nearer to its horizon than this share of its nearest ones."""


class ArrangeError(LinesError):
    """An arrangement that cannot be."""


def aligned(boxes: np.ndarray, side: str) -> np.ndarray:
    """(n, 2) mm by which boxes (n, 4) of x0, y0, x1, y1 are moved so that a side of all lies where that of them
    together does. side: left, middle, right; top, centre, bottom."""
    out, low, high = np.zeros((len(boxes), 2)), boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    k, share = divmod(SIDES.index(side), 3)
    at = boxes[:, k] + (boxes[:, k + 2] - boxes[:, k]) * share / 2.0
    out[:, k] = low[k] + (high[k] - low[k]) * share / 2.0 - at
    return out


def spaced(boxes: np.ndarray, way: str) -> np.ndarray:
    """(n, 2) mm by which boxes are moved so that the gaps between them, across or down, are one as wide as the other.
    The first and the last stay. Raises ArrangeError for fewer than three."""
    if len(boxes) < 3:
        raise ArrangeError("spaced evenly are three or more")
    k = WAYS.index(way)
    order = np.argsort(boxes[:, k] + boxes[:, k + 2])
    sizes = (boxes[:, k + 2] - boxes[:, k])[order]
    gap = (boxes[order[-1], k + 2] - boxes[order[0], k] - sizes.sum()) / (len(boxes) - 1)
    starts = boxes[order[0], k] + np.concatenate([[0.0], np.cumsum(sizes[:-1] + gap)])
    out = np.zeros((len(boxes), 2))
    out[order, k] = starts - boxes[order, k]
    return out


def places_along(arc: Arc, count: int, closed: bool) -> tuple[np.ndarray, np.ndarray]:
    """(places (n, 2), degrees clockwise (n,) by which the line's way has turned from pointing right) at even lengths of
    a line, its ends among them where it is open."""
    s = np.linspace(0.0, arc.length, count, endpoint=not closed)
    way = arc.direction(s)
    return arc.point(s), np.degrees(np.arctan2(way[:, 1], way[:, 0]))


def homography(box: np.ndarray, corners: np.ndarray) -> np.ndarray:
    """(3, 3): the projective map that takes the corners of a box (x0, y0, x1, y1), clockwise from the upper left, to
    four places (4, 2). By the eight equations of its numbers (Hartley and Zisserman 2004, 4.1). Raises ArrangeError
    where three of the places lie on a line, or the horizon runs through the box."""
    x0, y0, x1, y1 = box.tolist()
    if x1 - x0 < 1e-6 or y1 - y0 < 1e-6:
        raise ArrangeError("what has no height or no width cannot be put in perspective")
    source = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
    rows = []
    for (x, y), (u, v) in zip(source, corners, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y, u], [0, 0, 0, x, y, 1, -v * x, -v * y, v]]
    m = np.array(rows)
    if np.linalg.matrix_rank(m[:, :8], tol=1e-9 * np.abs(m).max()) < 8 or _bowed(corners):
        raise ArrangeError("the four corners must go round an area, none of them inside the others or across")
    out = np.append(np.linalg.solve(m[:, :8], m[:, 8]), 1.0).reshape(3, 3)
    depth = np.column_stack([source, np.ones(4)]) @ out[2]
    if depth.min() * depth.max() <= 0.0 or np.abs(depth).min() < LEAST_DEPTH * np.abs(depth).max():
        raise ArrangeError("that perspective's horizon runs through the lines: bring the corners closer together")
    return out


def _bowed(corners: np.ndarray) -> bool:
    """Whether four corners do not go round a bulging area."""
    ways = np.roll(corners, -1, axis=0) - corners
    after = np.roll(ways, -1, axis=0)
    turns = ways[:, 0] * after[:, 1] - ways[:, 1] * after[:, 0]
    return not ((turns > 1e-9).all() or (turns < -1e-9).all())


def projected(points: np.ndarray, by: np.ndarray) -> np.ndarray:
    """Places (n, 2) where a projective map (3, 3) takes them."""
    out = np.column_stack([points, np.ones(len(points))]) @ by.T
    seen: np.ndarray = out[:, :2] / out[:, 2:]
    return seen
