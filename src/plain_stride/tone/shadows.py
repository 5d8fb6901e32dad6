"""Shadows of forms: the core shadow on a form's own far side, and the shadow that an edge casts.

A form is taken as round: where light comes along a direction, its own shadow lies between its edge and the same edge
moved towards the light, a crescent as deep as a share of the form is wide. A cast shadow is what the edge sweeps when
it is moved away from the light.
"""

from typing import Any

import numpy as np

from plain_stride.tone.errors import ToneError

LEAST_MM2 = 0.05


def form_width(area: Any) -> float:
    """mm: how wide a form is, twice the radius of the largest circle inside it."""
    import shapely

    return 2.0 * float(shapely.maximum_inscribed_circle(area).length)


def core_shadow(area: Any, away: np.ndarray, share: float) -> Any:
    """The part of an area (Shapely) that lies in its own shadow. away (2,): unit direction away from the light; share:
    of the form's width that is in shadow where it is turned straight away. Raises ToneError where nothing is."""
    import shapely

    if not 0.0 < share <= 1.0:
        raise ToneError(f"a core shadow takes a share of the form, above 0 and up to 1, not {share:g}")
    x, y = (-away * share * form_width(area)).tolist()
    return _whole(shapely.difference(area, shapely.transform(area, lambda p: p + (x, y))), "core shadow")


def cast_shadow(edge: np.ndarray, away: np.ndarray, length: float, onto: Any) -> Any:
    """The shadow that an edge (n, 2) mm casts on an area (Shapely). length: mm that it reaches. Raises ToneError where
    none falls there."""
    import shapely

    by = away * length
    quads = np.stack([edge[:-1], edge[1:], edge[1:] + by, edge[:-1] + by], axis=1)
    swept = shapely.union_all(shapely.make_valid(shapely.polygons(quads)))
    return _whole(shapely.intersection(swept, onto), "cast shadow")


def _whole(area: Any, what: str) -> Any:
    import shapely

    parts = [part for part in shapely.get_parts(area) if part.geom_type == "Polygon" and part.area > LEAST_MM2]
    if not parts:
        raise ToneError(f"no {what} falls there: turn the light, or make it longer")
    return shapely.union_all(parts)
