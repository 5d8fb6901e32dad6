"""Corners that two held lines make in ink: round, as their ends are; mitred, their outer edges carried on until they
meet; or crossed, both drawn on past each other."""

import numpy as np

from plain_stride.lines.shape import Shape

JOINS = ROUND, MITRED, CROSSED = ("round", "mitred", "crossed")
MITRE_LIMIT, CROSSED_WIDTHS, EDGE_MM = 4.0, 1.6, 0.3
"""A mitre reaches at most so many half-widths from the meeting, else the corner is round (as the limit of SVG and
PostScript); how far lines are drawn on past each other, in widths; over how much of its end an edge's way is taken."""
_TIP = np.linspace(0.0, 1.0, 9)


def corner_rings(a: Shape, a_end: str, b: Shape, b_end: str, join: str) -> tuple[np.ndarray, ...]:
    """Ink (n, 2) mm that makes the corner where an end of one line meets an end of another; none where it is round."""
    if join == MITRED:
        ring = _mitre(_Edges(a, a_end), _Edges(b, b_end))
        return () if ring is None else (ring,)
    if join == CROSSED:
        return tuple(_drawn_on(edges) for edges in (_Edges(a, a_end), _Edges(b, b_end)))
    return ()


class _Edges:
    """An end as seen going out of it. at (2,): where; way (2,): unit; left, right: (places (2, 2) mm, a little back and
    at the end) of its edges."""

    def __init__(self, shape: Shape, end: str) -> None:
        out = end == "end"
        back = min(EDGE_MM, shape.length / 2.0)
        s = np.array([shape.length - back, shape.length] if out else [back, 0.0])
        points, ways = shape.arc.point(s), shape.arc.direction(s) * (1.0 if out else -1.0)
        halves = shape.body.at(s) if out else shape.body.at(s)[::-1]
        normal = np.column_stack([ways[:, 1], -ways[:, 0]])
        self.at, self.way = points[1], ways[1]
        self.left, self.right = points + normal * halves[0][:, None], points - normal * halves[1][:, None]
        self.half = float(halves[0][1] + halves[1][1]) / 2.0


def _mitre(a: _Edges, b: _Edges) -> np.ndarray | None:
    """The corner's outer triangle with its foot at the meeting; None where it would reach too far."""
    into = -b.way
    turn = float(a.way[0] * into[1] - a.way[1] * into[0])
    # The line turns left where this is below nought (y points down), and its outside is on the right.
    edge, other = (a.right, b.left) if turn < 0.0 else (a.left, b.right)
    da, db = edge[1] - edge[0], other[1] - other[0]
    cross = float(da[0] * db[1] - da[1] * db[0])
    if abs(cross) < 1e-9:
        return None
    off = other[1] - edge[1]
    t, s = (float(off[0] * d[1] - off[1] * d[0]) / cross for d in (db, da))
    tip = edge[1] + t * da
    if t < 0.0 or s < 0.0 or np.hypot(*(tip - a.at)) > MITRE_LIMIT * (a.half + b.half) / 2.0:
        return None
    return np.array([a.at, edge[1], tip, other[1]])


def _drawn_on(a: _Edges) -> np.ndarray:
    """A line drawn on past its end, to a point."""
    reach = 2.0 * a.half * CROSSED_WIDTHS
    share = (1.0 - _TIP) ** 0.8
    along = a.at + np.outer(_TIP * reach, a.way)
    left, right = (along + share[:, None] * (edge[1] - a.at) for edge in (a.left, a.right))
    return np.vstack([left, right[::-1][1:]])
