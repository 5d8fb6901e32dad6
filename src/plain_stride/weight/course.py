"""What a line's own course adds: tight bends heavier, free lines thick in the middle."""

import numpy as np

from plain_stride.weight.plan import Plan
from plain_stride.weight.rule_book import BENDS, MIDDLES
from plain_stride.weight.scene import DETAIL, HALO, INNER, RULED, TEXTURE, Scene

SMALL_ROUND_MM, BEND_LOOK_MM = 40.0, 0.75
"""How long a ring is that has no bends, being one; over how much a bend is read."""


def bend_steps(scene: Scene, plan: Plan) -> np.ndarray:
    """Steps (n,) that tight bends add, by the logarithm of their radius."""
    rule, places = plan.rule(BENDS), scene.known.places
    none, full = rule["none"], min(rule["full"], rule["none"] * 0.99)
    radius = 1.0 / np.maximum(np.abs(scene.turning(BEND_LOOK_MM)), 1e-9)
    share = np.clip(np.log(none / radius) / np.log(none / full), 0.0, 1.0)
    small = (places.closed & (places.length <= SMALL_ROUND_MM))[places.line]
    return np.where(small | (scene.role == RULED) | (scene.role == HALO), 0.0, rule["bend"] * share)


def middle_steps(scene: Scene, plan: Plan) -> np.ndarray:
    """Steps (n,) in the middle of lines that meet none: highest there, none at their ends."""
    places, junctions = scene.known.places, scene.known.junctions
    meets = np.bincount(junctions.line[junctions.joined], minlength=len(places.lines)) > 0
    free = ~meets & ~places.closed
    swell = np.sin(np.pi * places.s / np.maximum(places.length[places.line], 1e-9)) ** 2
    inside = np.isin(scene.role, (INNER, DETAIL, TEXTURE))
    return np.where(free[places.line] & inside, plan.rule(MIDDLES)["middle"] * swell, 0.0)
