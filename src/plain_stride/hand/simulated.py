"""A simulated hand: what a pen would report when somebody pulls along a target curve.

Minimum-jerk starts and stops (Flash and Hogan 1985), speed by the two-thirds power law (Lacquaniti et al. 1983),
8-12 Hz tremor, slow wander that grows with speed, away from the hand's best direction and beyond its reach.
"""

import itertools
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from plain_stride.hand.errors import HandError
from plain_stride.hand.resample import RATE, read_at

PACES = {"careful": 12.0, "normal": 35.0, "fast": 110.0}
"""mm/s on the tablet at a bend radius of 10 mm."""
PACE_RADIUS = 10.0
TREMOR_BAND = (8.0, 12.0)
WANDER_BAND = (0.3, 2.0)
RADII = (0.4, 60.0)
RAMP_S = 0.3
CORNER_DEG = 38.0
PRESSURE_STEPS = 8191
ONSET_S, RELEASE_S, SLOW_PRESSURE = 0.06, 0.08, 0.12
STEP_MM = 0.05
MAX_PULL_S = 600.0


class TargetError(HandError):
    """A target curve, a hand or a pace that cannot be pulled."""


@dataclass(frozen=True)
class Hand:
    """Amplitudes in mm on the tablet (per-axis RMS is amplitude / sqrt 2); best direction in degrees; reach in mm;
    strain: by which share its wander is less along its best direction and more across it."""

    tremor: float
    wander: float
    best_direction: float = 60.0
    reach: float = 70.0
    strain: float = 0.1


HANDS = {"calm": Hand(0.05, 0.20), "average": Hand(0.15, 0.35), "shaky": Hand(0.30, 0.50)}


def pulled(
    points: np.ndarray,
    hand: Hand,
    pace: str,
    seed: int | list[int],
    closed: bool = False,
    glass: float = 1.0,
    pressure: float = 0.55,
) -> np.ndarray:
    """Samples (n, 5) at 200 Hz of a pull along target points (m, 2) in sheet mm; glass: tablet mm per sheet mm.

    Points are read as a smooth curve with corners where they turn by more than CORNER_DEG.
    Raises TargetError for fewer than two distinct points or an unknown pace.
    """
    if pace not in PACES:
        raise TargetError(f"pace '{pace}' is not known: {', '.join(PACES)}")
    meant, t = movement(points, PACES[pace], closed, glass)
    rng = np.random.default_rng(seed)
    n = len(t)
    shake = _band_noise(rng, n, TREMOR_BAND, 0.0) * (hand.tremor / np.sqrt(2.0))
    wander = _band_noise(rng, n, WANDER_BAND, -0.5) * (hand.wander / np.sqrt(2.0))
    at = meant + (shake + wander * _strain(meant * glass, t, hand)[:, None]) / glass
    tilt = np.full(n, 35.0)
    return np.column_stack([at, _pressure(rng, t, pressure), t, tilt])


def movement(points: np.ndarray, speed: float, closed: bool, glass: float) -> tuple[np.ndarray, np.ndarray]:
    """The path a hand without tremor takes: places (n, 2) in sheet mm and times (n,) at RATE, stopping at corners.
    Raises TargetError for fewer than two places."""
    clock = 0.0
    places: list[np.ndarray] = []
    times: list[np.ndarray] = []
    for leg in _legs(points, closed):
        s, tau = _pace_map(leg * glass, speed)
        total, warp = _stop_and_go(tau[-1])
        if clock + total > MAX_PULL_S:
            raise TargetError(f"a target takes over {MAX_PULL_S:.0f} s to pull: draw it in shorter pulls")
        k = max(2, round(total * RATE))
        now = np.linspace(0.0, total, k + 1)[1 if places else 0 :]
        along = np.interp(warp(now), tau, s)
        places.append(np.column_stack([np.interp(along, s, leg[:, a]) for a in (0, 1)]))
        times.append(clock + now)
        clock += total
    return np.vstack(places), np.round(np.concatenate(times), 9)


def minimum_jerk(u: np.ndarray) -> np.ndarray:
    """Share of the way at share u of the time; its peak speed is 1.875 D / T (Flash and Hogan 1985)."""
    return u**3 * (10.0 - 15.0 * u + 6.0 * u * u)


def _legs(points: np.ndarray, closed: bool) -> list[np.ndarray]:
    """Dense stretches (k, 2) between corners of the curve through the points."""
    p = np.asarray(points, float)
    if p.ndim != 2 or p.shape[1] != 2 or not np.isfinite(p).all():
        raise TargetError("a target's points are pairs of numbers in mm")
    p = p[np.concatenate([[True], np.hypot(*np.diff(p, axis=0).T) > 1e-6])] if len(p) > 1 else p
    if closed and len(p) > 2 and np.hypot(*(p[-1] - p[0])) <= 1e-6:
        p = p[:-1]
    if closed and len(p) > 2:
        p = np.vstack([p, p[:1]])
    if len(p) < 2:
        raise TargetError("a target needs at least two different points")
    d = np.diff(p, axis=0)
    angle = np.degrees(np.arctan2(d[:, 1], d[:, 0]))
    turn = np.abs((np.diff(angle) + 180.0) % 360.0 - 180.0)
    cuts = [0, *(np.flatnonzero(turn > CORNER_DEG) + 1), len(p) - 1]
    return [_dense(p[a : b + 1]) for a, b in itertools.pairwise(cuts)]


def _dense(p: np.ndarray) -> np.ndarray:
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
    return read_at(s, p, np.linspace(0.0, s[-1], max(8, int(s[-1] / STEP_MM)) + 1))


def _pace_map(leg: np.ndarray, speed: float) -> tuple[np.ndarray, np.ndarray]:
    """(arc length, time) at each point of a leg (tablet mm) pulled by the two-thirds law, without starts and stops."""
    d = np.diff(leg, axis=0)
    step = np.maximum(np.hypot(*d.T), 1e-9)
    s = np.concatenate([[0.0], np.cumsum(step)])
    angle = np.unwrap(np.arctan2(d[:, 1], d[:, 0]))
    half = max(1, int(0.8 / step.mean()))
    kernel = np.hanning(2 * half + 3)[1:-1]
    angle = np.convolve(np.pad(angle, half, mode="edge"), kernel / kernel.sum(), mode="valid")
    curvature = np.abs(np.gradient(angle)) / step
    v = speed * (np.clip(1.0 / np.maximum(curvature, 1e-9), *RADII) / PACE_RADIUS) ** (1.0 / 3.0)
    return s, np.concatenate([[0.0], np.cumsum(step / v)])


def _stop_and_go(base: float) -> tuple[float, Callable[[np.ndarray], np.ndarray]]:
    """(total seconds, map from time to base time): minimum jerk for short legs, ramps of RAMP_S for long ones."""
    if base < RAMP_S * 1.5:
        total = 1.875 * base
        return total, lambda t: base * minimum_jerk(np.clip(t / total, 0.0, 1.0))

    def ramp(u: np.ndarray) -> np.ndarray:
        """Integral of minimum_jerk from 0 to u."""
        return u**4 * (2.5 - 3.0 * u + u * u)

    total = base + RAMP_S

    def warp(t: np.ndarray) -> np.ndarray:
        up = RAMP_S * ramp(np.clip(t / RAMP_S, 0.0, 1.0))
        down = RAMP_S * ramp(np.clip((total - t) / RAMP_S, 0.0, 1.0))
        level = np.clip(t - RAMP_S, 0.0, total - 2 * RAMP_S)
        return np.where(t <= total - RAMP_S, up + level, base - down)

    return total, warp


def _band_noise(rng: np.random.Generator, n: int, band: tuple[float, float], power: float) -> np.ndarray:
    """(n, 2) noise of unit RMS in a band, its amplitude falling as frequency ** power."""
    long = max(4096, 1 << int(np.ceil(np.log2(n + 1))))
    hz = np.fft.rfftfreq(long, 1.0 / RATE)
    inside = (hz >= band[0]) & (hz <= band[1])
    gain = np.where(inside, np.maximum(hz, 1e-9) ** power, 0.0)
    spectrum = (rng.normal(size=(2, len(hz))) + 1j * rng.normal(size=(2, len(hz)))) * gain
    wave = np.fft.irfft(spectrum, long, axis=1)
    wave /= np.sqrt((wave**2).mean(axis=1, keepdims=True))
    start = int(rng.integers(0, long - n + 1))
    return wave[:, start : start + n].T


def _strain(glass_path: np.ndarray, t: np.ndarray, hand: Hand) -> np.ndarray:
    """Factor (n,) on the wander: 1 at normal pace in the best direction within reach, more where the hand strains."""
    if len(t) < 3:
        return np.ones(len(t))
    v = np.gradient(glass_path, t, axis=0)
    speed = np.hypot(*v.T)
    off = np.degrees(np.arctan2(v[:, 0], -v[:, 1])) - hand.best_direction
    direction = 1.0 - hand.strain * np.cos(2.0 * np.radians(off))
    away = np.hypot(*(glass_path - glass_path.mean(axis=0)).T)
    beyond = 1.0 + 0.5 * np.clip(away / hand.reach - 1.0, 0.0, 2.0)
    factor = direction * beyond * (0.85 + 0.15 * np.clip(speed / PACES["normal"], 0.0, 3.0))
    window = np.hanning(2 * 20 + 3)[1:-1]
    return np.convolve(np.pad(factor, 20, mode="edge"), window / window.sum(), mode="valid")


def _pressure(rng: np.random.Generator, t: np.ndarray, mean: float) -> np.ndarray:
    slow = 1.0 + SLOW_PRESSURE * _band_noise(rng, len(t), (0.3, 1.5), 0.0)[:, 0]
    up = minimum_jerk(np.clip((t - t[0] + 0.01) / ONSET_S, 0.0, 1.0))
    down = minimum_jerk(np.clip((t[-1] - t + 0.01) / RELEASE_S, 0.0, 1.0))
    return np.round(np.clip(mean * slow * up * down, 0.0, 1.0) * PRESSURE_STEPS) / PRESSURE_STEPS
