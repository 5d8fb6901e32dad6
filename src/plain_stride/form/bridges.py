"""Gaps between lines bridged for understanding only: bridges are never drawn.

They go from each free end to every line within JOINED_MM, else straight to the nearest one within BRIDGE_MM.
"""

from typing import Any

import numpy as np

JOINED_MM, BRIDGE_MM = 0.5, 3.0
TOUCH_MM = 1e-4


def bridged(lines: list[Any]) -> tuple[np.ndarray, np.ndarray]:
    """(bridges (n, 2, 2), loose ends (m, 2)), mm, of the free ends of Shapely lines. n log n in the lines."""
    import shapely

    tree = shapely.STRtree(lines)
    bridges, loose = [], []
    for k, line in enumerate(lines):
        if line.is_closed:
            continue
        for end in (0, -1):
            at = shapely.get_point(line, end)
            near = [(d, to) for d, to in _targets(lines, tree, k, end, at) if d <= BRIDGE_MM]
            joined = [to for d, to in near if d <= JOINED_MM]
            chosen = joined or [to for _, to in sorted(near, key=lambda item: item[0])[:1]]
            here = shapely.get_coordinates(at)[0]
            if not chosen:
                loose.append(here)
            bridges += [_bridge(here, to) for to in chosen if np.hypot(*(to - here)) > 1e-9]
    return np.array(bridges).reshape(-1, 2, 2), np.array(loose).reshape(-1, 2)


def _targets(lines: list[Any], tree: Any, k: int, end: int, at: Any) -> list[tuple[float, np.ndarray]]:
    """(distance, nearest point) of all lines within BRIDGE_MM of the end of line k, and of the rest of that line."""
    import shapely

    others = [lines[j] for j in tree.query(at, predicate="dwithin", distance=BRIDGE_MM).tolist() if j != k]
    rest = _beyond(lines[k], end)
    out = []
    for line in [*others, *([rest] if rest is not None else [])]:
        to = shapely.get_coordinates(shapely.shortest_line(at, line))[1]
        out.append((float(np.hypot(*(to - shapely.get_coordinates(at)[0]))), to))
    return out


def _bridge(here: np.ndarray, to: np.ndarray) -> np.ndarray:
    """From a free end to a place on a line, and a little over it, so that rounding never leaves it short."""
    leg = to - here
    return np.array([here, to + leg / np.hypot(*leg) * TOUCH_MM])


def _beyond(line: Any, end: int) -> Any | None:
    """A line without the stretch at one of its ends that can only lie near it: twice BRIDGE_MM; None if it is all."""
    from shapely.ops import substring

    if line.length <= 2.0 * BRIDGE_MM:
        return None
    return (
        substring(line, 2.0 * BRIDGE_MM, line.length) if end == 0 else substring(line, 0, line.length - 2 * BRIDGE_MM)
    )


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
