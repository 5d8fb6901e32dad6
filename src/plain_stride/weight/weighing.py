"""A plan laid on a drawing: rules, white between lines, slope, smoothing, guarantees, in this order."""

from dataclasses import dataclass, replace

import numpy as np

from plain_stride.form.places import Places
from plain_stride.lines.profile import SWELL_LIMIT
from plain_stride.weight.again import Again, stack_again
from plain_stride.weight.guarantees import GaveWay, Strained, guaranteed
from plain_stride.weight.plan import Plan
from plain_stride.weight.rule_book import ENDS, WHITE
from plain_stride.weight.scene import HALO, Scene
from plain_stride.weight.soft_ends import end_lengths
from plain_stride.weight.stack import Stack, stack_of, total
from plain_stride.weight.white import Closed, kept_apart

SHARED = "run on"
SMOOTH_MM, PLAN_SLOPE = 1.5, 0.12
"""Over how much a plan is smoothed, and mm by which its width may change in a mm."""


@dataclass(frozen=True, eq=False)
class Soft:
    """Widths (n,) as they are asked for, and held to the plan's slope and smoothed."""

    asked: np.ndarray
    wide: np.ndarray


@dataclass(frozen=True, eq=False)
class Stages:
    """What a plan came to on the way, from which it is soon told anew after a change. apart: with white kept between
    lines, None where that rule is off; strained: what guarantees weighed."""

    stack: Stack
    soft: Soft
    apart: Soft | None
    strained: Strained | None


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
    stages: Stages


def softened(places: Places, wide: np.ndarray) -> np.ndarray:
    """Widths (n,) held to the plan's slope along each line, and smoothed."""
    return places.smoothed(places.limited(wide, PLAN_SLOPE), SMOOTH_MM)


def weighed(scene: Scene, plan: Plan, before: Weighed | None = None) -> Weighed:
    """What a plan wants of all lines of a drawing. before: what was told last, of nearly the same: what still holds is
    taken over, the answer is the same. n log n in the places."""
    again = Again(scene, before.scene) if before and before.scene.drawing.parts == scene.drawing.parts else None
    stages = before.stages if before and again and _asks_the_same(before.plan, plan) else None
    stack = stack_of(scene, plan) if again is None or stages is None else stack_again(again, plan, stages.stack)
    bands = dict(stack.bands)
    steps = total(scene, bands)
    bands[SHARED] = steps - sum(bands.values(), np.zeros(len(steps)))
    soft = _soft(scene.known.places, plan.base * 2.0 ** (steps / 2.0), again, stages.soft if stages else None)
    wide, apart, closed = soft.wide, None, Closed(np.zeros(0, int), np.zeros(0, int))
    if plan.is_on(WHITE):
        asked, closed = kept_apart(scene, plan, soft.asked)
        # What the white takes away goes on along the line as softly as the widths do.
        apart = _soft(scene.known.places, asked, again, stages.apart if stages else None)
        wide = apart.wide
        bands[WHITE] = 2.0 * np.log2(wide / soft.wide)
    strained = (before.stages.strained, again.were) if before and again and before.stages.strained else None
    kept = guaranteed(scene, plan, wide, stack.turned, strained)
    wide = scene.known.places.limited(wide * 2.0**kept.offsets, SWELL_LIMIT)
    wide = np.where(scene.role == HALO, plan.halo, wide)
    ends = end_lengths(scene, plan) if plan.is_on(ENDS) else None
    return Weighed(scene, plan, wide, ends, bands, 2.0 * kept.offsets, closed, kept.gave_way,
                   Stages(stack, soft, apart, kept.strained))  # fmt: skip


def _asks_the_same(one: Plan, other: Plan) -> bool:
    """Whether two plans differ in nothing but how much of them counts."""
    return replace(one, share=0.0, name="", floor=False) == replace(other, share=0.0, name="", floor=False)


def _soft(places: Places, asked: np.ndarray, again: Again | None, before: Soft | None) -> Soft:
    if again is None or before is None:
        return Soft(asked, softened(places, asked))
    others = np.flatnonzero(again.others_by(asked, before.asked))
    on, wide = places.index_of(others), again.taken_over(before.wide)
    wide[on] = softened(places.only(others), asked[on])
    return Soft(asked, wide)
