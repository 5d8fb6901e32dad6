"""Several strokes as one line: end to end, or a frayed bundle that lies over itself.

A bundle has one best path. Every place of every stroke is given a length along it (by its foot on the path so far, and
by its own length where it reaches beyond); the path is then their mean, in which a stroke counts less and less towards
its own ends, and the lengths are found again.
"""

import itertools
from dataclasses import dataclass

import numpy as np

from plain_stride.lines.curve import Arc, direction
from plain_stride.lines.errors import LinesError
from plain_stride.lines.fit import fit_smooth, path_directions
from plain_stride.lines.given import Form
from plain_stride.lines.profile import Widths

STEP_MM, WITHIN_MM, ROUNDS = 0.2, 0.004, 6
NEAR_MM, LEAST_OVER_MM, FADE_MM, ALONG = 2.5, 0.4, 6.0, 0.8
"""Strokes lie over each other where they are so near, go the same way (cosine), and do so for so long; over so much of
its end a stroke comes to count."""
MOST_GAP_MM, MOST_PLACES = 20.0, 2500
SNAP_MM = 1e-3


class MergeError(LinesError):
    """Strokes that make no one line."""


@dataclass(frozen=True, eq=False)
class Stroke:
    """A line to be joined. curve (m, 4, 2) mm; widths along it; ends: what its start and its end are, kept as given."""

    curve: np.ndarray
    widths: Widths
    ends: tuple[object, object]

    def turned(self) -> "Stroke":
        """The same the other way round."""
        w = self.widths
        back = Widths((w.s[-1] - w.s)[::-1], w.right[::-1], w.left[::-1])
        return Stroke(self.curve[::-1, ::-1], back, (self.ends[1], self.ends[0]))


def merged(strokes: list[Stroke]) -> tuple[Form, tuple[object, object]]:
    """(one line of two strokes or more, its ends). Raises MergeError where they lie too far apart."""
    path = max(strokes, key=lambda stroke: Arc(stroke.curve).length)
    left = [stroke for stroke in strokes if stroke is not path]
    laid = [_Laid.first(path)]
    while left:
        points = _mean(laid)[0]
        ahead = [(_apart(stroke, points), k) for k, stroke in enumerate(left)]
        away, k = min(ahead)
        if away > MOST_GAP_MM:
            raise MergeError(f"those lines lie {away:.0f} mm apart: joined are ends that are nearer than "
                             f"{MOST_GAP_MM:.0f} mm")  # fmt: skip
        laid.append(_onto(left.pop(k), laid))
    laid.sort(key=lambda one: float(one.t[0]))
    apart = all(a.t[-1] <= b.t[0] + 1e-6 for a, b in itertools.pairwise(laid))
    return _chained([one.stroke for one in laid]) if apart else _bundle(laid)


@dataclass(eq=False)
class _Laid:
    """A stroke the way it goes along the path. points (n, 2), s (n,): its places and lengths; t (n,): lengths along the
    path, rising."""

    stroke: Stroke
    points: np.ndarray
    s: np.ndarray
    t: np.ndarray

    @classmethod
    def first(cls, stroke: Stroke) -> "_Laid":
        arc = Arc(stroke.curve)
        s = np.linspace(0.0, arc.length, int(np.clip(np.ceil(arc.length / STEP_MM) + 1, 12, MOST_PLACES)))
        return cls(stroke, arc.point(s), s, s.copy())

    def turned(self) -> "_Laid":
        return _Laid(self.stroke.turned(), self.points[::-1], (self.s[-1] - self.s)[::-1], self.t)


def _apart(stroke: Stroke, path: np.ndarray) -> float:
    """mm from a stroke to the path."""
    import shapely

    points = _Laid.first(stroke).points
    return float(shapely.distance(shapely.LineString(points), shapely.LineString(path)))


def _onto(stroke: Stroke, laid: list[_Laid]) -> _Laid:
    """A stroke laid along the path of those that are there."""
    path, t, _, _ = _mean(laid)
    new = _Laid.first(stroke)
    over = _over(new, path)
    if float(new.s[1] - new.s[0]) * over.sum() >= LEAST_OVER_MM:
        way = _feet(new.points, path, t)[1]
        if float((way * _ways(new.points))[over].sum()) < 0.0:
            new, over = new.turned(), over[::-1]
        new.t = _along(new, path, t)
        return new
    # End to end: the two ends that lie nearest to each other.
    ends = path[[0, -1]]
    gaps = np.hypot(*np.moveaxis(new.points[[0, -1]][:, None] - ends[None], -1, 0))
    own, other = np.unravel_index(int(gaps.argmin()), gaps.shape)
    if own == other:
        new = new.turned()
    gap = float(gaps.min())
    new.t = new.s + (t[-1] + gap if other == 1 else t[0] - gap - new.s[-1])
    return new


def _over(one: _Laid, path: np.ndarray) -> np.ndarray:
    """(n,) which places of a stroke lie over a path, beside its inside."""
    import shapely

    line = shapely.LineString(path)
    at = shapely.line_locate_point(line, shapely.points(one.points))
    near = shapely.distance(line, shapely.points(one.points)) <= NEAR_MM
    _, way = _feet(one.points, path, np.arange(len(path)))
    same = np.abs((way * _ways(one.points)).sum(axis=1)) >= ALONG
    out: np.ndarray = near & same & (at > 1e-6) & (at < line.length - 1e-6)
    return out


def _feet(points: np.ndarray, path: np.ndarray, t: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(what t (k,), known at the path's points, is at the feet of places (n, 2); the path's ways there (n, 2))."""
    import shapely

    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    at = shapely.line_locate_point(shapely.LineString(path), shapely.points(points))
    ways = _ways(path)
    way = np.column_stack([np.interp(at, along, ways[:, k]) for k in (0, 1)])
    return np.interp(at, along, t), way


def _ways(points: np.ndarray) -> np.ndarray:
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    return path_directions(points, s)


def _along(one: _Laid, path: np.ndarray, t: np.ndarray) -> np.ndarray:
    """Lengths (n,) along a path of a stroke's places, rising: by their feet, and beyond the path by its own length."""
    foot, _ = _feet(one.points, path, t)
    over = np.flatnonzero(_over(one, path))
    if not len(over):
        return one.t
    first, last = int(over[0]), int(over[-1])
    out = foot.copy()
    out[:first] = foot[first] - (one.s[first] - one.s[:first])
    out[last + 1 :] = foot[last] + (one.s[last + 1 :] - one.s[last])
    rising = np.maximum.accumulate(out)
    return rising + np.arange(len(rising)) * 1e-9


def _mean(laid: list[_Laid]) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """(points (n, 2) of the path, lengths along it (n,), left and right half-widths (n,)). Where no stroke lies there
    are no points."""
    low, high = min(float(one.t[0]) for one in laid), max(float(one.t[-1]) for one in laid)
    t = np.linspace(low, high, int(np.clip(np.ceil((high - low) / STEP_MM) + 1, 12, MOST_PLACES)))
    weight, sums = np.zeros(len(t)), np.zeros((len(t), 4))
    for one in laid:
        inside = (t >= one.t[0] - 1e-9) & (t <= one.t[-1] + 1e-9)
        away = np.minimum(t - one.t[0], one.t[-1] - t)[inside]
        share = np.clip(away / min(FADE_MM, max(float(one.t[-1] - one.t[0]) / 2.0, 1e-9)), 0.0, 1.0)
        w = share * share * (3.0 - 2.0 * share) + 1e-4
        left, right = one.stroke.widths.at(np.interp(t[inside], one.t, one.s))
        columns = [np.interp(t[inside], one.t, one.points[:, k]) for k in (0, 1)]
        sums[inside] += w[:, None] * np.column_stack([*columns, left, right])
        weight[inside] += w
    held = weight > 0.0
    out = sums[held] / weight[held, None]
    return out[:, :2], t[held], out[:, 2], out[:, 3]


def _bundle(laid: list[_Laid]) -> tuple[Form, tuple[object, object]]:
    for _ in range(ROUNDS):
        path = _mean(laid)[0]
        along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
        for one in laid:
            one.t = _along(one, path, along)
    path, _, left, right = _mean(laid)
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    curve, joints = fit_smooth(path, WITHIN_MM, path_directions(path, s))
    at = np.interp(s, s[joints], Arc(curve).at_piece_ends())
    first = min(laid, key=lambda one: float(one.t[0])).stroke.ends[0]
    last = max(laid, key=lambda one: float(one.t[-1])).stroke.ends[1]
    return Form(curve, False, Widths(at, left, right)), (first, last)


def _chained(strokes: list[Stroke]) -> tuple[Form, tuple[object, object]]:
    whole, *others = strokes
    for stroke in others:
        whole = _end_to_end(whole, stroke)
    return Form(whole.curve, False, whole.widths), whole.ends


def _end_to_end(one: Stroke, other: Stroke) -> Stroke:
    """Two strokes one after the other; each stays exactly what it was, and a gap is bridged."""
    here, there = one.curve[-1, 3], other.curve[0, 0]
    gap = float(np.hypot(*(there - here)))
    rest = other.curve.copy()
    if gap > SNAP_MM:
        bridge = _bridge(one.curve, other.curve)
        curve = np.concatenate([one.curve, bridge[None], rest])
    else:
        rest[0, :2] += here - there
        curve = np.concatenate([one.curve, rest])
    own, start = one.widths, Arc(curve).length - Arc(rest).length
    rows = np.column_stack([other.widths.s + start, other.widths.left, other.widths.right])
    rows = rows[rows[:, 0] > own.s[-1] + 1e-9]
    every = np.vstack([np.column_stack([own.s, own.left, own.right]), rows])
    every[-1, 0] = Arc(curve).length
    return Stroke(curve, Widths(*every.T), (one.ends[0], other.ends[1]))


def _bridge(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """The cubic (4, 2) from the end of a curve to the beginning of another. It leaves and comes in as these do, where
    that leads there at all."""
    here, there = a[-1, 3], b[0, 0]
    gap = float(np.hypot(*(there - here)))
    chord = (there - here) / gap
    none, end = np.zeros(1), np.ones(1)
    ways = direction(a[-1:], np.zeros(1, int), end)[0], direction(b[:1], np.zeros(1, int), none)[0]
    out, into = (way if float(way @ chord) > 0.0 else chord for way in ways)
    return np.array([here, here + out * gap / 3.0, there - into * gap / 3.0, there])
