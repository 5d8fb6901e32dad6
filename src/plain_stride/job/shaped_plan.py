"""The plan's profile of a line whose width changes along it, by the line's own course."""

import numpy as np

from plain_stride.lines.recipe import PlanProfile, Recipe, path_of
from plain_stride.weight.local_steps import planned_widths
from plain_stride.weight.plan import Plan

WITHIN_MM = 0.002


def shaped_profile(plan: Plan, role: str, tier: str, recipe: Recipe) -> PlanProfile:
    """What a plan that is not even wants along a line of a recipe; its sides follow the hand's. Raises CurveError where
    nothing is left of the line."""
    path = path_of(recipe)
    s, wide = _few(*planned_widths(plan, role, tier, path.arc, path.closed))
    rising = path.s + np.arange(len(path.s)) * 1e-10
    source_t = np.maximum.accumulate(np.interp(s, rising, path.source_t))
    half = tuple((wide / 2.0).tolist())
    return PlanProfile(tuple(source_t.tolist()), half, half, even=True)


def _few(s: np.ndarray, wide: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """As few of the places as tell the widths within WITHIN_MM, read linearly between them."""
    import shapely

    kept = shapely.get_coordinates(shapely.simplify(shapely.LineString(np.column_stack([s, wide])), WITHIN_MM))
    return kept[:, 0], kept[:, 1]
