"""One pull against its target: how far it shakes, wanders, misses its end; how fast it was, how wide.

Sideways distances from the target are read in time and parted by frequency with a cosine transform, whose ends need no
window (Ahmed, Natarajan and Rao 1974): what is slower than 4 Hz is aim, 5 to 14 Hz is the hand's shake.
"""

from dataclasses import dataclass

import numpy as np

from plain_stride.hand.nib import DEFAULT_NIB, Nib
from plain_stride.hand.resample import RATE, even_grid, read_at
from plain_stride.practice.errors import PracticeError
from plain_stride.practice.targets import Target

AIM_HZ, SHAKE_HZ = 4.0, (5.0, 14.0)
"""Aim is slower than the first; the shake lies in the band, as physiological tremor of a hand does (8 to 12 Hz; some
hands are slower)."""
DENSE_MM = 0.05
LEAST_S, LEAST_MM = 0.25, 2.0
"""A shorter touch is no pull of a target."""
ONSET_S, RELEASE_S = 0.15, 0.15
"""Pressure comes and goes at both ends: a width is told of what lies between."""
MIDDLE = 0.1
"""The share of a pull at each end whose speed is start and stop."""


@dataclass(frozen=True)
class Measures:
    """Of one pull, mm on the tablet. shake: amplitude of the hand's tremor, root 2 times its RMS sideways; hz: its
    mean frequency; wander: the same of what is slower, aim and drift; straying: RMS distance from the target; start,
    end: distances by which they were missed; speed: mm/s along the target, in the middle; pressure: (light, firm) 10th
    and 90th percentile of the middle; width: RMS of width against the target's, None where any will do; width_cv:
    spread of the width over its mean; bias: mean signed sideways distance, right of the target is positive; seconds,
    length."""

    shake: float
    hz: float
    wander: float
    straying: float
    start: float
    end: float
    speed: float
    pressure: tuple[float, float]
    width: float | None
    width_cv: float
    bias: float
    seconds: float
    length: float


def measured(samples: np.ndarray, target: Target, scale: float = 1.0, nib: Nib = DEFAULT_NIB) -> Measures:
    """samples: (n, >= 4) x, y in mm of the sheet, pressure, seconds; scale: mm on the tablet for each of the sheet;
    nib: that made widths of the pressure. Raises PracticeError for what is too short to be a pull.

    The target may be pulled from either end; a closed one from anywhere.
    """
    t = samples[:, 3]
    if t[-1] - t[0] < LEAST_S or _length(samples[:, :2]) < LEAST_MM:
        raise PracticeError(f"a touch of less than {LEAST_S:g} s or {LEAST_MM:g} mm is no pull of the drill")
    at = even_grid(t)
    t_kept, which = np.unique(t, return_index=True)
    read = read_at(t_kept, samples[which, :3], at)
    path, pressure = read[:, :2] * scale, read[:, 2]
    curve, ends = _run(target, samples[0, :2], samples[-1, :2])
    side, way = beside(path, curve * scale)
    aim, shake, hz = _parted(side)
    # Along the target: what goes to and fro beside it is no pace.
    speed = np.abs((np.gradient(path, at, axis=0) * way).sum(axis=1))
    cut = round(len(at) * MIDDLE)
    middle = slice(cut, max(cut + 1, len(at) - cut))
    steady = (at - at[0] > ONSET_S) & (at[-1] - at > RELEASE_S)
    pressed = pressure[steady] if steady.any() else pressure
    width, width_cv = _widths(at - at[0], read, target, curve, nib)
    return Measures(
        shake=shake,
        hz=hz,
        wander=aim,
        straying=float(np.sqrt((side**2).mean())),
        start=float(np.hypot(*(samples[0, :2] - ends[0]))) * scale,
        end=float(np.hypot(*(samples[-1, :2] - ends[1]))) * scale,
        speed=float(np.median(speed[middle])),
        pressure=(float(np.quantile(pressed, 0.1)), float(np.quantile(pressed, 0.9))),
        width=width,
        width_cv=width_cv,
        bias=float(side.mean()),
        seconds=float(t[-1] - t[0]),
        length=_length(path),
    )


def beside(path: np.ndarray, curve: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(signed distances (n,) of places (n, 2) from the nearest place of a curve (m, 2), across it; its way (n, 2)
    there). Right is positive where y points down. Beyond its ends the curve goes on straight. n log m."""
    from scipy.spatial import cKDTree

    dense = _dense(curve)
    way = np.gradient(dense, axis=0)
    way /= np.maximum(np.hypot(*way.T), 1e-12)[:, None]
    near = cKDTree(dense).query(path)[1]
    off = path - dense[near]
    return way[near, 0] * off[:, 1] - way[near, 1] * off[:, 0], way[near]


def _parted(side: np.ndarray) -> tuple[float, float, float]:
    """(aim, shake) amplitudes, root 2 times the RMS of their bands, and the shake's mean frequency; of (n,) at RATE."""
    from scipy.fft import dct

    part = dct(side, norm="ortho")
    hz = np.arange(len(side)) * RATE / (2.0 * len(side))
    power = part**2 / len(side)
    slow, shaking = hz <= AIM_HZ, (hz >= SHAKE_HZ[0]) & (hz <= SHAKE_HZ[1])
    aim, shake = (float(np.sqrt(2.0 * power[some].sum())) for some in (slow, shaking))
    mean = float((power[shaking] * hz[shaking]).sum() / max(power[shaking].sum(), 1e-18))
    return aim, shake, mean


def _run(target: Target, first: np.ndarray, last: np.ndarray) -> tuple[np.ndarray, tuple[np.ndarray, np.ndarray]]:
    """The target's curve as it was pulled, and the places where the pull should have begun and ended."""
    points = target.points
    if target.closed:
        # It closes where it began, wherever that was.
        return points, (points[np.hypot(*(points - first).T).argmin()], first)
    if np.hypot(*(first - points[0])) > np.hypot(*(first - points[-1])):
        points = points[::-1]
    return points, (points[0], points[-1])


def _widths(t: np.ndarray, read: np.ndarray, target: Target, curve: np.ndarray, nib: Nib) -> tuple[float | None, float]:
    """(RMS against what is asked, mm, None where nothing is; spread over mean). read: (n, 3) x, y, pressure."""
    from scipy.spatial import cKDTree

    held = (t > ONSET_S) & (t[-1] - t > RELEASE_S)
    if not held.any():
        return None, 0.0
    mine = nib.width(read[held, 2])
    spread = float(mine.std() / mine.mean())
    if target.shares is None:
        return None, spread
    shares = target.shares if curve is target.points else target.shares[::-1]
    near = cKDTree(curve).query(read[held, :2])[1]
    asked = nib.lightest + (nib.heaviest - nib.lightest) * shares[near]
    return float(np.sqrt(((mine - asked) ** 2).mean())), spread


def _dense(curve: np.ndarray) -> np.ndarray:
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(curve, axis=0).T))])
    kept = np.concatenate([[True], np.diff(s) > 1e-12])
    return read_at(s[kept], curve[kept], np.linspace(0.0, s[-1], max(2, round(s[-1] / DENSE_MM)) + 1))


def _length(path: np.ndarray) -> float:
    return float(np.hypot(*np.diff(path, axis=0).T).sum())
