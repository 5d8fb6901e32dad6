"""Named changes of a line's own points: simplified, points moved and made, stretches straightened and smoothed. They
freeze its middle: the pull stays, and what was decided about widths and ends stays where it was along it."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from plain_stride.job.change_context import ChangeContext, change, number, place_of
from plain_stride.job.errors import JobError
from plain_stride.job.mend_changes import on_line
from plain_stride.job.records import LineRecord
from plain_stride.job.shapes import Shapes
from plain_stride.lines import nodes
from plain_stride.lines.curve import Arc
from plain_stride.lines.recipe import Recipe, course_of
from plain_stride.lines.shape import FixedPath

PLACES_MM, LEAST_PLACES = 0.2, 400
"""How near each other, and how many at least, places of a frozen line are at which its own parameter is kept."""
MOST_TOLERANCE_MM, LEAST_STRETCH_MM = 20.0, 0.1
NODE_EDITS = ("move", "before", "after", "insert", "delete", "corner", "smooth", "piece")


@change
def simplify(m: ChangeContext, line: str, tolerance: float) -> dict[str, Any]:
    """Makes a line of as few cubics as stay within `tolerance` mm of it. Gives how many there were and are, and how far
    it has moved at most. Raises JobError."""
    within = number(tolerance, "a tolerance", 0.001, MOST_TOLERANCE_MM)
    row = _open_line(m, line)
    was = course_of(m.shapes.worked(line).recipe).curve
    scale = row.matrix.scale if row.matrix is not None else 1.0
    new, off = nodes.simplified(was, within / scale)
    freeze(m, line, lambda curve: new)
    return {"before": len(was), "after": len(new), "moved": round(off * scale, 4)}


@change
def node(
    m: ChangeContext, line: str, what: str, node: int | None = None, at: list[float] | None = None,
    by: list[float] | None = None,
) -> None:  # fmt: skip
    """Edits a point of a line's middle, by its number from 0 on: move (by [dx, dy] mm), before or after (its handle
    there, by), delete, corner, smooth; or the line at a place [x, y] mm: insert, piece (draws what lies between two
    points, by). Raises JobError."""
    if what not in NODE_EDITS:
        raise JobError(f"a point is edited by {', '.join(NODE_EDITS)}, not '{what}'")
    row = _open_line(m, line)
    freeze(m, line, node_edit(m.shapes, line, row, what, node, at, by))


def node_edit(
    shapes: Shapes, line: str, row: LineRecord, what: str, node: Any = None, at: Any = None, by: Any = None
) -> Callable[[np.ndarray], np.ndarray]:
    """What an edit of a point makes of a line's curve in its own place. Raises JobError."""
    closed, drawn = shapes.worked(line).recipe.closed, np.zeros(2)
    if what in ("move", "before", "after", "piece"):
        drawn = _own_way(row, place_of(by))
    if what in ("insert", "piece"):
        place = place_of(at)
        own = row.matrix.inverse().of(place) if row.matrix is not None else place
        on_line(shapes[line], place, line)
        return lambda curve: _along(curve, own, what, drawn)
    k = int(number(node, "a point's number", 0, 1e6))
    edits: dict[str, Callable[[np.ndarray], np.ndarray]] = {
        "move": lambda curve: nodes.node_moved(curve, k, drawn, closed),
        "before": lambda curve: nodes.handle_moved(curve, k, nodes.BEFORE, drawn, closed),
        "after": lambda curve: nodes.handle_moved(curve, k, nodes.AFTER, drawn, closed),
        "delete": lambda curve: nodes.without_node(curve, k, closed),
        "corner": lambda curve: nodes.made_corner(curve, k, closed),
        "smooth": lambda curve: nodes.made_smooth(curve, k, closed),
    }
    return edits[what]


def _own_way(row: LineRecord, by: np.ndarray) -> np.ndarray:
    """(2,): a way on the sheet in the line's own place."""
    if row.matrix is None:
        return by
    back = row.matrix.inverse()
    return back.of(by) - back.of(np.zeros(2))


def _along(curve: np.ndarray, place: np.ndarray, what: str, by: np.ndarray) -> np.ndarray:
    s = _nearest_on(curve, place)
    return nodes.with_node(curve, s) if what == "insert" else nodes.piece_moved(curve, s, by)


def _nearest_on(curve: np.ndarray, place: np.ndarray) -> float:
    """Arc length of the place on a curve that lies nearest to another."""
    arc = Arc(curve)
    s = np.linspace(0.0, arc.length, max(200, int(arc.length / 0.1)))
    for _ in range(3):
        k = int(np.hypot(*(arc.point(s) - place).T).argmin())
        s = np.linspace(s[max(k - 1, 0)], s[min(k + 1, len(s) - 1)], 41)
    return float(s[20])


@change
def straighten(m: ChangeContext, line: str, from_: float | None = None, to: float | None = None) -> None:
    """Makes the stretch from..to (mm along the line; left out: to its ends) straight. Raises JobError."""
    a, b = _stretch(m, line, from_, to)
    freeze(m, line, lambda curve: nodes.straightened(curve, a, b))


@change
def smooth(m: ChangeContext, line: str, leeway: float, from_: float | None = None, to: float | None = None) -> None:
    """Makes the stretch from..to (mm along the line; left out: to its ends) as smooth as it can be where no place moves
    by more than `leeway` mm. Raises JobError."""
    most = number(leeway, "a leeway", 0.001, MOST_TOLERANCE_MM)
    row = _open_line(m, line)
    a, b = _stretch(m, line, from_, to)
    scale = row.matrix.scale if row.matrix is not None else 1.0
    freeze(m, line, lambda curve: nodes.smoothed(curve, a, b, most / scale))


def _stretch(m: ChangeContext, line: str, start: float | None, end: float | None) -> tuple[float, float]:
    """Arc lengths in the line's own place of a stretch of it as it is seen."""
    _open_line(m, line)
    shape, recipe = m.shapes[line], m.shapes.worked(line).recipe
    low = 0.0 if start is None else number(start, "'from'", 0.0, shape.length)
    high = shape.length if end is None else number(end, "'to'", 0.0, shape.length + 1e-6)
    if high - low < LEAST_STRETCH_MM:
        raise JobError(f"a stretch goes from a smaller to a larger length, {LEAST_STRETCH_MM:g} mm apart")
    course = course_of(recipe)
    if recipe.closed and recipe.span is not None and recipe.span.end > course.source_t[-1]:
        raise JobError(f"what is left of ring '{line}' goes over its seam: straighten or smooth before it is trimmed")
    a, b = (float(np.interp(shape.source_t_at(v), course.source_t, course.s)) for v in (low, high))
    return a, b


def _open_line(m: ChangeContext, line: str) -> LineRecord:
    row = m.line(line)
    if row.family is not None:
        raise JobError(f"line '{line}' is made from another one: release it to edit its points")
    return row


def freeze(m: ChangeContext, line: str, edit: Callable[[np.ndarray], np.ndarray]) -> None:
    """Puts an edited curve, in the line's own place, instead of a line's middle."""
    row = m.job.rows.lines[line]
    path = frozen(m.shapes.worked(line).recipe, edit)
    m.draft.put(line, replace(row, fixed=m.draft.add_path(path), bends=(), growth=None))
    _ = m.shapes[line]


def frozen(recipe: Recipe, edit: Callable[[np.ndarray], np.ndarray]) -> FixedPath:
    """A line's middle in its own place, edited, as a path that keeps the line's own parameter. Raises JobError."""
    course = course_of(recipe)
    try:
        new = edit(course.curve)
    except nodes.NodeError as fault:
        raise JobError(str(fault)) from None
    return kept_path(course.curve, course.s, course.source_t, new, recipe.closed)


def kept_path(old: np.ndarray, s: np.ndarray, source_t: np.ndarray, new: np.ndarray, closed: bool) -> FixedPath:
    """A path (m, 4, 2) instead of another, of which source parameters (k,) are known at arc lengths (k,)."""
    before, after = nodes.places_kept(old, new)
    length = Arc(new).length
    if length < LEAST_STRETCH_MM:
        raise JobError("nothing would be left of that line: delete it instead")
    even = np.linspace(0.0, length, max(LEAST_PLACES, int(length / PLACES_MM)))
    rising = after + np.arange(len(after)) * 1e-12
    at = np.interp(np.interp(even, rising, before), s, source_t)
    return FixedPath(new, closed, np.maximum.accumulate(at))
