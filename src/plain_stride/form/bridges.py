"""Gaps between lines bridged for understanding only: bridges are never drawn.

They go from each free end to every line within JOINED_MM, else straight to the nearest one within BRIDGE_MM.
"""

from typing import Any

import numpy as np

JOINED_MM, BRIDGE_MM = 0.5, 3.0
TOUCH_MM = 1e-4


def bridged(
    lines: list[Any], within: float = BRIDGE_MM, half: np.ndarray | None = None
) -> tuple[np.ndarray, np.ndarray]:
    """(bridges (n, 2, 2), loose ends (m, 2)), mm, of the free ends of Shapely lines, no bridge longer than `within`. n
    log n in the lines. half (k,): half-widths of the lines' ink, where the gaps are measured between edges of ink."""
    import shapely

    free = np.flatnonzero(~shapely.is_closed(lines)) if len(lines) else np.zeros(0, int)
    own = np.repeat(free, 2)
    spots = shapely.get_point(np.asarray(lines)[own], np.tile([0, -1], len(free)))
    if not len(own):
        return np.zeros((0, 2, 2)), np.zeros((0, 2))
    thick = np.zeros(len(lines)) if half is None else half
    end, far, to = _targets(lines, own, spots, within, thick)
    places = shapely.get_coordinates(spots)
    joined = far <= JOINED_MM
    nearest = np.zeros(len(end), bool)
    first = np.unique(end, return_index=True)[1]
    nearest[first] = True
    chosen = joined | (nearest & ~np.isin(end, end[joined]))
    bridges = [_bridge(places[k], place) for k, place in zip(end[chosen], to[chosen], strict=True)
               if np.hypot(*(place - places[k])) > 1e-9]  # fmt: skip
    loose = places[np.setdiff1d(np.arange(len(own)), end)]
    return np.array(bridges).reshape(-1, 2, 2), loose


def _targets(
    lines: list[Any], own: np.ndarray, spots: Any, within: float, half: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(end (k,), mm (k,), place (k, 2)): every line within so many mm of each free end, and the rest of the end's own
    line, by end and then by how far. own, spots (m,): the line and the point of each free end."""
    import shapely

    tree = shapely.STRtree(lines)
    most = float(half.max(initial=0.0))
    end, other = tree.query(spots, predicate="dwithin", distance=within + 2.0 * most)
    apart = other != own[end]
    end, there = end[apart], np.asarray(lines, dtype=object)[other[apart]]
    rest = [(k, _beyond(lines[own[k]], k % 2, within)) for k in _come_back(lines, own, spots, within)]
    ink = half[own[end]] + half[other[apart]]
    ink = np.concatenate([ink, 2.0 * half[own[[k for k, _ in rest]]]]) if rest else ink
    end = np.concatenate([end, np.array([k for k, _ in rest], int)])
    there = np.concatenate([there, np.array([far for _, far in rest], dtype=object)])
    legs = shapely.shortest_line(spots[end], there)
    far = shapely.length(legs) - ink
    near = np.flatnonzero(far <= within)
    near = near[np.lexsort((far[near], end[near]))]
    return end[near], far[near], shapely.get_coordinates(legs).reshape(-1, 2, 2)[near, 1]


def _bridge(here: np.ndarray, to: np.ndarray) -> np.ndarray:
    """From a free end to a place on a line, and a little over it, so that rounding never leaves it short."""
    leg = to - here
    return np.array([here, to + leg / np.hypot(*leg) * TOUCH_MM])


def _come_back(lines: list[Any], own: np.ndarray, spots: Any, within: float) -> list[int]:
    """The free ends whose own line is long enough to come near them again: all of it but twice `within` could reach
    back from its other end."""
    import shapely

    length = shapely.length(np.asarray(lines)[own])
    places = shapely.get_coordinates(spots).reshape(-1, 2, 2)
    apart = np.repeat(np.hypot(*(places[:, 1] - places[:, 0]).T), 2)
    reach = 2.0 * within
    return np.flatnonzero((length > reach) & (apart <= length - reach + within)).tolist()


def _beyond(line: Any, end: int, within: float) -> Any:
    """A line without the stretch at its start (0) or its end (1) that can only lie near it: twice `within`."""
    import shapely

    points = shapely.get_coordinates(line)
    if end == 1:
        points = points[::-1]
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    cut = [np.interp(2.0 * within, s, points[:, k]) for k in (0, 1)]
    return shapely.LineString(np.vstack([cut, points[s > 2.0 * within]]))


def between_ends(lines: list[np.ndarray], within: float) -> list[np.ndarray]:
    """Bridges (2, 2) between free ends of lines (n, 2) that lie so many mm apart or less: a gap in an outline leads on
    to its other side, whatever lies nearer. Both ends of one line as well, where it is longer than twice that."""
    from scipy.spatial import cKDTree

    free = [k for k, points in enumerate(lines) if len(points) > 1 and np.hypot(*(points[-1] - points[0])) > 1e-6]
    if not free:
        return []
    ends = np.array([lines[k][end] for k in free for end in (0, -1)])
    own = np.repeat(free, 2)
    far = {k: float(np.hypot(*np.diff(lines[k], axis=0).T).sum()) > 2.0 * within for k in free}
    pairs = cKDTree(ends).query_pairs(within, output_type="ndarray")
    return [ends[pair] for pair in pairs if (own[pair[0]] != own[pair[1]] or far[own[pair[0]]])
            and np.hypot(*(ends[pair[0]] - ends[pair[1]])) > 1e-9]  # fmt: skip


def across(loose: np.ndarray, within: float) -> list[np.ndarray]:
    """Bridges (2, 2) between places (n, 2), each used once, the nearest pairs first: a form that is left open, as a cat
    on a beam, ends at two of them."""
    from scipy.spatial import cKDTree

    if len(loose) < 2:
        return []
    pairs = cKDTree(loose).query_pairs(within, output_type="ndarray")
    far = np.hypot(*(loose[pairs[:, 0]] - loose[pairs[:, 1]]).T)
    out, used = list[np.ndarray](), set[int]()
    for k in np.argsort(far, kind="stable"):
        a, b = pairs[k].tolist()
        if far[k] > 1e-9 and not used & {a, b}:
            used |= {a, b}
            out.append(loose[[a, b]])
    return out
