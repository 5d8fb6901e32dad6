"""Loose ends carried on to the line that they run out towards, where some pencil leads there: of several passes one
reached it, and that is what was meant."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from plain_stride.pencils.read.centres import ACROSS_MM, Centre, across
from plain_stride.pencils.read.corners import STEP_MM
from plain_stride.pencils.read.flat import Flat
from plain_stride.pencils.read.ridges import Kind

REACH_W, BACK_MM, HIT_MM, NARROW_MM = 3.5, 2.0, 0.3, 0.35
"""How far an end may be carried; over how much its direction is read; how near it comes to the other line; how far
aside pencil is looked for."""
SOME = 0.12
"""Share of a line's own darkness that leads on."""
MOST_NEAR = 12


def reached(centres: Sequence[Centre], flat: Flat, kind: Kind) -> list[Centre]:
    """The same, some with their ends farther on. n log n in their points."""
    from scipy.spatial import cKDTree

    if len(centres) < 2:
        return list(centres)
    points = np.vstack([c.points for c in centres])
    owner = np.repeat(np.arange(len(centres)), [len(c.points) for c in centres])
    tree = cKDTree(points)
    out = []
    for n, centre in enumerate(centres):
        for end in (0, 1):
            if not centre.closed and centre.tips[end] and len(centre.points) > 3:
                centre = _carried_on(centre, end, _Others(tree, points, owner, n), flat, kind)
        out.append(centre)
    return out


class _Others:
    """The points of all lines but one."""

    def __init__(self, tree: Any, points: np.ndarray, owner: np.ndarray, own: int) -> None:
        self._tree, self._points, self._owner, self._own = tree, points, owner, own

    def first_on(self, way: np.ndarray) -> tuple[int, np.ndarray] | None:
        """(which of some places (k, 2) is the first that lies on another line, the place there)."""
        far, at = self._tree.query(way, k=MOST_NEAR, distance_upper_bound=HIT_MM)
        found = np.isfinite(far)
        others = found & (self._owner[np.where(found, at, 0)] != self._own)
        rows = np.flatnonzero(others.any(axis=1))
        if not len(rows):
            return None
        row = int(rows[0])
        return row, self._points[at[row][int(np.argmax(others[row]))]]


def _carried_on(centre: Centre, end: int, others: _Others, flat: Flat, kind: Kind) -> Centre:
    points = centre.points if end else centre.points[::-1]
    back = points[-max(3, min(len(points), round(BACK_MM / STEP_MM))) :]
    way = (back[-1] - back[0]) / max(float(np.hypot(*(back[-1] - back[0]))), 1e-9)
    ray = points[-1] + way * np.arange(1, round(REACH_W * kind.width / STEP_MM) + 1)[:, None] * STEP_MM
    hit = others.first_on(ray)
    if hit is None or hit[0] == 0:
        return centre
    steps, place = hit
    leg = ray[: steps + 1]
    dark, _ = across(leg, np.broadcast_to(way, leg.shape), flat, NARROW_MM)
    if float(dark.sum(axis=1).min()) * ACROSS_MM < SOME * float(np.median(centre.mass)):
        return centre
    more = np.vstack([leg[:-1], place])
    pad = (0, len(more)) if end else (len(more), 0)
    joined = np.vstack([centre.points, more]) if end else np.vstack([more[::-1], centre.points])
    tips = (centre.tips[0], False) if end else (False, centre.tips[1])
    return replace(centre, points=joined, spread=np.pad(centre.spread, pad, constant_values=np.nan),
                   mass=np.pad(centre.mass, pad, mode="edge"), tips=tips,
                   corners=tuple(k + pad[0] for k in centre.corners))  # fmt: skip
