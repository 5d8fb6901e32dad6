"""A path through points, read at other times: the C1 cubic through samples, with slopes from three neighbours."""

import numpy as np

from plain_stride.compiled.ready import floats, kernels

RATE = 200.0
"""Hz; pulls are steadied on an even grid near this rate, whatever the pen reported."""


def slopes(t: np.ndarray, p: np.ndarray) -> np.ndarray:
    """Derivatives (n, k) of the parabola through each point and its neighbours; one-sided at the ends."""
    if len(t) < 2:
        return np.zeros_like(p)
    h = np.diff(t)[:, None]
    d = np.diff(p, axis=0) / h
    if len(t) == 2:
        return np.vstack([d, d])
    inner = (d[:-1] * h[1:] + d[1:] * h[:-1]) / (h[1:] + h[:-1])
    first = 2.0 * d[:1] - inner[:1]
    last = 2.0 * d[-1:] - inner[-1:]
    return np.vstack([first, inner, last])


def read_at(t: np.ndarray, p: np.ndarray, at: np.ndarray, m: np.ndarray | None = None) -> np.ndarray:
    """Values (len(at), k) of the cubic Hermite path through p (n, k) at times t (rising). `at` is clipped to t."""
    if len(t) == 1:
        return np.repeat(p, len(at), axis=0)
    compiled = kernels()
    if compiled is not None and m is None:
        out: np.ndarray = compiled.read(*floats(t, p, at))
        return out
    m = slopes(t, p) if m is None else m
    at = np.clip(at, t[0], t[-1])
    k = np.clip(np.searchsorted(t, at, side="right") - 1, 0, len(t) - 2)
    h = (t[k + 1] - t[k])[:, None]
    u = ((at - t[k])[:, None]) / h
    u2, u3 = u * u, u * u * u
    return (
        (2 * u3 - 3 * u2 + 1) * p[k]
        + (u3 - 2 * u2 + u) * h * m[k]
        + (3 * u2 - 2 * u3) * p[k + 1]
        + (u3 - u2) * h * m[k + 1]
    )


def even_grid(t: np.ndarray, rate: float = RATE) -> np.ndarray:
    """Times evenly spaced at about `rate`, from the first of t to the last exactly. Seconds (n,) to (m,); rate in
    Hz."""
    span = float(t[-1] - t[0])
    return np.linspace(t[0], t[-1], max(2, round(span * rate) + 1)) if span > 0 else t[:1].copy()
