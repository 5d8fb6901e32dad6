"""Where a tone goes in a job: drawn round, found between the lines that are seen, or between two edges."""

from typing import Any

import numpy as np

from plain_stride.form.areas import Rooms
from plain_stride.form.cover import SIMPLE_MM
from plain_stride.job.board_facts import frames_of
from plain_stride.job.change_context import number, place_of
from plain_stride.job.covers import Covers
from plain_stride.job.errors import JobError
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.job.weighing import ByHand
from plain_stride.tone.field import MOST_PLACES, Field, field_of
from plain_stride.tone.nets import even_places

GAP_MM, MOST_GAP_MM = 1.0, 20.0
EDGE_MM, BESIDE_MM = 0.05, 0.9
"""An area that comes so near the sheet's edge is open to it; a cover that ends so near a line ends at that line."""


def seen_lines(job: JobRows, by_hand: ByHand, covers: Covers) -> list[Any]:
    """The middles of the black lines that are seen, without what covers hide and without strokes of tones, and the
    frames, as shapely has them."""
    import shapely

    parts = {part.id: part for part in job.parts()}
    out = []
    for key in job.line_ids():
        row, part = job.rows.lines[key], parts[job.rows.lines[key].part]
        if row.tone is not None or row.draft or part.hidden or part.ink != "black":
            continue
        shape = by_hand[key]
        line = shapely.simplify(shapely.LineString(_closed(shape.flat[0], shape.closed)), SIMPLE_MM)
        hiding = covers.hiding(part.id, shape)
        if hiding:
            line = shapely.difference(line, shapely.union_all([cover.area for cover in hiding]))
        out += [piece for piece in shapely.get_parts(line) if piece.geom_type == "LineString" and not piece.is_empty]
    return out + [shapely.box(*frame.box).exterior for frame in frames_of(job).values()]


def open_covers(job: JobRows, covers: Covers, lines: list[Any]) -> list[Any]:
    """Where covers end that no line ends at, as a cat's does that sits on a beam: what lies before is not what lies
    behind. lines: those that are seen."""
    import shapely

    by_part, out = covers.now(), list[Any]()
    near = shapely.buffer(shapely.MultiLineString(lines), BESIDE_MM, quad_segs=2) if by_part and lines else None
    for part in job.parts():
        if part.id not in by_part:
            continue
        edge = shapely.boundary(by_part[part.id].area)
        over = [cover.area for cover in covers.over(part.id)]
        edge = shapely.difference(edge, shapely.union_all(over)) if over else edge
        edge = shapely.difference(edge, near) if near is not None else edge
        edge = shapely.line_merge(edge) if edge.geom_type == "MultiLineString" else edge
        out += [piece for piece in shapely.get_parts(edge) if piece.geom_type == "LineString" and not piece.is_empty]
    return out


def _closed(points: np.ndarray, closed: bool) -> np.ndarray:
    return np.vstack([points, points[:1]]) if closed and np.hypot(*(points[0] - points[-1])) > 1e-9 else points


class AreasOfJob:
    """The areas between the lines that are seen; asked for one after the other. gap: mm that are bridged."""

    def __init__(self, job: JobRows, shapes: Shapes, gap: float) -> None:
        import shapely

        x, y = job.page.size_mm
        bleed = job.board.bleed_mm
        self._sheet = shapely.box(-bleed, -bleed, x + bleed, y + bleed)
        self._gap = gap
        by_hand = ByHand(shapes)
        covers = Covers(job, by_hand)
        lines = seen_lines(job, by_hand, covers)
        self._rooms = Rooms([*lines, *open_covers(job, covers, lines), self._sheet.exterior], gap)

    def round_place(self, at: np.ndarray, to_edge: bool = False) -> Any:
        """The area round a place (2,) mm. to_edge: it may reach the sheet's edge. Raises JobError."""
        import shapely

        area = self._rooms.round_place(at)
        if area is None:
            raise JobError("that place lies off the sheet: nothing was laid")
        if not to_edge and shapely.distance(area, self._sheet.exterior) < EDGE_MM:
            raise JobError(
                f"that area is open: it reaches the sheet's edge, through a gap wider than {self._gap:g} mm or because"
                " nothing closes it. Nothing was laid: bridge wider gaps, close it, or let it reach the edge"
            )
        return area


def field_told(job: JobRows, shapes: Shapes, told: dict[str, Any]) -> Field:
    """The field that the arguments of a tone tell: `around`, rings or one ring [x, y]; `at` a place between lines, with
    `gap` and `to_edge`; else what lies between its two `edges`. Raises JobError, ToneError."""
    if told.get("around") is not None:
        return field_of(rings_told(told["around"]))
    if told.get("at") is not None:
        gap = number(told.get("gap", GAP_MM), "a gap", 0.0, MOST_GAP_MM)
        area = AreasOfJob(job, shapes, gap).round_place(place_of(told["at"]), bool(told.get("to_edge", False)))
        return Field(area)
    if told.get("edges") is not None:
        a, b = edges_told(job, shapes, told["edges"])
        same = np.hypot(*(a[-1] - b[-1])) <= np.hypot(*(a[-1] - b[0]))
        return field_of([np.vstack([a, b[::-1] if same else b])])
    raise JobError("a tone is drawn 'around', laid 'at' a place between lines, or between two 'edges'")


def rings_told(around: Any) -> list[np.ndarray]:
    """Rings (n, 2) of one ring [[x, y], ..] or of several. Raises JobError."""
    try:
        deep = isinstance(around[0][0], list | tuple)
        rings = [np.array(ring, float) for ring in (around if deep else [around])]
    except (TypeError, ValueError, IndexError, KeyError):
        rings = []
    if not rings or not all(ring.ndim == 2 and ring.shape[1] == 2 and len(ring) <= MOST_PLACES for ring in rings):
        raise JobError("a field is drawn around by a list of [x, y] in mm, or by several such lists")
    if not all(np.isfinite(ring).all() and np.abs(ring).max(initial=0.0) <= 1e5 for ring in rings):
        raise JobError("a field lies within 100,000 mm of the board")
    return rings


def edges_told(job: JobRows, shapes: Shapes, edges: Any) -> tuple[np.ndarray, np.ndarray]:
    """Two edges (n, 2) mm, each a line's id or places [x, y]. Raises JobError, ToneError."""
    if not isinstance(edges, list) or len(edges) != 2:
        raise JobError("edges are two: ids of lines, or lists of [x, y] in mm")
    a, b = (course_told(job, shapes, edge) for edge in edges)
    return a, b


def course_told(job: JobRows, shapes: Shapes, told: Any) -> np.ndarray:
    """A course (n, 2) mm: a line's id or places [x, y]. Raises JobError, ToneError."""
    if isinstance(told, str):
        if told not in job.rows.lines:
            raise JobError(f"there is no line '{told}' to follow")
        return np.asarray(shapes.by_hand(told).shape.flat[0])
    try:
        points = np.array(told, float)
    except (TypeError, ValueError):
        points = np.zeros(0)
    if points.ndim != 2 or points.shape[1:] != (2,) or not 2 <= len(points) <= MOST_PLACES:
        raise JobError("a course is a line's id, or a list of [x, y] in mm")
    if not np.isfinite(points).all() or np.abs(points).max() > 1e5:
        raise JobError("a course lies within 100,000 mm of the board")
    return even_places(points)
