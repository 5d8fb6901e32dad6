"""Which stretches of lines are outside, and on which side of them the form lies.

Outside is the edge of all that the lines enclose together, with gaps bridged: between free ends as well, so that a gap
in an outline leads on along it, and not to what lies nearer inside; a form that is left open is closed across. Rings
within rings are filled: a hole looks like a disc that is drawn on the form.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.form.bridges import across, between_ends, bridged
from plain_stride.form.cover import SIMPLE_MM, enclosed
from plain_stride.form.places import Along

ENDS_MM, OPEN_MM, ON_EDGE_MM, FORM_MM = 4.0, 25.0, 0.06, 0.25
"""How far free ends lie from each other where the gap between them is bridged, and where a form is left open; how
near an edge a place is on it; how far aside it is looked for the form."""


@dataclass(frozen=True, eq=False)
class Outside:
    """points (n, 2) mm along a line, evenly; outside (n,): whether it is outside there; form (n,): 1 where the form
    lies to its left, -1 to its right, 0 on both sides or on none."""

    points: np.ndarray
    outside: np.ndarray
    form: np.ndarray

    @property
    def share(self) -> float:
        """How much of the line is outside, 0 to 1."""
        return float(self.outside.mean())


def outside_of(centres: Sequence[np.ndarray], alongs: Sequence[Along]) -> list[Outside]:
    """What of lines is outside. centres: their centrelines (n, 2) mm, a closed one repeating its first point; alongs:
    the places along each at which it is told. n log n in all their points."""
    import shapely

    area = _form(centres)
    if area is None:
        return [_none(along.points) for along in alongs]
    edge = shapely.boundary(area)
    shapely.prepare(edge)
    shapely.prepare(area)
    every, left = np.vstack([along.points for along in alongs]), np.vstack([along.left for along in alongs]) * FORM_MM
    outside = shapely.dwithin(edge, shapely.points(every), ON_EDGE_MM)
    on_left, on_right = (shapely.contains_xy(area, *(every + side * left).T) for side in (1.0, -1.0))
    form = on_left.astype(int) - on_right.astype(int)
    cuts, points = np.cumsum([len(along.s) for along in alongs])[:-1], [along.points for along in alongs]
    return [Outside(*rows) for rows in zip(points, np.split(outside, cuts), np.split(form, cuts), strict=True)]


def _form(centres: Sequence[np.ndarray]) -> Any:
    """What lines enclose with all gaps bridged; None where that is nothing."""
    import shapely

    several = [points for points in centres if len(points) > 1]
    if not several:
        return None
    line = np.repeat(np.arange(len(several)), [len(points) for points in several])
    lines = list(shapely.simplify(shapely.linestrings(np.vstack(several), indices=line), SIMPLE_MM))
    short, loose = bridged(lines)
    ends = between_ends(list(centres), ENDS_MM)
    taken = {tuple(place) for bridge in ends for place in bridge.tolist()}
    open_ends = np.array([place for place in loose.tolist() if tuple(place) not in taken]).reshape(-1, 2)
    bridges = [*short, *ends, *across(open_ends, OPEN_MM)]
    area = enclosed([*lines, *map(shapely.LineString, bridges)])
    return None if area.is_empty else area


def _none(points: np.ndarray) -> Outside:
    return Outside(points, np.zeros(len(points), bool), np.zeros(len(points), int))
