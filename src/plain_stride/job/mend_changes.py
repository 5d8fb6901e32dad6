"""Named changes that mend lines: bent, carried on, tapered, set to a width, scaled; gaps closed and stubs trimmed."""

from dataclasses import replace
from typing import Any

import numpy as np

from plain_stride.job.change_context import ChangeContext, change, line_list, number, place_of
from plain_stride.job.errors import JobError
from plain_stride.job.holding import Moving, drawn_end
from plain_stride.job.line_changes import AT_MM, MOST_EDITS
from plain_stride.job.line_fields import MOST_BENDS, MOST_PROFILE, MOST_PUSHES
from plain_stride.job.part_order import with_inner
from plain_stride.job.records import LineRecord
from plain_stride.job.shapes import Shapes
from plain_stride.job.tidying import longer_path, mends_of, next_beyond, with_more
from plain_stride.lines.affine import Affine, AffineError
from plain_stride.lines.bending import LEAST_REACH_MM, MOST_GROWN_MM, MOST_REACH_MM, Bend, Give, Push
from plain_stride.lines.cross import crossings, nearest
from plain_stride.lines.edits import SIDES, End, Profile, SetWidth, Span, WidthEdit
from plain_stride.lines.recipe import path_of
from plain_stride.lines.shape import Shape

SET_REACH_MM, LEAST_WIDTH_MM, MOST_WIDTH_MM, PROFILE_MM = 4.0, 0.01, 50.0, 0.5
SAME_SHARE, NO_BEND_MM = 0.05, 1e-3
"""Bends that took hold within so much of their reach are one; a bend by less is none."""
ENDS, TIDY_ROUNDS, LEAST_MEND_MM, DRAWN_OVER_MM = ("start", "end"), 4, 1e-6, 6.0


def on_line(shape: Shape, place: np.ndarray, line: str) -> float:
    """Arc length of the place on a line that is nearest. Raises JobError where the line is farther than AT_MM."""
    points, s = shape.flat
    away, index = nearest(points, place)
    if away > AT_MM:
        raise JobError(f"that place lies {away:.1f} mm from line '{line}': point at the line")
    return float(np.interp(index, np.arange(len(s)), s))


@change
def bend(
    m: ChangeContext, line: str, at: list[float], by: list[float], reach: float, others: list[str] | None = None
) -> None:
    """Bends a line: its place nearest to [x, y] mm is drawn by [dx, dy] mm, and it gives softly over `reach` mm to both
    sides; its ends stay, but one that was taken hold of. others: lines that give along with it, wherever they lie
    within the reach; then all give alike, ends as well, and meet still. Raises JobError."""
    row, shape = m.line(line), m.shapes[line]
    if others:
        start = shape.arc.point(np.array([on_line(shape, place_of(at), line)]))[0]
        path = [start.tolist(), (start + place_of(by)).tolist()]
        push(m, [line, *(key for key in line_list(others) if key != line)], path, reach)
        return
    m.draft.put(line, bent(line, row, shape, place_of(at), place_of(by), reach))
    _ = m.shapes[line]


@change
def push(m: ChangeContext, lines: list[str], path: list[list[float]], reach: float) -> None:
    """Pushes lines: what lies within `reach` mm of a place goes along with it, the less the farther away, as the place
    goes from one [x, y] mm of a path to the next. Raises JobError."""
    places, touched = np.array(push_of(path, reach).path), 0
    for key in line_list(lines):
        new = pushed(key, m.line(key), m.shapes[key], places, reach)
        if new is not None:
            touched += 1
            m.draft.put(key, new)
            _ = m.shapes[key]
    if not touched:
        raise JobError("none of those lines lies within reach of what was pushed")


def push_of(path: Any, reach: Any) -> Push:
    """A push on the sheet by its path [[x, y], ..] and its reach in mm. Raises JobError."""
    if not isinstance(path, list) or not 2 <= len(path) <= MOST_PUSHES:
        raise JobError(f"a path is 2 to {MOST_PUSHES} [x, y] in mm")
    far = number(reach, "a reach", LEAST_REACH_MM, MOST_REACH_MM)
    places = (place_of(place).tolist() for place in path)
    return Push(tuple((x, y) for x, y in places), far)


def pushed(line: str, row: LineRecord, shape: Shape, path: np.ndarray, reach: Any) -> LineRecord | None:
    """The row of a line, of which `shape` is the shape, with a push along a path (n, 2) mm on the sheet; None where it
    lies beyond its reach. Raises JobError."""
    far = number(reach, "a reach", LEAST_REACH_MM, MOST_REACH_MM)
    low, high = path.min(axis=0) - far, path.max(axis=0) + far
    x0, y0, x1, y1 = shape.box
    if x1 < low[0] or x0 > high[0] or y1 < low[1] or y0 > high[1]:
        return None
    _check_bendable(line, row)
    if row.matrix is not None:
        path, far = row.matrix.inverse().of(path), far / row.matrix.scale
    return replace(row, bends=(*row.bends, Push(tuple((float(x), float(y)) for x, y in path), far)))


def _check_bendable(line: str, row: LineRecord) -> None:
    if row.family is not None:
        raise JobError(f"line '{line}' is made from another one: release it to bend it")
    if len(row.bends) >= MOST_BENDS:
        raise JobError(f"a line keeps at most {MOST_BENDS} bends: take them off, or pull it anew")


def bent(line: str, row: LineRecord, shape: Shape, at: np.ndarray, by: np.ndarray, reach: Any) -> LineRecord:
    """The row of a line, of which `shape` is the shape, with a bend; (2,) mm on the sheet. Raises JobError."""
    _check_bendable(line, row)
    drawn, far = by, number(reach, "a reach", LEAST_REACH_MM, MOST_REACH_MM)
    source_t = shape.source_t_at(on_line(shape, at, line))
    if row.matrix is not None:
        # Kept in the line's own place, so that it goes along wherever the line is moved.
        back = row.matrix.inverse()
        drawn, far = back.of(drawn) - back.of(np.zeros(2)), far / row.matrix.scale
    new = Bend(source_t, (float(drawn[0]), float(drawn[1])), far)
    return replace(row, bends=_with_bend(shape, row.bends, new))


def _with_bend(shape: Shape, bends: tuple[Give, ...], new: Bend) -> tuple[Give, ...]:
    """A line's bends with one more. Where the last one took hold of the same place they are one, so that drawn out and
    back the line is what it was."""
    last = bends[-1] if bends else None
    if isinstance(last, Bend):
        apart = abs(float(np.diff(np.interp([last.at, new.at], shape.source_t, shape.s))[0]))
        apart = min(apart, shape.length - apart) if shape.closed else apart
        if abs(last.reach - new.reach) < SAME_SHARE * new.reach and apart < SAME_SHARE * new.reach:
            by = (last.by[0] + new.by[0], last.by[1] + new.by[1])
            return (*bends[:-1], replace(last, by=by)) if max(map(abs, by)) > NO_BEND_MM else bends[:-1]
    return (*bends, new)


@change
def as_pulled(m: ChangeContext, lines: list[str]) -> None:
    """Takes bends, growth, and shapes that lines were made off them: they lie as they were pulled, or as they came."""
    for key in line_list(lines):
        m.line(key)
        m.draft.change("lines", key, bends=(), growth=None, fixed=None)
        _ = m.shapes[key]


@change
def extend(m: ChangeContext, line: str, end: str, to: Any = "next") -> None:
    """Carries a line on past its start or its end, along its own curvature: by mm, or to the next line. What a trim
    took there comes back first. Raises JobError."""
    m.line(line)
    if end not in ENDS:
        raise JobError(f"an end is start or end, not '{end}'")
    if m.shapes.worked(line).recipe.closed:
        trimmed = not m.shapes[line].closed
        raise JobError(f"line '{line}' was a ring before it was trimmed: undo the trim, or pull what is missing"
                       if trimmed else f"line '{line}' is a ring: it has no end to carry on")  # fmt: skip
    if to == "next":
        found = next_beyond(m.shapes, line, end == "end", MOST_GROWN_MM)
        if found is None:
            raise JobError(f"nothing lies in the way of line '{line}' there: say how many mm instead")
        mm = found
    else:
        mm = number(to, "how far", 0.01, MOST_GROWN_MM)
    m.draft.put(line, longer(m.shapes, line, end == "end", mm))
    _ = m.shapes[line]


def longer(shapes: Shapes, line: str, at_end: bool, mm: float) -> LineRecord:
    """The row of a line that goes on by so many mm: along what a trim took of it, then beyond. Raises JobError."""
    row, worked = shapes.job.rows.lines[line], shapes.worked(line)
    whole, now = longer_path(worked, at_end, mm)
    growth = row.growth
    more = whole.arc.length - path_of(replace(worked.recipe, span=None)).arc.length
    if more > 1e-9:
        scale = row.matrix.scale if row.matrix is not None else 1.0
        growth = with_more(growth, at_end, more / scale)
        if max(growth.start, growth.end) > MOST_GROWN_MM:
            raise JobError(f"a line is carried on by {MOST_GROWN_MM:g} mm at most")
    span = row.span
    if span is not None:
        at = now + mm if at_end else whole.arc.length - now - mm
        reached = float(np.interp(at, whole.s, whole.source_t))
        span = Span(span.start, reached) if at_end else Span(reached, span.end)
    return replace(row, growth=growth, span=span)


@change
def taper(m: ChangeContext, lines: list[str], end: str = "both", length: Any = None) -> None:
    """Gives lines pointed ends of a length in mm, the nib's own where it is left out, of a share of the line ('30%'),
    or to the next crossing from that end ('crossing'). end: start, end or both. Raises JobError."""
    if end not in (*ENDS, "both"):
        raise JobError(f"an end is start, end or both, not '{end}'")
    for key in line_list(lines):
        row, shape = m.line(key), m.shapes[key]
        kinds = list(row.ends)
        for k, name in enumerate(ENDS):
            if end in (name, "both"):
                kinds[k] = End("pointed", _point_length(m, key, shape, k == 1, length))
        m.draft.change("lines", key, ends=(kinds[0], kinds[1]))
        _ = m.shapes[key]


def _point_length(m: ChangeContext, line: str, shape: Shape, at_end: bool, length: Any) -> float | None:
    """mm of a point, None for the nib's own."""
    if length == "crossing":
        return _to_crossing(m, line, shape, at_end)
    if isinstance(length, str) and length.endswith("%"):
        try:
            share = float(length[:-1])
        except ValueError:
            raise JobError(f"a share is like '30%', not '{length}'") from None
        return shape.length * number(share, "a share", 0.0, 100.0) / 100.0
    return None if length is None else number(length, "a length", 0.0, 1e4)


def _to_crossing(m: ChangeContext, line: str, shape: Shape, at_end: bool) -> float:
    points, s = shape.flat
    cuts = [np.interp(crossings(points, m.shapes[other].flat[0])[0], np.arange(len(s)), s)
            for other in m.shapes.visible() if other != line]  # fmt: skip
    where = np.concatenate(cuts) if cuts else np.zeros(0)
    away = shape.length - where if at_end else where
    away = away[away > AT_MM / 50.0]
    if not len(away):
        raise JobError(f"nothing crosses line '{line}': say how long its point is")
    return float(away.min())


@change
def width(
    m: ChangeContext, line: str, at: list[float], mm: float, side: str = "both", reach: float = SET_REACH_MM
) -> None:
    """Sets the width of a line at its place nearest to [x, y], mm; over `reach` mm it goes back softly to what it was.
    side: which edge gives. Raises JobError."""
    m.draft.put(line, with_width(line, m.line(line), m.shapes[line], place_of(at), mm, side, reach))
    _ = m.shapes[line]


def with_width(
    line: str, row: LineRecord, shape: Shape, at: np.ndarray, mm: Any, side: str = "both", reach: Any = SET_REACH_MM
) -> LineRecord:
    """The row of a line, of which `shape` is the shape, with a width set at a place (2,) mm. Raises JobError."""
    if side not in SIDES:
        raise JobError(f"a side is both, left or right, not '{side}'")
    if len(row.edits) >= MOST_EDITS:
        raise JobError(f"a line keeps at most {MOST_EDITS} swells and widths, and this one has so many: pull it anew")
    wanted = number(mm, "a width", LEAST_WIDTH_MM, MOST_WIDTH_MM)
    far = number(reach, "a reach", LEAST_REACH_MM, MOST_REACH_MM)
    source_t = shape.source_t_at(on_line(shape, at, line))
    return replace(row, edits=(*row.edits, SetWidth(source_t, wanted, far, side)))


@change
def widths_like(m: ChangeContext, lines: list[str], like: str) -> None:
    """Gives lines the widths of another one, by the share of their length; swells of before are lifted. Raises
    JobError."""
    if like not in m.job.rows.lines:
        raise JobError(f"there is no line '{like}'")
    body, length = m.shapes[like].body, m.shapes[like].length
    share = np.linspace(0.0, 1.0, int(np.clip(length / PROFILE_MM, 9, MOST_PROFILE)))
    left, right = body.at(share * length)
    for key in line_list(lines):
        m.line(key)
        if key != like:
            m.draft.change("lines", key, edits=(_profile(left, right),))
            _ = m.shapes[key]


@change
def even_widths(m: ChangeContext, lines: list[str]) -> None:
    """Gives each of these lines one width from end to end: the mean of what it had. Raises JobError."""
    for key in line_list(lines):
        m.line(key)
        body = m.shapes[key].body
        means = [float(np.trapezoid(half, body.s)) / max(float(body.s[-1]), 1e-9) for half in (body.left, body.right)]
        m.draft.change("lines", key, edits=(_profile(*(np.full(2, mean) for mean in means)),))
        _ = m.shapes[key]


def _profile(left: np.ndarray, right: np.ndarray) -> Profile:
    return Profile(tuple(np.round(left, 6).tolist()), tuple(np.round(right, 6).tolist()))


@change
def affine(m: ChangeContext, lines: list[str], matrix: list[float], widths: str = "keep") -> None:
    """Maps lines and blacks: x' = a x + c y + e, y' = b x + d y + f, mm. widths keep, or scale: the hand's widths, set
    widths and end lengths by the root of the area's factor. Raises JobError."""
    if not isinstance(matrix, list) or len(matrix) != 6:
        raise JobError("a map is six numbers [a, b, c, d, e, f]")
    if widths not in ("keep", "scale"):
        raise JobError(f"widths keep or scale, not '{widths}'")
    try:
        by = Affine(*(number(v, "a number of a map", -1e6, 1e6) for v in matrix))
    except AffineError as fault:
        raise JobError(f"that map makes no drawing: {fault}") from None
    for key in line_list(lines):
        row = m.ink(key)
        try:
            whole = (row.matrix or Affine()).then(by)
        except AffineError as fault:
            raise JobError(f"'{key}' cannot be mapped so: {fault}") from None
        new: dict[str, Any] = {"matrix": whole}
        if isinstance(row, LineRecord):
            new |= _mapped_widths(row, by, widths == "scale")
        m.draft.change(row.table, key, **new)
        _ = m.shapes.ink(key)


def _mapped_widths(row: LineRecord, by: Affine, scale: bool) -> dict[str, Any]:
    """What a map does to a line's own widths, besides its place."""
    edits = tuple(edit.mirrored() for edit in row.edits) if by.mirrors else row.edits
    if not scale:
        return {"edits": edits}
    times = by.scale
    edits = tuple(_scaled(edit, times) for edit in edits)
    first, last = (replace(e, mm=None if e.mm is None else e.mm * times) for e in row.ends)
    return {"edits": edits, "ends": (first, last), "scale_widths": True}


def _scaled(edit: WidthEdit, times: float) -> WidthEdit:
    if isinstance(edit, SetWidth):
        return replace(edit, mm=edit.mm * times, reach=edit.reach * times)
    if isinstance(edit, Profile):
        return _profile(np.array(edit.left) * times, np.array(edit.right) * times)
    return edit


@change
def tidy(
    m: ChangeContext, lines: list[str] | None = None, part: str | None = None, gap: float = 1.0, overshoot: float = 1.0
) -> list[str]:
    """Closes gaps of at most so many mm between the ends of lines and what they would meet, and trims stubs that reach
    at most so far beyond it, both measured between edges of ink. Of these lines, or of all of a part; gives those that
    were mended. Raises JobError."""
    if (lines is None) == (part is None):
        raise JobError("tidy takes lines, or a part")
    if part is not None:
        known = m.job.part_named(part)
        if known is None:
            raise JobError(f"there is no part '{part}'")
        parts = with_inner(m.job.rows.parts, known.id)
        rows = m.job.rows.lines
        keys = [key for key in m.job.line_ids() if rows[key].part in parts and rows[key].tone is None]
    else:
        keys = line_list(lines)
    closest, longest = number(gap, "a gap", 0.0, 20.0), number(overshoot, "an overshoot", 0.0, 20.0)
    mended: dict[str, None] = {}
    longer_ends: set[tuple[str, bool]] = set()
    for _ in range(TIDY_ROUNDS):
        # What was mended may have left something at a line that was looked at before it; no end is carried on twice.
        found = mends_of(m.shapes, [key for key in keys if not m.shapes[key].closed], closest, longest)
        found = [mend for mend in found if mend[2] < 0.0 or mend[:2] not in longer_ends]
        longer_ends |= {mend[:2] for mend in found if mend[2] > 0.0}
        for mend in found:
            _mend(m, *mend)
        keys = list(dict.fromkeys(key for key, *_ in found))
        mended |= dict.fromkeys(keys)
    return list(mended)


@change
def mend_ends(m: ChangeContext, mends: list[list[Any]]) -> list[str]:
    """Carries ends of lines on, or takes so much off: [[line, start or end, mm], ..], mm below 0 to take off; or
    [line, start or end, mm, dx, dy] for an end that is drawn over then. What a tidy was told to do, without what was
    refused of it. Gives the lines. Raises JobError."""
    if not isinstance(mends, list) or not all(isinstance(mend, list) and len(mend) in (3, 5) for mend in mends):
        raise JobError("mends are [line, start or end, mm], or [line, start or end, mm, dx, dy]")
    out = []
    for line, end, mm, *over in mends:
        m.line(line)
        if end not in ENDS:
            raise JobError(f"an end is start or end, not '{end}'")
        by = number(mm, "how far", -MOST_GROWN_MM, MOST_GROWN_MM)
        if m.shapes[line].closed or by <= -m.shapes[line].length:
            raise JobError(f"line '{line}' has no such end, or not so much of it")
        dx, dy = place_of(over).tolist() if over else (0.0, 0.0)
        _mend(m, line, end == "end", by, (dx, dy))
        out.append(line)
    return list(dict.fromkeys(out))


def _mend(m: ChangeContext, line: str, at_end: bool, mm: float, by: tuple[float, float]) -> None:
    row, shape = m.line(line), m.shapes[line]
    new = row
    if abs(mm) > LEAST_MEND_MM:
        new = longer(m.shapes, line, at_end, mm) if mm > 0.0 else shorter(row, shape, at_end, -mm)
    kinds = list(new.ends)
    kinds[at_end] = End("flat" if kinds[at_end].kind == "flat" else "round")
    m.draft.put(line, replace(new, ends=(kinds[0], kinds[1])))
    if by != (0.0, 0.0):
        m.draft.put(line, drawn_end(Moving(m.shapes, {}), line, ENDS[at_end], np.array(by), DRAWN_OVER_MM))
    _ = m.shapes[line]


def shorter(row: LineRecord, shape: Shape, at_end: bool, mm: float) -> LineRecord:
    """The row of a line that loses so many mm at an end."""
    a, b = (0.0, shape.length - mm) if at_end else (mm, shape.length)
    return replace(row, span=Span(shape.source_t_at(a), shape.source_t_at(b)))
