"""The edge of a line as cubics: few of them, and none that makes the line lighter or heavier as a whole."""

import itertools

import numpy as np

from plain_stride.lines.curve import circle, flatten, parameters, straight
from plain_stride.lines.fit import fit_smooth, path_directions, sharp_points
from plain_stride.lines.outline import signed_area

EDGE_FIT_MM, LOOSEST_EDGE_MM = 0.002, 0.012
EDGE_CORNER_DEG = 18.0
DENSE_MM, LONG_EDGE_MM = 0.15, 0.6
JUMP_BEND, JUMP_TIMES = 0.8, 5.0
"""A bend above JUMP_BEND per mm that begins this many times tighter than what leads to it gets a joint there."""
MOST_PIECES = 4
"""Outline pieces for one centreline piece, at most."""


def edge_curves(rings: list[np.ndarray], pieces: int) -> list[np.ndarray]:
    """The rings as closed chains of cubics, at most MOST_PIECES for each of the centreline's pieces where that can
    be had with an edge within 0.012 mm. Rings (n, 2), chains (m, 4, 2), mm."""
    allowed, tolerance = MOST_PIECES * max(pieces, 1), EDGE_FIT_MM
    while True:
        curves = [_ring_curve(ring, tolerance) for ring in rings]
        count = sum(map(len, curves))
        if count <= allowed or tolerance >= LOOSEST_EDGE_MM:
            return curves
        # The error of a cubic falls with about the fifth power of its length.
        tolerance = min(LOOSEST_EDGE_MM, tolerance * float(np.clip((count / allowed) ** 5, 1.3, 4.0)))


def _graded(ring: np.ndarray) -> np.ndarray:
    """The ring with a point more on each long edge that meets a much shorter one, as far from their vertex as the
    shorter one is long: so that the direction at the vertex belongs to its surroundings only. Edges of bends are
    never that long."""
    long = np.hypot(*(np.roll(ring, -1, axis=0) - ring).T)
    before, after = np.roll(long, 1), np.roll(long, -1)
    share = np.column_stack([before / np.maximum(long, 1e-12), 1.0 - after / np.maximum(long, 1e-12)])
    wanted = np.column_stack([long > 2.0 * before, long > 2.0 * after]) & (long > LONG_EDGE_MM)[:, None]
    out = []
    step = np.roll(ring, -1, axis=0) - ring
    for k in range(len(ring)):
        out.append(ring[k])
        out += [ring[k] + step[k] * u for u, use in zip(share[k], wanted[k], strict=True) if use and 0.0 < u < 1.0]
    return np.array(out)


def _ring_curve(ring: np.ndarray, tolerance: float) -> np.ndarray:
    """A closed ring (n, 2) as a closed chain of cubics with its corners kept."""
    round_one = _as_circle(ring)
    if round_one is not None:
        return round_one
    ring = _graded(ring)
    sharp = set(sharp_points(ring, EDGE_CORNER_DEG, closed=True).tolist())
    cuts = sorted(sharp | set(_curvature_jumps(ring)))
    if not cuts:
        return _stretch_curve(np.vstack([ring[-1:], ring, ring[:2]]), tolerance, slice(1, -1))
    n, out = len(ring), []
    for a, b in itertools.pairwise([*cuts, cuts[0] + n]):
        before, after = int(a not in sharp), int(b % n not in sharp)
        stretch = ring[np.arange(a - before, b + after + 1) % n]
        out.append(_stretch_curve(stretch, tolerance, slice(before, len(stretch) - after)))
    return np.concatenate(out)


def _curvature_jumps(ring: np.ndarray) -> list[int]:
    """Vertices at which a flat edge passes smoothly into a tight one, as where an end's round begins: one cubic
    would serve both badly."""
    n = len(ring)
    if n < 12:
        return []
    d = np.diff(np.vstack([ring[-1:], ring, ring[:1]]), axis=0)
    long = np.hypot(*d.T)
    turn = np.arctan2(d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0], (d[:-1] * d[1:]).sum(axis=1))
    curvature = np.abs(turn) / np.maximum((long[:-1] + long[1:]) / 2.0, 1e-9)
    around = np.lib.stride_tricks.sliding_window_view(np.concatenate([curvature[-3:], curvature, curvature[:3]]), 3)
    before, after = np.median(around[:n], axis=1), np.median(around[4 : n + 4], axis=1)
    jump = np.abs(after - before)
    high, low = np.maximum(before, after), np.minimum(before, after)
    strong = (high > JUMP_BEND) & (high > JUMP_TIMES * low)
    peak = (jump >= np.roll(jump, 1)) & (jump > np.roll(jump, -1))
    found: list[int] = []
    for k in np.flatnonzero(strong & peak).tolist():
        if not found or k - found[-1] > 4:
            found.append(k)
    return found


def _stretch_curve(points: np.ndarray, tolerance: float, use: slice) -> np.ndarray:
    """Cubics along the polyline points[use]; the points outside it only say in which direction its ends go."""
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    if len(points) < 3:
        return straight(points)
    t = path_directions(points, s)[use]
    p, s = points[use], s[use]
    per = np.maximum(1, np.ceil(np.diff(s) / DENSE_MM)).astype(int)
    k, u = parameters(per)
    at = s[k] + u * np.append(np.diff(s), 0.0)[k] if len(k) else s
    at[-1] = s[-1]
    dense, tangent = (np.column_stack([np.interp(at, s, v[:, a]) for a in (0, 1)]) for v in (p, t))
    tangent /= np.maximum(np.hypot(*tangent.T), 1e-9)[:, None]
    curve, joints = fit_smooth(dense, tolerance, tangent)
    return np.array([_with_area(c, dense[a : b + 1]) for c, a, b in zip(curve, joints[:-1], joints[1:], strict=True)])


def _with_area(piece: np.ndarray, points: np.ndarray) -> np.ndarray:
    """The piece with both handles scaled so that it encloses what its polyline does: errors of a fit lie mostly on
    one side, which would make thin lines too light or too heavy as a whole."""
    p, q = piece - piece[0], points - points[0]
    target = float((q[:-1, 0] * q[1:, 1] - q[:-1, 1] * q[1:, 0]).sum()) / 2.0
    h0, h1, end = p[1], p[3] - p[2], p[3]

    def cross(a: np.ndarray, b: np.ndarray) -> float:
        return float(a[0] * b[1] - a[1] * b[0])

    # Area of a cubic against its chord (Green's theorem): linear and square in the scale f of the handles.
    one, two = 0.3 * (cross(h0, end) - cross(h1, end)), -0.15 * cross(h0, h1)
    slope = one + 2.0 * two
    if abs(slope) < 1e-9:
        return _shifted(piece, target - one - two)
    f = 1.0 + (target - one - two) / slope
    f += (target - one * f - two * f * f) / (one + 2.0 * two * f) if abs(one + 2.0 * two * f) > 1e-9 else 0.0
    if not 0.8 < f < 1.25:
        return _shifted(piece, target - one - two)
    return np.array([piece[0], piece[0] + f * h0, piece[3] - f * h1, piece[3]])


def _shifted(piece: np.ndarray, area: float) -> np.ndarray:
    """The piece with both handles moved across its chord so that it encloses `area` more: for S bends, whose area
    does not follow the length of their handles. The move is a fraction of the fit's tolerance."""
    chord = piece[3] - piece[0]
    size = float(np.hypot(*chord))
    if size < 1e-6 or abs(area) > 0.6 * size * LOOSEST_EDGE_MM:
        return piece
    # Both handles moved by d sideways add 0.6 x chord x d (Green's theorem for a cubic).
    across = np.array([chord[1], -chord[0]]) / size * (area / (0.6 * size))
    out = piece.copy()
    out[1:3] += across
    return out


def _as_circle(ring: np.ndarray) -> np.ndarray | None:
    centre = (ring.max(axis=0) + ring.min(axis=0)) / 2.0
    away = np.hypot(*(ring - centre).T)
    radius = np.sqrt(abs(signed_area(ring)) / np.pi)
    if np.abs(away - radius).max() > max(0.0008, 0.001 * radius):
        return None
    round_one = circle(centre, radius)
    flat = flatten(round_one, 0.001)
    return round_one if signed_area(flat) * signed_area(ring) > 0 else round_one[::-1, ::-1]
