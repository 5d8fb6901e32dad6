"""Places along a polyline by the length of the way there."""

import numpy as np


def lengths_along(points: np.ndarray) -> np.ndarray:
    """Lengths (n,) of the way from the first of some points (n, 2) to each."""
    out: np.ndarray = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    return out


def places_at(points: np.ndarray, lengths: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Places (k, 2) on the polyline through points at some of its lengths (k,)."""
    return np.column_stack([np.interp(at, lengths, points[:, k]) for k in (0, 1)])


def evenly(points: np.ndarray, step: float) -> np.ndarray:
    """The polyline by places about `step` apart, three at least, both ends among them."""
    s = lengths_along(points)
    return places_at(points, s, np.linspace(0.0, s[-1], max(3, round(s[-1] / step) + 1)))
