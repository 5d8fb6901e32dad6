"""Which ends of the demo's lines meet another line: an inker closes every meeting, and points only what runs free."""

from collections.abc import Sequence

import numpy as np

MEETS_MM = 1.3
"""How near another line an end lies that is meant to meet it, or the line's own other end."""
Ends = tuple[str, str]


def ends_of(lines: Sequence[np.ndarray]) -> list[Ends]:
    """The kinds of both ends of each of a thing's lines (n, 2) mm: 'round' where it meets, else 'pointed'."""
    import shapely

    whole = [shapely.LineString(points) for points in lines]
    out: list[Ends] = []
    for k, points in enumerate(lines):
        others = shapely.union_all([line for n, line in enumerate(whole) if n != k])
        first, last = (shapely.Point(points[at]) for at in (0, -1))
        if first.distance(last) <= MEETS_MM and whole[k].length > 2.0 * MEETS_MM:
            out.append(("round", "round"))
            continue
        kinds = ["round" if end.distance(others) <= MEETS_MM else "pointed" for end in (first, last)]
        out.append((kinds[0], kinds[1]))
    return out
