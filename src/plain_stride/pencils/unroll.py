"""A stretch of pencils unrolled along a line, so that its passes lie over each other."""

from collections.abc import Callable

import numpy as np

HALF_MM, STEP_MM = 2.5, 0.06
"""How far to each side of the line is shown, and how fine."""


def unrolled(
    dark: np.ndarray, to_pixels: Callable[[np.ndarray], np.ndarray], points: np.ndarray, half: float = HALF_MM
) -> np.ndarray:
    """uint8 (rows across, columns along): the darkness of a scan along a line (n, 2) mm, its left side uppermost.
    to_pixels: pixels (x, y) of places in mm; what lies outside the scan is paper."""
    from scipy import ndimage

    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    at = np.arange(0.0, float(s[-1]), STEP_MM)
    even = np.column_stack([np.interp(at, s, points[:, k]) for k in (0, 1)])
    tangent = np.gradient(ndimage.gaussian_filter1d(even, 0.6 / STEP_MM, axis=0, mode="nearest"), axis=0)
    tangent /= np.maximum(np.hypot(*tangent.T), 1e-9)[:, None]
    left = np.column_stack([tangent[:, 1], -tangent[:, 0]])
    across = np.arange(half, -half, -STEP_MM)
    places = even[None] + across[:, None, None] * left[None]
    x, y = to_pixels(places.reshape(-1, 2)).T
    out = ndimage.map_coordinates(dark, [y - 0.5, x - 0.5], order=1, mode="constant", cval=0.0)
    return np.asarray(out, np.uint8).reshape(len(across), len(at))


def stretch_near(lines: list[np.ndarray], x: float, y: float, w: float, h: float) -> np.ndarray | None:
    """The stretch of a line that has most of its length in a box round a place, carried on a little to both sides.
    points (n, 2) to (m, 2), mm."""
    best: tuple[int, np.ndarray | None] = (0, None)
    for points in lines:
        inside = np.flatnonzero((np.abs(points - (x, y)) <= (w / 2.0 + 1.0, h / 2.0 + 1.0)).all(axis=1))
        if len(inside) > best[0]:
            more = max(20, len(inside) // 3)
            best = (len(inside), points[max(inside[0] - more, 0) : inside[-1] + more + 1])
    return best[1]
