"""What several pulls say of a figure: one value, and the interval that holds the truth four times in five."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

SURE = 0.8
LEAST = 3
"""Fewer pulls say nothing of how sure a figure is."""


@dataclass(frozen=True)
class Estimate:
    """low, high: the interval, None where there are too few pulls; count: of the pulls."""

    value: float
    low: float | None
    high: float | None
    count: int


def amplitude(values: Sequence[float]) -> Estimate:
    """Of amplitudes or RMS distances, a figure each pull: the root of their mean square. Its square is taken as a
    chi-square variable with as many degrees of freedom as the pulls' spread shows (Satterthwaite 1946)."""
    from scipy.stats import chi2

    squares = np.asarray(values, float) ** 2
    n, mean = len(squares), float(squares.mean()) if len(squares) else 0.0
    if n < LEAST or mean <= 0.0 or squares.std() == 0.0:
        return Estimate(float(np.sqrt(mean)), None, None, n)
    freedom = 2.0 * n * mean**2 / float(squares.var(ddof=1))
    low, high = (float(np.sqrt(mean * freedom / chi2.ppf(p, freedom))) for p in ((1 + SURE) / 2, (1 - SURE) / 2))
    return Estimate(float(np.sqrt(mean)), low, high, n)


def level(values: Sequence[float]) -> Estimate:
    """Of levels (pressure, speed, Hz): the mean, with Student's interval."""
    from scipy.stats import t as student

    v = np.asarray(values, float)
    n, mean = len(v), float(v.mean()) if len(v) else 0.0
    if n < LEAST:
        return Estimate(mean, None, None, n)
    half = float(student.ppf((1 + SURE) / 2, n - 1) * v.std(ddof=1) / np.sqrt(n))
    return Estimate(mean, mean - half, mean + half, n)


def evenness(places: Sequence[float]) -> float:
    """The coefficient of variation of the steps between places (n,) mm across lines, nan for fewer than three."""
    steps = np.diff(np.sort(np.asarray(places, float)))
    return float(steps.std() / steps.mean()) if len(steps) > 1 and steps.mean() > 0.0 else float("nan")
