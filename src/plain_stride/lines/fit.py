"""Fitting cubics to a dense path: from each joint the longest piece that stays within the tolerance."""

import itertools

import numpy as np

from plain_stride.compiled.line_loops import LOOKS
from plain_stride.compiled.ready import floats, kernels
from plain_stride.lines.curve import nearer, point, straight
from plain_stride.lines.refine import refined

FIT_MM = 0.0175
"""Tolerance of a centreline's fit; the promise is 0.02 mm."""
LONGEST_MM = 12.0
HALVED_MM = 0.6
"""A centreline's pieces are at most LONGEST_MM, and a stretch above HALVED_MM gets two: so that widths which vary
along a straight, and both ends, need at most four outline pieces for a piece of the centreline."""
CORNER_DEG = 35.0
_LADDER = np.array([0.35, 0.55, 0.75, 0.9, 1.0, 1.15, 1.35, 1.7, 2.2, 3.0, 4.5])
_SAMPLES = 28
_ROUNDS = 3


def fit_smooth(
    points: np.ndarray, tolerance: float, directions: np.ndarray | None = None, longest: float = np.inf
) -> tuple[np.ndarray, np.ndarray]:
    """(curve (m, 4, 2), joints (m + 1,) as indices into points) for a dense path (n, 2) without corners.

    Joints are points of the path; neighbouring pieces share their direction there, and every point of the path lies
    within `tolerance` mm of its piece. directions: (n, 2) unit directions of the path where they are known;
    longest: no piece covers more mm of the path.
    """
    n = len(points)
    if n < 3:
        return straight(points), np.arange(n)
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    t = path_directions(points, s) if directions is None else directions
    compiled = kernels()
    if compiled is not None:
        curve, at = compiled.greedy(*floats(points, s, t, _LADDER), tolerance, longest, _SAMPLES, _ROUNDS)
        return curve, at
    pieces, joints = [], [0]
    guess = max(4, n // 12)
    while joints[-1] < n - 1:
        start = joints[-1]
        piece, end = _longest(points, s, t, start, guess, tolerance, longest)
        pieces.append(piece)
        joints.append(end)
        guess = max(3, end - start)
    return np.array(pieces), np.array(joints)


def fit_path(points: np.ndarray, corners: np.ndarray, tolerance: float = FIT_MM) -> tuple[np.ndarray, np.ndarray]:
    """(curve, joints) for a dense path that is kinked at `corners` (indices). See `fit_smooth`. Points (n, 2) and
    tolerance in mm."""
    cuts = sorted({0, *corners.tolist(), len(points) - 1})
    curves, joints = [], [np.array([0])]
    for a, b in itertools.pairwise(cuts):
        stretch = points[a : b + 1]
        curve, at = fit_smooth(stretch, tolerance, longest=_piece_limit(stretch))
        curves.append(refined(curve, at, stretch, tolerance) if len(stretch) > 2 else curve)
        joints.append(at[1:] + a)
    return np.concatenate(curves), np.concatenate(joints)


def _off(piece: np.ndarray, q: np.ndarray, u: np.ndarray) -> float:
    """Largest distance of points q (n, 2), at about parameters u, from a piece (4, 2)."""
    pieces, places, at = (np.ascontiguousarray(a)[None] for a in (piece, q, u))
    for _ in range(_ROUNDS):
        at = nearer(pieces, places, at)
    return float(_apart(pieces, places, at)[0])


def _piece_limit(stretch: np.ndarray) -> float:
    long = float(np.hypot(*np.diff(stretch, axis=0).T).sum())
    return min(LONGEST_MM, long / 2.0 + 1e-6) if long > HALVED_MM else LONGEST_MM


def sharp_points(points: np.ndarray, degrees: float = CORNER_DEG, closed: bool = False) -> np.ndarray:
    """Indices where a polyline (n, 2) turns by more than `degrees`; the ends count only when it is closed."""
    d = np.diff(np.vstack([points[-1:], points, points[:1]]), axis=0) if closed else np.diff(points, axis=0)
    cross = d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0]
    turn = np.degrees(np.abs(np.arctan2(cross, (d[:-1] * d[1:]).sum(axis=1))))
    return np.flatnonzero(turn > degrees) + (0 if closed else 1)


def path_directions(p: np.ndarray, s: np.ndarray) -> np.ndarray:
    """Unit directions (n, 2) of the parabola through each point and its neighbours."""
    h = np.maximum(np.diff(s), 1e-12)[:, None]
    d = np.diff(p, axis=0) / h
    inner = (d[:-1] * h[1:] + d[1:] * h[:-1]) / (h[1:] + h[:-1])
    t = np.vstack([2 * d[:1] - inner[:1], inner, 2 * d[-1:] - inner[-1:]])
    size = np.hypot(*t.T)
    t[size < 1e-9] = (1.0, 0.0)
    return t / np.maximum(np.hypot(*t.T), 1e-12)[:, None]


def _longest(
    p: np.ndarray, s: np.ndarray, t: np.ndarray, start: int, guess: int, tolerance: float, longest: float
) -> tuple[np.ndarray, int]:
    last = min(len(p) - 1, max(start + 1, int(np.searchsorted(s, s[start] + longest, side="right")) - 1))
    ends = np.unique(np.clip(start + np.round(guess * _LADDER).astype(int), start + 2, last))
    best, best_end, fail = None, start + 1, last + 1
    for _ in range(LOOKS):
        if len(ends):
            fits, errors = _try(p, s, t, start, ends)
            good = np.flatnonzero(errors <= tolerance)
            for k in good[::-1]:
                checked = _checked(p, s, t, start, int(ends[k]), fits[k], tolerance)
                if checked is not None:
                    best, best_end = checked, int(ends[k])
                    break
            longer = ends[ends > best_end]
            fail = int(longer[0]) if len(longer) else fail
        if best_end >= last or fail - best_end <= 1:
            break
        ends = np.unique(np.linspace(best_end + 1, min(fail - 1, last), 6).round().astype(int))
        ends = ends[ends >= start + 2]
    if best is None:
        return straight(p[[start, start + 1]])[0], start + 1
    return best, best_end


def _checked(
    p: np.ndarray, s: np.ndarray, t: np.ndarray, start: int, end: int, piece: np.ndarray, tolerance: float
) -> np.ndarray | None:
    """The piece if all points of its stretch, not just the sampled ones, lie within the tolerance."""
    if end - start <= _SAMPLES:
        return piece
    u = (s[start : end + 1] - s[start]) / (s[end] - s[start])
    return piece if _off(piece, p[start : end + 1], u) <= tolerance else None


def _try(p: np.ndarray, s: np.ndarray, t: np.ndarray, start: int, ends: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Pieces (c, 4, 2) from start to each of `ends`, least squares in the two handle lengths, and their errors (c,)."""
    at = np.round(start + (ends - start)[:, None] * np.linspace(0.0, 1.0, _SAMPLES)).astype(int)
    q = p[at]
    long = np.maximum(s[ends] - s[start], 1e-12)
    u = (s[at] - s[start]) / long[:, None]
    piece = np.empty((len(ends), 4, 2))
    for _ in range(_ROUNDS):
        piece = _handles(q, u, t[start], t[ends], long)
        u = nearer(piece, q, u)
    return piece, _apart(piece, q, u)


def _apart(piece: np.ndarray, q: np.ndarray, u: np.ndarray) -> np.ndarray:
    """Largest distance (c,) of places q (c, k, 2) from their pieces (c, 4, 2) at parameters u (c, k)."""
    compiled = kernels()
    if compiled is not None:
        out: np.ndarray = compiled.apart(*floats(piece, q, u))
        return out
    v = 1.0 - u[..., None]
    w = u[..., None]
    c = piece[:, None]
    on = v**3 * c[:, :, 0] + 3 * v * v * w * c[:, :, 1] + 3 * v * w * w * c[:, :, 2] + w**3 * c[:, :, 3]
    off: np.ndarray = np.sqrt(((on - q) ** 2).sum(axis=-1).max(axis=1))
    return off


def _handles(q: np.ndarray, u: np.ndarray, t0: np.ndarray, t1: np.ndarray, long: np.ndarray) -> np.ndarray:
    compiled = kernels()
    if compiled is not None:
        out: np.ndarray = compiled.handles(*floats(q, u, t0, t1, long))
        return out
    v = 1.0 - u
    b0, b1, b2, b3 = v**3, 3 * v * v * u, 3 * v * u * u, u**3
    p0, p3 = q[:, :1], q[:, -1:]
    rest = q - (b0 + b1)[..., None] * p0 - (b2 + b3)[..., None] * p3
    r0, r1 = (rest * t0).sum(-1), -(rest * t1[:, None]).sum(-1)
    a11, a22 = (b1 * b1).sum(1), (b2 * b2).sum(1)
    a12 = -(b1 * b2).sum(1) * (t1 @ t0)
    y1, y2 = (b1 * r0).sum(1), (b2 * r1).sum(1)
    det = a11 * a22 - a12 * a12
    safe = np.where(np.abs(det) < 1e-12, 1.0, det)
    alpha, beta = (y1 * a22 - y2 * a12) / safe, (y2 * a11 - y1 * a12) / safe
    bad = (np.abs(det) < 1e-12) | (alpha < 0.02 * long) | (beta < 0.02 * long) | (alpha > long) | (beta > long)
    alpha, beta = (np.where(bad, long / 3.0, x)[:, None, None] for x in (alpha, beta))
    return np.concatenate([p0, p0 + alpha * t0, p3 - beta * t1[:, None], p3], axis=1)


def worst_distance(curve: np.ndarray, joints: np.ndarray, points: np.ndarray, samples: int = 150) -> float:
    """The farthest that `samples` places a piece lie from the polyline of their own stretch, mm. curve: (m, 4, 2);
    points: (n, 2)."""
    worst = 0.0
    u = np.linspace(0.0, 1.0, samples)
    for k in range(len(curve)):
        on = point(curve[k : k + 1], np.zeros(samples, int), u)
        a, b = points[joints[k] : joints[k + 1]], points[joints[k] + 1 : joints[k + 1] + 1]
        d = b - a
        share = ((on[:, None] - a) * d).sum(-1) / np.maximum((d * d).sum(-1), 1e-18)
        foot = a + np.clip(share, 0.0, 1.0)[..., None] * d
        worst = max(worst, float(np.hypot(*np.moveaxis(on[:, None] - foot, -1, 0)).min(axis=1).max()))
    return worst
