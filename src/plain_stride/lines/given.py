"""Lines that come as points with widths, or as a curve, instead of a pull."""

import itertools
from dataclasses import dataclass

import numpy as np

from plain_stride.hand.resample import read_at, slopes
from plain_stride.lines.centre import DENSE_MM, DOT_MM
from plain_stride.lines.curve import Arc, parameters, straight
from plain_stride.lines.errors import LinesError
from plain_stride.lines.fit import fit_smooth, path_directions, sharp_points
from plain_stride.lines.profile import Widths
from plain_stride.measure import FARTHEST_MM, LONGEST_MM, WIDEST_MM

POINTS_MM = 0.003
"""Tolerance within which a given polyline becomes a curve."""
_PAD = 3
UNEVEN = (2.0, 4.0)
"""How many times as long as its neighbour a stretch between two points is from which it begins to be, and is, straight:
points far apart next to close ones are the ends of something straight, not of a wide bow."""


class GivenError(LinesError):
    """Points or widths that are no line."""


@dataclass(frozen=True, eq=False)
class Form:
    """A centreline that is not made from a pull: curve (m, 4, 2), closed or not, and widths along all of it."""

    curve: np.ndarray
    closed: bool
    widths: Widths

    def __post_init__(self) -> None:
        """Limits that hold whatever way a line came in by. Raises GivenError."""
        if not (np.isfinite(self.curve).all() and np.abs(self.curve).max(initial=0.0) <= FARTHEST_MM):
            raise GivenError(f"a line's places lie within {FARTHEST_MM:,.0f} mm of the board")
        half = np.concatenate([self.widths.left, self.widths.right])
        if not (np.isfinite(half).all() and half.min(initial=0.0) >= 0.0 and half.max(initial=0.0) <= WIDEST_MM):
            raise GivenError(f"a line is at most {2.0 * WIDEST_MM:,.0f} mm wide, and none is less than nothing")
        legs = np.diff(self.curve, axis=1)
        if float(np.hypot(legs[..., 0], legs[..., 1]).sum()) > LONGEST_MM:
            raise GivenError(f"a line is at most {LONGEST_MM:,.0f} mm long")


def form_from_points(points: np.ndarray, left: np.ndarray, right: np.ndarray, closed: bool) -> Form:
    """The smooth curve through points (n, 2), kinked where they turn by more than 35 degrees, with the half-widths
    (n,) read linearly between them. Raises GivenError where these do not go together."""
    p = np.asarray(points, float)
    if p.ndim != 2 or p.shape[1] != 2 or not len(p) or not np.isfinite(p).all():
        raise GivenError("a line's points are pairs of finite numbers in mm")
    half = np.column_stack([left, right]).astype(float)
    if half.shape != p.shape or not np.isfinite(half).all() or (half < 0).any():
        raise GivenError("a line has one width for each point, none below 0")
    if np.abs(p).max() > FARTHEST_MM or half.max() > WIDEST_MM:
        raise GivenError(f"its places lie within {FARTHEST_MM:,.0f} mm, its widths within {2.0 * WIDEST_MM:,.0f} mm")
    apart = np.concatenate([[True], np.hypot(*np.diff(p, axis=0).T) > 1e-6])
    if closed and len(p) > 1 and np.hypot(*(p[-1] - p[0])) <= 1e-6:
        apart[-1] = False
    p, half = p[apart], half[apart]
    if len(p) == 1:
        dot = Widths(np.array([0.0, DOT_MM]), *np.repeat(half, 2, axis=0).T)
        return Form(straight(np.array([p[0], p[0] + (DOT_MM, 0.0)])), False, dot)
    if closed and len(p) < 3:
        raise GivenError("a closed line needs at least three different points")
    curve, at = curve_through(p, closed)
    half = np.vstack([half, half[:1]]) if closed else half
    return Form(curve, closed, Widths(at, half[:, 0], half[:, 1]))


def form_of_width(curve: np.ndarray, closed: bool, width: float) -> Form:
    """A curve with one width from end to end. curve: (m, 4, 2); width: mm."""
    length = Arc(curve).length
    return Form(curve, closed, Widths(np.array([0.0, length]), np.full(2, width / 2), np.full(2, width / 2)))


def curve_through(p: np.ndarray, closed: bool) -> tuple[np.ndarray, np.ndarray]:
    """(the smooth curve through places (n, 2) that are apart, arc length at each; for a closed one also at its end)."""
    sharp = sharp_points(p, closed=closed)
    if not closed:
        around, cuts, turn = p, [0, *sharp.tolist(), len(p) - 1], 0
    elif len(sharp):
        turn = int(sharp[0])
        around = np.roll(p, -turn, axis=0)
        around = np.vstack([around, around[:1]])
        cuts = [*(sharp - turn).tolist(), len(p)]
    else:
        around, cuts, turn = np.vstack([p, p[:1]]), [0, len(p)], 0
    curves, places, start = [], [np.zeros(1)], 0.0
    for a, b in itertools.pairwise(cuts):
        pad = p if closed and not len(sharp) else None
        curve, at = _smooth_through(around[a : b + 1], pad)
        curves.append(curve)
        places.append(at[1:] + start)
        start += float(at[-1])
    s = np.concatenate(places)
    if turn:
        # Arc lengths are told from the first point that was given: the curve is turned back to start there.
        return _started_at(np.concatenate(curves), s, len(p) - turn)
    return np.concatenate(curves), s


def _started_at(curve: np.ndarray, s: np.ndarray, k: int) -> tuple[np.ndarray, np.ndarray]:
    from plain_stride.lines.curve import between

    arc = Arc(curve)
    cut = float(s[k])
    turned = np.concatenate([between(arc, cut, arc.length), between(arc, 0.0, cut)])
    at = np.concatenate([s[k:-1] - cut, s[: k + 1] + (s[-1] - cut)])
    return turned, at


def _smooth_through(p: np.ndarray, ring: np.ndarray | None) -> tuple[np.ndarray, np.ndarray]:
    """(curve, arc length at each of the points p) without corners; ring: the closed polyline it goes round, if any."""
    if len(p) == 2:
        return straight(p), np.array([0.0, float(np.hypot(*(p[1] - p[0])))])
    pad = min(_PAD, len(ring)) if ring is not None else 0
    q = np.vstack([ring[-pad:], ring, ring[:1], ring[1 : pad + 1]]) if ring is not None else p
    t = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(q, axis=0).T))])
    per = np.clip(np.ceil(np.diff(t) / DENSE_MM), 4, 400).astype(int)
    k, u = parameters(per)
    at = t[k] + u * np.append(np.diff(t), 0.0)[k]
    at[-1] = t[-1]
    dense = read_at(t, q, at, _slopes(t, q))
    chord = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(dense, axis=0).T))])
    tangent = path_directions(dense, chord)
    first, last = (int(per[:pad].sum()), int(per[: len(q) - 1 - pad].sum()))
    if ring is not None:
        tangent[last] = tangent[first]
    dense, tangent, at = dense[first : last + 1], tangent[first : last + 1], at[first : last + 1]
    curve, joints = fit_smooth(dense, POINTS_MM, tangent)
    s = np.interp(chord[first : last + 1], chord[first : last + 1][joints], Arc(curve).at_piece_ends())
    given = t[pad : len(q) - pad]
    return curve, np.interp(given, at, s)


def _slopes(t: np.ndarray, p: np.ndarray) -> np.ndarray:
    """Slopes (n, 2) at points: those of the parabola through three, or a long stretch's own beside a short one."""
    m = slopes(t, p)
    h = np.diff(t)
    if len(h) > 1:
        d = np.diff(p, axis=0) / h[:, None]
        uneven = np.maximum(h[:-1] / h[1:], h[1:] / h[:-1])
        share = np.clip((uneven - UNEVEN[0]) / (UNEVEN[1] - UNEVEN[0]), 0.0, 1.0)[:, None]
        longer = np.where((h[:-1] > h[1:])[:, None], d[:-1], d[1:])
        m[1:-1] += share * (longer - m[1:-1])
        m[0], m[-1] = 2.0 * d[0] - m[1], 2.0 * d[-1] - m[-2]
    return m
