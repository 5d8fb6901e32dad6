"""Blacks: filled shapes with holes, kept as closed chains of cubics and the rule by which they are filled."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plain_stride.lines.affine import Affine
from plain_stride.lines.curve import flatten, straight
from plain_stride.lines.errors import LinesError
from plain_stride.lines.outline import signed_area
from plain_stride.measure import FARTHEST_MM

FLAT_MM = 0.002
RULES = ("evenodd", "nonzero")
_LEAST_MM2 = 1e-9
MOST_MEETINGS, CHECKED_AT_ONCE = 200_000, 200
"""Edges that meet another one than their neighbours, counted from both sides."""


class BlackError(LinesError):
    """Outlines that go round nothing."""


@dataclass(frozen=True, eq=False)
class Black:
    """curves: closed chains of cubics (m, 4, 2), each ending where it starts; rule: evenodd or nonzero."""

    curves: tuple[np.ndarray, ...]
    rule: str = "evenodd"

    @cached_property
    def rings(self) -> list[np.ndarray]:
        """Edge as rings of points (n, 2), outer ones and holes turning opposite ways; none repeats its first point."""
        flat = [flatten(curve, FLAT_MM)[:-1] for curve in self.curves]
        return filled_rings([ring for ring in flat if len(ring) > 2], self.rule)

    @cached_property
    def box(self) -> tuple[float, float, float, float]:
        """(x0, y0, x1, y1) that holds it. All in mm."""
        points = np.concatenate([curve.reshape(-1, 2) for curve in self.curves])
        (x0, y0), (x1, y1) = points.min(axis=0), points.max(axis=0)
        return float(x0), float(y0), float(x1), float(y1)

    def mapped(self, by: Affine) -> "Black":
        """The same black under a map."""
        return Black(tuple(by.of(curve) for curve in self.curves), self.rule)


def black_of_rings(rings: Sequence[np.ndarray], rule: str = "evenodd") -> Black:
    """A black with straight edges between the points (n, 2) of its rings. Raises BlackError."""
    curves = []
    for ring in rings:
        points = np.asarray(ring, float)
        apart = np.concatenate([[True], np.hypot(*np.diff(points, axis=0).T) > 1e-6])
        points = points[apart]
        if len(points) > 1 and np.hypot(*(points[-1] - points[0])) <= 1e-6:
            points = points[:-1]
        if len(points) > 2:
            curves.append(straight(np.vstack([points, points[:1]])))
    return checked(Black(tuple(curves), rule))


def checked(black: Black) -> Black:
    """The same. Raises BlackError where it encloses nothing or is no shape at all."""
    if black.rule not in RULES:
        raise BlackError(f"a black is filled by {' or '.join(RULES)}, not '{black.rule}'")
    if not black.curves or not all(np.isfinite(c).all() and np.abs(c).max() <= FARTHEST_MM for c in black.curves):
        raise BlackError(f"a black's outlines are closed chains of points within {FARTHEST_MM:,.0f} mm of the board")
    if not black.rings:
        raise BlackError("a black's outlines enclose nothing")
    return black


def filled_rings(rings: list[np.ndarray], rule: str) -> list[np.ndarray]:
    """What a rule fills of rings (n, 2) that may cross themselves and each other, as rings that do not."""
    import shapely

    if not rings:
        return []
    if len(rings) == 1 and shapely.is_valid(shapely.Polygon(rings[0])):
        ring = rings[0] if signed_area(rings[0]) > 0 else rings[0][::-1]
        return [ring] if abs(signed_area(ring)) > _LEAST_MM2 else []
    _check_crossings(rings)
    net = shapely.unary_union([shapely.LinearRing(ring) for ring in rings])
    faces = list(shapely.polygonize([net]).geoms)
    inside = np.array([face.representative_point().coords[0] for face in faces]).reshape(-1, 2)
    turns = np.sum([winding(ring, inside) for ring in rings], axis=0)
    # Turns of opposite sense cancel for nonzero only; their number modulo 2 is the same with either sign.
    kept = turns % 2 != 0 if rule == "evenodd" else turns != 0
    whole = shapely.unary_union([face for face, keep in zip(faces, kept, strict=True) if keep])
    out = []
    for polygon in getattr(whole, "geoms", [whole]):
        if polygon.geom_type == "Polygon" and polygon.area > _LEAST_MM2:
            polygon = shapely.orient_polygons(polygon)
            out += [np.asarray(ring.coords)[:-1] for ring in (polygon.exterior, *polygon.interiors)]
    return out


def _check_crossings(rings: list[np.ndarray]) -> None:
    """Raises BlackError where the edges of rings may cross each other more often than any drawing's do: what comes of
    them would be the square of them. Pairs whose boxes meet are counted, and no more of them than that."""
    import shapely

    ends = np.concatenate([np.stack([ring, np.roll(ring, -1, axis=0)], axis=1) for ring in rings])
    edges = shapely.linestrings(ends)
    tree, pairs = shapely.STRtree(edges), 0
    for k in range(0, len(edges), CHECKED_AT_ONCE):
        pairs += len(tree.query(edges[k : k + CHECKED_AT_ONCE], predicate="intersects")[0])
        if pairs > MOST_MEETINGS + 3 * (k + CHECKED_AT_ONCE):
            raise BlackError(f"a fill crosses itself more than {MOST_MEETINGS // 2:,} times: draw it in pieces")


def winding(ring: np.ndarray, at: np.ndarray) -> np.ndarray:
    """How often a ring (n, 2) goes round each of the places (k, 2): rising crossings of a ray less falling ones."""
    a, b = ring, np.roll(ring, -1, axis=0)
    out = np.zeros(len(at), int)
    for k, (x, y) in enumerate(at):
        up, down = (a[:, 1] <= y) & (b[:, 1] > y), (a[:, 1] > y) & (b[:, 1] <= y)
        left = (b[:, 0] - a[:, 0]) * (y - a[:, 1]) - (x - a[:, 0]) * (b[:, 1] - a[:, 1])
        out[k] = np.count_nonzero(up & (left > 0)) - np.count_nonzero(down & (left < 0))
    return out


def packed(black: Black) -> tuple[bytes, list[int]]:
    """(all cubics as little-endian float64, how many each outline has) for the file."""
    return np.concatenate(black.curves).astype("<f8").tobytes(), [len(curve) for curve in black.curves]


def unpacked(curve: bytes, counts: list[int], rule: str) -> Black:
    """The black that `packed` laid out."""
    cubics = np.frombuffer(curve, "<f8").reshape(-1, 4, 2)
    cuts = np.cumsum([0, *counts])
    return Black(tuple(cubics[a:b] for a, b in itertools.pairwise(cuts.tolist())), rule)
