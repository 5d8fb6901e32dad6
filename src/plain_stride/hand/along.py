"""Places along a polyline by the length of the way there; the nearest places on it; values evened out along it."""

import numpy as np

AT_ONCE = 256
"""Places whose feet are looked for together, so that a long pull beside a long line takes little memory."""


def lengths_along(points: np.ndarray) -> np.ndarray:
    """Lengths (n,) of the way from the first of some points (n, 2) to each."""
    out: np.ndarray = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    return out


def places_at(points: np.ndarray, lengths: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Places (k, 2) on the polyline through points at some of its lengths (k,)."""
    return np.column_stack([np.interp(at, lengths, points[:, k]) for k in (0, 1)])


def evenly(points: np.ndarray, step: float) -> np.ndarray:
    """The polyline by places about `step` apart, three at least, both ends among them. Points (n, 2) to (m, 2); step
    in their own unit, mm mostly."""
    s = lengths_along(points)
    return places_at(points, s, np.linspace(0.0, s[-1], max(3, round(s[-1] / step) + 1)))


def project_onto(line: np.ndarray, places: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Of the nearest places on a polyline (m, 2) to some places (n, 2): (lengths along it (n,), which of its straights
    (n,), distances (n,))."""
    start, step = line[:-1], np.diff(line, axis=0)
    long = np.hypot(*step.T)
    before = np.concatenate([[0.0], np.cumsum(long)])
    found = []
    for k in range(0, len(places), AT_ONCE):
        off = places[k : k + AT_ONCE, None] - start
        share = np.clip((off * step).sum(axis=2) / np.maximum(long**2, 1e-12), 0.0, 1.0)
        far = ((off - share[:, :, None] * step) ** 2).sum(axis=2)
        near = far.argmin(axis=1)
        rows = np.arange(len(near))
        found.append((before[near] + share[rows, near] * long[near], near, np.sqrt(far[rows, near])))
    at, near, far = (np.concatenate(v) for v in zip(*found, strict=True))
    return at, near, far


def blurred(v: np.ndarray, sigma: float) -> np.ndarray:
    """Gaussian mean of values (n,), sigma in places, with those at the ends repeated. In the unit of the values."""
    half = max(1, round(3 * sigma))
    kernel = np.exp(-0.5 * (np.arange(-half, half + 1) / max(sigma, 1e-9)) ** 2)
    return np.convolve(np.pad(v, half, mode="edge"), kernel / kernel.sum(), mode="valid")
