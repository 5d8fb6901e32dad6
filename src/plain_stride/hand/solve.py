"""The banded solve behind steadying: the smoothest path that the noise of a hand explains.

Minimises (y - x)' Q (y - x) + sum of lambda_i (third difference i of x)^2, where Q is the inverse covariance of the
noise: white, or a tremor modelled as AR(4) with two resonances side by side, so that what it fills is a band. Penalised
differences: Whittaker 1923, Eilers 2003; noise-aware estimation: Wiener 1949.
"""

import math
from functools import lru_cache

import numpy as np

from plain_stride.compiled.ready import floats, kernels

TREMOR_HZ = 10.0
"""The middle of the tremor's band, unless a pull shows another."""
APART, WIDTH_HZ, LIVE_WIDTH_HZ = 0.1, 1.5, 6.0
"""Each resonance lies by this share of the middle away from it, and is so wide: wider for ink that is still being
pulled, which would else move too far once more of the pull is known."""
WHITE = np.ones(1)
"""Noise without memory, as the coefficients of its filter."""
_THIRD = np.array([-1.0, 3.0, -3.0, 1.0])


@lru_cache(maxsize=32)
def tremor_filter(rate: int, hz: float = TREMOR_HZ, width: float = WIDTH_HZ) -> np.ndarray:
    """Coefficients (5,) of the AR(4) noise n_t + a1 n_(t-1) + .. + a4 n_(t-4) = e_t that fills a band round `hz`.
    rate: samples a second; whole ones, since a pull's own differs from them by less than matters here."""
    r = math.exp(-math.pi * width / rate)
    low, high = (
        np.array([1.0, -2.0 * r * math.cos(2.0 * math.pi * f / rate), r * r])
        for f in (hz * (1.0 - APART), hz * (1.0 + APART))
    )
    return np.convolve(low, high)


def penalty_for(cutoff_hz: np.ndarray | float, rate: float, noise: np.ndarray = WHITE) -> np.ndarray:
    """Weight of a squared third difference that gives half gain at `cutoff_hz` (array or number) against a noise.
    noise: bands (p + 1, n)."""
    w = 2.0 * np.pi * np.minimum(np.asarray(cutoff_hz, float), 0.45 * rate) / rate
    response = sum(a * np.exp(-1j * k * w) for k, a in enumerate(noise))
    out: np.ndarray = np.abs(response) ** 2 / (2.0 * np.sin(w / 2.0)) ** 6
    return out


def precision(n: int, noise: np.ndarray) -> np.ndarray:
    """Upper bands (p + 1, n) of the inverse covariance of n values of a noise with p + 1 coefficients, last row the
    diagonal. Exact for n >= 2 p (Siddiqui 1958); white for fewer."""
    return _precision(n, noise.tobytes())


@lru_cache(maxsize=1024)
def _precision(n: int, coefficients: bytes) -> np.ndarray:
    noise = np.frombuffer(coefficients)
    p = len(noise) - 1
    if n < 2 * p:
        p, noise = 0, WHITE
    bands = np.zeros((p + 1, n))
    for d in range(p + 1):
        sums = np.cumsum(noise[: p - d + 1] * noise[d:])
        at = np.arange(d, n)
        bands[p - d, d:] = sums[np.minimum(np.minimum(at - d, n - 1 - at), p - d)]
    return bands


def _times(bands: np.ndarray, y: np.ndarray) -> np.ndarray:
    """The symmetric matrix with these upper bands times y (n, k)."""
    out = bands[-1][:, None] * y
    for off in range(1, len(bands)):
        band = bands[-1 - off, off:][:, None]
        out[:-off] += band * y[off:]
        out[off:] += band * y[:-off]
    return out


def steady_solve(y: np.ndarray, penalty: np.ndarray, noise: np.ndarray = WHITE) -> np.ndarray:
    """The path x (n, k) for samples y (n, k) on an even grid; penalty: (n - 3,) weights, 0 frees a row.

    Fewer than 5 samples come back as they are.
    """
    n = len(y)
    if n < 5:
        return y.copy()
    bands = precision(n, noise)
    compiled = kernels()
    if compiled is not None:
        out: np.ndarray = compiled.solve(*floats(y, penalty, bands))
        return out
    from scipy.linalg import solveh_banded

    centre = y.mean(axis=0)
    wide = max(3, len(bands) - 1)
    whole = np.zeros((wide + 1, n))
    whole[wide + 1 - len(bands) :] = bands
    for a in range(4):
        for b in range(a, 4):
            whole[wide - (b - a), b : n - 3 + b] += penalty * (_THIRD[a] * _THIRD[b])
    return centre + solveh_banded(whole, _times(bands, y - centre), overwrite_ab=True, check_finite=False)
