"""Covers: the shape by which a part hides what lies behind it, found from its outer lines with gaps bridged, or drawn.

All that the lines and the bridges between them enclose is covered, rings within rings too: a hole and a disc on the
form look the same, so a part with a hole in it wants a drawn cover.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from plain_stride.form.bridges import bridged
from plain_stride.lines.area_black import area_of_rings
from plain_stride.lines.boxes import meet

SIMPLE_MM = 0.01
"""Centrelines are thinned to this before they are joined, covers after they are widened."""
GRID_MM, MERGED_MM = 1e-5, 1e-4
LEAST_MM2 = 1e-4
FAR_MM = 2e5
"""Twice as far out as any point of a line may lie."""
_DISC_QUARTER = 12
"""Corners in a quarter of a round corner of a gap."""


@dataclass(frozen=True, eq=False)
class Cover:
    """area: a Shapely polygon or several, mm; bridges (n, 2, 2): the gaps that were bridged; loose (n, 2): free ends
    that had nothing near to be bridged to."""

    area: Any = field(repr=False)
    bridges: np.ndarray
    loose: np.ndarray

    @cached_property
    def box(self) -> tuple[float, float, float, float]:
        """(x0, y0, x1, y1), mm."""
        x0, y0, x1, y1 = self.area.bounds
        return x0, y0, x1, y1

    def reaches(self, box: tuple[float, float, float, float]) -> bool:
        """Whether any of it lies in a box (x0, y0, x1, y1), mm."""
        import shapely

        if not meet(self.box, box):
            return False
        shapely.prepare(self.area)
        return bool(shapely.intersects(self.area, shapely.box(*box)))

    def rings(self) -> list[np.ndarray]:
        """Its outer edges (n, 2), holes left out."""
        import shapely

        return [shapely.get_coordinates(part.exterior)[:-1] for part in shapely.get_parts(self.area)]

    def holds(self, points: np.ndarray) -> np.ndarray:
        """(n,) whether points (n, 2) lie on the cover."""
        import shapely

        shapely.prepare(self.area)
        held: np.ndarray = shapely.contains_xy(self.area, points[:, 0], points[:, 1])
        return held


def found_cover(centres: Sequence[np.ndarray], ink: Iterable[list[np.ndarray]], gap: float = 0.0) -> Cover | None:
    """The cover that outer lines enclose; None where they enclose nothing.

    centres: their centrelines (n, 2), a closed one repeating its first point. The cover ends in the middle of these;
    with a gap (mm), that far outside their ink, given as rings.
    """
    import shapely

    lines = [shapely.simplify(shapely.LineString(points), SIMPLE_MM) for points in centres if len(points) > 1]
    if not lines:
        return None
    bridges, loose = bridged(lines)
    return _cover(enclosed([*lines, *map(shapely.LineString, bridges)]), ink, gap, bridges, loose)


def enclosed(lines: Sequence[Any]) -> Any:
    """What Shapely lines enclose, holes filled, as a Shapely area."""
    import shapely

    whole = shapely.union_all(list(lines), grid_size=GRID_MM)
    # Faces between noded lines share their edges and never overlap.
    return _without_slivers(shapely.coverage_union_all(shapely.get_parts(shapely.polygonize([whole]))))


def drawn_cover(rings: Sequence[np.ndarray], ink: Iterable[list[np.ndarray]], gap: float = 0.0) -> Cover | None:
    """The cover of drawn outlines (n, 2): all that they go round. All in mm."""
    import shapely

    faces = shapely.union_all([shapely.make_valid(shapely.Polygon(ring)) for ring in rings if len(ring) > 2])
    return _cover(_without_slivers(faces), ink, gap, np.zeros((0, 2, 2)), np.zeros((0, 2)))


def outside_cover(boxes: Sequence[tuple[float, float, float, float]]) -> Cover:
    """All that lies outside boxes (x0, y0, x1, y1), as far as any line goes. All in mm."""
    import shapely

    inside = shapely.union_all([shapely.box(*box) for box in boxes])
    area = shapely.difference(shapely.box(-FAR_MM, -FAR_MM, FAR_MM, FAR_MM), inside)
    return Cover(area, np.zeros((0, 2, 2)), np.zeros((0, 2)))


def seen_rings(rings: list[np.ndarray], covers: Sequence[Cover]) -> list[np.ndarray]:
    """What covers leave to be seen of a filled outline, as rings again, holes turning the other way. rings: (n, 2)
    mm each."""
    import shapely

    edges = [shapely.LinearRing(ring) for ring in rings]
    try:
        filled = shapely.build_area(shapely.GeometryCollection(edges)) if len(edges) > 1 else shapely.Polygon(edges[0])
    except shapely.GEOSException:
        # Specks of a worn edge may touch it.
        filled = area_of_rings(rings)
    if not filled.is_valid:
        filled = shapely.make_valid(filled)
    # Only what of the covers lies round it counts, and has far fewer corners than the whole.
    x0, y0, x1, y1 = filled.bounds
    around = (x0 - GRID_MM, y0 - GRID_MM, x1 + GRID_MM, y1 + GRID_MM)
    hiding = [shapely.clip_by_rect(cover.area, *around) for cover in covers]
    return _rings(shapely.difference(filled, shapely.union_all(hiding)))


def covered_rings(covers: Sequence[Cover]) -> list[np.ndarray]:
    """The edge of all that covers hide: rings (n, 2) that do not cross, so that even-odd filling gives it."""
    import shapely

    return _rings(shapely.union_all([cover.area for cover in covers]))


def changed_boxes(old: Cover | None, new: Cover | None) -> list[tuple[float, float, float, float]]:
    """Boxes (x0, y0, x1, y1) that hold all that one of two covers hides and the other does not. All in mm."""
    import shapely

    empty = shapely.Polygon()
    areas = [cover.area if cover is not None else empty for cover in (old, new)]
    apart = [part for part in shapely.get_parts(shapely.symmetric_difference(*areas)) if not part.is_empty]
    return [(x0, y0, x1, y1) for x0, y0, x1, y1 in shapely.bounds(apart).tolist()]


def hidden_stretches(points: np.ndarray, s: np.ndarray, covers: Sequence[Cover]) -> list[tuple[float, float]]:
    """Stretches (from, to) of arc length s (n,) along a centreline (n, 2) that covers hide, in order."""
    import shapely

    hidden = shapely.intersection(shapely.LineString(points), shapely.union_all([cover.area for cover in covers]))
    runs = []
    for piece in shapely.get_parts(hidden):
        # A line that only touches a cover meets it in points, or in a stretch that rounding has emptied.
        if piece.geom_type == "LineString" and not piece.is_empty:
            ends = shapely.get_coordinates(piece)
            runs.append(tuple(sorted((_length_at(points, s, ends[0]), _length_at(points, s, ends[-1])))))
    out: list[tuple[float, float]] = []
    for a, b in sorted(runs):
        if out and a <= out[-1][1] + MERGED_MM:
            out[-1] = (out[-1][0], max(b, out[-1][1]))
        else:
            out.append((a, b))
    return out


def _cover(faces: Any, ink: Iterable[list[np.ndarray]], gap: float, *told: np.ndarray) -> Cover | None:
    import shapely

    if faces.is_empty:
        return None
    if gap > 0.0:
        edges = [shapely.make_valid(shapely.Polygon(ring)) for rings in ink for ring in rings[:1]]
        faces = shapely.union_all([faces, *(edge for edge in edges if shapely.intersects(edge, faces))])
        faces = shapely.simplify(shapely.buffer(faces, gap, quad_segs=_DISC_QUARTER), SIMPLE_MM)
    shapely.prepare(faces)
    return Cover(faces, *told)


def _without_slivers(faces: Any) -> Any:
    import shapely

    polygons = [p for p in shapely.get_parts(faces) if p.geom_type == "Polygon" and p.area > LEAST_MM2]
    return shapely.union_all([shapely.Polygon(p.exterior) for p in polygons])


def _rings(area: Any) -> list[np.ndarray]:
    import shapely

    out = []
    for polygon in shapely.get_parts(area):
        if polygon.geom_type == "Polygon" and not polygon.is_empty:
            polygon = shapely.orient_polygons(polygon)
            out += [shapely.get_coordinates(ring)[:-1] for ring in (polygon.exterior, *polygon.interiors)]
    return out


def _length_at(points: np.ndarray, s: np.ndarray, place: np.ndarray) -> float:
    from plain_stride.lines.cross import nearest

    _, index = nearest(points, place)
    return float(np.interp(index, np.arange(len(s)), s))
