"""The stack: what each rule adds at every place, with the saturation that they share.

The steps of role and depth stand as they are. What the place itself adds saturates together, at MOST_UP above and
MOST_DOWN below, as each ink would alone; what is lost by that is shared among the rules in proportion, so that the
bands add up.
"""

from collections.abc import Mapping

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


def stacked(scene: Scene, plan: Plan) -> dict[str, np.ndarray]:
    """What each rule that is on adds at every place (n,), in steps of sqrt 2."""
    out = _of_lines(scene, plan)
    raw = _of_places(scene, plan, sum(out.values(), np.zeros(len(scene.known.places.s))))
    together = sum(raw.values(), np.zeros(len(scene.known.places.s)))
    gain = np.where(np.abs(together) > _LEAST, saturated(together) / np.where(together == 0.0, 1.0, together), 1.0)
    return out | {name: steps * gain for name, steps in raw.items()}


def total(scene: Scene, bands: Mapping[str, np.ndarray]) -> np.ndarray:
    """What bands (n,) come to, lines that run on into each other sharing it."""
    names = [name for name in STACKED if name in bands]
    return run_on(scene, sum((bands[name] for name in names), np.zeros(len(scene.known.places.s))))


def _of_lines(scene: Scene, plan: Plan) -> dict[str, np.ndarray]:
    of_role = np.array([plan.role_steps(role) if role != "halo" else 0.0 for role in ROLES])
    of_tier = np.array([plan.tier_steps(tier) for tier in TIERS])
    line = scene.known.places.line
    out = {}
    if plan.is_on(ROLE):
        out[ROLE] = of_role[scene.role]
    if plan.is_on(TIER):
        out[TIER] = (of_tier[scene.tier] + plan.rule(TIER)["order"] * scene.rank)[line]
    return out


def _of_places(scene: Scene, plan: Plan, before: np.ndarray) -> dict[str, np.ndarray]:
    out: dict[str, np.ndarray] = {}
    if plan.lamps and any(plan.is_on(name) for name in (LIGHT, SHADOW)):
        turned = shades(scene, plan)
        out |= {LIGHT: light_steps(scene, plan, turned)} if plan.is_on(LIGHT) else {}
        out |= {SHADOW: shadow_steps(scene, plan, turned)} if plan.is_on(SHADOW) and scene.throws.any() else {}
    if plan.lamps and plan.is_on(FADE):
        out[FADE] = fade_steps(scene, plan)
    for name, steps in ((BENDS, bend_steps), (MIDDLES, middle_steps), (TUCKS, tuck_steps), (GROUND, ground_steps)):
        if plan.is_on(name):
            out[name] = steps(scene, plan)
    if plan.is_on(MEETINGS):
        so_far = before + saturated(sum(out.values(), np.zeros(len(before))))
        out[MEETINGS] = meeting_steps(scene, plan, so_far)
    halo = scene.role == HALO
    return {name: np.where(halo, 0.0, steps) for name, steps in out.items()}
