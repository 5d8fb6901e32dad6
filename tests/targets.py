"""Target curves that a simulated hand pulls along, in tests and benchmarks."""

import numpy as np

from plain_stride.hand.resample import read_at


def flowing(seed: int) -> np.ndarray:
    """A curve (300, 2) of about 50 mm, bent now one way, now the other."""
    rng = np.random.default_rng(seed)
    angle = np.cumsum(rng.normal(0.0, 0.45, 6)) + rng.uniform(0, 6.28)
    knots = np.cumsum(np.column_stack([np.cos(angle), np.sin(angle)]) * rng.uniform(8, 12, 6)[:, None], axis=0) + 60.0
    return read_at(np.arange(6.0), knots, np.linspace(0, 5, 300))


def cornered(seed: int) -> np.ndarray:
    """Two straights of 20 mm that meet at a corner of 60 to 150 degrees, at (50, 50)."""
    rng = np.random.default_rng(seed)
    a, b = np.radians(rng.uniform(0, 360)), np.radians(rng.uniform(60, 150))
    corner = np.array([50.0, 50.0])
    last = corner + 20 * np.array([np.cos(a + b), np.sin(a + b)])
    return np.array([corner - 20 * np.array([np.cos(a), np.sin(a)]), corner, last])
