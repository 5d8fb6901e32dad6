"""The true nodes of a curve: few cubics, whose joints and handles can be taken hold of; and stretches of it made
straight, round or smoother.

A curve is a chain of cubics (m, 4, 2) in mm. Node k lies where piece k begins, node m at its end; on a closed curve
node 0 and node m are one.
"""

import numpy as np

from plain_stride.hand.solve import steady_solve
from plain_stride.lines.bending import places_along, refitted
from plain_stride.lines.curve import Arc, between, direction, flatten, nearer, part_of, straight
from plain_stride.lines.errors import LinesError
from plain_stride.lines.fit import fit_smooth, path_directions

LEAST_HANDLE_MM, LEAST_NODES, FOUND_MM = 1e-6, 2, 1e-3
SMOOTH_RAD = 0.02
"""Handles of a smooth node turn by no more than this."""
ROUNDS, LIGHTEST, HEAVIEST = 24, -2.0, 12.0
"""Steps by which a leeway is met, and the powers of ten between which what meets it is looked for."""
BLEND_MM, BLEND_STEP_MM, MOST_KEPT = 3.0, 0.1, 4000
BEFORE, AFTER = -1, 1


class NodeError(LinesError):
    """A node that is not there, or an edit that leaves no curve."""


def count_of(curve: np.ndarray, closed: bool) -> int:
    """How many nodes a curve (m, 4, 2) has."""
    return len(curve) + (0 if closed else 1)


def node_at(curve: np.ndarray, k: int) -> np.ndarray:
    """(2,) mm: where a node lies."""
    return curve[k, 0] if k < len(curve) else curve[-1, 3]


def is_smooth(curve: np.ndarray, k: int, closed: bool) -> bool:
    """Whether a curve has one direction at a node. Its ends are corners."""
    before, after = pieces_at(curve, k, closed)
    if before is None or after is None:
        return False
    a, b = _way(curve, before, 1.0), _way(curve, after, 0.0)
    return abs(float(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b))) < SMOOTH_RAD


def _way(curve: np.ndarray, k: int, u: float) -> np.ndarray:
    out: np.ndarray = direction(curve, np.array([k]), np.array([u]))[0]
    return out


def pieces_at(curve: np.ndarray, k: int, closed: bool) -> tuple[int | None, int | None]:
    """The pieces that end and begin at a node. Raises NodeError for one that is not there."""
    m = len(curve)
    if not 0 <= k < count_of(curve, closed):
        raise NodeError(f"there is no point {k}: the line has {count_of(curve, closed)}, from 0 on")
    if closed:
        return (k - 1) % m, k % m
    return (k - 1 if k > 0 else None), (k if k < m else None)


def simplified(curve: np.ndarray, within: float) -> tuple[np.ndarray, float]:
    """(as few cubics as stay within so many mm of a curve, its kinks among their nodes; how far, in mm, they come to
    lie from it)."""
    arc = Arc(curve)
    dense = places_along(arc, 0.0, arc.length)
    # The places lie apart: what passes them is held a little nearer than what was asked.
    share = 0.9
    for _ in range(4):
        new = refitted(arc, dense, arc.point(dense), within * share)
        off = farthest_apart(curve, new)
        if off <= within:
            break
        share *= 0.7
    return (new, off) if len(new) < len(curve) and off <= within else (curve, 0.0)


def farthest_apart(a: np.ndarray, b: np.ndarray) -> float:
    """mm: the farthest that places of either curve lie from the other, at chords of FOUND_MM."""
    one, other = flatten(a, FOUND_MM), flatten(b, FOUND_MM)
    import shapely

    there, back = shapely.LineString(other), shapely.LineString(one)
    shapely.prepare([there, back])
    return float(max(shapely.distance(there, shapely.points(one)).max(),
                     shapely.distance(back, shapely.points(other)).max()))  # fmt: skip


def with_node(curve: np.ndarray, s: float) -> np.ndarray:
    """The same curve with one node more, at an arc length in mm. Raises NodeError where there is one already."""
    arc = Arc(curve)
    k, u = (v[0] for v in arc.locate(np.array([s])))
    if not 1e-3 < u < 1.0 - 1e-3:
        raise NodeError("there is a point already")
    halves = [part_of(curve[k], 0.0, float(u)), part_of(curve[k], float(u), 1.0)]
    return np.concatenate([curve[:k], halves, curve[k + 1 :]])


def without_node(curve: np.ndarray, k: int, closed: bool) -> np.ndarray:
    """A curve without one of its nodes: what lay on both sides of it becomes one piece, fitted to them by least
    squares in the lengths of its handles. An end is cut off. Raises NodeError where too few would be left."""
    before, after = pieces_at(curve, k, closed)
    if len(curve) < LEAST_NODES:
        raise NodeError("a line needs two points: delete the line instead")
    if before is None or after is None:
        return curve[1:] if before is None else curve[:-1]
    pair = np.stack([curve[before], curve[after]])
    piece = _as_one(pair)
    if closed and after == 0:
        return np.concatenate([curve[1:-1], piece[None]])
    return np.concatenate([curve[:before], piece[None], curve[after + 1 :]])


def _as_one(pair: np.ndarray) -> np.ndarray:
    """The cubic (4, 2) that lies nearest to two that follow each other (2, 4, 2), with their directions at its ends."""
    arc = Arc(pair)
    s = np.linspace(0.0, arc.length, 41)
    q, u = arc.point(s), s / max(arc.length, 1e-12)
    first, last = _way(pair, 0, 0.0), _way(pair, 1, 1.0)
    for _ in range(4):
        piece = _by_handles(q, u, first, last, arc.length)
        u = np.clip(_feet(piece, q), 0.0, 1.0)
    return piece


def _by_handles(q: np.ndarray, u: np.ndarray, first: np.ndarray, last: np.ndarray, length: float) -> np.ndarray:
    v = 1.0 - u
    b1, b2 = 3 * v * v * u, 3 * v * u * u
    rest = q - (v**3 + b1)[:, None] * q[0] - (u**3 + b2)[:, None] * q[-1]
    m = np.concatenate([np.outer(b1, first).reshape(-1, 1), -np.outer(b2, last).reshape(-1, 1)], axis=1)
    a, b = np.linalg.lstsq(m, rest.ravel(), rcond=None)[0]
    a, b = (float(h) if 0.02 * length < h < 2.0 * length else length / 3.0 for h in (a, b))
    return np.array([q[0], q[0] + a * first, q[-1] - b * last, q[-1]])


def _feet(piece: np.ndarray, q: np.ndarray) -> np.ndarray:
    """Parameters (n,) of the places on a piece that lie nearest to places (n, 2)."""
    u = np.linspace(0.0, 1.0, len(q))[None]
    for _ in range(4):
        u = nearer(piece[None], q[None], u)
    out: np.ndarray = u[0]
    return out


def node_moved(curve: np.ndarray, k: int, by: np.ndarray, closed: bool) -> np.ndarray:
    """A curve, one of whose nodes was drawn by (2,) mm, its handles with it."""
    before, after = pieces_at(curve, k, closed)
    new = curve.copy()
    if before is not None:
        new[before, 2:] += by
    if after is not None:
        new[after, :2] += by
    return new


def handle_moved(curve: np.ndarray, k: int, side: int, by: np.ndarray, closed: bool) -> np.ndarray:
    """A curve, one of whose handles (of node k, on the side BEFORE or AFTER it) was drawn by (2,) mm. At a smooth node
    the other one turns along and keeps its length."""
    before, after = pieces_at(curve, k, closed)
    smooth = is_smooth(curve, k, closed)
    own, other = (before, after) if side == BEFORE else (after, before)
    if own is None:
        raise NodeError("an end has one handle only")
    new, at = curve.copy(), node_at(curve, k)
    mine, others = (2, 1) if side == BEFORE else (1, 2)
    new[own, mine] += by
    if smooth and other is not None:
        way = at - new[own, mine]
        size = float(np.hypot(*way))
        if size > LEAST_HANDLE_MM:
            new[other, others] = at + way / size * np.hypot(*(curve[other, others] - at))
    return new


def piece_moved(curve: np.ndarray, s: float, by: np.ndarray) -> np.ndarray:
    """A curve, one of whose pieces was drawn by (2,) mm where it lies at an arc length: its nodes stay, its handles
    give, each by its share (the least change of both that does it)."""
    arc = Arc(curve)
    k, u = (v[0] for v in arc.locate(np.array([s])))
    u = float(np.clip(u, 0.1, 0.9))
    b1, b2 = 3 * (1 - u) ** 2 * u, 3 * (1 - u) * u * u
    new = curve.copy()
    new[k, 1] += by * b1 / (b1 * b1 + b2 * b2)
    new[k, 2] += by * b2 / (b1 * b1 + b2 * b2)
    return new


def made_corner(curve: np.ndarray, k: int, closed: bool) -> np.ndarray:
    """A curve whose handles at a node point to the nodes before and after: it is a corner there."""
    before, after = pieces_at(curve, k, closed)
    new = curve.copy()
    if before is not None:
        new[before, 2] = curve[before, 3] + (curve[before, 0] - curve[before, 3]) / 3.0
    if after is not None:
        new[after, 1] = curve[after, 0] + (curve[after, 3] - curve[after, 0]) / 3.0
    return new


def made_smooth(curve: np.ndarray, k: int, closed: bool) -> np.ndarray:
    """A curve with one direction at a node: along its neighbours. Raises NodeError for an end."""
    before, after = pieces_at(curve, k, closed)
    if before is None or after is None:
        raise NodeError("an end of a line has one side only: it cannot be made smooth")
    at, way = curve[after, 0], curve[after, 3] - curve[before, 0]
    size = float(np.hypot(*way))
    if size < LEAST_HANDLE_MM:
        raise NodeError("the points on both sides of that one lie on each other")
    new = curve.copy()
    for piece, handle, sign in ((before, 2, -1.0), (after, 1, 1.0)):
        long = float(np.hypot(*(curve[piece, handle] - at)))
        long = long if long > LEAST_HANDLE_MM else float(np.hypot(*(curve[piece, 3] - curve[piece, 0]))) / 3.0
        new[piece, handle] = at + sign * way / size * long
    return new


def straightened(curve: np.ndarray, a: float, b: float) -> np.ndarray:
    """A curve, straight between two arc lengths; the rest is exactly what it was."""
    arc = Arc(curve)
    return _replaced(arc, a, b, straight(arc.point(np.array([a, b]))))


def smoothed(curve: np.ndarray, a: float, b: float, leeway: float) -> np.ndarray:
    """A curve, made as smooth between two arc lengths as it can be where no place moves by more than `leeway` mm; its
    direction at both goes on as it was. By penalised third differences (Whittaker 1923)."""
    arc = Arc(curve)
    dense = places_along(arc, a, b)
    even = np.linspace(a, b, max(len(dense), 60))
    path = arc.point(even)
    # Towards both ends it gives less and less, so that there is no step where the stretch begins.
    share = np.clip(np.minimum(even - a, b - even) / max((b - a) * 0.2, 1e-9), 0.0, 1.0)
    share = (share * share * (3.0 - 2.0 * share))[:, None]
    low, high = LIGHTEST, HEAVIEST
    for _ in range(ROUNDS):
        power = (low + high) / 2.0
        moved = path + share * (steady_solve(path, np.full(len(path) - 3, 10.0**power)) - path)
        low, high = (power, high) if np.hypot(*(moved - path).T).max() <= leeway else (low, power)
    moved = path + share * (steady_solve(path, np.full(len(path) - 3, 10.0**low)) - path)
    moved[[0, -1]] = path[[0, -1]]
    return _replaced(arc, a, b, refitted(Arc(between(arc, a, b)), even - a, moved))


def redrawn(curve: np.ndarray, a: float, b: float, drawn: np.ndarray) -> np.ndarray:
    """A curve that follows another one between two arc lengths. Over BLEND_MM at both joints it comes out of what was
    there, and goes back into it, so that its direction goes on."""
    arc, new = Arc(curve), Arc(drawn)
    ends = arc.point(np.array([a, b]))
    there, back = (np.hypot(*(drawn[0, 0] - end)) + np.hypot(*(drawn[-1, 3] - other))
                   for end, other in (ends, ends[::-1]))  # fmt: skip
    new = new if there <= back else Arc(drawn[::-1, ::-1])
    s = np.linspace(0.0, new.length, max(40, int(new.length / BLEND_STEP_MM)))
    path, fade = new.point(s), min(BLEND_MM, new.length / 2.0, (b - a) / 2.0)
    for own, places in ((s, a + s), (new.length - s, b - (new.length - s))):
        share = np.clip(own / max(fade, 1e-9), 0.0, 1.0)
        share = (share**3 * (10.0 - 15.0 * share + 6.0 * share**2))[:, None]
        path = share * path + (1.0 - share) * arc.point(np.clip(places, 0.0, arc.length))
    chords = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    ways = path_directions(path, chords)
    ways[[0, -1]] = arc.direction(np.array([a, b]))
    return _replaced(arc, a, b, fit_smooth(path, FOUND_MM, ways)[0])


def _replaced(arc: Arc, a: float, b: float, stretch: np.ndarray) -> np.ndarray:
    """A curve with another stretch (m, 4, 2) between two arc lengths."""
    pieces = [between(arc, 0.0, a)] if a > FOUND_MM else []
    pieces.append(stretch)
    if b < arc.length - FOUND_MM:
        pieces.append(between(arc, b, arc.length))
    return np.concatenate(pieces)


def places_kept(old: np.ndarray, new: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(arc lengths (k,) on a curve, where these places are on an edited one): what has not moved stays
    where it was, and between such stretches places go with the share of their length."""
    import shapely

    before, after = Arc(old), Arc(new)
    s = np.linspace(0.0, before.length, int(np.clip(before.length / 0.25, 200, MOST_KEPT)))[1:-1]
    path, feet = shapely.LineString(flatten(new, FOUND_MM)), shapely.points(before.point(s))
    off = shapely.distance(path, feet)
    there = shapely.line_locate_point(path, feet) * (after.length / max(path.length, 1e-12))
    still: list[tuple[float, float]] = [(0.0, 0.0)]
    # Where a line crosses itself the nearest place may be one of another stretch.
    near = (off <= 5.0 * FOUND_MM) & (np.abs(there - s) <= abs(after.length - before.length) + 0.5)
    for at, to in zip(s[near].tolist(), there[near].tolist(), strict=True):
        if to > still[-1][1]:
            still.append((at, to))
    still.append((before.length, after.length))
    x, y = (np.array(v) for v in zip(*still, strict=True))
    return x, np.maximum.accumulate(y)


def nodes_of(curve: np.ndarray, closed: bool) -> np.ndarray:
    """(n, 2) mm: where all nodes lie."""
    return np.array([node_at(curve, k) for k in range(count_of(curve, closed))])
