"""What blacks and halos are told by: areas between lines, areas marked in the pencils, edges."""

from collections.abc import Collection
from typing import Any

import numpy as np

from plain_stride.form.contacts import JOINED_MM
from plain_stride.job.areas import areas_of
from plain_stride.job.art import is_draft
from plain_stride.job.change_context import ChangeContext, number, place_of
from plain_stride.job.errors import JobError
from plain_stride.job.hatch_told import lamp_told
from plain_stride.job.pencil_records import FILL
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.job.tone_fields import GAP_MM, MOST_GAP_MM, AreasOfJob, course_told, rings_told
from plain_stride.lines.area_black import area_of_black, area_of_rings
from plain_stride.lines.boxes import Box, meet
from plain_stride.tone.field import field_of
from plain_stride.tone.halos import (
    INSIDE,
    LEFT,
    OUTSIDE,
    RIGHT,
    SIDES,
    halo_of_area,
    halo_of_line,
    only_between,
    without_ends_of,
)
from plain_stride.tone.shadows import cast_shadow

ALIKE = 0.5
"""An area found between inked lines stands for one that the pencils mark where they share so much of both."""
END_TIMES, SLIT_MM, CAST_MM, REACH_TIMES = 3.0, 0.4, 10.0, 5.0


def areas_told(job: JobRows, shapes: Shapes, told: dict[str, Any]) -> list[Any]:
    """The areas (Shapely) that a black fills: `at` one place or several between lines, all that are `marked` in the
    pencils, or drawn `around`; of these only the shadow that an edge casts, where one is told. Raises JobError,
    ToneError."""
    import shapely

    areas = _whole_areas(job, shapes, told)
    if told.get("cast") is None:
        return areas
    edge, length = course_told(job, shapes, told["cast"]), number(told.get("length", CAST_MM), "a length", 0.05, 1e4)
    away = lamp_told(job, told).away(edge.mean(axis=0)[None])[0]
    return [cast_shadow(edge, away, length, shapely.union_all(areas))]


def _whole_areas(job: JobRows, shapes: Shapes, told: dict[str, Any]) -> list[Any]:
    if told.get("around") is not None:
        return [field_of(rings_told(told["around"])).area]
    gap = number(told.get("gap", GAP_MM), "a gap", 0.0, MOST_GAP_MM)
    rooms, to_edge = AreasOfJob(job, shapes, gap), bool(told.get("to_edge", False))
    if told.get("marked"):
        return _marked(job, rooms)
    if told.get("at") is None:
        raise JobError(
            "a black is laid 'at' a place between lines, where the pencils are 'marked', or 'around' an area"
        )
    at = told["at"]
    several = isinstance(at, list | tuple) and len(at) > 0 and isinstance(at[0], list | tuple)
    return [without_slits(rooms.round_place(place_of(one), to_edge)) for one in (at if several else [at])]


def without_slits(area: Any) -> Any:
    """An area with slits and specks filled that would only be flecks of paper: those narrower than SLIT_MM."""
    import shapely

    grown = shapely.buffer(area, SLIT_MM / 2.0, quad_segs=8, join_style="mitre", mitre_limit=2.0)
    return shapely.buffer(grown, -SLIT_MM / 2.0, quad_segs=8, join_style="mitre", mitre_limit=2.0).union(area)


def _marked(job: JobRows, rooms: AreasOfJob) -> list[Any]:
    """The areas that are marked to be filled: as inked lines have them where these enclose them, else as the pencils
    do."""
    import shapely

    marked = areas_of(job, FILL)
    if not marked:
        raise JobError("no area is marked to be filled: read the pencils, or draw round one at Pencils")
    out = []
    for area in marked:
        pencils = shapely.make_valid(shapely.Polygon(area.outline))
        at = np.asarray(pencils.representative_point().coords[0])
        try:
            inked = rooms.round_place(at)
        except JobError:
            inked = None
        same = inked is not None and _shared(inked, pencils) >= ALIKE
        out.append(without_slits(inked) if same else pencils)
    return out


def _shared(a: Any, b: Any) -> float:
    return float(a.intersection(b).area / max(a.union(b).area, 1e-9))


def halo_told(m: ChangeContext, told: dict[str, Any]) -> Any:
    """The white (Shapely) of a halo: beside a `black`, or beside a `line`. Raises JobError, ToneError."""
    job, shapes = m.job, m.shapes
    mm = number(told.get("mm", job.plan.halo), "a halo's width", 0.0, 100.0)
    key = told.get("black") or told.get("line")
    if (told.get("black") is None) == (told.get("line") is None) or not isinstance(key, str):
        raise JobError("a halo lies beside a 'black' or beside a 'line'")
    if key in job.rows.blacks:
        own = area_of_black(shapes.black(key))
        halo = halo_of_area(own, mm, str(told.get("side", INSIDE)))
    elif key in job.rows.lines:
        own = area_of_rings(shapes[key].rings)
        halo = _beside_line(m, key, mm, told.get("side"))
    else:
        raise JobError(f"there is no line or black '{key}'")
    if told.get("between"):
        halo = only_between(halo, ink_of(job, shapes, round_halo(halo, mm), {key}).difference(own), mm)
    return halo


def _beside_line(m: ChangeContext, key: str, mm: float, side: Any) -> Any:
    shape = m.shapes[key]
    if side is None or (side in (INSIDE, OUTSIDE) and not shape.closed):
        form = m.shapes.weighing.form_side(key)
        other = {LEFT: RIGHT, RIGHT: LEFT}[form]
        side = INSIDE if shape.closed and side is None else (other if side == OUTSIDE else form)
    if side not in SIDES:
        raise JobError(f"a halo lies on one side: {', '.join(SIDES)}, not '{side}'")
    ink, centre = area_of_rings(shape.rings), shape.flat[0]
    halo = halo_of_line(ink, centre, shape.closed, mm, str(side))
    if shape.closed:
        return halo
    ends, reach = centre[[0, -1]], END_TIMES * mm + float(shape.widths.full.max())
    met = _ink_at(m, key, ends, float(shape.widths.full.max()) / 2.0 + JOINED_MM)
    return without_ends_of(halo, ends, met, reach) if met is not None else halo


def _ink_at(m: ChangeContext, key: str, ends: np.ndarray, within: float) -> Any:
    """The ink (Shapely) of other lines that a line's ends (k, 2) lie on or beside; None where there is none."""
    import shapely

    spots = shapely.union_all([shapely.Point(end).buffer(within) for end in ends])
    found = []
    for other in m.shapes.visible():
        row, shape = m.job.rows.lines[other], m.shapes[other]
        if other == key or row.tone is not None or row.draft or not _near(shape.box, ends, within):
            continue
        ink = area_of_rings(shape.rings)
        if ink.intersects(spots):
            found.append(ink)
    return shapely.union_all(found) if found else None


def _near(box: tuple[float, float, float, float], places: np.ndarray, within: float) -> bool:
    low, high = np.array(box[:2]) - within, np.array(box[2:]) + within
    return bool(((places >= low) & (places <= high)).all(axis=1).any())


def ink_of(job: JobRows, shapes: Shapes, box: Box, without: Collection[str] = ()) -> Any:
    """All black ink that is seen and reaches a box (x0, y0, x1, y1) mm, as Shapely has it, but for some lines and
    blacks. n log n in the edges."""
    import shapely

    parts = {part.id for part in job.parts() if not part.hidden and part.ink == "black"}
    rows = job.inked_rows()
    areas = []
    for key in job.ink_ids():
        row = rows[key]
        if row.part not in parts or key in without or is_draft(job, key):
            continue
        ink = shapes.ink(key)
        if meet(ink.box, box):
            areas.append(area_of_rings(ink.rings))
    return shapely.union_all(areas) if areas else shapely.Polygon()


def round_halo(halo: Any, mm: float) -> Box:
    """The box (mm) of all that tells of a halo so wide whether its edge is doubled, or lies between two blacks."""
    x0, y0, x1, y1 = halo.bounds
    return x0 - REACH_TIMES * mm, y0 - REACH_TIMES * mm, x1 + REACH_TIMES * mm, y1 + REACH_TIMES * mm
