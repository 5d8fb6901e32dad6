"""Less in bends: where a pull bends tightly, its steadying gives way to the hand, so that the bend stays."""

import numpy as np

from plain_stride.hand.along import blurred

TIGHT_MM, GENTLE_MM = 3.0, 10.0
"""Bend radii on the tablet: at the first the hand counts whole, at the second not at all."""
SPREAD_S = 0.05


def bend_share(path: np.ndarray, glass: float, rate: float) -> np.ndarray:
    """Share (n,) 0..1 of the hand along a path (n, 2), even in time, by its bend on the tablet."""
    v, a = np.gradient(path, axis=0), np.gradient(np.gradient(path, axis=0), axis=0)
    speed = np.hypot(*v.T)
    curvature = np.abs(v[:, 0] * a[:, 1] - v[:, 1] * a[:, 0]) / np.maximum(speed, 1e-9) ** 3 / glass
    # Where the pen stands its path has no bend, only noise.
    curvature[speed < 0.2 * np.median(speed)] = 0.0
    radius = 1.0 / np.maximum(curvature, 1e-9)
    share = np.clip(np.log(GENTLE_MM / radius) / np.log(GENTLE_MM / TIGHT_MM), 0.0, 1.0)
    return blurred(share, SPREAD_S * rate)
