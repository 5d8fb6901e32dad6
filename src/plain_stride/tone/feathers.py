"""Feathers: pointed strokes out of the edge of a black, into the light, so that it does not end as if cut."""

from typing import Any

import numpy as np

from plain_stride.tone.drawn_strokes import Drawn
from plain_stride.tone.errors import ToneError

PITCH, BASE, INSIDE_MM = 0.16, 1.15, 0.25
"""How far apart feathers begin, as a share of their length; how wide they are there, of their pitch; how deep in the
black."""
LIT, LEAST_PITCH_MM, MOST = 0.25, 0.35, 5000
SHORTEST, LONGEST = 0.55, 1.25


def feathered(area: Any, towards: np.ndarray, length: float, seed: int) -> list[Drawn]:
    """Strokes out of those edges of an area (Shapely) that face the light. towards (2,): unit direction to it; length:
    mm, about. Raises ToneError where no edge faces it, or there would be too many."""
    import shapely

    rng, pitch = np.random.default_rng([abs(seed), 55]), max(PITCH * length, LEAST_PITCH_MM)
    out = []
    for part in shapely.get_parts(shapely.orient_polygons(area)):
        for ring in (part.exterior, *part.interiors):
            out += _along(ring, towards, length, pitch, rng)
    if not out:
        raise ToneError("no edge of that black faces the light: turn the light, or leave it as it is")
    if len(out) > MOST:
        raise ToneError(f"that would be {len(out):,} feathers, and {MOST:,} are laid: make them longer")
    return out


def _along(ring: Any, towards: np.ndarray, length: float, pitch: float, rng: np.random.Generator) -> list[Drawn]:
    """The feathers of one edge, which has the area on its left as Shapely sees it: y up."""
    import shapely

    many = max(3, round(ring.length / pitch))
    s = (np.arange(many) + rng.uniform(0.2, 0.8, many)) * ring.length / many
    here, ahead = (shapely.get_coordinates(shapely.line_interpolate_point(ring, at % ring.length))
                   for at in (s, s + 0.05))  # fmt: skip
    way = (ahead - here) / np.maximum(np.hypot(*(ahead - here).T), 1e-9)[:, None]
    outward = np.column_stack([way[:, 1], -way[:, 0]])
    facing = outward @ towards
    # They grow as the edge turns to the light, and lean from the edge's own direction towards it.
    long = length * rng.uniform(SHORTEST, LONGEST, many) * np.clip((facing - LIT) / (1.0 - LIT), 0.0, 1.0) ** 0.5
    lean = outward + towards
    lean /= np.maximum(np.hypot(*lean.T), 1e-9)[:, None]
    return [Drawn(np.array([at - way_in * INSIDE_MM, at + way_in * mm]), BASE * pitch, 0.0, 0.97)
            for at, way_in, mm in zip(here, lean, long.tolist(), strict=True) if mm > pitch]  # fmt: skip
