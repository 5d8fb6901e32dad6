"""What a plan's rules add along a line by its own course: heavier on the side away from the light, heavier in tight
bends. Values are common practice, in steps of sqrt 2; together they saturate, as each ink would alone.

Which side of a line is the form is told by its bend: the convex side, the more the tighter it is.
"""

import numpy as np

from plain_stride.lines.curve import Arc
from plain_stride.lines.profile import limit_slope
from plain_stride.weight.plan import Plan

MOST_UP, MOST_DOWN = 1.75, 1.5
AWAY, CONVEX_PER_MM = 1.5, 1.0 / 40.0
LIT = {"outer": 1.0, "inner": 0.5, "detail": 0.5, "texture": 0.5, "ruled": 0.0}
"""How much the light counts for a role: outlines turn to it, what lies inside less, ruled lines are even."""
BEND, NONE_MM, FULL_MM, SMALL_ROUND_MM = 0.6, 15.0, 1.5, 40.0
"""What a bend adds, from nothing at a radius to all of it at a smaller one; how long a ring is that counts as none."""
LOOK_MM, BEND_LOOK_MM, STEP_MM, LEAST_PLACES, MOST_PLACES = 2.0, 0.75, 0.5, 9, 2000
SMOOTH_MM, PLAN_SLOPE = 1.5, 0.12
"""Over how much a plan is smoothed, and mm by which its width may change in a mm."""


def saturated(steps: np.ndarray) -> np.ndarray:
    """Steps (n,) that saturate, at MOST_UP above and MOST_DOWN below."""
    most = np.where(steps >= 0.0, MOST_UP, MOST_DOWN)
    out: np.ndarray = most * np.tanh(steps / most)
    return out


def planned_widths(plan: Plan, role: str, tier: str, arc: Arc, closed: bool) -> tuple[np.ndarray, np.ndarray]:
    """(arc lengths (n,) mm, full widths (n,) mm) that a plan wants along a line."""
    n = int(np.clip(np.ceil(arc.length / STEP_MM) + 1, LEAST_PLACES, MOST_PLACES))
    s = np.linspace(0.0, arc.length, n)
    steps = np.zeros(n)
    if plan.light is not None:
        steps += LIT.get(role, 1.0) * light_steps(arc, s, closed, plan.light)
    if plan.bends and not (closed and arc.length <= SMALL_ROUND_MM) and role != "ruled":
        steps += bend_steps(arc, s, closed)
    wide = plan.width(role, tier) * 2.0 ** (saturated(steps) / 2.0)
    return s, _gradual(wide, s, closed)


def light_steps(arc: Arc, s: np.ndarray, closed: bool, degrees: float) -> np.ndarray:
    """Steps (n,) at arc lengths s (n,): more away from the light, less towards it. degrees: where the light comes from,
    0 from the right, 90 from above."""
    turn = turning(arc, s, closed, LOOK_MM)
    way = arc.direction(s)
    convex = np.sign(turn)[:, None] * np.column_stack([way[:, 1], -way[:, 0]])
    angle = np.radians(degrees)
    away = convex @ np.array([-np.cos(angle), np.sin(angle)])
    out: np.ndarray = AWAY * away * np.abs(turn) / (np.abs(turn) + CONVEX_PER_MM)
    return out


def bend_steps(arc: Arc, s: np.ndarray, closed: bool) -> np.ndarray:
    """Steps (n,) at arc lengths s (n,) that tight bends add, by the logarithm of their radius."""
    radius = 1.0 / np.maximum(np.abs(turning(arc, s, closed, BEND_LOOK_MM)), 1e-9)
    share = np.log(NONE_MM / radius) / np.log(NONE_MM / FULL_MM)
    out: np.ndarray = BEND * np.clip(share, 0.0, 1.0)
    return out


def turning(arc: Arc, s: np.ndarray, closed: bool, look: float) -> np.ndarray:
    """Curvature (n,) in 1 / mm at arc lengths s (n,), read over so many mm to either side; above 0 where it turns from
    the x axis to the y axis."""
    reach = min(look, arc.length / 3.0)
    if reach <= 0.0:
        return np.zeros(len(s))
    middle = s if closed else np.clip(s, reach, arc.length - reach)
    at = np.concatenate([middle - reach, middle, middle + reach])
    before, here, after = np.split(arc.point(at % arc.length if closed else at), 3)
    a, b = here - before, after - here
    out: np.ndarray = np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1)) / reach
    return out


def _gradual(wide: np.ndarray, s: np.ndarray, closed: bool) -> np.ndarray:
    """Widths smoothed, and held to the plan's slope; those of a ring across its seam."""
    step = float(s[1] - s[0])
    if closed:
        n = len(s) - 1
        round_it = np.concatenate([wide[:-1], wide[:-1], wide])
        return _gradual(round_it, step * np.arange(len(round_it)), False)[n : 2 * n + 1]
    reach = min(round(SMOOTH_MM / max(step, 1e-9) / 2.0), len(wide))
    if reach:
        weights = np.convolve(np.ones(reach + 1), np.ones(reach + 1))
        padded = np.pad(wide, reach, mode="edge")
        wide = np.convolve(padded, weights / weights.sum(), mode="valid")
    return limit_slope(wide, s, PLAN_SLOPE)
