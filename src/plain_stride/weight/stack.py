"""The stack: what each rule adds at every place, with the saturation that they share.

The steps of role and depth stand as they are. What the place itself adds saturates together, at MOST_UP above and
MOST_DOWN below, as each ink would alone; what is lost by that is shared among the rules in proportion, so that the
bands add up.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from plain_stride.form.roles import ROLES
from plain_stride.weight.course import bend_steps, middle_steps
from plain_stride.weight.light import fade_steps, light_steps, shades, shadow_steps
from plain_stride.weight.meeting_steps import ground_steps, meeting_steps, run_on, tuck_steps
from plain_stride.weight.plan import TIERS, Plan
from plain_stride.weight.rule_book import (
    BENDS,
    FADE,
    GROUND,
    LIGHT,
    MEETINGS,
    MIDDLES,
    ROLE,
    SHADOW,
    STACKED,
    TIER,
    TUCKS,
)  # fmt: skip
from plain_stride.weight.scene import HALO, Scene

MOST_UP, MOST_DOWN = 1.75, 1.5
_LEAST = 1e-9


def saturated(steps: np.ndarray) -> np.ndarray:
    """Steps (n,) that saturate, at MOST_UP above and MOST_DOWN below."""
    most = np.where(steps >= 0.0, MOST_UP, MOST_DOWN)
    out: np.ndarray = most * np.tanh(steps / most)
    return out


@dataclass(frozen=True, eq=False)
class Stack:
    """Steps of sqrt 2 at every place (n,), by rule. lines: of role and depth; own: what a place adds by itself and by
    what is right there; meetings: by what its line meets, None where that rule is off; turned: how far it is turned
    away from all lamps, None where nothing asks for it. The last three are before saturation."""

    lines: Mapping[str, np.ndarray]
    own: Mapping[str, np.ndarray]
    turned: np.ndarray | None
    meetings: np.ndarray | None = None

    @cached_property
    def so_far(self) -> np.ndarray:
        """What places come to without meetings."""
        return np.asarray(sum(self.lines.values()) + saturated(np.asarray(sum(self.own.values(), 0.0))))

    @cached_property
    def bands(self) -> dict[str, np.ndarray]:
        """What each rule adds, saturated together."""
        raw = dict(self.own) | ({MEETINGS: self.meetings} if self.meetings is not None else {})
        if not raw:
            return dict(self.lines)
        together = np.asarray(sum(raw.values()))
        some = np.abs(together) > _LEAST
        gain = np.where(some, saturated(together) / np.where(some, together, 1.0), 1.0)
        return dict(self.lines) | {name: steps * gain for name, steps in raw.items()}


def stack_of(scene: Scene, plan: Plan) -> Stack:
    """The stack of all lines."""
    without = Stack(of_lines(scene, plan), *of_places(scene, plan))
    return replace(without, meetings=of_meetings(scene, plan, without.so_far))


def stacked(scene: Scene, plan: Plan) -> dict[str, np.ndarray]:
    """What each rule that is on adds at every place (n,), in steps of sqrt 2."""
    return stack_of(scene, plan).bands


def total(scene: Scene, bands: Mapping[str, np.ndarray]) -> np.ndarray:
    """What bands (n,) come to, lines that run on into each other sharing it."""
    names = [name for name in STACKED if name in bands]
    return run_on(scene, sum((bands[name] for name in names), np.zeros(len(scene.known.places.s))))


def of_lines(scene: Scene, plan: Plan) -> dict[str, np.ndarray]:
    """What the role and the depth of a line add (n,); nothing where these rules are off."""
    of_role = np.array([plan.role_steps(role) if role != "halo" else 0.0 for role in ROLES])
    of_tier = np.array([plan.tier_steps(tier) for tier in TIERS])
    by_depth = of_tier[scene.tier] + plan.rule(TIER)["order"] * plan.is_on(TIER) * scene.rank
    return {ROLE: of_role[scene.role], TIER: by_depth[scene.known.places.line]}


def of_places(scene: Scene, plan: Plan) -> tuple[dict[str, np.ndarray], np.ndarray | None]:
    """(steps (n,) by rule, how far places are turned away from all lamps (n,)): before saturation, without meetings."""
    out: dict[str, np.ndarray] = {}
    turned = None
    if plan.lamps and any(plan.is_on(name) for name in (LIGHT, SHADOW)):
        turned = shades(scene, plan)
        out |= {LIGHT: light_steps(scene, plan, turned)} if plan.is_on(LIGHT) else {}
        out |= {SHADOW: shadow_steps(scene, plan, turned)} if plan.is_on(SHADOW) else {}
    if plan.lamps and plan.is_on(FADE):
        out[FADE] = fade_steps(scene, plan)
    for name, steps in ((BENDS, bend_steps), (MIDDLES, middle_steps), (TUCKS, tuck_steps), (GROUND, ground_steps)):
        if plan.is_on(name):
            out[name] = steps(scene, plan)
    halo = scene.role == HALO
    return {name: np.where(halo, 0.0, steps) for name, steps in out.items()}, turned


def of_meetings(scene: Scene, plan: Plan, so_far: np.ndarray) -> np.ndarray | None:
    """Steps (n,) of meetings, before saturation; None where the rule is off. so_far (n,): what places come to
    without."""
    if not plan.is_on(MEETINGS):
        return None
    return np.where(scene.role == HALO, 0.0, meeting_steps(scene, plan, so_far))
