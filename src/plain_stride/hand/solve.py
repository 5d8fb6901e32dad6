"""The banded solve behind steadying: the smoothest path that the noise of a hand explains.

Minimises (y - x)' Q (y - x) + sum of lambda_i (third difference i of x)^2, where Q is the inverse covariance of the
noise: white, or a tremor modelled as AR(2) with a resonance. Penalised differences: Whittaker 1923, Eilers 2003;
noise-aware estimation: Wiener 1949.
"""

import math

import numpy as np

from plain_stride.compiled.ready import floats, kernels

TREMOR_HZ = 10.0
TREMOR_WIDTH_HZ = 6.0
_THIRD = np.array([-1.0, 3.0, -3.0, 1.0])


def tremor_filter(rate: float) -> tuple[float, float]:
    """(a1, a2) of the AR(2) noise n_t + a1 n_(t-1) + a2 n_(t-2) = e_t that resonates at TREMOR_HZ."""
    r = math.exp(-math.pi * TREMOR_WIDTH_HZ / rate)
    return -2.0 * r * math.cos(2.0 * math.pi * TREMOR_HZ / rate), r * r


def penalty_for(cutoff_hz: np.ndarray | float, rate: float, tremor: bool) -> np.ndarray:
    """Weight of a squared third difference that gives half gain at `cutoff_hz` (array or number)."""
    w = 2.0 * np.pi * np.minimum(np.asarray(cutoff_hz, float), 0.45 * rate) / rate
    data = np.ones_like(w)
    if tremor:
        a1, a2 = tremor_filter(rate)
        data = np.abs(1.0 + a1 * np.exp(-1j * w) + a2 * np.exp(-2j * w)) ** 2
    return data / (2.0 * np.sin(w / 2.0)) ** 6


def precision(n: int, rate: float, tremor: bool) -> np.ndarray:
    """Upper bands (3, n) of the noise's inverse covariance, last row the diagonal. Exact for AR(2) when n >= 4."""
    bands = np.zeros((3, n))
    bands[2] = 1.0
    if tremor and n >= 4:
        a1, a2 = tremor_filter(rate)
        bands[2] += a1 * a1 + a2 * a2
        bands[2, [1, -2]] = 1.0 + a1 * a1
        bands[2, [0, -1]] = 1.0
        bands[1, 1:] = a1 + a1 * a2
        bands[1, [1, -1]] = a1
        bands[0, 2:] = a2
    return bands


def _times(bands: np.ndarray, y: np.ndarray) -> np.ndarray:
    """The symmetric matrix with these upper bands times y (n, k)."""
    out = bands[-1][:, None] * y
    for off in range(1, len(bands)):
        band = bands[-1 - off, off:][:, None]
        out[:-off] += band * y[off:]
        out[off:] += band * y[:-off]
    return out


def steady_solve(y: np.ndarray, penalty: np.ndarray, rate: float, tremor: bool) -> np.ndarray:
    """The path x (n, k) for samples y (n, k) on an even grid; penalty: (n - 3,) weights, 0 frees a row.

    Fewer than 5 samples come back as they are.
    """
    n = len(y)
    if n < 5:
        return y.copy()
    noise = precision(n, rate, tremor)
    compiled = kernels()
    if compiled is not None:
        out: np.ndarray = compiled.solve(*floats(y, penalty, noise))
        return out
    from scipy.linalg import solveh_banded

    centre = y.mean(axis=0)
    whole = np.zeros((4, n))
    whole[1:] = noise
    for a in range(4):
        for b in range(a, 4):
            whole[3 - (b - a), b : n - 3 + b] += penalty * (_THIRD[a] * _THIRD[b])
    return centre + solveh_banded(whole, _times(noise, y - centre), overwrite_ab=True, check_finite=False)
