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

ENDS_MM, OPEN_MM, ON_EDGE_MM, FORM_MM, STEP_MM, LEAST_PLACES = 4.0, 25.0, 0.06, 0.25, 0.5, 9
"""How far free ends lie from each other where the gap between them is bridged, and where a form is left open; how
near an edge a place is on it; how far aside it is looked for the form; how far apart places lie along a line, and how
many there are at least."""


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


def outside_of(centres: Sequence[np.ndarray], places: Sequence[np.ndarray] | None = None) -> list[Outside]:
    """What of lines is outside. centres: their centrelines (n, 2) mm, a closed one repeating its first point; places:
    those (k, 2) along each at which it is told, else some evenly apart. n log n in all their points."""
    import shapely

    places = [_along(points) for points in centres] if places is None else places
    area = _form(centres)
    if area is None:
        return [_none(points) for points in places]
    edge = shapely.boundary(area)
    shapely.prepare(edge)
    shapely.prepare(area)
    every, counts = np.vstack(places), [len(points) for points in places]
    outside = shapely.dwithin(edge, shapely.points(every), ON_EDGE_MM)
    left = left_of(every, np.cumsum([0, *counts])) * FORM_MM
    on_left, on_right = (shapely.contains_xy(area, *(every + side * left).T) for side in (1.0, -1.0))
    form = on_left.astype(int) - on_right.astype(int)
    cuts = np.cumsum(counts)[:-1]
    return [Outside(*rows) for rows in zip(places, np.split(outside, cuts), np.split(form, cuts), strict=True)]


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


def _along(points: np.ndarray) -> np.ndarray:
    """Places (n, 2) evenly along a line, its ends among them."""
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    at = np.linspace(0.0, s[-1], max(LEAST_PLACES, int(np.ceil(s[-1] / STEP_MM)) + 1))
    return np.column_stack([np.interp(at, s, points[:, k]) for k in (0, 1)])


def left_of(points: np.ndarray, starts: np.ndarray) -> np.ndarray:
    """(n, 2): directions to the left, of length 1, of lines that begin at these indices; y goes down."""
    n = len(points)
    before, after = np.arange(n) - 1, np.arange(n) + 1
    before[starts[:-1]] += 1
    after[starts[1:] - 1] -= 1
    way = points[after] - points[before]
    way /= np.maximum(np.hypot(*way.T), 1e-12)[:, None]
    return np.column_stack([way[:, 1], -way[:, 0]])


def _none(points: np.ndarray) -> Outside:
    return Outside(points, np.zeros(len(points), bool), np.zeros(len(points), int))
