"""Named changes of blacks: joined, cut out, made larger or smaller, pushed; filled from lines, their edges made lines.
What lies over what is Shapely's; edges are fitted anew, with their corners."""

from dataclasses import replace
from typing import Any

import numpy as np

from plain_stride.job.change_context import ChangeContext, change, line_list, number
from plain_stride.job.errors import JobError
from plain_stride.job.line_changes import line as lay_line
from plain_stride.job.records import BlackRecord
from plain_stride.lines.area_black import area_of_black, black_of_area
from plain_stride.lines.bending import Push, places_along, pushed, refitted
from plain_stride.lines.black import Black, BlackError, checked
from plain_stride.lines.curve import Arc
from plain_stride.lines.given import form_of_width

MOST_OFFSET_MM, EDGE_MM = 100.0, 0.3


@change
def black_join(m: ChangeContext, blacks: list[str]) -> str:
    """Makes one black of several; it keeps the first one's id and part. Raises JobError."""
    import shapely

    keys = _blacks(m, blacks)
    if len(keys) < 2:
        raise JobError("joined are two blacks or more")
    whole = shapely.union_all([area_of(m, key) for key in keys])
    for key in keys[1:]:
        m.remove(key)
    _put(m, keys[0], whole)
    return keys[0]


@change
def black_cut(m: ChangeContext, black: str, by: list[str]) -> str:
    """Cuts out of a black what other blacks, or the ink of lines, cover; these stay as they are. Raises JobError."""
    import shapely

    (key,) = _blacks(m, [black])
    others = [other for other in line_list(by) if other != key]
    if not others:
        raise JobError("a black is cut by other blacks or lines")
    _put(m, key, shapely.difference(area_of(m, key), shapely.union_all([_ink(m, other) for other in others])))
    return key


@change
def black_offset(m: ChangeContext, blacks: list[str], mm: float) -> None:
    """Makes blacks larger all round by so many mm, or smaller where below nought; corners stay corners. Raises
    JobError."""
    by = number(mm, "how far", -MOST_OFFSET_MM, MOST_OFFSET_MM)
    for key in _blacks(m, blacks):
        _put(m, key, area_of(m, key).buffer(by, quad_segs=32, join_style="mitre", mitre_limit=4.0))


@change
def black_push(m: ChangeContext, blacks: list[str], path: list[list[float]], reach: float) -> None:
    """Pushes the edges of blacks as `push` does lines. Raises JobError."""
    from plain_stride.job.mend_changes import push_of

    push = push_of(path, reach)
    for key in _blacks(m, blacks):
        black = m.shapes.black(key)
        _lay(m, key, Black(tuple(_pushed(curve, push) for curve in black.curves), black.rule))


def _pushed(curve: np.ndarray, push: Push) -> np.ndarray:
    arc = Arc(curve)
    dense = places_along(arc, 0.0, arc.length)
    return refitted(arc, dense, pushed(arc.point(dense), push))


@change
def fill(m: ChangeContext, lines: list[str]) -> list[str]:
    """Lays blacks in the insides of closed lines, in the part of each, as far as the middle of the line. Gives their
    ids. Raises JobError."""
    out = []
    for key in line_list(lines):
        row, shape = m.line(key), m.shapes[key]
        if not shape.closed:
            raise JobError(f"line '{key}' is open: it has no inside to be filled")
        outline = m.draft.add_outline(checked(Black((shape.curve,))))
        out.append(m.add_black(BlackRecord(part=row.part, outline=outline)))
    return out


@change
def black_edges(m: ChangeContext, black: str, mm: float = EDGE_MM, part: str | None = None) -> list[str]:
    """Lays the edges of a black as closed lines of a width, which bend, swell and join as any; the black stays. part:
    where they are laid, the black's own by default. Gives their ids. Raises JobError."""
    (key,) = _blacks(m, [black])
    width = number(mm, "a width", 0.01, 50.0)
    name = part if part is not None else m.job.part_of(key).name
    nib = m.job.nibs()["3"]
    return [str(lay_line(m, form_of_width(curve, True, width), nib, part=name, role="outer"))
            for curve in m.shapes.black(key).curves]  # fmt: skip


def _blacks(m: ChangeContext, keys: Any) -> list[str]:
    out = line_list(keys)
    for key in out:
        if key not in m.job.rows.blacks:
            raise JobError(f"'{key}' is no black")
        m.ink(key)
    return out


def area_of(m: ChangeContext, key: str) -> Any:
    """What a black fills, as shapely has it, mm."""
    return area_of_black(m.shapes.black(key))


def _ink(m: ChangeContext, key: str) -> Any:
    import shapely

    if key in m.job.rows.blacks:
        return area_of(m, key)
    if key not in m.job.rows.lines:
        raise JobError(f"there is no line or black '{key}'")
    return shapely.union_all([shapely.make_valid(shapely.Polygon(ring)) for ring in m.shapes[key].rings])


def _put(m: ChangeContext, key: str, area: Any) -> None:
    """A black of another area, where it lies."""
    try:
        _lay(m, key, black_of_area(area))
    except BlackError as fault:
        raise JobError(str(fault)) from None


def _lay(m: ChangeContext, key: str, black: Black) -> None:
    outline = m.draft.add_outline(checked(black))
    m.draft.put(key, replace(m.job.rows.blacks[key], outline=outline, matrix=None))
