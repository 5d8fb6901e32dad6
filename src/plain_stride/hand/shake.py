"""How fast a hand shakes, from a pull: most at 8 to 12 Hz; some slower, at 5 to 8, where the shape of quick pulls is.

Of the pull less its slow movement, the spectrum is weighted by the fourth power of the frequency, by which a drawn
shape falls off: a slow shake then outweighs the usual band, a shape does not. And it must be larger than what the pace
of the pull itself puts there.
"""

import math

import numpy as np

from plain_stride.hand.solve import TREMOR_HZ, penalty_for, steady_solve

SLOW_HZ, USUAL_HZ, LOOKED_AT_HZ = (4.5, 8.0), (8.0, 13.0), (4.5, 14.0)
SHAPE_HZ, FALL = 3.5, 4
SLOW_RATIO = 0.7
"""The slow band's weighted power over the usual one's, from which the shake is slow."""
CLEAR_HZ, CLEAR = (6.0, 8.0), 1.4
"""In this band the shake's own acceleration is so many times that of the pull's slow movement (median, both on the
tablet), or nothing is told: a shape of that acceleration reaches as far."""
CALM_ACCELERATION = 300.0
"""mm/s^2 on the tablet; a median above it belongs to pulls whose own shape fills the slow band: nothing is told."""
LEAST_S, LIMITS_HZ = 0.5, (6.0, 8.0)


def shake_hz(raw: np.ndarray, glass: float, rate: float) -> float:
    """The middle of the band in which a pull (n, 2), even in time, shakes: TREMOR_HZ unless a slow one is clear."""
    n = len(raw)
    if n < LEAST_S * rate:
        return TREMOR_HZ
    slow = steady_solve(raw, np.full(n - 3, penalty_for(SHAPE_HZ, rate)))
    pace = float(np.median(np.hypot(*np.diff(slow, 2, axis=0).T))) * rate * rate * glass
    if pace > CALM_ACCELERATION:
        return TREMOR_HZ
    window = np.hanning(n)
    # Powers of one-sided frequencies, scaled so that they add up to the mean square, mm^2.
    power = (np.abs(np.fft.rfft((raw - slow) * window[:, None], axis=0)) ** 2).sum(axis=1)
    power *= 2.0 * glass**2 / (n * (window**2).sum())
    hz = np.fft.rfftfreq(n, 1.0 / rate)

    def total(band: tuple[float, float], weight: np.ndarray | float = 1.0) -> float:
        inside = (hz >= band[0]) & (hz < band[1])
        return float((power * weight)[inside].sum())

    falling = (hz / TREMOR_HZ) ** FALL
    middle = 2.0 * math.pi * (CLEAR_HZ[0] + CLEAR_HZ[1]) / 2.0
    clear = math.sqrt(total(CLEAR_HZ)) * middle**2 > CLEAR * pace
    if not clear or total(SLOW_HZ, falling) < SLOW_RATIO * total(USUAL_HZ, falling):
        return TREMOR_HZ
    return float(np.clip(total(LOOKED_AT_HZ, hz) / total(LOOKED_AT_HZ), *LIMITS_HZ))
