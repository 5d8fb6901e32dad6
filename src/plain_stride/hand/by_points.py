"""A pull through points that were set one by one, as a calm hand would have pulled it."""

import numpy as np

from plain_stride.hand.resample import read_at

RATE_HZ, PACE_MM_S, LEAST_S = 200.0, 35.0, 0.2


def pull_through(points: np.ndarray) -> np.ndarray:
    """Samples (n, 5) of a pull along the smooth curve through points (k, 3): x, y mm and pressure 0..1.

    The curve's parameter goes with the square root of the points' distances (centripetal, which bends evenly where
    points are uneven), the time along it is that of a minimum-jerk movement (Flash and Hogan 1985), whose peak is
    1.875 times its mean, at a normal pace.
    """
    p = np.asarray(points, float)
    keep = np.concatenate([[True], np.hypot(*np.diff(p[:, :2], axis=0).T) > 1e-6])
    p = p[keep]
    if len(p) == 1:
        p = np.vstack([p, p + (0.01, 0.0, 0.0)])
    knots = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p[:, :2], axis=0).T) ** 0.5)])
    fine = np.linspace(0.0, knots[-1], 40 * len(p))
    path = read_at(knots, p[:, :2], fine)
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    long = max(float(s[-1]) / PACE_MM_S * 1.875 / 1.2, LEAST_S)
    t = np.linspace(0.0, long, max(int(long * RATE_HZ), 8))
    u = t / long
    at = np.interp(u**3 * (10.0 - 15.0 * u + 6.0 * u * u) * s[-1], s, fine)
    xy = read_at(knots, p[:, :2], at)
    pressure = np.interp(at, knots, p[:, 2])
    return np.column_stack([xy, pressure, t, np.full(len(t), np.nan)])
