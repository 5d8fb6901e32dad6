"""Corners of a pull: where the pen slowed down and left in another direction."""

import numpy as np

from plain_stride.compiled.ready import floats, kernels
from plain_stride.hand.resample import RATE
from plain_stride.hand.solve import penalty_for, steady_solve

TURN_DEG = 55.0
"""Least turn between the directions just before and just after."""
NEAR_TURN_DEG = 42.0
"""Least share of that turn which must remain close to the corner: a tight curve keeps less of it."""
SLOWING = 0.45
"""The speed at a corner is below this share of the speed on both sides."""
AROUND = 8
"""Samples to either side among which a corner is the slowest."""
SMOOTH_HZ = 7.0
NEAR_MM, FAR_MM = (0.12, 0.9), (0.35, 2.2)
"""Windows along the line, in mm on the tablet, over which directions are fitted."""
REACH = 0.22
"""Seconds to either side in which the speed is compared."""
SHIFT_S = 0.11
"""How far, in seconds, the corner may lie from the slowest moment."""
LEG_MM = (0.2, 1.5)
"""The stretch of each side that is carried on to find the corner."""


def find_corners(p: np.ndarray, glass: float = 1.0, rate: float = RATE) -> np.ndarray:
    """Indices (rising) of the corners of a path p (n, 2) sampled evenly at `rate`.

    glass: mm on the tablet for one mm of p. The ends are never corners. Speed minimum plus a turn between
    one-sided fits; the fits are made at two scales so that small round bends are not taken for corners.
    """
    n = len(p)
    if n < 12:
        return np.zeros(0, int)
    q = steady_solve(p, np.full(n - 3, penalty_for(SMOOTH_HZ, rate))) * glass
    step = np.hypot(*np.diff(q, axis=0).T)
    speed = np.convolve(np.pad(step, 2, mode="edge"), np.full(4, 0.25), mode="valid")[:n]
    s = np.concatenate([[0.0], np.cumsum(step)])
    reach = max(3, round(REACH * rate))
    found: list[int] = []
    for k in _slow_places(speed, reach):
        if s[k] - s[0] < NEAR_MM[1] or s[-1] - s[k] < NEAR_MM[1]:
            continue
        far, near = _turn(q, s, k, FAR_MM), _turn(q, s, k, NEAR_MM)
        if far >= TURN_DEG and near >= NEAR_TURN_DEG and (not found or s[k] - s[found[-1]] > NEAR_MM[1]):
            found.append(k)
    return np.array(sorted({_settled(q, s, k, rate) for k in found}), int)


def _settled(q: np.ndarray, s: np.ndarray, k: int, rate: float) -> int:
    """The sample near k that lies nearest to the crossing of the lines fitted to either side: while the pen
    stands, which moment is its slowest is chance."""
    sides = []
    for low, high in ((s[k] - LEG_MM[1], s[k] - LEG_MM[0]), (s[k] + LEG_MM[0], s[k] + LEG_MM[1])):
        leg = q[(s >= low) & (s <= high)]
        direction = _direction(leg)
        if direction is None:
            return k
        sides.append((leg.mean(axis=0), direction))
    (a, u), (b, v) = sides
    cross = u[0] * v[1] - u[1] * v[0]
    if abs(cross) < 0.3:
        return k
    corner = a + u * (((b - a)[0] * v[1] - (b - a)[1] * v[0]) / cross)
    free = round(SHIFT_S * rate)
    low, high = max(3, k - free), min(len(q) - 4, k + free)
    return low + int(np.hypot(*(q[low : high + 1] - corner).T).argmin())


def _slow_places(speed: np.ndarray, reach: int) -> list[int]:
    """Local minima of the speed that are slow against the fastest moments just before and after."""
    n = len(speed)
    inner = np.arange(3, n - 3)
    compiled = kernels()
    if compiled is not None:
        slowest: np.ndarray = compiled.slow_places(*floats(speed), reach, AROUND, SLOWING)
        return np.flatnonzero(slowest).tolist()
    padded = np.pad(speed, reach, mode="edge")
    window = np.lib.stride_tricks.sliding_window_view(padded, reach)
    before, after = window[inner].max(axis=1), window[inner + reach + 1].max(axis=1)
    around = np.lib.stride_tricks.sliding_window_view(np.pad(speed, AROUND, mode="edge"), 2 * AROUND + 1)
    lowest = around[inner].min(axis=1)
    return inner[(speed[inner] == lowest) & (speed[inner] < SLOWING * np.minimum(before, after))].tolist()


def _turn(q: np.ndarray, s: np.ndarray, k: int, window: tuple[float, float]) -> float:
    """Degrees between the directions fitted over `window` mm before and after k; 0 where there is too little line."""
    before = _direction(q[(s >= s[k] - window[1]) & (s <= s[k] - window[0])])
    after = _direction(q[(s >= s[k] + window[0]) & (s <= s[k] + window[1])])
    if before is None or after is None:
        return 0.0
    cross = before[0] * after[1] - before[1] * after[0]
    return float(np.degrees(abs(np.arctan2(cross, before @ after))))


def _direction(q: np.ndarray) -> np.ndarray | None:
    if len(q) < 2:
        return None
    d = q[-1] - q[0]
    long = np.hypot(*d)
    return d / long if long > 1e-9 else None
