"""What would mend the ends of lines: how far one goes on to the next line, where a gap is to be closed, where a stub
reaches beyond what it meets. Gaps and stubs are measured between edges of ink."""

from dataclasses import dataclass, replace

import numpy as np

from plain_stride.job.covers import Covers
from plain_stride.job.shapes import Shapes
from plain_stride.lines.bending import MOST_GROWN_MM, Growth
from plain_stride.lines.cross import crossings, nearest
from plain_stride.lines.recipe import Worked, path_of
from plain_stride.lines.shape import Path, Shape

STEP_MM, LEAST_MM, LEAST_STUB_MM, MORE_MM = 0.05, 0.03, 0.15, 1.0
"""Apart of the places along which a line is carried on; what is no gap; what is no stub, as round ends at a corner
reach out a little (our choice: half of the least that our faults have); how much farther than a gap, and
the widths of both inks, a line may have to go to the middle of what it meets."""
Mend = tuple[str, bool, float]
"""(line, whether it is its end, mm by which it is to go on, or to lose where below nought)."""


def beyond(line: Worked, at_end: bool, mm: float) -> np.ndarray:
    """Places (n, 2) mm, at most STEP_MM apart, along which a line would go on from its end or its start."""
    whole, at = carried_on(line, at_end, mm)
    s = np.linspace(at, at + mm, max(4, int(np.ceil(mm / STEP_MM)) + 1))
    return whole.arc.point(s if at_end else whole.arc.length - s)


def carried_on(line: Worked, at_end: bool, mm: float) -> tuple[Path, float]:
    """(the untrimmed path of a line that goes on by so many mm, the arc length from its start, or from its end for its
    start, where the line ends now)."""
    recipe = line.recipe
    own = line.path if recipe.span is None else path_of(replace(recipe, span=None))
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
    path = beyond(shapes.worked(line), at_end, most)
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
class _Near:
    """A line near an end: mm from the end to its middle, and where that is among its points."""

    line: str
    away: float
    index: float


@dataclass(frozen=True)
class _Other:
    """A line that an end might meet: its middle, carried on a little where its ends are near, and where its own begins
    and ends there."""

    points: np.ndarray
    first: int
    last: int


class _Everything:
    """All lines that are seen, by their boxes."""

    def __init__(self, shapes: Shapes, gap: float) -> None:
        self._shapes, self._keys = shapes, shapes.visible()
        self._boxes = np.array([shapes[key].box for key in self._keys]).reshape(-1, 4)
        self._reach, self._covers = gap + MORE_MM, Covers(shapes.job, shapes)
        self._on: dict[tuple[str, int], np.ndarray] = {}

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
        if any(o.away - cap - _half(self._shapes[o.line], o.index) <= LEAST_MM for o in near):
            return None
        on = self._gap(line, near, at_end, cap, gap)
        return (line, at_end, on) if on is not None else None

    def _covered(self, line: str, shape: Shape, at_end: bool) -> bool:
        part = self._shapes.job.rows.lines[line].part
        return any(cover.holds(_end(shape, at_end)[None])[0] for cover in self._covers.hiding(part, shape))

    def _near(self, shape: Shape, line: str, at_end: bool, reach: float) -> list[_Near]:
        """Lines whose boxes lie within reach of an end."""
        at = _end(shape, at_end)
        (x, y), b = at, self._boxes
        hit = (b[:, 0] <= x + reach) & (b[:, 2] >= x - reach) & (b[:, 1] <= y + reach) & (b[:, 3] >= y - reach)
        keys = [self._keys[k] for k in np.flatnonzero(hit) if self._keys[k] != line]
        keys = [key for key in keys if self._shapes[key].at_least(at) <= reach]
        return [_Near(key, *nearest(_points(self._shapes[key]), at)) for key in keys]

    def _widest(self, near: list[_Near]) -> float:
        """Half the widest width of some lines."""
        return max((float(self._shapes[o.line].body.full.max()) / 2.0 for o in near), default=0.0)

    def _stub(self, shape: Shape, near: list[_Near], at_end: bool, cap: float, most: float) -> float | None:
        """mm to be taken off; 0 for an end that lies in the ink of what it meets; None where it crosses nothing."""
        # Nothing farther from the end than that is a stub, or makes it sound.
        reach = min(most + MORE_MM + self._widest(near), shape.length / 2.0)
        points, aways = _last_stretch(shape, at_end, reach)
        best: tuple[float, float] | None = None
        for other in near:
            if other.away > reach:
                continue
            i, j = crossings(points, _points(self._shapes[other.line]))
            for own, on in zip(i, j, strict=True):
                away = float(np.interp(own, np.arange(len(aways)), aways))
                over = away + cap - _half(self._shapes[other.line], float(on))
                if away < shape.length / 2.0 and (best is None or away < best[0]):
                    best = (away, over)
        if best is None or best[1] > most + 1e-9:
            return None if best is None or best[0] > most + MORE_MM else 0.0
        # An end that is wider than what it meets goes back so far that its tip comes no farther than the other's edge.
        back = max(best[0], best[1]) if cap > 0.0 else best[0]
        return back if best[1] > LEAST_STUB_MM and back > LEAST_MM else 0.0

    def _gap(self, line: str, near: list[_Near], at_end: bool, cap: float, most: float) -> float | None:
        """mm to go on to the middle of what is met across a gap; None where nothing is met, or too far away."""
        reach = min(most + cap + self._widest(near) + MORE_MM, MOST_GROWN_MM)
        at = _end(self._shapes[line], at_end)
        others = [(o.line, ends) for o in near
                  if (ends := self._ends_within(o.line, at, reach + self._reach)) != (False, False)
                  or o.away <= reach]  # fmt: skip
        if not others or self._shapes.worked(line).recipe.closed:
            # A ring that was opened has no way of its own to go on by.
            return None
        path = beyond(self._shapes.worked(line), at_end, reach)
        step = reach / (len(path) - 1)
        best: float | None = None
        for key, ends in others:
            other = self._other(key, ends)
            i, j = crossings(path, other.points)
            for own, on in zip(i, j, strict=True):
                away = float(own) * step
                half = _half(self._shapes[key], float(np.clip(on, other.first, other.last)) - other.first)
                beside = self._past_end(other, float(on))
                if away - cap - half <= most and beside <= most + half and (best is None or away < best):
                    best = away
        return best

    def _ends_within(self, line: str, at: np.ndarray, reach: float) -> tuple[bool, bool]:
        """Whether a line's start and end lie so near a place that, carried on, they might be met there."""
        shape = self._shapes[line]
        if self._shapes.worked(line).recipe.closed:
            return False, False
        start, end = (bool(np.hypot(*(_end(shape, which) - at)) <= reach) for which in (False, True))
        return start, end

    def _past_end(self, other: _Other, on: float) -> float:
        """mm by which a place lies beyond another line's own ends."""
        k = int(np.clip(round(on), other.first, other.last))
        if other.first <= on <= other.last:
            return 0.0
        low, high = sorted((k, round(on)))
        return float(np.hypot(*np.diff(other.points[low : high + 1], axis=0).T).sum())

    def _other(self, key: str, ends: tuple[bool, bool]) -> _Other:
        """A line, carried on at some of its ends."""
        own = _points(self._shapes[key])
        before, after = (self._beyond(key, end) if wanted else own[:0] for end, wanted in enumerate(ends))
        return _Other(np.vstack([before[::-1], own, after]), len(before), len(before) + len(own) - 1)

    def _beyond(self, key: str, at_end: int) -> np.ndarray:
        known = self._on.get((key, at_end))
        if known is None:
            known = self._on[key, at_end] = beyond(self._shapes.worked(key), bool(at_end), self._reach)[1:]
        return known


def _end(shape: Shape, at_end: bool) -> np.ndarray:
    """(2,) mm: a line's end, or its start."""
    return shape.flat[0][-1 if at_end else 0]


def _last_stretch(shape: Shape, at_end: bool, reach: float) -> tuple[np.ndarray, np.ndarray]:
    """(points (n, 2), mm from the end (n,)) of a line as far as so many mm from its end, or from its start."""
    points, s = shape.flat
    away = shape.length - s if at_end else s
    last = int(np.count_nonzero(away <= reach)) + 1
    return (points[-last:], away[-last:]) if at_end else (points[:last], away[:last])


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
