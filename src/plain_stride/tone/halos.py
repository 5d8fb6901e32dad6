"""Halos: white of one constant width beside an edge, so that two blacks are told apart.

What lies within the width of an edge is white (an offset as Shapely has it, its far side round where the edge turns
away, so that the width is the same there). Beside a line it lies on one side, cut straight across at the line's ends.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.tone.errors import ToneError

INSIDE, OUTSIDE, LEFT, RIGHT = SIDES = ("inside", "outside", "left", "right")
LEAST_MM, MOST_MM = 0.02, 50.0
QUARTER, SLIVER_MM2, SIMPLE_MM = 32, 1e-3, 0.002
LAP_MM = 0.008
"""How far a halo reaches over its edge, so that no hair of ink is left there where curves are fitted."""
BEHIND = 1.5
"""A halo lies between two blacks where the other one begins within so many times its width beyond the edge."""


@dataclass(frozen=True)
class HaloMeasured:
    """narrowest, widest: mm of white, from its far side to the edge; closed: it comes round; doubled: mm of its edge
    where a black thinner than the halo has white on both its sides."""

    narrowest: float
    widest: float
    closed: bool
    doubled: float


def halo_of_area(area: Any, mm: float, side: str = INSIDE) -> Any:
    """White inside or outside of an area's edge, all the way round. Raises ToneError."""
    import shapely

    _check(mm)
    if side not in (INSIDE, OUTSIDE):
        raise ToneError(f"a black's halo lies {INSIDE} or {OUTSIDE} of its edge, not '{side}'")
    if side == OUTSIDE:
        return _whole(shapely.difference(_offset(area, mm), _offset(area, -LAP_MM)))
    return _whole(shapely.difference(_offset(area, LAP_MM), _offset(area, -mm)))


def halo_of_line(ink: Any, centre: np.ndarray, closed: bool, mm: float, side: str) -> Any:
    """White on one side of a line. ink: what it covers, as Shapely has it; centre (n, 2) mm, of a closed one without
    its first point again; side: as seen along it, inside and outside of a closed one. Raises ToneError."""
    import shapely

    _check(mm)
    if side not in SIDES:
        raise ToneError(f"a halo lies on one side: {', '.join(SIDES)}, not '{side}'")
    ring = shapely.difference(_offset(ink, mm), _offset(ink, -LAP_MM))
    if closed:
        inner = shapely.make_valid(shapely.Polygon(centre))
        # y points down: a ring that Shapely calls counterclockwise has its inside to the right.
        within = side in (INSIDE, RIGHT if shapely.is_ccw(shapely.LinearRing(centre)) else LEFT)
        return _whole(shapely.intersection(ring, inner) if within else shapely.difference(ring, inner))
    if side in (INSIDE, OUTSIDE):
        raise ToneError("an open line's halo lies to its left or to its right")
    return _whole(_on_side(ring, centre, side, _reach(ink, centre, mm)))


def only_between(halo: Any, dark: Any, mm: float) -> Any:
    """What of a halo lies between its own black and another one: where one begins within BEHIND times its width beyond
    its edge. dark: all ink beyond the edge; what of it is thinner than the halo, as the line along that edge, is no
    black."""
    import shapely

    thick = _offset(_offset(dark, -mm / 2.0), mm / 2.0)
    return _whole(shapely.intersection(halo, _offset(thick, mm * (1.0 + BEHIND))))


def without_ends_of(halo: Any, ends: np.ndarray, others: Any, reach: float) -> Any:
    """A halo that does not nick what its line ends on. ends (k, 2) mm; others: the ink met there."""
    import shapely

    near = shapely.union_all([shapely.Point(end).buffer(reach, quad_segs=QUARTER) for end in ends])
    return _whole(shapely.difference(halo, shapely.intersection(others, near)))


def measured(halo: Any, edge: Any, dark: Any, mm: float) -> HaloMeasured:
    """What a halo measures. edge: the edge it lies beside, as a Shapely line; dark: all ink that is left."""
    import shapely

    far = far_side(halo, edge, mm)
    away = shapely.distance(shapely.points(far), edge) if len(far) else np.zeros(1)
    closed = any(len(part.interiors) for part in shapely.get_parts(halo) if part.geom_type == "Polygon")
    return HaloMeasured(float(away.min()), float(away.max()), closed, _doubled(halo, edge, dark, mm))


def far_side(halo: Any, edge: Any, mm: float) -> np.ndarray:
    """Places (n, 2) on the side of a halo that is not the edge's, but for its ends, that lie across."""
    import shapely

    places = []
    for part in shapely.get_parts(halo):
        for ring in (part.exterior, *part.interiors):
            line = shapely.segmentize(ring, mm / 4.0)
            places.append(shapely.get_coordinates(line))
    every = np.concatenate(places) if places else np.zeros((0, 2))
    away = shapely.distance(shapely.points(every), edge)
    # Ends lead from the edge to the far side: what is nearer to it than the far side's least is one of them.
    return np.asarray(every[away > 0.75 * mm])


def _doubled(halo: Any, edge: Any, dark: Any, mm: float) -> float:
    """mm of an edge beside a halo along which a thin black lies between the halo and white."""
    import shapely

    grown = _offset(dark, -mm / 2.0)
    thin = shapely.difference(dark, _offset(grown, mm / 2.0 * 1.02))
    beside = shapely.intersection(thin, _offset(halo, mm * 0.25))
    pieces = [part for part in shapely.get_parts(beside) if part.geom_type == "Polygon" and part.area > SLIVER_MM2]
    if not pieces:
        return 0.0
    near = shapely.intersection(edge, _offset(shapely.union_all(pieces), mm * 0.3))
    return float(near.length)


def _on_side(ring: Any, centre: np.ndarray, side: str, reach: float) -> Any:
    """What of a ring round an open line lies on one side of it and beside it, not beyond its ends."""
    import shapely

    ways = [centre[0] - centre[1], centre[-1] - centre[-2]]
    first, last = (way / np.hypot(*way) * reach for way in ways)
    cut = shapely.LineString(np.vstack([centre[0] + first, centre, centre[-1] + last]))
    beyond = [_half_plane(centre[0], first, reach), _half_plane(centre[-1], last, reach)]
    body = shapely.difference(ring, shapely.union_all(beyond))
    whole = shapely.union_all([shapely.boundary(body), cut])
    faces = [face for face in shapely.get_parts(shapely.polygonize([whole])) if face.area > SLIVER_MM2 / 100.0]
    wanted = 1.0 if side == LEFT else -1.0
    kept = []
    for face in faces:
        at = np.asarray(face.representative_point().coords[0])
        if shapely.contains_xy(body, *at) and _side_of(centre, at) == wanted:
            kept.append(face)
    return shapely.union_all(kept) if kept else shapely.Polygon()


def _half_plane(at: np.ndarray, way: np.ndarray, reach: float) -> Any:
    """A box beyond the end of a line, as wide as two reaches, that begins straight across it."""
    import shapely

    across = np.array([-way[1], way[0]])
    return shapely.Polygon([at + across, at + across + way, at - across + way, at - across])


def _side_of(centre: np.ndarray, at: np.ndarray) -> float:
    """1 where a place lies to the left of a line's nearest place, -1 to the right; y points down."""
    import shapely

    line = shapely.LineString(centre)
    s = shapely.line_locate_point(line, shapely.Point(at))
    step = min(0.01, line.length / 4.0)
    a, b = (shapely.line_interpolate_point(line, min(max(s + d, 0.0), line.length)) for d in (-step, step))
    way, off = np.array([b.x - a.x, b.y - a.y]), at - np.array([a.x, a.y])
    return 1.0 if way[0] * off[1] - way[1] * off[0] < 0.0 else -1.0


def _reach(ink: Any, centre: np.ndarray, mm: float) -> float:
    import shapely

    edges = shapely.points(shapely.get_coordinates(ink))
    return float(shapely.distance(edges, shapely.LineString(centre)).max()) + 2.0 * mm


def _offset(area: Any, mm: float) -> Any:
    import shapely

    return shapely.buffer(area, mm, quad_segs=QUARTER, join_style="round", cap_style="round")


def _whole(area: Any) -> Any:
    """The pieces of an area that are no slivers. Raises ToneError where none is left."""
    import shapely

    parts = [part for part in shapely.get_parts(area) if part.geom_type == "Polygon" and part.area > SLIVER_MM2]
    if not parts:
        raise ToneError("no halo would be left there: nothing lies beside that edge")
    return shapely.union_all(parts)


def _check(mm: float) -> None:
    if not LEAST_MM <= mm <= MOST_MM:
        raise ToneError(f"a halo is {LEAST_MM:g} to {MOST_MM:g} mm wide, not {mm:g}")
