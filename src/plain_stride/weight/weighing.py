"""A plan laid on a drawing: rules, white between lines, slope, smoothing, guarantees, in this order."""

from dataclasses import dataclass

import numpy as np

from plain_stride.form.places import Places
from plain_stride.lines.profile import SWELL_LIMIT
from plain_stride.weight.guarantees import GaveWay, guaranteed
from plain_stride.weight.plan import Plan
from plain_stride.weight.rule_book import ENDS, WHITE
from plain_stride.weight.scene import HALO, Scene
from plain_stride.weight.soft_ends import end_lengths
from plain_stride.weight.stack import stacked, total
from plain_stride.weight.white import Closed, kept_apart

SHARED = "run on"
SMOOTH_MM, PLAN_SLOPE = 1.5, 0.12
"""Over how much a plan is smoothed, and mm by which its width may change in a mm."""


@dataclass(frozen=True, eq=False)
class Weighed:
    """wide (n,): full widths in mm that the plan wants at every place; ends (m, 2): mm over which it draws ends out,
    None where it leaves ends alone; bands: what each rule adds at every place (n,), in steps of sqrt 2, and what lines
    that run on into each other take over (SHARED); guarantees (n,): what these add to that; closed: places that stay
    closed; gave_way: guarantees that are not kept."""

    scene: Scene
    plan: Plan
    wide: np.ndarray
    ends: np.ndarray | None
    bands: dict[str, np.ndarray]
    guarantees: np.ndarray
    closed: Closed
    gave_way: list[GaveWay]


def softened(places: Places, wide: np.ndarray) -> np.ndarray:
    """Widths (n,) held to the plan's slope along each line, and smoothed."""
    return places.smoothed(places.limited(wide, PLAN_SLOPE), SMOOTH_MM)


def weighed(scene: Scene, plan: Plan) -> Weighed:
    """What a plan wants of all lines of a drawing. n log n in the places."""
    places, halo = scene.known.places, scene.role == HALO
    bands = stacked(scene, plan)
    steps = total(scene, bands)
    bands[SHARED] = steps - sum(bands.values(), np.zeros(len(steps)))
    raw = plan.base * 2.0 ** (steps / 2.0)
    wide, closed = softened(places, raw), Closed(np.zeros(0, int), np.zeros(0, int))
    if plan.is_on(WHITE):
        apart, closed = kept_apart(scene, plan, raw)
        # What the white takes away goes on along the line as softly as the widths do.
        before, wide = wide, softened(places, apart)
        bands[WHITE] = 2.0 * np.log2(wide / before)
    offsets, gave_way = guaranteed(scene, plan, wide)
    wide = places.limited(wide * 2.0**offsets, SWELL_LIMIT)
    wide = np.where(halo, plan.halo, wide)
    ends = end_lengths(scene, plan) if plan.is_on(ENDS) else None
    return Weighed(scene, plan, wide, ends, bands, 2.0 * offsets, closed, gave_way)
