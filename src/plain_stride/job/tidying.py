"""What would mend the ends of lines: how far one goes on to the next line, where a gap is to be closed, where a stub
reaches beyond what it meets. Gaps and stubs are measured between edges of ink."""

from dataclasses import dataclass, replace

import numpy as np

from plain_stride.job.covers import Covers
from plain_stride.job.shapes import Shapes
from plain_stride.lines.bending import MOST_GROWN_MM, Growth
from plain_stride.lines.cross import crossings, nearest
from plain_stride.lines.recipe import Recipe, path_of
from plain_stride.lines.shape import Path, Shape

STEP_MM, LEAST_MM, LEAST_STUB_MM, MORE_MM = 0.05, 0.03, 0.15, 1.0
"""Apart of the places along which a line is carried on; what is no gap; what is no stub, as round ends at a corner
reach out a little (our choice: half of the least that our faults have); how much farther than a gap, and
the widths of both inks, a line may have to go to the middle of what it meets."""
Mend = tuple[str, bool, float]
"""(line, whether it is its end, mm by which it is to go on, or to lose where below nought)."""


def beyond(recipe: Recipe, at_end: bool, mm: float) -> np.ndarray:
    """Places (n, 2) mm, at most STEP_MM apart, along which a line would go on from its end or its start."""
    whole, at = carried_on(recipe, at_end, mm)
    s = np.linspace(at, at + mm, max(4, int(np.ceil(mm / STEP_MM)) + 1))
    return whole.arc.point(s if at_end else whole.arc.length - s)


def carried_on(recipe: Recipe, at_end: bool, mm: float) -> tuple[Path, float]:
    """(the untrimmed path of a line that goes on by so many mm, the arc length from its start, or from its end for its
    start, where the line ends now)."""
    own = path_of(replace(recipe, span=None))
    now = own.arc.length
    if recipe.span is not None:
        s = float(np.interp(recipe.span.end if at_end else recipe.span.start, own.source_t, own.s))
        now = s if at_end else own.arc.length - s
    more = max(0.0, now + mm - own.arc.length)
    scale = recipe.matrix.scale if recipe.matrix is not None else 1.0
    return path_of(replace(recipe, span=None, growth=with_more(recipe.growth, at_end, more / scale))), now


def with_more(growth: Growth | None, at_end: bool, mm: float) -> Growth:
    """So many mm more at an end."""
    now = growth or Growth()
    return replace(now, end=now.end + mm) if at_end else replace(now, start=now.start + mm)


def next_beyond(shapes: Shapes, line: str, at_end: bool, most: float) -> float | None:
    """mm by which a line goes on to the middle of the next one in its way; None where none lies there."""
    path = beyond(shapes.worked(line).recipe, at_end, most)
    found = [_first(path, _points(shapes[other])) for other in shapes.visible() if other != line]
    found += [_first(path[4:], _points(shapes[line]), 4)]
    away = [at for at in found if at is not None]
    return min(away) * most / (len(path) - 1) if away else None


def mends_of(shapes: Shapes, lines: list[str], gap: float, overshoot: float) -> list[Mend]:
    """What closes gaps and takes stubs off at the ends of these lines, of at most so many mm; ends that a cover hides
    are left as they are."""
    everything = _Everything(shapes, gap)
    found = [mend for line in lines for at_end in (False, True)
             if (mend := everything.mend(line, at_end, gap, overshoot)) is not None]  # fmt: skip
    return found


@dataclass(frozen=True)
class _Other:
    """A line that an end might meet: its middle, carried on a little at both ends, and where its own begins and ends
    there."""

    points: np.ndarray
    first: int
    last: int


class _Everything:
    """All lines that are seen, by their boxes."""

    def __init__(self, shapes: Shapes, gap: float) -> None:
        self._shapes, self._keys = shapes, shapes.visible()
        self._boxes = np.array([shapes[key].box for key in self._keys]).reshape(-1, 4)
        self._reach, self._covers = gap + MORE_MM, Covers(shapes.job, shapes)
        self._others: dict[str, _Other] = {}

    def mend(self, line: str, at_end: bool, gap: float, overshoot: float) -> Mend | None:
        """What mends an end; None where it is sound, or nothing is near."""
        shape = self._shapes[line]
        if self._covered(line, shape, at_end):
            return None
        half, cap = _half_at_end(shape, at_end), _cap(shape, at_end)
        near = self._near(shape, line, at_end, max(gap, overshoot) + MORE_MM + half)
        stub = self._stub(shape, near, at_end, cap, overshoot)
        if stub is not None:
            return (line, at_end, -stub) if stub > 0.0 else None
        if self._touches(shape, near, at_end, cap):
            return None
        on = self._gap(line, near, at_end, cap, gap)
        return (line, at_end, on) if on is not None else None

    def _covered(self, line: str, shape: Shape, at_end: bool) -> bool:
        part = self._shapes.job.rows.lines[line].part
        at = shape.arc.point(np.array([shape.length if at_end else 0.0]))
        return any(cover.holds(at)[0] for cover in self._covers.hiding(part, shape))

    def _near(self, shape: Shape, line: str, at_end: bool, reach: float) -> list[str]:
        x, y = shape.arc.point(np.array([shape.length if at_end else 0.0]))[0]
        b = self._boxes
        hit = (b[:, 0] <= x + reach) & (b[:, 2] >= x - reach) & (b[:, 1] <= y + reach) & (b[:, 3] >= y - reach)
        return [self._keys[k] for k in np.flatnonzero(hit) if self._keys[k] != line]

    def _stub(self, shape: Shape, near: list[str], at_end: bool, cap: float, most: float) -> float | None:
        """mm to be taken off; 0 for an end that lies in the ink of what it meets; None where it crosses nothing."""
        points, s = shape.flat
        best: tuple[float, float] | None = None
        for other in near:
            there = _points(self._shapes[other])
            i, j = crossings(points, there)
            for own, on in zip(i, j, strict=True):
                at = float(np.interp(own, np.arange(len(s)), s))
                away = shape.length - at if at_end else at
                over = away + cap - _half(self._shapes[other], float(on))
                if away < shape.length / 2.0 and (best is None or away < best[0]):
                    best = (away, over)
        if best is None or best[1] > most + 1e-9:
            return None if best is None or best[0] > most + MORE_MM else 0.0
        return best[0] if best[1] > LEAST_STUB_MM else 0.0

    def _touches(self, shape: Shape, near: list[str], at_end: bool, cap: float) -> bool:
        """Whether the end lies in, or on, the ink of another line."""
        at = shape.arc.point(np.array([shape.length if at_end else 0.0]))[0]
        for other in near:
            away, index = nearest(_points(self._shapes[other]), at)
            if away - cap - _half(self._shapes[other], index) <= LEAST_MM:
                return True
        return False

    def _gap(self, line: str, near: list[str], at_end: bool, cap: float, most: float) -> float | None:
        """mm to go on to the middle of what is met across a gap; None where nothing is met, or too far away."""
        widest = max((float(self._shapes[o].body.full.max()) / 2.0 for o in near), default=0.0)
        reach = min(most + cap + widest + MORE_MM, MOST_GROWN_MM)
        path = beyond(self._shapes.worked(line).recipe, at_end, reach)
        step = reach / (len(path) - 1)
        best: float | None = None
        for key in near:
            other = self._other(key)
            i, j = crossings(path, other.points)
            for own, on in zip(i, j, strict=True):
                away = float(own) * step
                half = _half(self._shapes[key], float(np.clip(on, other.first, other.last)) - other.first)
                beside = self._past_end(other, float(on))
                if away - cap - half <= most and beside <= most + half and (best is None or away < best):
                    best = away
        return best

    def _past_end(self, other: _Other, on: float) -> float:
        """mm by which a place lies beyond another line's own ends."""
        k = int(np.clip(round(on), other.first, other.last))
        if other.first <= on <= other.last:
            return 0.0
        low, high = sorted((k, round(on)))
        return float(np.hypot(*np.diff(other.points[low : high + 1], axis=0).T).sum())

    def _other(self, key: str) -> _Other:
        if key not in self._others:
            shape = self._shapes[key]
            own = _points(shape)
            if shape.closed:
                self._others[key] = _Other(own, 0, len(own) - 1)
            else:
                recipe = self._shapes.worked(key).recipe
                before, after = (beyond(recipe, end, self._reach)[1:] for end in (False, True))
                points = np.vstack([before[::-1], own, after])
                self._others[key] = _Other(points, len(before), len(before) + len(own) - 1)
        return self._others[key]


def _points(shape: Shape) -> np.ndarray:
    points = shape.flat[0]
    return np.vstack([points, points[:1]]) if shape.closed else points


def _first(path: np.ndarray, points: np.ndarray, skipped: int = 0) -> float | None:
    """The first place (a number of steps) at which a way crosses a line, but for its very beginning."""
    at, _ = crossings(path, points)
    at = at[at > 0.2]
    return float(at.min()) + skipped if len(at) else None


def _half(shape: Shape, index: float) -> float:
    """Half the width of a line at a place of its flat points."""
    s = float(np.interp(index, np.arange(len(shape.flat[1])), shape.flat[1]))
    left, right = shape.body.at(np.array([s]))
    return float(left[0] + right[0]) / 2.0


def _half_at_end(shape: Shape, at_end: bool) -> float:
    return float(shape.body.full[-1 if at_end else 0]) / 2.0


def _cap(shape: Shape, at_end: bool) -> float:
    """mm by which a line's ink reaches beyond its middle's end."""
    return _half_at_end(shape, at_end) if shape.ends[at_end] == "round" else 0.0
