"""Rings of ink united to what they cover together."""

import numpy as np


def united(rings: list[np.ndarray]) -> list[np.ndarray]:
    """The edges of what rings (n, 2) cover together, holes the other way round."""
    import shapely
    from shapely.geometry import polygon

    area = shapely.union_all([shapely.make_valid(shapely.Polygon(ring)) for ring in rings if len(ring) > 2])
    out = []
    for part in shapely.get_parts(area):
        if part.geom_type == "Polygon":
            turned = polygon.orient(part)
            out += [np.asarray(ring.coords)[:-1] for ring in (turned.exterior, *turned.interiors)]
    return out
