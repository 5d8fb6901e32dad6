"""The field that a tone fills: an area of the sheet, with holes, and how it is asked about."""

from collections.abc import Sequence
from functools import cached_property
from typing import Any

import numpy as np

from plain_stride.lines.area_black import area_of_rings
from plain_stride.tone.errors import ToneError

LEAST_MM2, MOST_MM2, MOST_PLACES = 0.01, 4e6, 20_000
SAMPLES = 4096


class Field:
    """area: shapely's own, valid, mm."""

    def __init__(self, area: Any) -> None:
        """Raises ToneError where there is next to nothing, or far too much, of it."""
        import shapely

        if not LEAST_MM2 <= area.area <= MOST_MM2:
            raise ToneError(
                f"a tone fills an area of {LEAST_MM2:g} to {MOST_MM2:,.0f} mm2, not one of {area.area:,.3g} mm2:"
                " draw round more, or less, of the sheet"
            )
        self.area = area
        shapely.prepare(area)

    @cached_property
    def box(self) -> tuple[float, float, float, float]:
        """(x0, y0, x1, y1), mm."""
        x0, y0, x1, y1 = self.area.bounds
        return float(x0), float(y0), float(x1), float(y1)

    @property
    def middle(self) -> np.ndarray:
        """(2,) mm: the middle of its box."""
        x0, y0, x1, y1 = self.box
        return np.array([(x0 + x1) / 2.0, (y0 + y1) / 2.0])

    @property
    def reach(self) -> float:
        """mm: half the diagonal of its box."""
        x0, y0, x1, y1 = self.box
        return float(np.hypot(x1 - x0, y1 - y0)) / 2.0

    @cached_property
    def corners(self) -> np.ndarray:
        """All places (n, 2) of its edges."""
        import shapely

        return np.asarray(shapely.get_coordinates(self.area))

    @cached_property
    def inside(self) -> np.ndarray:
        """Places (n, 2) spread evenly over it, to sum over: low discrepancy (Roberts' R2 sequence), the same each
        time."""
        import shapely

        x0, y0, x1, y1 = self.box
        share = self.area.area / max((x1 - x0) * (y1 - y0), 1e-9)
        n = np.arange(int(min(SAMPLES / max(share, 1e-3), 400_000)))
        golden = 1.32471795724474602596
        at = np.column_stack([(0.5 + n / golden) % 1.0, (0.5 + n / golden**2) % 1.0])
        at = at * (x1 - x0, y1 - y0) + (x0, y0)
        found = at[shapely.contains_xy(self.area, at[:, 0], at[:, 1])]
        return found if len(found) else np.asarray(self.area.representative_point().coords)

    def rings(self) -> list[np.ndarray]:
        """Its edges (n, 2), none repeating its first point, holes among them."""
        import shapely

        parts = shapely.get_parts(self.area)
        return [np.asarray(ring.coords)[:-1] for part in parts for ring in (part.exterior, *part.interiors)]


def field_of(rings: Sequence[np.ndarray]) -> Field:
    """What lies inside an odd number of rings (n, 2) mm, which may cross themselves. Raises ToneError."""
    places = [np.asarray(ring, float) for ring in rings]
    for points in places:
        if points.ndim != 2 or points.shape[1] != 2 or not 3 <= len(points) <= MOST_PLACES:
            raise ToneError(f"a field is drawn round by 3 to {MOST_PLACES:,} places [x, y] in mm")
        if not np.isfinite(points).all():
            raise ToneError("a field's places are finite numbers in mm")
    return Field(_areas_only(area_of_rings(places)))


def _areas_only(shape: Any) -> Any:
    """The polygons of a shape: what made it valid may have left lines and points."""
    import shapely

    parts = [part for part in shapely.get_parts(shape) if part.geom_type == "Polygon"]
    return shapely.union_all(parts) if parts else shapely.Polygon()
