"""The raster of a pull: a mouse tells whole pixels, which are neither a hand's shake nor its shape.

The lattice is found in the pull itself. What it adds is noise of a known size, even over a pixel: the path is taken to
be the smoothest one, along its length, that leaves no more than that (the discrepancy principle, Morozov 1966, with
penalised third differences, Whittaker 1923, Eilers 2003). Each pixel counts once, however long the hand dwelt on it.
"""

import itertools
import math

import numpy as np

from plain_stride.hand.along import lengths_along

LEAST_MM, MOST_MM = 0.015, 2.0
"""Pixels on the sheet that matter: finer ones are less than any line shows, coarser ones are no screen's."""
ROUNDED_MM = 6e-4
"""How far a place may lie from its pixel by the rounding of files and 32-bit floats."""
LEAST_PLACES = 6
"""Different places below which chance may look like a lattice."""
DIVIDED = 64
"""Steps of which the greatest common divisor is looked for."""
STEP_SHARE, MOST_POINTS, LEAST_POINTS = 0.5, 2000, 8
"""A stretch is smoothed in places half a pixel apart, but no more than MOST_POINTS of them."""
FARTHEST = 0.75
"""The farthest, in pixels, that the path may leave the middle of one that was told: half of it, and as much as the
estimate itself may err."""
SHORTEST, LONGEST, HALVINGS, ROUNDS = 2.0, 2.0, 12, 2
"""Half-gain wavelengths that are tried, from so many points to so many times the stretch; how closely, how often."""
FREE_ENDS, LEAST_REST = 3.0, 0.3
"""Degrees of freedom of a path besides two for each wavelength; the least share of the raster's noise that is left."""
CALMED = 2
"""How often each moment is drawn to the mean of its neighbours."""
STIFFEST = 20.0
"""Logarithm of the stiffest penalty that 64-bit floats solve well."""


def raster_of(places: np.ndarray, turn: float = 0.0) -> float | None:
    """The side (mm) of the square pixels on which all places (n, 2) of a pull lie; None where they lie on none that
    matters. turn: degrees clockwise by which the board lay on the screen."""
    upright = _turned(places, turn)
    steps = np.diff(upright, axis=0).ravel()
    steps = steps[np.abs(steps) > 4.0 * ROUNDED_MM]
    if len(np.unique(np.round(upright, 3), axis=0)) < LEAST_PLACES or not len(steps):
        return None
    # The pixel divides each step; the short ones come first, where rounding weighs least.
    pixel = _divisor(np.unique(np.abs(steps))[:DIVIDED])
    # Sharpened on steps, which are few pixels long, then on places, which are many: so that none is counted wrong.
    for far in (steps, steps, upright - upright[0]):
        if not LEAST_MM <= pixel <= MOST_MM:
            return None
        whole = np.round(far / pixel)
        pixel = float((whole * far).sum() / max(float((whole * whole).sum()), 1.0))
    off = np.abs(far - np.round(far / pixel) * pixel).max()
    return pixel if off <= 2.0 * ROUNDED_MM else None


def without_raster(
    t: np.ndarray, places: np.ndarray, pixel: float, at: np.ndarray, corner_times: np.ndarray
) -> np.ndarray:
    """The path (len(at), 2) at times `at` of a hand whose places (n, 2) at times t were told in whole pixels; it turns
    freely at the times of its corners."""
    t, places = _visited(t, places)
    if len(places) < LEAST_POINTS:
        return np.column_stack([np.interp(at, t, places[:, k]) for k in (0, 1)])
    out = np.empty((len(at), 2))
    cuts = [0, *np.searchsorted(t, corner_times).clip(1, len(t) - 2).tolist(), len(t) - 1]
    for a, b in itertools.pairwise(sorted(set(cuts))):
        here = (at >= t[a]) if b == len(t) - 1 else (at >= t[a]) & (at < t[b])
        here |= (at < t[a]) if a == 0 else False
        out[here] = _stretch(t[a : b + 1], places[a : b + 1], pixel, at[here])
    return out


def _turned(places: np.ndarray, degrees: float) -> np.ndarray:
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return places @ np.array([[c, s], [-s, c]])


def _divisor(steps: np.ndarray) -> float:
    """The largest length of which all steps are multiples, but for rounding (Euclid)."""
    found = float(steps[0])
    for step in steps[1:].tolist():
        a, b = step, found
        while b > 10.0 * ROUNDED_MM:
            rest = a % b
            a, b = b, min(rest, b - rest)
        found = a
        if found < LEAST_MM:
            break
    return found


def _visited(t: np.ndarray, places: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The pixels that were visited one after the other, each at the middle of its time; the first and the last keep
    the moments at which the pull began and ended."""
    new = np.concatenate([[True], np.hypot(*np.diff(places, axis=0).T) > 2.0 * ROUNDED_MM])
    first = np.flatnonzero(new)
    last = np.append(first[1:], len(t)) - 1
    middle = (t[first] + t[last]) / 2.0
    middle[0], middle[-1] = t[0], t[-1]
    for _ in range(CALMED):
        # What a mouse tells of time jumps as well; where it was is certain, so the path is not touched by this.
        middle[1:-1] = (middle[:-2] + 2.0 * middle[1:-1] + middle[2:]) / 4.0
    return middle, places[first]


def _stretch(t: np.ndarray, places: np.ndarray, pixel: float, at: np.ndarray) -> np.ndarray:
    """One stretch without corners, at some times."""
    s = lengths_along(places)
    if len(places) < LEAST_POINTS:
        return np.column_stack([np.interp(at, t, places[:, k]) for k in (0, 1)])
    m = int(np.clip(round(s[-1] / (STEP_SHARE * pixel)), LEAST_POINTS, MOST_POINTS)) + 1
    share = s / s[-1] * (m - 1)
    path = _smoothest(share, places, m, pixel)
    for _ in range(ROUNDS):
        share = _slid(share, places, path, pixel)
        path = _smoothest(share, places, m, pixel)
    along = np.interp(at, t, share)
    return np.column_stack([np.interp(along, np.arange(m), path[:, k]) for k in (0, 1)])


def _slid(share: np.ndarray, places: np.ndarray, path: np.ndarray, pixel: float) -> np.ndarray:
    """The shares at which the places lie beside the path: steps from pixel to pixel zigzag, and are longer than it."""
    every = np.arange(len(path))
    tangent, long = np.gradient(path, axis=0), lengths_along(path)
    here, on = np.interp(share, every, long), np.column_stack([np.interp(share, every, path[:, k]) for k in (0, 1)])
    at = np.column_stack([np.interp(share, every, tangent[:, k]) for k in (0, 1)])
    ahead = ((places - on) * at).sum(axis=1) / np.maximum(np.hypot(*at.T), 1e-12)
    there = np.maximum.accumulate(here + np.clip(ahead, -pixel, pixel))
    there -= there[0]
    return there / max(float(there[-1]), 1e-12) * (len(path) - 1)


def _smoothest(share: np.ndarray, places: np.ndarray, m: int, pixel: float) -> np.ndarray:
    """The path (m, 2) through places at shares 0..m - 1 of its length, as smooth as their raster lets it be."""
    waves = (SHORTEST, LONGEST * (m - 1))
    low, high = (min(6.0 * math.log(wave / (2.0 * math.pi)), STIFFEST) for wave in waves)
    best = _smoothed(share, places, m, low)
    for _ in range(HALVINGS):
        middle = (low + high) / 2.0
        tried = _smoothed(share, places, m, middle)
        free = FREE_ENDS + 2.0 * (m - 1) / (2.0 * math.pi * math.exp(middle / 6.0))
        if _explained(share, places, tried, pixel, free):
            low, best = middle, tried
        else:
            high = middle
    return best


def _explained(share: np.ndarray, places: np.ndarray, path: np.ndarray, pixel: float, free: float) -> bool:
    """Whether what a path of so many degrees of freedom leaves of the places is no more than their raster."""
    left = places - np.column_stack([np.interp(share, np.arange(len(path)), path[:, k]) for k in (0, 1)])
    rest = pixel**2 / 12.0 * max(1.0 - free / len(places), LEAST_REST)
    return bool((left**2).mean() <= rest and np.abs(left).max() <= FARTHEST * pixel)


def _smoothed(share: np.ndarray, places: np.ndarray, m: int, strength: float) -> np.ndarray:
    """The path (m, 2) of least squares through places at shares 0..m - 1 of its length, read linearly between its
    points, its third differences held down by exp(strength) for each place there is to a point."""
    from scipy.linalg import solveh_banded

    k = np.minimum(share.astype(int), m - 2)
    u = share - k
    bands, right = np.zeros((4, m)), np.zeros((m, 2))
    np.add.at(bands[0], k, (1.0 - u) ** 2)
    np.add.at(bands[0], k + 1, u * u)
    np.add.at(bands[1], k, u * (1.0 - u))
    np.add.at(right, k, (1.0 - u)[:, None] * places)
    np.add.at(right, k + 1, u[:, None] * places)
    weight = math.exp(strength) * len(places) / m
    third = (-1.0, 3.0, -3.0, 1.0)
    for i in range(4):
        for j in range(i, 4):
            bands[j - i, i : i + m - 3] += weight * third[i] * third[j]
    out: np.ndarray = solveh_banded(bands, right, lower=True, check_finite=False)
    return out
