"""Light: what lies away from a lamp is heavier, what lies towards it lighter; what lies full in it fades."""

import numpy as np

from plain_stride.form.cover import Cover
from plain_stride.weight.lamps import Lamp
from plain_stride.weight.plan import Plan
from plain_stride.weight.rule_book import FADE, LIGHT, SHADOW
from plain_stride.weight.scene import HALO, LOOK_MM, OUTER, RULED, Scene

CONVEX_PER_MM = 1.0 / 40.0
"""Where no side is known to be the form, the convex one is, the more the tighter the bend: half of it at this."""
TURNED_AWAY, LEAST_SIDE_MM = 0.5, 3.0
"""How far a stretch is turned to count as the shadow side of a form, or as its lit one; how long a side is at least."""
FADE_POWER = 3
"""A fade counts only where light falls nearly straight on."""


def shade(scene: Scene, lamp: Lamp) -> np.ndarray:
    """How far each place is turned away from a lamp (n,): 1 straight away, -1 straight towards it."""
    places = scene.known.places
    away = lamp.away(places.points)
    side = -scene.form.astype(float)
    turn = scene.turning(LOOK_MM)
    convex = np.sign(turn) * np.abs(turn) / (np.abs(turn) + CONVEX_PER_MM)
    outward = places.left * np.where(side != 0.0, side, convex)[:, None]
    out = (outward * away).sum(axis=1)
    if lamp.at is not None:
        round_it = lit_all_round(scene, lamp.at)[places.line]
        out = np.where(round_it, -np.abs(out), out)
    return np.asarray(out)


def lit_all_round(scene: Scene, at: tuple[float, float]) -> np.ndarray:
    """Whether each line is of a part that a lamp stands in (m,)."""
    place = np.array([at])
    inside = {part for part, cover in scene.drawing.covers.items() if _is_on(cover, place)}
    return np.array([scene.drawing.lines[key].part in inside for key in scene.known.places.lines], bool)


def _is_on(cover: Cover, place: np.ndarray) -> bool:
    return bool(cover.holds(place)[0])


def shades(scene: Scene, plan: Plan) -> np.ndarray:
    """How far each place is turned away from all lamps (n,): in shadow where it is from each of them."""
    return np.asarray(np.min([shade(scene, lamp) for lamp in plan.lamps], axis=0))


def dark_and_lit(scene: Scene, turned: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Which places (n,) of outlines that are seen are turned away from all lamps, and which towards one. turned (n,):
    of `shades`."""
    outer = ~scene.known.hidden & (scene.role == OUTER)
    return outer & (turned > TURNED_AWAY), outer & (turned < -TURNED_AWAY)


def light_steps(scene: Scene, plan: Plan, turned: np.ndarray) -> np.ndarray:
    """Steps (n,) of the light. turned (n,): of `shades`."""
    rule, role = plan.rule(LIGHT), scene.role
    counts = np.where(role == OUTER, 1.0, rule["inner"] / 100.0)
    counts = np.where((role == RULED) | (role == HALO), 0.0, counts)
    return np.asarray(counts * (rule["away"] * np.maximum(turned, 0.0) + rule["towards"] * np.maximum(-turned, 0.0)))


def shadow_steps(scene: Scene, plan: Plan, turned: np.ndarray) -> np.ndarray:
    """Steps (n,) of edges that throw a shadow: on the side that they throw it to."""
    throws = scene.throws[scene.known.places.line]
    return np.where(throws, plan.rule(SHADOW)["throws"] * np.maximum(turned, 0.0), 0.0)


def fade_steps(scene: Scene, plan: Plan) -> np.ndarray:
    """Steps (n,) of what fades in the light; an outline most, as the light eats it."""
    rule, places = plan.rule(FADE), scene.known.places
    lit = np.zeros(len(places.s))
    for lamp in plan.lamps:
        straight = np.maximum(-shade(scene, lamp), 0.0) ** FADE_POWER
        lit = np.maximum(lit, straight * lamp.closeness(places.points, rule["reach"]))
    return np.where((scene.role == RULED) | (scene.role == HALO), 0.0, rule["fade"] * lit)
