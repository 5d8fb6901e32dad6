"""Where an area of the flats map is open at a gap that is wider than what is bridged, and how much would close with it.

A line from a free end to what lies nearest before it parts an area where both hang together already. How large what it
parts is, is looked at near it alone.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.form.bridges import bridged
from plain_stride.form.cover import GRID_MM, SIMPLE_MM
from plain_stride.form.flats import Bound, FlatsMap

MOST_GAP_MM, LEAST_MM2 = 5.0, 4.0
"""A wider gap is no leak but open; a smaller area is none."""
OVER_MM, ASIDE_MM, REACH_MM = 0.02, 0.05, 40.0
"""How far what closes a gap goes over its ends; how far beside it its two sides are looked for, in lines so near."""


@dataclass(frozen=True)
class FlatLeak:
    """at: the middle of the gap, mm; gap: mm of white; area: mm2 that would close, None where it goes farther than
    REACH_MM; lines: on its two sides, part: of the first one."""

    at: tuple[float, float]
    gap: float
    area: float | None
    lines: tuple[str, ...]
    part: str


def leaks_of(found: FlatsMap, bounds: Sequence[Bound], gap: float) -> tuple[FlatLeak, ...]:
    """Leaks at free ends, the largest areas first. gap: mm that is bridged already."""
    import shapely

    known = [bound for bound in bounds if len(bound.points) > 1]
    if not known:
        return ()
    lines = list(shapely.simplify([shapely.LineString(one.points) for one in known], SIMPLE_MM))
    half = np.array([one.half for one in known])
    legs, _ = bridged(lines, max(MOST_GAP_MM, gap), half)
    if not len(legs):
        return ()
    tree, out = shapely.STRtree(lines), []
    spots = shapely.points(legs.reshape(-1, 2))
    near = tree.query_nearest(spots, all_matches=False)[1].reshape(-1, 2)
    seen: set[tuple[int, ...]] = set()
    for leg, (a, b) in zip(legs, near.tolist(), strict=True):
        white = float(np.hypot(*(leg[1] - leg[0]))) - half[a] - half[b]
        # Inner lines that end freely within a form leak nothing: what goes round it does.
        if white <= gap or not known[a].outer or found.joined[a] != found.joined[b]:
            continue
        closed = _closed(tree, lines, leg)
        middle = tuple(np.rint(leg.mean(axis=0) / MOST_GAP_MM).astype(int).tolist())
        if (closed is not None and closed < LEAST_MM2) or middle in seen:
            continue
        seen.add(middle)
        x, y = leg.mean(axis=0).tolist()
        names = tuple(dict.fromkeys((known[a].line, known[b].line)))
        out.append(FlatLeak((x, y), white, closed, names, known[a].part))
    return tuple(sorted(out, key=lambda one: -(one.area or np.inf)))


def _closed(tree: Any, lines: Sequence[Any], leg: np.ndarray) -> float | None:
    """mm2 of the smaller area that a leg (2, 2) parts from another one; None where both go farther than REACH_MM."""
    import shapely

    at = leg.mean(axis=0)
    box = shapely.box(*(at - REACH_MM), *(at + REACH_MM))
    way = leg[1] - leg[0]
    way = way / max(float(np.hypot(*way)), 1e-9)
    closing = shapely.LineString([leg[0] - way * OVER_MM, leg[1] + way * OVER_MM])
    near = [lines[k] for k in np.sort(tree.query(box)).tolist()]
    drawn = shapely.union_all([box.boundary, closing, *near], grid_size=GRID_MM)
    faces = shapely.get_parts(shapely.polygonize([drawn]))
    sides = [at + sign * ASIDE_MM * np.array([-way[1], way[0]]) for sign in (1.0, -1.0)]
    beside = [face for side in sides for face in faces if shapely.intersects_xy(face, *side)]
    whole = [face.area for face in beside if not shapely.intersects(face, box.exterior)]
    return float(min(whole)) if whole else None if beside else 0.0
