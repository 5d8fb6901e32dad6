"""The area round a place: what lines enclose there, gaps in them bridged, islands left out.

Only what lies near is noded: the neighbourhood grows until the area lies inside it.
"""

from collections.abc import Sequence
from typing import Any

import numpy as np

from plain_stride.form.bridges import between_ends, bridged
from plain_stride.form.cover import GRID_MM

REACH_MM, GROWTH = 20.0, 2.5


class Rooms:
    """The areas that Shapely lines enclose; asked for one after the other. gap: mm of white in a line that does not
    open an area."""

    def __init__(self, lines: Sequence[Any], gap: float) -> None:
        import shapely

        self._lines, self._gap = list(lines), gap
        self._tree = shapely.STRtree(self._lines)

    def round_place(self, at: np.ndarray) -> Any:
        """The area, a Shapely polygon with its islands as holes, that a place (2,) mm lies in; None where it is open.
        n log n in the lines near it."""
        import shapely

        reach, bounds = REACH_MM, shapely.total_bounds(self._lines) if self._lines else np.zeros(4)
        while True:
            box = np.array([at - reach, at + reach])
            area = self._face(at, box)
            if area is not None and _lies_in(area.bounds, box):
                return area
            if _lies_in(bounds, box):
                return area
            reach *= GROWTH

    def _face(self, at: np.ndarray, box: np.ndarray) -> Any:
        import shapely

        near = np.sort(self._tree.query(shapely.box(*box.ravel())))
        if not len(near):
            return None
        lines = [self._lines[k] for k in near]
        bridges = [*bridged(lines, self._gap)[0], *between_ends([shapely.get_coordinates(one) for one in lines],
                                                                self._gap)] if self._gap > 0.0 else []  # fmt: skip
        whole = shapely.union_all([*lines, *map(shapely.LineString, bridges)], grid_size=GRID_MM)
        faces = shapely.get_parts(shapely.polygonize([whole]))
        place = shapely.Point(at)
        holding = faces[shapely.intersects(faces, place)]
        return min(holding, key=lambda face: face.area, default=None)


def _lies_in(bounds: Any, box: np.ndarray) -> bool:
    x0, y0, x1, y1 = bounds
    return bool(x0 >= box[0, 0] and y0 >= box[0, 1] and x1 <= box[1, 0] and y1 <= box[1, 1])
