"""Steadying: the best estimate of the path that the hand meant, within the leeway the inker gives."""

import math
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
from plain_stride.hand.raster import without_raster
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
DOUBTED_MM, DOUBT_S = 0.04, 1.0
"""A larger move of the shape than most pulls know is held against where the hand's places lie, a second to either side:
however quick the pull, the path went by there."""
BESIDE_S = 0.06
"""Seconds to either side among which the nearest place of another path is looked for: a clock that jumps or a hand that
dwells moves no line."""


@dataclass(frozen=True, eq=False)
class Steadied:
    """t (n,) s; raw, path (n, 2) mm; pressure (n,); corners: indices. Even in time.

    tremor_mm: shake taken out, RMS to the side; moved_mm: the largest shape move; own_leeway_mm: how far auto itself
    moves. All three are sideways distances (`sideways`), with the pull's raster taken out.
    """

    t: np.ndarray
    raw: np.ndarray
    path: np.ndarray
    pressure: np.ndarray
    corners: np.ndarray
    tremor_mm: float
    moved_mm: float
    own_leeway_mm: float


def steady(samples: np.ndarray, setting: Steadying, glass: float = 1.0, raster: float | None = None) -> Steadied:
    """The steadied pull. samples (n, 5) as `Pull` has them; glass: mm on the tablet for one mm of the sheet; raster:
    the side (mm) of the pixels on which they lie, None for a pen's.

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
    # What was inked live could not know how the whole pull shakes, nor that it lies on pixels.
    live = setting.school == "live"
    still = setting.school == "off" or setting.leeway == 0.0
    hand, corners = _hand(w, raw, t, glass, None if live or still else raster)
    if still:
        return Steadied(t, raw, raw, pressure, corners, 0.0, 0.0, 0.0)
    noise = live_noise(rate) if live else pull_noise(hand, glass, rate)
    auto = _live(raw, corners, glass, rate) if live else auto_path(hand, corners, glass, rate, noise)
    if setting.less_in_bends and not live:
        light = _solved(hand, np.full(len(hand), FINE_HZ), corners, rate, WHITE)
        auto = auto + bend_share(auto, glass, rate)[:, None] * (light - auto)
    before, move = _shape(hand, corners, rate, noise), _shape(auto - hand, corners, rate, noise)
    left = raster if raster is not None and live else 0.0
    own = _moved(before, move, hand, auto, rate, left)
    share = 1.0 if setting.leeway is None or setting.leeway >= own else setting.leeway / own
    path, moved = raw + share * (auto - raw), share * own
    if setting.school == "after" and setting.leeway is not None and setting.leeway > own:
        path = calmed(auto, corners, setting.leeway - own)
        move = move + (path - auto)
        moved = _moved(before, move, hand, path, rate, left)
    whole = auto if share < 1.0 else path
    return Steadied(t, raw, path, pressure, corners, share * _shake(hand, whole, before, move, rate, left), moved, own)


def _hand(
    w: np.ndarray, raw: np.ndarray, t: np.ndarray, glass: float, raster: float | None
) -> tuple[np.ndarray, np.ndarray]:
    """(the pull's path (n, 2) at times t with its raster taken out, its corners)."""
    rate = (len(t) - 1) / (t[-1] - t[0])
    if raster is None:
        return raw, find_corners(raw, glass, rate)
    # Steps from pixel to pixel look like stops and turns: corners are looked for without them.
    even = _even_clock(without_raster(w[:, 3], w[:, :2], raster, t, t[:0]), t[:0], rate)
    corners = find_corners(even, glass, rate)
    if len(corners):
        even = _even_clock(without_raster(w[:, 3], w[:, :2], raster, t, t[corners]), corners, rate)
    return even, corners


def _even_clock(path: np.ndarray, corners: np.ndarray, rate: float) -> np.ndarray:
    """A path without the jerks that whole pixels and a mouse's clock leave in its pace, which is no hand's haste."""
    return _solved(path, np.full(len(path), FINE_HZ), corners.astype(int), rate, WHITE)


def _moved(
    before: np.ndarray, move: np.ndarray, hand: np.ndarray, path: np.ndarray, rate: float, raster: float
) -> float:
    """The largest sideways distance that a move (n, 2) takes a pull's shape, less what whole pixels alone can do; never
    more than the hand lies from the path, of which B makes more where all of a pull is quicker than it lets by."""
    told = float(sideways(before + move, before, rate).max())
    if told > DOUBTED_MM:
        told = min(told, float(beside(hand, np.arange(len(hand)), path, rate, DOUBT_S).max()))
    return max(told - raster / 2.0, 0.0)


def _shake(
    hand: np.ndarray, path: np.ndarray, before: np.ndarray, move: np.ndarray, rate: float, raster: float
) -> float:
    """RMS sideways distance of the hand from its path, less what of it is a move of the shape, and less the raster's
    noise, which is even over a pixel."""
    whole = float((sideways(hand, path, rate) ** 2).mean())
    shape = float((sideways(before + move, before, rate) ** 2).mean())
    return math.sqrt(max(whole - shape - raster**2 / 12.0, 0.0))


@dataclass(frozen=True)
class Noise:
    """What a hand's shake looks like: hz, the middle of its band; filter: coefficients of its AR noise."""

    hz: float
    filter: np.ndarray


def pull_noise(raw: np.ndarray, glass: float, rate: float) -> Noise:
    """The shake of a whole pull. times (n,) s."""
    hz = shake_hz(raw, glass, rate)
    return Noise(hz, tremor_filter(round(rate), hz))


def live_noise(rate: float) -> Noise:
    """The shake as it is taken while a pull goes on. times (n,) s."""
    return Noise(TREMOR_HZ, tremor_filter(round(rate), TREMOR_HZ, LIVE_WIDTH_HZ))


def mixed(
    raw: np.ndarray, auto: np.ndarray, corners: np.ndarray, rate: float, leeway: float, noise: Noise
) -> np.ndarray:
    """The path pull + (leeway / La)(auto - pull) below auto's own leeway La, auto from there on. Paths (n, 2) mm,
    leeways mm."""
    before, move = _shape(raw, corners, rate, noise), _shape(auto - raw, corners, rate, noise)
    own = _moved(before, move, raw, auto, rate, 0.0)
    return raw + (1.0 if leeway >= own else leeway / own) * (auto - raw)


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


def sideways(path: np.ndarray, other: np.ndarray, rate: float) -> np.ndarray:
    """Distance (n,) of each place of a path (n, 2) from the nearest place of another, of the same even times, within
    BESIDE_S of it."""
    return beside(path, np.arange(len(path)), other, rate)


def beside(places: np.ndarray, at: np.ndarray, other: np.ndarray, rate: float, within: float = BESIDE_S) -> np.ndarray:
    """Distance (n,) of places (n, 2) from the nearest place of a path (m, 2), even in time, within so many seconds of
    its indices `at` (n,)."""
    reach = max(1, round(within * rate))
    compiled = kernels()
    if compiled is not None:
        out: np.ndarray = compiled.beside(*floats(places), at.astype(np.int64), *floats(other), reach)
        return out
    start, step = other[:-1], np.diff(other, axis=0)
    long = np.maximum((step * step).sum(axis=1), 1e-24)
    nearest = np.full(len(places), np.inf)
    for off in range(-reach, reach):
        inside = np.flatnonzero((at + off >= 0) & (at + off < len(step)))
        k = at[inside] + off
        away = places[inside] - start[k]
        share = np.clip((away * step[k]).sum(axis=1) / long[k], 0.0, 1.0)
        far = ((away - share[:, None] * step[k]) ** 2).sum(axis=1)
        nearest[inside] = np.minimum(nearest[inside], far)
    return np.sqrt(nearest)


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
