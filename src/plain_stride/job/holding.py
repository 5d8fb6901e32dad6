"""Meetings that are held together: when lines have changed, the ends that meet them go along in the same step.

An end follows by a bend that takes hold of it, so that the rest of its line stays. What follows what: a line that was
changed is followed by one that was not; else a stem follows the line it ends on, and slides along it where the stem
alone was changed. It is gone on until every hold is closed: in rings and chains of tees an end may be drawn more than
once, and each line is put once.
"""

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from plain_stride.job.errors import JobError
from plain_stride.job.line_fields import MOST_BENDS
from plain_stride.job.records import END, START, HoldRecord, LineRecord, PartRecord
from plain_stride.job.shapes import Shapes
from plain_stride.lines.bending import LEAST_REACH_MM, MOST_REACH_MM, Bend
from plain_stride.lines.cross import nearest
from plain_stride.lines.shape import Shape

CLOSED_MM, ROUNDS = 2e-4, 200
"""Ends lie on each other within this; so often is it gone round until all do."""
REACH_SHARE, NO_BEND_MM, NEAR_AGAIN_MM = 0.6, 1e-9, 0.5
"""Over so much of its line an end that follows gives; how near a line that was made anew must lie to be held still."""


class Moving:
    """Lines as they would be: those that have changed, and those that follow. drawn: how often each end was."""

    def __init__(self, shapes: Shapes, rows: Mapping[str, LineRecord]) -> None:
        self._shapes, self.rows = shapes, dict(rows)
        self.drawn: Counter[tuple[str, str]] = Counter()
        self._made: dict[str, tuple[LineRecord, Shape]] = {}

    def row(self, line: str) -> LineRecord:
        """The row of a line as it would be."""
        return self.rows.get(line) or self._shapes.job.rows.lines[line]

    def part(self, row: LineRecord) -> PartRecord:
        """The part of a line."""
        return self._shapes.job.rows.parts[row.part]

    def shape(self, line: str) -> Shape:
        """The shape of a line as it would be."""
        row = self.rows.get(line)
        if row is None:
            return self._shapes[line]
        made = self._made.get(line)
        if made is None or made[0] is not row:
            made = self._made[line] = (row, self._shapes.tried(line, row))
        return made[1]


@dataclass(frozen=True)
class Followed:
    """rows: lines that follow, and those that were tried; holds: those whose place along a line is another now."""

    rows: Mapping[str, LineRecord]
    holds: Mapping[str, HoldRecord]


def end_of(shape: Shape, end: str) -> np.ndarray:
    """(2,) mm: where a line begins or ends."""
    return shape.curve[-1, 3] if end == END else shape.curve[0, 0]


def source_at_end(shape: Shape, end: str) -> float:
    """The source parameter of a line's end."""
    return float(shape.source_t[-1 if end == END else 0])


def follow(
    shapes: Shapes, holds: Mapping[str, HoldRecord], changed: Iterable[str], rows: Mapping[str, LineRecord]
) -> Followed:
    """What goes along when lines have changed, by holds. rows: those of the changed lines that are only tried. Raises
    JobError where a partner is locked or made from another line."""
    moving, rank = Moving(shapes, rows), dict.fromkeys(changed, 0)
    now = dict(holds)
    by_line: dict[str, list[str]] = {}
    for key, hold in holds.items():
        for line in (hold.line, hold.other):
            by_line.setdefault(line, []).append(key)
    todo = dict.fromkeys(key for line in rank for key in by_line.get(line, ()))
    for _ in range(ROUNDS * max(1, len(todo))):
        if not todo:
            return Followed(moving.rows, {key: hold for key, hold in now.items() if hold != holds[key]})
        key = next(iter(todo))
        del todo[key]
        now[key], follower = _closed(moving, rank, now[key])
        if follower is not None:
            todo |= dict.fromkeys(by_line[follower])
    raise JobError("the meetings that are held there cannot all be kept: loose one of them")


def _closed(moving: Moving, rank: dict[str, int], hold: HoldRecord) -> tuple[HoldRecord, str | None]:
    """A hold that is closed, and the line that followed for it, None where it was closed."""
    first, second = rank.get(hold.line), rank.get(hold.other)
    leader: int | None
    if hold.other_end and _other_follows(moving, hold, first, second):
        follower, end, leader = hold.other, hold.other_end, first
        by = end_of(moving.shape(hold.line), hold.line_end) - end_of(moving.shape(follower), end)
    else:
        follower, end, leader = hold.line, hold.line_end, second
        by = way_to(moving, hold)
    if float(np.hypot(*by)) <= CLOSED_MM:
        return hold, None
    if second is None and not hold.other_end:
        hold = _slid(moving, hold)
        by = way_to(moving, hold)
    moving.rows[follower] = drawn_end(moving, follower, end, by)
    moving.drawn[follower, end] += 1
    rank[follower] = min(rank.get(follower, 1_000_000), (leader if leader is not None else 0) + 1)
    return hold, follower


def _other_follows(moving: Moving, hold: HoldRecord, first: int | None, second: int | None) -> bool:
    """Which of two ends follows: the one that was drawn less often, as the other is held elsewhere as well; else that
    of the line that was not changed, or changed only to follow."""
    one, other = moving.drawn[hold.line, hold.line_end], moving.drawn[hold.other, hold.other_end]
    if one != other:
        return other < one
    return second is None or (first is not None and first < second)


def _slid(moving: Moving, hold: HoldRecord) -> HoldRecord:
    """A tee whose stem was moved: where on the other line it comes to lie."""
    shape = moving.shape(hold.other)
    points, s = shape.flat
    _, index = nearest(points, end_of(moving.shape(hold.line), hold.line_end))
    return replace(hold, other_at=shape.source_t_at(float(np.interp(index, np.arange(len(s)), s))))


def way_to(moving: Moving, hold: HoldRecord) -> np.ndarray:
    """(2,) mm: from the end of a hold's line to what it meets."""
    shape = moving.shape(hold.other)
    to = end_of(shape, hold.other_end) if hold.other_end else _on_bar(moving, hold)
    out: np.ndarray = to - end_of(moving.shape(hold.line), hold.line_end)
    return out


def _on_bar(moving: Moving, hold: HoldRecord) -> np.ndarray:
    """(2,) mm: where a stem ends on the other line, as deep in its width as it is to sink."""
    shape, stem = moving.shape(hold.other), moving.shape(hold.line)
    s = np.array([np.interp(hold.other_at, shape.source_t, shape.s)])
    at: np.ndarray = shape.arc.point(s)[0]
    if hold.sink == 0.5:
        return at
    tangent = shape.arc.direction(s)[0]
    normal, (left, right) = np.array([tangent[1], -tangent[0]]), shape.body.at(s)
    # The side it comes from is told by what lies farther back on the stem: its end is on the middle already.
    back = stem.arc.point(np.array([stem.length * (0.8 if hold.line_end == END else 0.2)]))[0]
    side = 1.0 if float((back - at) @ normal) >= 0.0 else -1.0
    half = float((left if side > 0.0 else right)[0])
    out: np.ndarray = at + normal * side * half * (1.0 - 2.0 * hold.sink)
    return out


def drawn_end(moving: Moving, line: str, end: str, by: np.ndarray, over: float | None = None) -> LineRecord:
    """The row of a line whose end is drawn by (2,) mm, giving over so many mm, or a share of it. Raises JobError where
    it cannot follow."""
    row, shape = moving.row(line), moving.shape(line)
    part = moving.part(row)
    if part.locked:
        raise JobError(f"line '{line}' is held to what was changed, and its part '{part.name}' is locked: unlock it, "
                       "or loose the meeting")  # fmt: skip
    if row.family is not None:
        raise JobError(f"line '{line}' is held to what was changed, and is made from another one: release it, or loose "
                       "the meeting")  # fmt: skip
    scale, drawn = 1.0, by
    if row.matrix is not None:
        back = row.matrix.inverse()
        scale, drawn = row.matrix.scale, back.of(by) - back.of(np.zeros(2))
    at = source_at_end(shape, end)
    for k, bend in enumerate(row.bends):
        if isinstance(bend, Bend) and bend.at == at:
            both = (bend.by[0] + float(drawn[0]), bend.by[1] + float(drawn[1]))
            kept = (replace(bend, by=both),) if max(map(abs, both)) > NO_BEND_MM else ()
            return replace(row, bends=(*row.bends[:k], *kept, *row.bends[k + 1 :]))
    if len(row.bends) >= MOST_BENDS:
        raise JobError(f"line '{line}' is held, and keeps at most {MOST_BENDS} bends: pull it anew, or loose it")
    reach = float(np.clip((over or REACH_SHARE * shape.length) / scale, LEAST_REACH_MM, MOST_REACH_MM))
    new = Bend(at, (float(drawn[0]), float(drawn[1])), reach)
    return replace(row, bends=(*row.bends, new))


Before = Mapping[str, LineRecord]


def found_again(
    shapes: Shapes, holds: Mapping[str, HoldRecord], changed: Iterable[str], before: Before
) -> dict[str, HoldRecord | None]:
    """Holds of changed lines that are others now, as lines were cut, joined or turned round: None where what was held
    is gone. before: rows of lines before the change."""
    lines, touched = shapes.job.rows.lines, set(changed)
    out: dict[str, HoldRecord | None] = {}
    for key, hold in holds.items():
        if hold.line not in touched and hold.other not in touched:
            continue
        new: HoldRecord | None = hold
        for side in ("line", "other"):
            new = _side_again(shapes, new, side, touched, before) if new is not None else None
        if new is not None and (new.line == new.other or new.line not in lines or new.other not in lines):
            new = None
        if new != hold:
            out[key] = new
    return out


def _side_again(
    shapes: Shapes, hold: HoldRecord, side: str, touched: set[str], before: Before
) -> HoldRecord | None:  # fmt: skip
    line = getattr(hold, side)
    lines = shapes.job.rows.lines
    if line not in lines:
        return _in_another(shapes, hold, side, touched, before)
    if line not in touched or line not in before:
        # Its own row is the same: it only looks otherwise, as what it is made from has changed.
        return hold
    end, at = (hold.line_end, hold.at) if side == "line" else (hold.other_end, hold.other_at)
    then, row = before[line], lines[line]
    if end and shapes[line].closed:
        return None

    if (then.pull, then.form) == (row.pull, row.form):
        if then.span == row.span:
            return _told(hold, side, line, end, source_at_end(shapes[line], end) if end else at)
        twins = [key for key in (line, *touched) if key in lines and _same_source(lines[key], row)]
        for key in dict.fromkeys(twins):
            if _still(shapes[key], end, at):
                return _told(hold, side, key, end, source_at_end(shapes[key], end) if end else at)
        # Its end was carried on, or drawn back a little: it is the same end still.
        shape = shapes[line]
        grown = end and (at - source_at_end(shape, end)) * (1.0 if end == END else -1.0) <= 0.0
        return _told(hold, side, line, end, source_at_end(shape, end)) if grown else None
    if row.pull is not None and then.pull is not None:
        times = [float(shapes.job.pull(key).samples[-1, 3]) for key in (then.pull, row.pull)]
        scaled = at * times[1] / times[0] if times[0] > 0.0 else at
        return _told(hold, side, line, end, source_at_end(shapes[line], end) if end else scaled)
    return _by_place(shapes, hold, line, side)


def _told(hold: HoldRecord, side: str, key: str, end: str, at: float) -> HoldRecord:
    """A hold of another line, end or place."""
    if side == "line":
        return replace(hold, line=key, line_end=end, at=at)
    return replace(hold, other=key, other_end=end, other_at=at)


def _in_another(shapes: Shapes, hold: HoldRecord, side: str, touched: set[str], before: Before) -> HoldRecord | None:
    """A hold of a line that is gone: of one that was made of it in the same step, where one lies there."""
    lines = shapes.job.rows.lines
    for key in touched:
        if key in lines and key in before and before[key].form != lines[key].form:
            found = _by_place(shapes, hold, key, side)
            if found is not None:
                return found
    return None


def _same_source(a: LineRecord, b: LineRecord) -> bool:
    return (a.pull, a.form, a.family, a.member) == (b.pull, b.form, b.family, b.member)


def _still(shape: Shape, end: str, at: float) -> bool:
    """Whether a place of a line is there still: its end, or a place along it."""
    low, high = float(shape.source_t[0]), float(shape.source_t[-1])
    slack = 1e-6 * max(high - low, 1e-9)
    return abs(source_at_end(shape, end) - at) <= slack if end else low - slack <= at <= high + slack


def _by_place(shapes: Shapes, hold: HoldRecord, line: str, side: str) -> HoldRecord | None:
    """A hold of a line that is made anew: by where its partner lies."""
    other, partner = (hold.other, hold.other_end) if side == "line" else (hold.line, hold.line_end)
    if other not in shapes.job.rows.lines:
        return None
    theirs = shapes[other]
    if partner:
        place = end_of(theirs, partner)
    else:
        place = theirs.arc.point(np.array([np.interp(hold.other_at, theirs.source_t, theirs.s)]))[0]
    shape = shapes[line]
    if side == "line" or hold.other_end:
        away, end = min((float(np.hypot(*(end_of(shape, e) - place))), e) for e in (START, END))
        return _told(hold, side, line, end, source_at_end(shape, end)) if away <= NEAR_AGAIN_MM else None
    points, s = shape.flat
    away, index = nearest(points, place)
    at = shape.source_t_at(float(np.interp(index, np.arange(len(s)), s)))
    return _told(hold, side, line, "", at) if away <= NEAR_AGAIN_MM else None
