"""Steadying: the best estimate of the path that the hand meant, within the leeway the inker gives."""

from dataclasses import dataclass

import numpy as np

from plain_stride.compiled.ready import floats, kernels
from plain_stride.hand.corners import find_corners
from plain_stride.hand.leeway import calmed
from plain_stride.hand.nib import Steadying
from plain_stride.hand.pull import working_samples
from plain_stride.hand.resample import RATE, even_grid, read_at
from plain_stride.hand.solve import penalty_for, precision, steady_solve, tremor_filter

BASE_HZ, LOW_HZ, HIGH_HZ = 4.2, 3.2, 10.0
FIRST_HZ = 6.5
"""Cutoff of the first pass, which only measures the pace."""
BASE_ACCELERATION, HARD_ACCELERATION = 60.0, 500.0
"""mm/s^2 on the tablet at which the cutoff is BASE_HZ, and above which it rises twice as steeply: in hard bends
the shape has more to lose than the shake."""
PACE_POWER = 0.18
CORNER_S = 0.08
"""Seconds to either side of a corner in which the cutoff rises twice as steeply with the pace: a stop is sharp."""
SHAPE_HZ = 6.0
"""Half gain of B, by which a path's shape is told from its shake (definition of the leeway)."""
PRESSURE_HZ = 7.0
ENVELOPE_S = 0.08
_PACE = (
    FIRST_HZ, BASE_HZ, LOW_HZ, HIGH_HZ, BASE_ACCELERATION, HARD_ACCELERATION, PACE_POWER, CORNER_S, ENVELOPE_S,
)  # fmt: skip
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
    auto = _live(raw, corners, glass, rate) if setting.school == "live" else auto_path(raw, corners, glass, rate)
    bend = _shape(auto - raw, corners, rate)
    path, own, share = _mixed(raw, auto, bend, corners, rate, setting.leeway)
    # What was taken out less what of it was shape; both are linear in the share.
    shake = share * ((raw - auto) + bend)
    moved = share * own
    if setting.school == "after" and setting.leeway is not None and setting.leeway > own:
        path = calmed(auto, corners, setting.leeway - own)
        moved = float(sideways(bend + (path - auto), _shape(raw, corners, rate), corners).max())
    return Steadied(t, raw, path, pressure, corners, float(np.sqrt((shake**2).sum(1).mean())), moved, own)


def mixed(
    raw: np.ndarray, auto: np.ndarray, corners: np.ndarray, rate: float, leeway: float | None
) -> tuple[np.ndarray, float, float]:
    """(path, La, share): pull + (leeway / La)(auto - pull) below auto's own leeway La, auto from there on."""
    return _mixed(raw, auto, _shape(auto - raw, corners, rate), corners, rate, leeway)


def _mixed(
    raw: np.ndarray, auto: np.ndarray, bend: np.ndarray, corners: np.ndarray, rate: float, leeway: float | None
) -> tuple[np.ndarray, float, float]:
    """bend (n, 2): how far auto moves the shape; the shape of a move is the move of the shape, since B is linear."""
    own = float(sideways(bend, _shape(raw, corners, rate), corners).max())
    share = 1.0 if leeway is None or leeway >= own else leeway / own
    return raw + share * (auto - raw), own, share


def auto_path(raw: np.ndarray, corners: np.ndarray, glass: float, rate: float) -> np.ndarray:
    """Auto: one solve with the tremor's noise model, its cutoff by the pace, kinked at corners. (n, 2)."""
    compiled = kernels()
    if compiled is not None and len(raw) >= 5:
        pace = np.array([*_PACE, *tremor_filter(rate)])
        noise = precision(len(raw), rate, True)
        out: np.ndarray = compiled.auto(*floats(raw), corners.astype(np.int64), *floats(noise, pace), glass, rate)
        return out
    return _solve(raw, cutoffs(raw, corners, glass, rate), corners, rate)


def cutoffs(raw: np.ndarray, corners: np.ndarray, glass: float, rate: float) -> np.ndarray:
    """Half-gain frequency (n,) Hz at each sample: higher where the hand accelerates, within LOW_HZ to HIGH_HZ."""
    first = _solve_even(raw, FIRST_HZ, corners, rate)
    second = np.zeros(len(raw))
    second[1:-1] = np.hypot(*np.diff(first, 2, axis=0).T) * rate**2 * glass
    second[[0, -1]] = second[[1, -2]]
    for k in corners:
        second[k - 2 : k + 3] = np.concatenate([second[k - 8 : k - 2], second[k + 3 : k + 9]]).max()
    envelope = np.sqrt(_blur(second**2, ENVELOPE_S * rate)) + 1e-9
    pace = envelope / BASE_ACCELERATION
    steep = np.maximum(1.0, envelope / HARD_ACCELERATION)
    for k in corners:
        near = slice(max(0, k - round(CORNER_S * rate)), k + round(CORNER_S * rate) + 1)
        steep[near] = np.maximum(1.0, pace[near])
    return np.clip(BASE_HZ * (pace * steep) ** PACE_POWER, LOW_HZ, HIGH_HZ)


def smooth_pressure(pressure: np.ndarray, rate: float = RATE) -> np.ndarray:
    """Pressure (n,) with the pen's noise taken out, white-noise model, within 0..1."""
    if len(pressure) < 5:
        return pressure.copy()
    penalty = np.full(len(pressure) - 3, penalty_for(PRESSURE_HZ, rate, False))
    return np.clip(steady_solve(pressure[:, None], penalty, rate, tremor=False)[:, 0], 0.0, 1.0)


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


def _solve(raw: np.ndarray, hz: np.ndarray, corners: np.ndarray, rate: float) -> np.ndarray:
    return _kinked(raw, penalty_for((hz[1:-2] + hz[2:-1]) / 2.0, rate, True), corners, rate)


def _solve_even(raw: np.ndarray, hz: float, corners: np.ndarray, rate: float) -> np.ndarray:
    """The solve with one cutoff all along."""
    return _kinked(raw, np.full(len(raw) - 3, penalty_for(hz, rate, True)), corners, rate)


def _kinked(raw: np.ndarray, penalty: np.ndarray, corners: np.ndarray, rate: float) -> np.ndarray:
    for k in corners:
        penalty[max(0, k - 2) : max(0, k)] = 0.0
    return steady_solve(raw, penalty, rate, tremor=True)


def _shape(path: np.ndarray, corners: np.ndarray, rate: float) -> np.ndarray:
    return _solve_even(path, SHAPE_HZ, corners, rate)


def _live(raw: np.ndarray, corners: np.ndarray, glass: float, rate: float) -> np.ndarray:
    """What a line steadied while it is pulled settles to: every sample as it stood LIVE_LAG_S after it came."""
    window, lag, step = (max(1, round(s * rate)) for s in (LIVE_WINDOW_S, LIVE_LAG_S, LIVE_STEP_S))
    out = raw.copy()
    settled = 0
    for end in [*range(lag + step, len(raw), step), len(raw)]:
        start = max(0, end - window)
        here = corners[(corners > start) & (corners < end - lag)] - start
        tail = auto_path(raw[start:end], here, glass, rate)
        upto = len(raw) if end == len(raw) else end - lag
        out[settled:upto] = tail[settled - start : upto - start]
        settled = upto
    return out


def _blur(v: np.ndarray, sigma: float) -> np.ndarray:
    """Gaussian mean of v (n,) with edges repeated."""
    half = max(1, round(3 * sigma))
    kernel = np.exp(-0.5 * (np.arange(-half, half + 1) / max(sigma, 1e-9)) ** 2)
    return np.convolve(np.pad(v, half, mode="edge"), kernel / kernel.sum(), mode="valid")
