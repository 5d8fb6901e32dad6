"""The grain of a textured edge: what the paper's tooth takes out of a line's ink, more of a thin one than of a wide.

The tooth belongs to the paper: it is a function of the place on the sheet, the same at every export and resolution.
"""

from typing import Any

import numpy as np

from plain_stride.hand.along import lengths_along, places_at
from plain_stride.lines.fit import sharp_points
from plain_stride.lines.profile import joined

COARSE_MM, FINE_MM = 0.34, 0.13
"""Sizes of the tooth; both are added, the finer at half strength."""
STEP_MM = 0.05
"""Apart of points on a textured edge."""
CORNER_DEG = 18.0
"""Corners of an edge from so sharp a turn on stay points of it."""
BARE, STEEP = 0.38, 1.9
"""Share of the tooth's height that still takes ink, and how fast more of it takes none."""
MOST_SHARE = 0.45
"""Of a line's half-width that is taken from one edge at most: a thin line is worn, not broken."""
CELL_MM, JITTER, SPECK_MM, SPECK_CORNERS = 0.3, 0.15, (0.25, 1.0), 9
"""At most one speck without ink in a cell of the sheet; how far from its middle, in cells; radii, in grains."""
SPECKS, MOST_SPECKS, DRAWN_OUT = 4.0, 0.8, 1.5
"""Share of cells with a speck where the grain is as deep as half the line is wide, and the highest share; how much
longer specks are along the line than across it."""
SPREAD = 0.8
"""Cells are looked for by places so many cells apart."""
PATCH_MM, PATCHES = 2.2, 3.0
"""Specks come in patches of about this size, with so sharp a border."""


def textured(rings: list[np.ndarray], middle: np.ndarray, radius: np.ndarray, grain: float) -> list[np.ndarray]:
    """Rings (n, 2) of the edge of a line with `grain` mm of tooth: its edge worn inwards, specks taken out.

    rings: ink to the left of travel, outer ones and holes; middle (m, 2), radius (m,): the discs along the line.
    """
    import shapely

    discs = shapely.STRtree(shapely.points(middle))
    out = [_worn(ring, discs, radius, grain) for ring in rings]
    return _whole([ring for ring in out if len(ring) > 2], _specks(middle, radius, discs, grain))


def tooth(places: np.ndarray) -> np.ndarray:
    """Share 0..1 of the grain's depth that is taken at places (n, 2) mm."""
    height = (_noise(places / COARSE_MM, 1) + 0.5 * _noise(places / FINE_MM, 2)) / 1.5
    out: np.ndarray = np.clip((height - BARE) * STEEP, 0.0, 1.0)
    return out


def _worn(ring: np.ndarray, discs: Any, radius: np.ndarray, grain: float) -> np.ndarray:
    import shapely

    closed = np.vstack([ring, ring[:1]])
    s = lengths_along(closed)
    even = np.linspace(0.0, s[-1], max(12, int(s[-1] / STEP_MM)), endpoint=False)
    at = joined(even, s[:-1][sharp_points(ring, CORNER_DEG, closed=True)])
    p = places_at(closed, s, at)
    leg = np.roll(p, -2, axis=0) - np.roll(p, 2, axis=0)
    leg /= np.maximum(np.hypot(*leg.T), 1e-12)[:, None]
    near = discs.nearest(shapely.points(p))
    deep = np.minimum(grain * tooth(p), MOST_SHARE * radius[near])
    out: np.ndarray = p + np.column_stack([-leg[:, 1], leg[:, 0]]) * deep[:, None]
    return out


def _specks(middle: np.ndarray, radius: np.ndarray, discs: Any, grain: float) -> list[np.ndarray]:
    """Small rings without ink that lie well inside the line, by cells of the sheet."""
    import shapely

    cells = np.unique(np.floor(_filled(middle, radius) / CELL_MM).astype(np.int64), axis=0)
    if not len(cells):
        return []
    luck = np.column_stack([_hashed(cells, k) for k in range(11, 15)])
    at = (cells + 0.5 + JITTER * (2.0 * luck[:, :2] - 1.0)) * CELL_MM
    reach = grain * (SPECK_MM[0] + (SPECK_MM[1] - SPECK_MM[0]) * luck[:, 2] ** 2)
    near = discs.nearest(shapely.points(at))
    far = np.hypot(*(at - middle[near]).T)
    half = radius[near]
    patch = np.clip(PATCHES * (_noise(at / PATCH_MM, 3) - 0.45), 0.0, 1.0)
    wanted = luck[:, 3] < np.minimum(SPECKS * grain / np.maximum(half, 1e-6), MOST_SPECKS) * patch
    inside = far + 1.4 * reach + grain < half
    tangent = np.gradient(middle, axis=0)[near] if len(middle) > 1 else np.tile([1.0, 0.0], (len(near), 1))
    tangent /= np.maximum(np.hypot(*tangent.T), 1e-12)[:, None]
    angles = -np.linspace(0.0, 2.0 * np.pi, SPECK_CORNERS, endpoint=False)
    round_one = np.column_stack([np.cos(angles), np.sin(angles)])
    out = []
    for k in np.flatnonzero(wanted & inside):
        uneven = 0.6 + 0.8 * _hashed(np.column_stack([np.full(SPECK_CORNERS, cells[k, 0] * 7919 + cells[k, 1]),
                                                      np.arange(SPECK_CORNERS)]), 21)  # fmt: skip
        blot = round_one * (reach[k] * uneven)[:, None] * (DRAWN_OUT, 1.0)
        out.append(at[k] + blot @ np.array([tangent[k], [-tangent[k, 1], tangent[k, 0]]]))
    return out


def _filled(middle: np.ndarray, radius: np.ndarray) -> np.ndarray:
    """Places spread over the line, closer than the cells are."""
    s = lengths_along(middle)
    apart = SPREAD * CELL_MM
    at = np.arange(0.0, s[-1], apart)
    p = places_at(middle, s, at)
    half = np.interp(at, s, radius)
    rows = int(half.max(initial=0.0) / apart)
    grid = np.arange(-rows, rows + 1) * apart
    off = np.array([(x, y) for x in grid for y in grid])
    spread = p[:, None] + off
    return np.concatenate([spread[k][np.hypot(*off.T) < half[k]] for k in range(len(p))]) if len(p) else p


def _whole(rings: list[np.ndarray], specks: list[np.ndarray]) -> list[np.ndarray]:
    """Rings that cross neither themselves nor each other: what wear folded over at sharp corners is cut off."""
    import shapely

    shapes = shapely.polygons([shapely.linearrings(ring) for ring in rings])
    if not shapely.is_valid(shapes).all():
        rings = [part for ring in rings for part in _unfolded(ring)]
    return [*rings, *specks]


def _unfolded(ring: np.ndarray) -> list[np.ndarray]:
    import shapely

    shape = shapely.Polygon(ring)
    if shape.is_valid:
        return [ring]
    mended = shapely.make_valid(shape, method="structure", keep_collapsed=False)
    parts = [part for part in getattr(mended, "geoms", [mended]) if part.geom_type == "Polygon"]
    sign = 1 if shapely.LinearRing(ring).is_ccw else -1
    return [np.asarray(part.exterior.coords)[:-1][:: sign if part.exterior.is_ccw else -sign] for part in parts]


def _noise(p: np.ndarray, seed: int) -> np.ndarray:
    """Smooth noise (n,) in 0..1 between the points of a grid of 1."""
    cell = np.floor(p).astype(np.int64)
    u = p - cell
    u = u * u * (3.0 - 2.0 * u)
    a, b, c, d = (_hashed(cell + step, seed) for step in ((0, 0), (1, 0), (0, 1), (1, 1)))
    top, foot = a + (b - a) * u[:, 0], c + (d - c) * u[:, 0]
    out: np.ndarray = top + (foot - top) * u[:, 1]
    return out


def _hashed(cells: np.ndarray, seed: int) -> np.ndarray:
    """A number (n,) in 0..1 for whole places (n, 2), the same every time (the finaliser of SplitMix64, from memory)."""
    x = cells.astype(np.int64).view(np.uint64)
    with np.errstate(over="ignore"):
        z = x[:, 0] * np.uint64(0x9E3779B97F4A7C15) + x[:, 1] * np.uint64(0xC2B2AE3D27D4EB4F) + np.uint64(seed)
        z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        z ^= z >> np.uint64(31)
    out: np.ndarray = (z >> np.uint64(11)).astype(float) / float(1 << 53)
    return out
