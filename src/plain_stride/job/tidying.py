"""What would mend the ends of lines: how far one goes on to the next line, where a gap is to be closed, where a stub
reaches beyond what it meets. Gaps and stubs are measured between edges of ink."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from plain_stride.job.covers import Covers
from plain_stride.job.end_partners import EndPartners
from plain_stride.job.shapes import Shapes
from plain_stride.lines.bending import MOST_GROWN_MM, Growth, on_from
from plain_stride.lines.cross import crossings, nearest
from plain_stride.lines.curve import Arc
from plain_stride.lines.recipe import Recipe, Worked, path_of
from plain_stride.lines.shape import Path, Shape

STEP_MM, LEAST_MM, LEAST_STUB_MM, MORE_MM, OBLIQUE, IN_INK = 0.05, 0.03, 0.25, 1.0, 4.0, 0.85
GRAZING, SLANTING, DRAWN_MM, ASIDE = 4.0, 2.5, 0.6, 1.3
"""Apart of the places along which a line is carried on; what is no gap; what is no stub, as round ends at a corner
reach out a little (our choice: less than the least that our faults have); how much farther than a gap is looked; how
many times as far a line that comes aslant may have to go; how deep in a width an end counts as within it; how many
times as long as the way straight across a way back may be, and a way on, which is new ink; how far an end that passes
close by is drawn over, and how many times as far it may have gone for it."""
Mend = tuple[str, bool, float, tuple[float, float]]
"""(line, whether it is its end, mm by which it is to go on, or to lose where below nought, mm by which its end is drawn
over then)."""

LastStretch = tuple[np.ndarray, np.ndarray]
"""(points (n, 2), mm from the end (n,))."""


def beyond(line: Worked, at_end: bool, mm: float) -> np.ndarray:
    """Places (n, 2) mm, at most STEP_MM apart, along which a line would go on from its end or its start."""
    places = np.linspace(0.0, mm, max(4, int(np.ceil(mm / STEP_MM)) + 1))
    if _is_plain(line.recipe, at_end):
        return on_from(line.path.arc if at_end else Arc(line.path.curve[::-1, ::-1]), places)
    whole, at = longer_path(line, at_end, mm)
    s = at + places
    return whole.arc.point(s if at_end else whole.arc.length - s)


def _is_plain(recipe: Recipe, at_end: bool) -> bool:
    """Whether a line goes on from where it ends, as nothing was cut off it, added to it or mapped."""
    growth = recipe.growth or Growth()
    return recipe.span is None and recipe.matrix is None and (growth.end if at_end else growth.start) == 0.0


def longer_path(line: Worked, at_end: bool, mm: float) -> tuple[Path, float]:
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
    found = [_first(path, shapes[other].flat_ring) for other in shapes.visible() if other != line]
    found += [_first(path[4:], shapes[line].flat_ring, 4)]
    away = [at for at in found if at is not None]
    return min(away) * most / (len(path) - 1) if away else None


def mends_of(shapes: Shapes, lines: list[str], gap: float, overshoot: float) -> list[Mend]:
    """What closes gaps and takes stubs off at the ends of these lines, of at most so many mm; ends that a cover hides
    are left as they are."""
    everything = _Everything(shapes, lines, gap)
    found = [mend for line in lines for at_end in (False, True)
             if (mend := everything.mend(line, at_end, gap, overshoot)) is not None]  # fmt: skip
    return found


@dataclass(frozen=True)
class _Stub:
    """back: mm to take off, as far as into the ink of what is met; over: mm that ink reaches beyond it, between edges;
    apt: how much speaks for what is met."""

    back: float
    over: float
    apt: int


SOUND = _Stub(0.0, 0.0, 0)


@dataclass(frozen=True)
class _On:
    """mm to go on; by: mm by which the end is drawn over then, dx and dy; apt: how much speaks for what is met; less:
    mm that an end wider than what it meets stays short of its middle."""

    mm: float
    by: tuple[float, float]
    apt: int
    less: float = 0.0


@dataclass(frozen=True)
class _Near:
    """A line near an end: mm from the end to its middle, and where that is among its points; apt: how much speaks for
    it."""

    line: str
    away: float
    index: float
    apt: int


@dataclass(frozen=True)
class _Other:
    """A line that an end might meet: its middle, carried on a little where its ends are near, and where its own begins
    and ends there."""

    points: np.ndarray
    first: int
    last: int


class _Everything:
    """All lines that are seen, by their boxes."""

    def __init__(self, shapes: Shapes, lines: list[str], gap: float) -> None:
        self._shapes, self._keys = shapes, shapes.visible()
        # Asked for once: nothing changes while it is looked.
        self._shape = {key: shapes[key] for key in {*self._keys, *lines}}
        self._boxes = np.array([self._shape[key].box for key in self._keys]).reshape(-1, 4)
        self._reach, self._covers, self._partners = gap + MORE_MM, Covers(shapes.job, shapes), EndPartners(shapes.job)
        self._halves: dict[str, float] = {}
        self._met: dict[tuple[str, bool], set[str]] = {}
        self._on: dict[tuple[str, int], np.ndarray] = {}

    def mend(self, line: str, at_end: bool, gap: float, overshoot: float) -> Mend | None:
        """What mends an end; None where it is sound, or nothing is near."""
        shape = self._shape[line]
        if self._covered(line, shape, at_end):
            return None
        half, cap = _half_at_end(shape, at_end), _cap(shape, at_end)
        near = self._near(shape, line, at_end, max(gap, overshoot) + MORE_MM + half)
        stub = self._stub(shape, near, at_end, cap, overshoot)
        if stub is not None and stub.back == 0.0:
            return None
        # An end beyond one line and short of the next goes to what it is likelier meant for, or by the shorter way.
        on = None if self._met_by(near, cap) else self._gap(line, near, at_end, cap, gap)
        if stub is not None and (on is None or (-stub.apt, stub.back) < (-on.apt, on.mm)):
            return line, at_end, -stub.back, (0.0, 0.0)
        return (line, at_end, on.mm, on.by) if on is not None else None

    def _covered(self, line: str, shape: Shape, at_end: bool) -> bool:
        part = self._shapes.job.rows.lines[line].part
        return any(cover.holds(_end(shape, at_end)[None])[0] for cover in self._covers.hiding(part, shape))

    def _near(self, shape: Shape, line: str, at_end: bool, reach: float) -> list[_Near]:
        """Lines whose ink might lie within reach of an end."""
        at = _end(shape, at_end)
        (x, y), b = at, self._boxes
        hit = (b[:, 0] <= x + reach) & (b[:, 2] >= x - reach) & (b[:, 1] <= y + reach) & (b[:, 3] >= y - reach)
        keys = [self._keys[k] for k in np.flatnonzero(hit) if self._keys[k] != line]
        keys = [key for key in keys if self._partners.possible(line, key)]
        keys = [key for key in keys if self._shape[key].at_least(at) <= reach + self._half_widest(key)]
        apt = self._partners.aptness
        return [_Near(key, *nearest(self._shape[key].flat_ring, at), apt(line, key)) for key in keys]

    def _widest(self, near: list[_Near]) -> float:
        """Half the widest width of some lines."""
        return max((self._half_widest(o.line) for o in near), default=0.0)

    def _half_widest(self, line: str) -> float:
        if line not in self._halves:
            self._halves[line] = float(self._shape[line].body.full.max()) / 2.0
        return self._halves[line]

    def _stub(self, shape: Shape, near: list[_Near], at_end: bool, cap: float, most: float) -> _Stub | None:
        """What is to be taken off; nothing for an end that lies in the ink of what it meets; None where it meets
        nothing behind it."""
        if any(o.away <= _half(self._shape[o.line], o.index) for o in near):
            return SOUND
        # Nothing farther from the end than that is a stub.
        reach = min(OBLIQUE * (most + self._widest(near)) + MORE_MM, shape.length / 2.0)
        last = _last_stretch(shape, at_end, reach)
        # Its middle lies no nearer along the line than straight across: what is too far there is no stub.
        close = [other for other in near if other.away + cap - self._half_widest(other.line) <= most + 1e-9]
        stubs = [stub for other in close for stub in self._stubs_at(other, last, cap, most)
                 if stub.back < shape.length / 2.0]  # fmt: skip
        best = min(stubs, key=lambda stub: (-stub.apt, stub.back), default=None)
        if best is None or best.over > most + 1e-9:
            return None
        return best if best.over > LEAST_STUB_MM and best.back > LEAST_MM else SOUND

    def _stubs_at(self, other: _Near, last: LastStretch, cap: float, most: float) -> Iterator[_Stub]:
        """What would be taken off a line's last stretch wherever it meets another."""
        for away, half in self._behind(*last, other):
            # Between edges of ink: a line that crosses aslant has more of itself beyond than that.
            grazing = away > GRAZING * max(other.away, half + cap) and away > most
            if not grazing:
                yield _Stub(away + _spared(cap, half), other.away + cap - half, other.apt)

    def _behind(self, points: np.ndarray, aways: np.ndarray, other: _Near) -> list[tuple[float, float]]:
        """(mm from the end, half the width that is met) where a line's last stretch crosses another line, or runs
        through its ink past its end."""
        import shapely

        shape = self._shape[other.line]
        middle = shape.flat_ring
        i, j = crossings(points, middle)
        if len(i):
            away = np.interp(i, np.arange(len(aways)), aways)
            return [(float(a), _half(shape, float(on))) for a, on in zip(away, j, strict=True)]
        run = shapely.LineString(middle)
        if shapely.distance(run, shapely.LineString(points)) > self._half_widest(other.line) + LEAST_MM:
            return []
        order = np.argsort(aways)
        at = np.arange(0.0, float(aways.max()), STEP_MM)
        fine = np.column_stack([np.interp(at, aways[order], points[order, k]) for k in (0, 1)])
        far = shapely.distance(run, shapely.points(fine))
        k = int(far.argmin())
        _, index = nearest(middle, fine[k])
        half = _half(shape, index)
        return [(float(at[k]), half)] if k > 0 and far[k] <= half + LEAST_MM else []

    def _gap(self, line: str, near: list[_Near], at_end: bool, cap: float, most: float) -> _On | None:
        """How to go on to what is met across a gap; None where nothing is met, or too far away."""
        reach = min(SLANTING * (most + self._widest(near)) + cap + MORE_MM, MOST_GROWN_MM)
        at = _end(self._shape[line], at_end)
        others = [(o, ends) for o in near
                  if (ends := self._ends_within(o.line, at, reach + self._reach)) != (False, False)
                  or o.away <= reach]  # fmt: skip
        if not others or self._shapes.worked(line).recipe.closed:
            # A ring that was opened has no way of its own to go on by.
            return None
        path = beyond(self._shapes.worked(line), at_end, reach)
        ways = [way for o, _ in others if (way := self._into_ink(path, o, cap, most)) is not None]
        inside = [way for way in ways if way.by == (0.0, 0.0)]
        # Looked for only where nothing lies in the way.
        corners = [] if inside else [way for o, ends in others if self._is_free(o, line, ends)
                                     for way in self._onto_way(path, o, ends, cap, most)]  # fmt: skip
        found = inside or corners or ways
        if not found:
            return None
        best = min(found, key=lambda way: (-way.apt, way.mm))
        return replace(best, mm=best.mm - best.less)

    def _into_ink(self, path: np.ndarray, other: _Near, cap: float, most: float) -> _On | None:
        """How to go along a way until it lies in the ink of another line as deep as it comes, and by how much its end
        is drawn over where it passes close by; None where it passes farther off, or where the gap is too wide."""
        import shapely

        shape = self._shape[other.line]
        gap = other.away - cap - _half(shape, other.index)
        if gap > most + 1e-9:
            return None
        points, step = shape.flat_ring, _step(path)
        crossed, on = crossings(path, points)
        if len(crossed) and (mm := float(crossed.min()) * step) <= SLANTING * (other.away + cap) + MORE_MM:
            return _On(mm, (0.0, 0.0), other.apt, _spared(cap, _half(shape, float(on[crossed.argmin()]))))
        far = shapely.distance(shapely.LineString(points), shapely.points(path))
        k = int(far.argmin())
        _, index = nearest(points, path[k])
        half = _half(shape, index)
        # A way that comes no nearer than where it begins does not lead there.
        if k == 0 or far[k] > half + min(most, DRAWN_MM) or k * step > SLANTING * (other.away + cap) + MORE_MM:
            return None
        if far[k] <= IN_INK * half:
            return _On(k * step, (0.0, 0.0), other.apt)
        if k * step > ASIDE * (other.away + cap):
            return None
        low = int(np.clip(index, 0, len(points) - 2))
        foot = points[low] + (points[low + 1] - points[low]) * (index - low)
        dx, dy = (foot - path[k]).tolist()
        return _On(k * step, (dx, dy), other.apt)

    def _is_free(self, near: _Near, line: str, ends: tuple[bool, bool]) -> bool:
        """Whether an end of another line, near a line's, meets nothing else: both are short of their corner."""
        return any(ends[at_end] and not self._met_at(near.line, at_end) - {line} for at_end in (False, True))

    def _met_at(self, line: str, at_end: bool) -> set[str]:
        """Lines in whose ink an end lies. Found once."""
        if (line, at_end) not in self._met:
            shape = self._shape[line]
            cap = _cap(shape, at_end)
            self._met[line, at_end] = self._met_by(self._near(shape, line, at_end, cap + LEAST_MM), cap)
        return self._met[line, at_end]

    def _met_by(self, near: list[_Near], cap: float) -> set[str]:
        """Lines whose ink meets that of an end."""
        return {o.line for o in near if o.away - cap - _half(self._shape[o.line], o.index) <= LEAST_MM}

    def _onto_way(
        self, path: np.ndarray, near: _Near, ends: tuple[bool, bool], cap: float, most: float
    ) -> list[_On]:  # fmt: skip
        """How to go along a way until it meets the way on which another line would go on past its ends."""
        other, out = self._other(near.line, ends), list[_On]()
        i, j = crossings(path, other.points)
        step = _step(path)
        for own, on in zip(i, j, strict=True):
            half = _half(self._shape[near.line], float(np.clip(on, other.first, other.last)) - other.first)
            if float(own) * step - cap - half <= most and self._past_end(other, float(on)) <= most + half:
                out.append(_On(float(own) * step, (0.0, 0.0), near.apt))
        return out

    def _ends_within(self, line: str, at: np.ndarray, reach: float) -> tuple[bool, bool]:
        """Whether a line's start and end lie so near a place that, carried on, they might be met there."""
        shape = self._shape[line]
        start, end = (bool(np.hypot(*(_end(shape, which) - at)) <= reach) for which in (False, True))
        if not (start or end) or self._shapes.worked(line).recipe.closed:
            return False, False
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
        own = self._shape[key].flat_ring
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


def _last_stretch(shape: Shape, at_end: bool, reach: float) -> LastStretch:
    """A line's last stretch, or its first, of so many mm."""
    points, s = shape.flat
    away = shape.length - s if at_end else s
    last = int(np.count_nonzero(away <= reach)) + 1
    return (points[-last:], away[-last:]) if at_end else (points[:last], away[:last])


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


def _step(path: np.ndarray) -> float:
    """mm between the places along which a line is carried on."""
    return float(np.hypot(*(path[1] - path[0])))


def _spared(cap: float, half: float) -> float:
    """mm by which an end that is wider than what it meets stays back: with less of it beyond, and still in its ink."""
    return float(np.clip(cap - half, 0.0, IN_INK * half))
