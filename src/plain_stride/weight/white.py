"""White kept between lines: where two that do not meet lie so close that print would close the white between them, both
give way, as pairs: each alone would leave hairlines where lines run double."""

from dataclasses import dataclass

import numpy as np

from plain_stride.weight.plan import Plan
from plain_stride.weight.rule_book import WHITE
from plain_stride.weight.scene import HALO, Scene

JUNCTION_MM, ALONG_MM = 2.0, 0.26
"""So near a meeting lines may close; so far beside each other along the line two places are still opposite."""
TURNED = 0.5
"""The cosine above which two stretches run beside each other."""


@dataclass(frozen=True, eq=False)
class Closed:
    """Places (n,) of a plan that stay closed, with the place (n,) of the line that they close against."""

    here: np.ndarray
    there: np.ndarray


@dataclass(frozen=True)
class ClosedPair:
    """Two lines that stay closed against each other: ids, over how many mm, and where (mm)."""

    lines: tuple[str, str]
    length: float
    at: tuple[float, float]


def closed_pairs(scene: Scene, closed: Closed) -> list[ClosedPair]:
    """Which lines stay closed, the longest first."""
    places = scene.known.places
    if not len(closed.here):
        return []
    pairs = np.sort(np.column_stack([places.line[closed.here], places.line[closed.there]]), axis=1)
    kinds, which = np.unique(pairs, axis=0, return_inverse=True)
    out = []
    for k, (a, b) in enumerate(kinds.tolist()):
        on_one = np.unique(np.where(places.line[closed.here] == a, closed.here, closed.there)[which.ravel() == k])
        x, y = places.points[on_one[len(on_one) // 2]].tolist()
        out.append(ClosedPair((places.lines[a], places.lines[b]), float(places.weight[on_one].sum()), (x, y)))
    return sorted(out, key=lambda pair: (-pair.length, pair.at))


def kept_apart(scene: Scene, plan: Plan, wide: np.ndarray) -> tuple[np.ndarray, Closed]:
    """Widths (n,) so that the plan's white stays between lines, none below the plan's share; and what stays closed."""
    rule, least = plan.rule(WHITE), plan.rule(WHITE)["least"] / 100.0
    a, b, apart = _pairs(scene, rule["white"] + float(wide.max(initial=0.0)))
    own = np.where(scene.role == HALO, 0.0, wide)
    together = (own[a] + own[b]) / 2.0
    near = (together > 0.0) & (apart - rule["white"] < together)
    a, b, apart, together = a[near], b[near], apart[near], together[near]
    fits = np.maximum(apart - rule["white"], 0.0) / together
    factor = np.ones(len(wide))
    for side in (a, b):
        np.minimum.at(factor, side, np.maximum(fits, least))
    shut = fits < least
    return wide * np.where(scene.role == HALO, 1.0, factor), Closed(a[shut], b[shut])


def _pairs(scene: Scene, within: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(a, b, mm): places of lines that run beside each other and do not meet there, and how far apart their middles
    are."""
    from scipy.spatial import cKDTree

    places = scene.known.places
    free = np.flatnonzero(~scene.known.hidden & ~_near_a_meeting(scene))
    pairs = cKDTree(places.points[free]).query_pairs(within, output_type="ndarray")
    a, b = free[pairs[:, 0]], free[pairs[:, 1]]
    beside = (places.line[a] != places.line[b]) & (np.abs((places.way[a] * places.way[b]).sum(axis=1)) > TURNED)
    a, b = a[beside], b[beside]
    off = places.points[b] - places.points[a]
    along = np.abs((off * places.way[a]).sum(axis=1))
    opposite = along <= np.maximum(ALONG_MM, places.step[places.line[b]] / 2.0)
    a, b, off, along = a[opposite], b[opposite], off[opposite], along[opposite]
    return a, b, np.sqrt(np.maximum((off * off).sum(axis=1) - along * along, 0.0))


def _near_a_meeting(scene: Scene) -> np.ndarray:
    places, found = scene.known.places, scene.known.junctions
    met = found.only(found.joined)
    out = np.zeros(len(places.s), bool)
    here, step = places.at(met.line, met.s), places.step[met.line]
    reach = np.minimum(JUNCTION_MM / np.maximum(step, 1e-9), places.counts[met.line])
    for by in range(int(reach.max(initial=0.0)) + 1):
        near = here[by * step <= JUNCTION_MM]
        for side in (by, -by):
            out[places.shifted_from(near, side)] = True
    return out
