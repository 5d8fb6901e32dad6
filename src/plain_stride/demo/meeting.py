"""Which ends of the demo's lines meet another line: an inker closes every meeting, and points only what runs free."""

from collections.abc import Sequence

import numpy as np

MEETS_MM = 0.8
"""How near another line an end lies that is meant to meet it, or the line's own other end."""
THROUGH_MM = 0.2
"""How far a hand pulls on into what it meets: no farther than the ink that waits there."""
Ends = tuple[str, str]


def ends_of(lines: Sequence[np.ndarray], free: Sequence[bool]) -> list[Ends]:
    """The kinds of both ends of each of a thing's lines (n, 2) mm: 'round' where it meets, else 'pointed'. free: of
    each line, whether its ends are meant to run free wherever they lie, as those of details and texture."""
    import shapely

    whole = [shapely.LineString(points) for points in lines]
    out: list[Ends] = []
    for k, points in enumerate(lines):
        others = shapely.union_all([line for n, line in enumerate(whole) if n != k])
        first, last = (shapely.Point(points[at]) for at in (0, -1))
        if first.distance(last) <= MEETS_MM and whole[k].length > 2.0 * MEETS_MM:
            out.append(("round", "round"))
            continue
        if free[k]:
            out.append(("pointed", "pointed"))
            continue
        kinds = ["round" if end.distance(others) <= MEETS_MM else "pointed" for end in (first, last)]
        out.append((kinds[0], kinds[1]))
    return out


def pulled_through(points: np.ndarray, ends: Ends) -> np.ndarray:
    """A line (n, 2) mm that goes on straight where it meets another, but for rings, whose ends meet each other."""
    if np.hypot(*(points[-1] - points[0])) <= MEETS_MM:
        return points
    out = points
    if ends[0] == "round":
        out = np.vstack([_on(points[::-1]), out])
    if ends[1] == "round":
        out = np.vstack([out, _on(points)])
    return out


def _on(points: np.ndarray) -> np.ndarray:
    """(1, 2): where a line arrives that goes on from its end as it came."""
    way = points[-1] - points[max(len(points) - 4, 0)]
    return points[-1:] + way / max(float(np.hypot(*way)), 1e-9) * THROUGH_MM
