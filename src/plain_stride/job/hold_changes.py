"""The named change that holds two lines together where they meet, or looses them."""

from dataclasses import replace

import numpy as np

from plain_stride.form.contacts import RUN_ON_DEG
from plain_stride.job.change_context import ChangeContext, change, flag, line_list, number, place_of
from plain_stride.job.errors import JobError
from plain_stride.job.holding import Moving, drawn_end, end_of, source_at_end, way_to
from plain_stride.job.line_changes import MOST_EDITS
from plain_stride.job.line_fields import MOST_BENDS
from plain_stride.job.records import END, START, HoldRecord, LineRecord
from plain_stride.lines.bending import LEAST_REACH_MM, EndTurn, end_way
from plain_stride.lines.corner_joins import JOINS, ROUND
from plain_stride.lines.cross import nearest
from plain_stride.lines.edits import End, SetWidth
from plain_stride.lines.shape import Shape

WITHIN_MM, MOST_HOLDS, BLEND_MM, TURN_MM, SMOOTH_DEG, SAME_DEG = 3.0, 5000, 6.0, 12.0, 18.0, 0.1
"""How far ends may lie from the place and from what they are to meet; over how much lines that run on share a width,
and their direction; up to what turn they share it, as more is a blunt corner; what is the same."""


@change
def hold(
    m: ChangeContext, lines: list[str], at: list[float], off: bool = False, sink: float = 0.5,
    within: float = WITHIN_MM, corner: str = ROUND,
) -> str:  # fmt: skip
    """Holds two lines together where they meet near [x, y] mm: end to end, or the end of one on the other. From then on
    the end of one goes along where the other is changed, or slides along it. Ends lose their points there; lines that
    run on into each other share their width, and their direction where they nearly have it. sink: how deep an end goes
    into the width of what it meets, 0..1. off: looses them. within: mm. corner: how two ends make theirs, round, mitred
    or crossed. Raises JobError."""
    keys = line_list(lines)
    if len(keys) != 2:
        raise JobError("held together are two different lines")
    place, reach = place_of(at), number(within, "how far", 0.01, 50.0)
    if flag(off, "off"):
        return _loose(m, keys, place, reach)
    for key in keys:
        m.line(key)
    if len(m.job.rows.holds) >= MOST_HOLDS:
        raise JobError(f"a job keeps at most {MOST_HOLDS} held meetings: loose some")
    if corner not in JOINS:
        raise JobError(f"a corner is {', '.join(JOINS)}, not '{corner}'")
    key, new = _held(m, keys, place, reach, number(sink, "how deep", 0.0, 1.0))
    new = replace(new, corner=corner)
    for side, end in _sides(new):
        if end:
            _blunt(m, side, end)
    _close(m, new)
    if new.other_end and _turn(m, new) < RUN_ON_DEG:
        if _turn(m, new) < SMOOTH_DEG:
            _share_direction(m, new)
        _share_width(m, new)
    m.draft.put(key, new)
    return key


def _held(m: ChangeContext, keys: list[str], at: np.ndarray, reach: float, sink: float) -> tuple[str, HoldRecord]:
    """The hold of two lines near a place, under the key of the one that is there already."""
    ends = {key: _end_near(m.shapes[key], at, reach) for key in keys}
    a, b = sorted(keys, key=lambda key: ends[key] is None)
    end, other_end = ends[a], ends[b]
    if end is None:
        raise JobError(f"neither '{a}' nor '{b}' ends within {reach:g} mm of that place: what is held is an end")
    one, other = m.shapes[a], m.shapes[b]
    if other_end is not None:
        a, end, b, other_end = _stem_first(m, (a, end), (b, other_end))
        one, other = m.shapes[a], m.shapes[b]
    away, other_at = _on(other, end_of(one, end))
    if other_end is None and away > reach:
        raise JobError(f"line '{b}' lies {away:.1f} mm from the end of '{a}': held is what lies within {reach:g} mm")
    known = next((key for key, h in m.job.rows.holds.items() if (h.line, h.line_end, h.other) == (a, end, b)
                  or (h.other, h.other_end, h.line) == (a, end, b)), None)  # fmt: skip
    at_end = source_at_end(one, end)
    theirs = source_at_end(other, other_end) if other_end else other_at
    hold = HoldRecord(line=a, line_end=end, other=b, other_end=other_end or "", at=at_end, other_at=theirs, sink=sink)
    return known or m.job.new_id("m"), hold


def _stem_first(m: ChangeContext, one: tuple[str, str], other: tuple[str, str]) -> tuple[str, str, str, str | None]:
    """Two lines that both end near a place: end to end, unless the end of one lies on the other, well within it."""
    for (a, end), (b, far) in ((one, other), (other, one)):
        shape, place = m.shapes[b], end_of(m.shapes[a], end)
        away, _ = _on(shape, place)
        gap = float(np.hypot(*(end_of(shape, far) - place)))
        if away < 0.5 * gap and gap > float(shape.body.full.max()) + 0.4:
            return a, end, b, None
    return *one, *other


def _end_near(shape: Shape, at: np.ndarray, reach: float) -> str | None:
    if shape.closed:
        return None
    away, end = min((float(np.hypot(*(end_of(shape, end) - at))), end) for end in (START, END))
    return end if away <= reach else None


def _on(shape: Shape, place: np.ndarray) -> tuple[float, float]:
    """(mm to the place of a line that lies nearest, its source parameter)."""
    points, s = shape.flat
    away, index = nearest(points, place)
    return away, shape.source_t_at(float(np.interp(index, np.arange(len(s)), s)))


def _blunt(m: ChangeContext, line: str, end: str) -> None:
    """An end that meets has no point."""
    row = m.job.rows.lines[line]
    ends, k = list(row.ends), int(end == END)
    if ends[k].kind != "flat":
        ends[k] = End("round", 0.0 if row.form is not None else None)
        m.draft.change("lines", line, ends=(ends[0], ends[1]))


def _close(m: ChangeContext, new: HoldRecord) -> None:
    """Brings both together: ends half-way each, a stem onto the line it ends on."""
    by = way_to(Moving(m.shapes, {}), new)
    if new.other_end and float(np.hypot(*by)) > 1e-6:
        m.draft.put(new.other, drawn_end(Moving(m.shapes, {}), new.other, new.other_end, -by / 2.0))
        by = way_to(Moving(m.shapes, {}), new)
    if float(np.hypot(*by)) > 1e-6:
        m.draft.put(new.line, drawn_end(Moving(m.shapes, {}), new.line, new.line_end, by))


def _turn(m: ChangeContext, new: HoldRecord) -> float:
    """Degrees by which two lines turn where their ends meet."""
    one, other = (_outwards(m.shapes[line], end) for line, end in _sides(new))
    return 180.0 - float(np.degrees(np.arccos(np.clip(one @ other, -1.0, 1.0))))


def _sides(new: HoldRecord) -> tuple[tuple[str, str], tuple[str, str]]:
    return (new.line, new.line_end), (new.other, new.other_end)


def _share_direction(m: ChangeContext, new: HoldRecord) -> None:
    """Turns both ends, where they lie, into the mean of their directions."""
    one, other = (_outwards(m.shapes[line], end) for line, end in _sides(new))
    for (line, end), way in zip(_sides(new), (one - other, other - one), strict=True):
        row = m.job.rows.lines[line]
        # A ring that was opened has no end of its own, nor has what is made from another line.
        if row.family is not None or m.shapes.worked(line).recipe.closed or _runs(m.shapes[line], end, way):
            continue
        turn = _end_turn(row, m.shapes[line], end, way if end == END else -way)
        kept = tuple(bend for bend in row.bends if not (isinstance(bend, EndTurn) and bend.at == turn.at))
        if len(kept) < MOST_BENDS:
            m.draft.change("lines", line, bends=(*kept, turn))


def _outwards(shape: Shape, end: str) -> np.ndarray:
    """(2,): the direction, of length 1, in which a line leaves at an end."""
    way = end_way(shape.arc, shape.length if end == END else 0.0, end == END)
    return way if end == END else -way


def _runs(shape: Shape, end: str, outwards: np.ndarray) -> bool:
    """Whether a line leaves at an end in a direction (2,) already, to the very end."""
    last = shape.arc.direction(np.array([shape.length if end == END else 0.0]))[0] * (1.0 if end == END else -1.0)
    away = [
        np.arccos(np.clip(way @ outwards / np.hypot(*outwards), -1.0, 1.0)) for way in (last, _outwards(shape, end))
    ]
    return float(np.degrees(max(away))) < SAME_DEG


def _end_turn(row: LineRecord, shape: Shape, end: str, way: np.ndarray) -> EndTurn:
    """What lets an end run in a direction (2,) on the sheet. Kept in the line's own place."""
    scale = 1.0
    if row.matrix is not None:
        back = row.matrix.inverse()
        way, scale = back.of(way[None])[0] - back.of(np.zeros((1, 2)))[0], row.matrix.scale
    reach = max(min(TURN_MM, shape.length / 2.0) / scale, LEAST_REACH_MM)
    return EndTurn(source_at_end(shape, end), end == END, (float(way[0]), float(way[1])), reach)


def _share_width(m: ChangeContext, new: HoldRecord) -> None:
    """Gives both lines the mean of their widths where they run on into each other."""
    sides = _sides(new)
    full = [float(m.shapes[line].body.full[-1 if end == END else 0]) for line, end in sides]
    shared = float(np.sqrt(max(full[0], 0.01) * max(full[1], 0.01)))
    for line, end in sides:
        row, shape = m.job.rows.lines[line], m.shapes[line]
        if len(row.edits) < MOST_EDITS:
            edit = SetWidth(source_at_end(shape, end), shared, min(BLEND_MM, shape.length / 2.0))
            m.draft.change("lines", line, edits=(*row.edits, edit))


def _loose(m: ChangeContext, keys: list[str], at: np.ndarray, reach: float) -> str:
    found = [(away, key) for key, hold in m.job.rows.holds.items() if {hold.line, hold.other} == set(keys)
             and (away := float(np.hypot(*(place_of_hold(m, hold) - at)))) <= reach]  # fmt: skip
    if not found:
        raise JobError(f"'{keys[0]}' and '{keys[1]}' are not held together there")
    key = min(found)[1]
    m.draft.remove("holds", key)
    return key


def place_of_hold(m: ChangeContext, hold: HoldRecord) -> np.ndarray:
    """(2,) mm: where two lines are held together."""
    return end_of(m.shapes[hold.line], hold.line_end)
