"""Blacks of areas: what Shapely made of shapes becomes smooth outlines again, corners kept."""

from typing import Any

import numpy as np

from plain_stride.lines.black import Black, BlackError, checked
from plain_stride.lines.curve import flatten, straight
from plain_stride.lines.fit import CORNER_DEG, fit_path, sharp_points

WITHIN_MM, MOST_OFF_MM, LEAST_MM2, CLOSE_MM = 0.005, 0.012, 1e-4, 0.2


def black_of_area(area: Any) -> Black:
    """The black that fills a Shapely area; slivers below LEAST_MM2 are left out. Raises BlackError where nothing is
    left."""
    import shapely

    curves = []
    for part in shapely.get_parts(area):
        if part.geom_type == "Polygon" and part.area > LEAST_MM2:
            curves += [_curve_of(ring) for ring in (part.exterior, *part.interiors)]
    if not curves:
        raise BlackError("nothing would be left of that black: take it away instead")
    return checked(Black(tuple(curves), "evenodd"))


def area_of_black(black: Black) -> Any:
    """What a black fills, as Shapely has it, mm."""
    return area_of_rings(black.rings)


def area_of_rings(rings: list[np.ndarray]) -> Any:
    """What lies inside an odd number of rings (n, 2), as Shapely has it, mm."""
    import shapely

    area = shapely.Polygon()
    for ring in rings:
        area = area.symmetric_difference(shapely.make_valid(shapely.Polygon(ring)))
    return area


def _curve_of(ring: Any) -> np.ndarray:
    """A ring of Shapely's as cubics (m, 4, 2): smooth ones where these lie on it, else straights."""
    import shapely

    # What fits curves looks at places alone: they tell of straight stretches only where they are close.
    curve = _smooth(np.asarray(shapely.segmentize(ring, CLOSE_MM).coords)[:-1])
    off = shapely.distance(shapely.points(flatten(curve, WITHIN_MM)), ring)
    return curve if off.max() <= MOST_OFF_MM else straight(np.asarray(ring.coords))


def _smooth(ring: np.ndarray) -> np.ndarray:
    """A ring (n, 2) of places close to each other as cubics, its corners kept."""
    corners = sharp_points(ring, CORNER_DEG, closed=True)
    first = int(corners[0]) if len(corners) else 0
    points = np.roll(ring, -first, axis=0)
    points = np.vstack([points, points[:1]])
    return fit_path(points, sharp_points(points), WITHIN_MM)[0]
