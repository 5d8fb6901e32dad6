"""Named changes that take away what lies inside an outline, and cut lines where they cross."""

from typing import Any

import numpy as np

from plain_stride.job.change_context import ChangeContext, change, line_list, place_of
from plain_stride.job.errors import JobError
from plain_stride.job.line_changes import LEAST_LEFT_MM, blunt_ends, spanned, twin_of
from plain_stride.lines.boxes import meet
from plain_stride.lines.cross import crossings, self_crossings
from plain_stride.lines.edits import End
from plain_stride.lines.shape import Shape

MOST_OUTLINE, MOST_PIECES, LEAST_PIECE_MM = 20_000, 500, 0.05
Stretch = tuple[float, float]


@change
def rub(m: ChangeContext, outline: list[list[float]], lines: list[str] | None = None) -> list[str]:
    """Takes away what lies inside an outline, [[x, y], ..] mm: of these lines, or of all that are seen and open. Gives
    the ids of what is left of those that were rubbed. Raises JobError."""
    import shapely

    if not isinstance(outline, list) or not 3 <= len(outline) <= MOST_OUTLINE:
        raise JobError(f"an outline is 3 to {MOST_OUTLINE} [x, y] in mm")
    area = shapely.make_valid(shapely.Polygon(np.array([place_of(at) for at in outline])))
    if area.area <= 0.0:
        raise JobError("that outline holds nothing: draw round what is to go")
    keys = _open_lines(m) if lines is None else line_list(lines)
    box, out = area.bounds, []
    for key in keys:
        m.line(key)
        if meet(m.shapes[key].box, box):
            gone = _inside(m.shapes[key], area)
            if gone:
                out += _without(m, key, gone)
    return out


def _open_lines(m: ChangeContext) -> list[str]:
    rows, parts = m.job.rows.lines, m.job.rows.parts
    return [key for key in m.shapes.visible() if not parts[rows[key].part].locked]


def _inside(shape: Shape, area: Any) -> list[Stretch]:
    """Stretches of a line, arc lengths from and to, that lie inside an area."""
    import shapely

    _, s = shape.flat
    line = shapely.LineString(shape.flat_ring)
    chords = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(shapely.get_coordinates(line), axis=0).T))])
    lengths = np.append(s, shape.length) if shape.closed else s
    out = []
    for part in shapely.get_parts(shapely.line_merge(shapely.intersection(line, area))):
        ends = shapely.line_locate_point(line, shapely.points(shapely.get_coordinates(part)))
        if part.length > LEAST_LEFT_MM and len(ends) > 1:
            # A part that runs over the seam of a ring begins late and ends early.
            a, b = (float(np.interp(v, chords, lengths)) for v in (ends[0], ends[-1]))
            middle = part.interpolate(0.5, normalized=True)
            on = float(np.interp(shapely.line_locate_point(line, middle), chords, lengths))
            low, high = min(a, b), max(a, b)
            out.append((low, high) if low - 1e-6 <= on <= high + 1e-6 else (high, low + shape.length))
    return sorted(out)


def _without(m: ChangeContext, line: str, gone: list[Stretch]) -> list[str]:
    """What is left of a line without some stretches: lines, the first under its own id."""
    row, shape = m.job.rows.lines[line], m.shapes[line]
    if shape.closed:
        first = gone[0]
        around = [*gone[1:], (first[0] + shape.length, first[1] + shape.length)]
        left = [(b, a) for (_, b), (a, _) in zip(gone, around, strict=True)]
    else:
        edges = [0.0, *(v for stretch in gone for v in stretch), shape.length]
        left = list(zip(edges[::2], edges[1::2], strict=True))
    left = [(a, b) for a, b in left if b - a >= LEAST_PIECE_MM]
    cut, kinds = blunt_ends(row.ends), row.ends
    out: list[str] = []
    for a, b in left:
        ends: tuple[End, End] = (kinds[0] if a <= 0.0 and not shape.closed else cut[0],
                                 kinds[1] if b >= shape.length and not shape.closed else cut[1])  # fmt: skip
        out.append(twin_of(m, row, shape, a, b, ends) if out else spanned(m, line, row, shape, a, b, ends))
    if not out:
        m.remove(line)
    return out


@change
def cut_at_crossings(m: ChangeContext, lines: list[str]) -> list[str]:
    """Cuts lines wherever they cross themselves or others that are seen: all stretches stay, as lines. Gives their ids.
    Raises JobError."""
    out = []
    for key in line_list(lines):
        row, shape = m.line(key), m.shapes[key]
        at = _crossed_at(m, key, shape)
        if len(at) > MOST_PIECES:
            raise JobError(f"line '{key}' is crossed {len(at)} times: at most {MOST_PIECES} pieces are made at once")
        if shape.closed and len(at):
            at = np.append(at, at[0] + shape.length)
        edges = at if shape.closed else np.concatenate([[0.0], at, [shape.length]])
        cut, pieces = blunt_ends(row.ends), list[str]()
        for a, b in zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True):
            ends = (row.ends[0] if a <= 0.0 else cut[0], row.ends[1] if b >= shape.length else cut[1])
            pieces.append(twin_of(m, row, shape, a, b, ends) if pieces else spanned(m, key, row, shape, a, b, ends))
        out += pieces or [key]
    return out


def _crossed_at(m: ChangeContext, line: str, shape: Shape) -> np.ndarray:
    """Arc lengths (k,), rising, at which a line is crossed, away from its ends and from each other."""
    points, s = shape.flat
    found = [self_crossings(points)]
    x0, y0, x1, y1 = shape.box
    for other in m.shapes.visible():
        u0, v0, u1, v1 = m.shapes[other].box
        if other != line and u0 <= x1 and u1 >= x0 and v0 <= y1 and v1 >= y0:
            found.append(crossings(points, m.shapes[other].flat[0])[0])
    at = np.unique(np.interp(np.concatenate(found), np.arange(len(s)), s))
    inside = at if shape.closed else at[(at > LEAST_PIECE_MM) & (at < shape.length - LEAST_PIECE_MM)]
    apart: np.ndarray = inside[np.concatenate([[True], np.diff(inside) > LEAST_PIECE_MM])] if len(inside) else inside
    return apart
