"""Steadying: the best estimate of the path that the hand meant, within the leeway the inker gives."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from plain_stride.compiled.ready import floats, kernels
from plain_stride.hand.along import blurred
from plain_stride.hand.corners import find_corners
from plain_stride.hand.easing import bend_share
from plain_stride.hand.leeway import calmed
from plain_stride.hand.nib import Steadying
from plain_stride.hand.pull import working_samples
from plain_stride.hand.resample import RATE, even_grid, read_at
from plain_stride.hand.shake import shake_hz
from plain_stride.hand.solve import LIVE_WIDTH_HZ, TREMOR_HZ, WHITE, penalty_for, precision, steady_solve, tremor_filter

BASE_HZ, LOW_HZ, HIGH_HZ = 5.0, 4.0, 9.0
"""Cutoffs against a tremor round TREMOR_HZ; against a slower one they go down with the root of its frequency."""
FIRST_HZ = 6.5
"""Cutoff of the first pass, which only measures the pace."""
FINE_HZ = 15.0
"""Half gain of the last pass, against what is faster than any tremor: a pen's own noise."""
BASE_ACCELERATION, HARD_ACCELERATION = 60.0, 500.0
"""mm/s^2 on the tablet at which the cutoff is BASE_HZ, and above which it rises more than twice as steeply: in hard
bends the shape has more to lose than the shake."""
PACE_POWER, HARD_POWER = 0.12, 0.14
CORNER_S = 0.08
"""Seconds to either side of a corner in which the cutoff rises twice as steeply with the pace: a stop is sharp."""
SHAPE_HZ = 6.0
"""Half gain of B, by which a path's shape is told from its shake (definition of the leeway)."""
PRESSURE_HZ = 7.0
ENVELOPE_S = 0.05
_PACE = (BASE_ACCELERATION, HARD_ACCELERATION, PACE_POWER, HARD_POWER, CORNER_S, ENVELOPE_S)
LIVE_WINDOW_S, LIVE_LAG_S, LIVE_STEP_S = 0.8, 0.12, 0.02


@dataclass(frozen=True, eq=False)
class Steadied:
    """t (n,) s; raw, path (n, 2) mm; pressure (n,); corners: indices. Even in time.

    tremor_mm: shake taken out, RMS; moved_mm: the largest shape move; own_leeway_mm: how far auto itself moves.
    """

    t: np.ndarray
    raw: np.ndarray
    path: np.ndarray
    pressure: np.ndarray
    corners: np.ndarray
    tremor_mm: float
    moved_mm: float
    own_leeway_mm: float


def steady(samples: np.ndarray, setting: Steadying, glass: float = 1.0) -> Steadied:
    """The steadied pull. samples (n, 5) as `Pull` has them; glass: mm on the tablet for one mm of the sheet.

    school off and leeway 0 give the resampled hand exactly; below auto's own leeway La the result is the mixture
    pull + (leeway / La)(auto - pull); at La it is auto; above it auto smoothed along the line (`leeway.calmed`).
    """
    w = working_samples(samples)
    t = even_grid(w[:, 3])
    even = read_at(w[:, 3], w[:, :3], t)
    raw, pressure = np.ascontiguousarray(even[:, :2]), smooth_pressure(even[:, 2])
    if len(t) < 5:
        none = np.zeros(0, int)
        return Steadied(t, raw, raw, pressure, none, 0.0, 0.0, 0.0)
    rate = (len(t) - 1) / (t[-1] - t[0])
    corners = find_corners(raw, glass, rate)
    if setting.school == "off" or setting.leeway == 0.0:
        return Steadied(t, raw, raw, pressure, corners, 0.0, 0.0, 0.0)
    # What was inked live could not know how the whole pull shakes.
    live = setting.school == "live"
    noise = live_noise(rate) if live else pull_noise(raw, glass, rate)
    auto = _live(raw, corners, glass, rate) if live else auto_path(raw, corners, glass, rate, noise)
    if setting.less_in_bends and not live:
        hand = _solved(raw, np.full(len(raw), FINE_HZ), corners, rate, WHITE)
        auto = auto + bend_share(auto, glass, rate)[:, None] * (hand - auto)
    bend = _shape(auto - raw, corners, rate, noise)
    path, own, share = _mixed(raw, auto, bend, corners, rate, setting.leeway, noise)
    # What was taken out less what of it was shape; both are linear in the share.
    shake = share * ((raw - auto) + bend)
    moved = share * own
    if setting.school == "after" and setting.leeway is not None and setting.leeway > own:
        path = calmed(auto, corners, setting.leeway - own)
        moved = float(sideways(bend + (path - auto), _shape(raw, corners, rate, noise), corners).max())
    return Steadied(t, raw, path, pressure, corners, float(np.sqrt((shake**2).sum(1).mean())), moved, own)


@dataclass(frozen=True)
class Noise:
    """What a hand's shake looks like: hz, the middle of its band; filter: coefficients of its AR noise."""

    hz: float
    filter: np.ndarray


def pull_noise(raw: np.ndarray, glass: float, rate: float) -> Noise:
    """The shake of a whole pull."""
    hz = shake_hz(raw, glass, rate)
    return Noise(hz, tremor_filter(round(rate), hz))


def live_noise(rate: float) -> Noise:
    """The shake as it is taken while a pull goes on."""
    return Noise(TREMOR_HZ, tremor_filter(round(rate), TREMOR_HZ, LIVE_WIDTH_HZ))


def mixed(
    raw: np.ndarray, auto: np.ndarray, corners: np.ndarray, rate: float, leeway: float | None, noise: Noise
) -> tuple[np.ndarray, float, float]:
    """(path, La, share): pull + (leeway / La)(auto - pull) below auto's own leeway La, auto from there on."""
    return _mixed(raw, auto, _shape(auto - raw, corners, rate, noise), corners, rate, leeway, noise)


def _mixed(
    raw: np.ndarray,
    auto: np.ndarray,
    bend: np.ndarray,
    corners: np.ndarray,
    rate: float,
    leeway: float | None,
    noise: Noise,
) -> tuple[np.ndarray, float, float]:
    """bend (n, 2): how far auto moves the shape; the shape of a move is the move of the shape, since B is linear."""
    own = float(sideways(bend, _shape(raw, corners, rate, noise), corners).max())
    share = 1.0 if leeway is None or leeway >= own else leeway / own
    return raw + share * (auto - raw), own, share


def auto_path(raw: np.ndarray, corners: np.ndarray, glass: float, rate: float, noise: Noise) -> np.ndarray:
    """Auto: one solve with the tremor's noise model, its cutoff by the pace, kinked at corners. (n, 2)."""
    compiled = kernels()
    if compiled is not None and len(raw) >= 5:
        bands, pace = precision(len(raw), noise.filter), np.array([*_hz(noise.hz), *_PACE, FINE_HZ])
        given = floats(bands, noise.filter, pace)
        out: np.ndarray = compiled.auto(*floats(raw), corners.astype(np.int64), *given, glass, rate)
        return out
    return _kinked(raw, cutoffs(raw, corners, glass, rate, noise), corners, rate, noise)


def _hz(tremor_hz: float) -> tuple[float, float, float, float]:
    """(first, base, low, high) cutoffs against a tremor; the first only measures the pace."""
    down = (tremor_hz / TREMOR_HZ) ** 0.5
    return FIRST_HZ * down, BASE_HZ * down, LOW_HZ * down, HIGH_HZ * down


def cutoffs(raw: np.ndarray, corners: np.ndarray, glass: float, rate: float, noise: Noise) -> np.ndarray:
    """Half-gain frequency (n,) Hz at each sample: higher where the hand accelerates, between bounds."""
    first_hz, base, low, high = _hz(noise.hz)
    first = _solved(raw, np.full(len(raw), first_hz), corners, rate, noise.filter)
    second = np.zeros(len(raw))
    second[1:-1] = np.hypot(*np.diff(first, 2, axis=0).T) * rate**2 * glass
    second[[0, -1]] = second[[1, -2]]
    for k in corners:
        second[k - 2 : k + 3] = np.concatenate([second[k - 8 : k - 2], second[k + 3 : k + 9]]).max()
    envelope = np.sqrt(blurred(second**2, ENVELOPE_S * rate)) + 1e-9
    pace = envelope / BASE_ACCELERATION
    steep = np.maximum(1.0, envelope / HARD_ACCELERATION) ** HARD_POWER
    for k in corners:
        near = slice(max(0, k - round(CORNER_S * rate)), k + round(CORNER_S * rate) + 1)
        steep[near] = np.maximum(1.0, pace[near]) ** PACE_POWER
    return np.clip(base * pace**PACE_POWER * steep, low, high)


def smooth_pressure(pressure: np.ndarray, rate: float = RATE) -> np.ndarray:
    """Pressure (n,) with the pen's noise taken out, white-noise model, within 0..1."""
    if len(pressure) < 5:
        return pressure.copy()
    smooth = steady_solve(pressure[:, None], _pressure_penalty(len(pressure) - 3, rate))
    return np.clip(smooth[:, 0], 0.0, 1.0)


@lru_cache(maxsize=512)
def _pressure_penalty(n: int, rate: float) -> np.ndarray:
    return np.full(n, penalty_for(PRESSURE_HZ, rate))


def sideways(move: np.ndarray, path: np.ndarray, corners: np.ndarray) -> np.ndarray:
    """Distance (n,) across the path of a move (n, 2); any direction at the ends and at corners, where the
    path has no one direction, and where the pen stood still."""
    along = np.gradient(path, axis=0)
    speed = np.hypot(*along.T)
    across = np.abs(along[:, 0] * move[:, 1] - along[:, 1] * move[:, 0]) / np.maximum(speed, 1e-12)
    whole = np.hypot(*move.T)
    free = speed < 1e-6
    free[[0, -1]] = True
    free[corners] = True
    return np.where(free, whole, across)


def _kinked(raw: np.ndarray, hz: np.ndarray, corners: np.ndarray, rate: float, noise: Noise) -> np.ndarray:
    """The solve against the noise, then the fine pass, both free to turn at corners."""
    path = _solved(raw, hz, corners, rate, noise.filter)
    return _solved(path, np.full(len(raw), FINE_HZ), corners, rate, WHITE)


def _solved(raw: np.ndarray, hz: np.ndarray, corners: np.ndarray, rate: float, noise: np.ndarray) -> np.ndarray:
    """One solve with its cutoff at each sample, hz (n,)."""
    penalty = penalty_for((hz[1:-2] + hz[2:-1]) / 2.0, rate, noise)
    for k in corners:
        penalty[max(0, k - 2) : max(0, k)] = 0.0
    return steady_solve(raw, penalty, noise)


def _shape(path: np.ndarray, corners: np.ndarray, rate: float, noise: Noise) -> np.ndarray:
    return _kinked(path, np.full(len(path), SHAPE_HZ), corners, rate, noise)


def _live(raw: np.ndarray, corners: np.ndarray, glass: float, rate: float) -> np.ndarray:
    """What a line steadied while it is pulled settles to: every sample as it stood LIVE_LAG_S after it came."""
    window, lag, step = (max(1, round(s * rate)) for s in (LIVE_WINDOW_S, LIVE_LAG_S, LIVE_STEP_S))
    out, noise = raw.copy(), live_noise(rate)
    settled = 0
    for end in [*range(lag + step, len(raw), step), len(raw)]:
        start = max(0, end - window)
        here = corners[(corners > start) & (corners < end - lag)] - start
        tail = auto_path(raw[start:end], here, glass, rate, noise)
        upto = len(raw) if end == len(raw) else end - lag
        out[settled:upto] = tail[settled - start : upto - start]
        settled = upto
    return out
