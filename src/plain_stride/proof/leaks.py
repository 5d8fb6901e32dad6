"""Whether a gap is a leak: whether closing it would close an area that a colourist fills, and how large that is.

Looked at near the gap alone: lines round it are noded with the gap closed, and the two sides of what closes it are
compared. An area that reaches farther than REACH_MM is taken for open.
"""

from typing import Any

import numpy as np

from plain_stride.form.bridges import bridged
from plain_stride.form.cover import GRID_MM
from plain_stride.proof.page import Page

REACH_MM, LEAST_MM2, ASIDE_MM, BRIDGED_MM = 35.0, 2.0, 0.08, 0.45
"""How far round a gap lines are looked at; a smaller area is no area; how far beside the gap its two sides are looked
for; other gaps up to so wide do not open an area."""


class Leaks:
    """The lines of a page, asked for leaks one after the other."""

    def __init__(self, page: Page) -> None:
        import shapely

        self._lines = [
            shapely.LineString(page.stroke(key).points) for key in page.black_lines if key not in page.hatching
        ]
        self._tree = shapely.STRtree(self._lines)

    def area(self, end: np.ndarray, to: np.ndarray) -> float | None:
        """mm2 of the smaller area that a line from an end (2,) to where it should reach (2,) would part from another;
        None where it parts none."""
        import shapely

        at = (end + to) / 2.0
        near = self._tree.query(shapely.box(*(at - REACH_MM), *(at + REACH_MM)))
        lines = [self._lines[k] for k in np.sort(near).tolist()]
        leg = to - end
        long = max(float(np.hypot(*leg)), 1e-6)
        # A little over both ends, so that rounding never leaves it short.
        closing = shapely.LineString([end - leg / long * 0.02, to + leg / long * 0.02])
        bridges = [shapely.LineString(one) for one in bridged(lines, BRIDGED_MM)[0]]
        whole = shapely.union_all([*lines, *bridges, closing], grid_size=GRID_MM)
        faces = shapely.get_parts(shapely.polygonize([whole]))
        across = np.array([-leg[1], leg[0]]) / long * ASIDE_MM
        sides = [self._holding(faces, at + side * across) for side in (1.0, -1.0)]
        areas = [float(face.area) for face in sides if face is not None]
        if not areas or sides[0] is sides[1] or min(areas) < LEAST_MM2:
            return None
        return min(areas)

    @staticmethod
    def _holding(faces: Any, at: np.ndarray) -> Any:
        import shapely

        inside = faces[shapely.contains_xy(faces, at[0], at[1])]
        return min(inside, key=lambda face: face.area, default=None)
