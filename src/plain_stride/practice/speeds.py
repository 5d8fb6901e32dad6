"""Error against speed: too slow a line shakes and drifts, too fast a one misses; between them lies a speed that errs
least. Fast misses grow with the speed (Fitts 1954 for aim; Accot and Zhai 1997, the steering law, for curves); what
slow lines gather shrinks with it: error^2 = (slow / v)^2 + (fast v)^2."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

LEAST_PULLS, LEAST_RANGE = 9, 2.0
"""With fewer pulls, or speeds that differ by less than the factor, nothing is said."""
BOOTSTRAPS, SURE = 200, 0.8


@dataclass(frozen=True)
class SweetSpot:
    """speed: mm/s on the tablet that errs least; low, high: its interval (80 %); error: there, mm; slow, fast: of the
    curve; inside: whether the speeds that were tried lie on both sides of it."""

    speed: float
    low: float
    high: float
    error: float
    slow: float
    fast: float
    inside: bool

    def error_at(self, speed: np.ndarray) -> np.ndarray:
        """The curve (n,) mm at speeds (n,)."""
        return np.asarray(np.hypot(self.slow / speed, self.fast * speed))


def sweet_spot(speeds: Sequence[float], errors: Sequence[float], seed: int = 0) -> SweetSpot | None:
    """speeds: mm/s, errors: mm, one each pull; None where they are too few or too alike to tell."""
    v, e = np.asarray(speeds, float), np.asarray(errors, float)
    kept = (v > 0.0) & (e > 0.0)
    v, e = v[kept], e[kept]
    if len(v) < LEAST_PULLS or np.quantile(v, 0.9) / np.quantile(v, 0.1) < LEAST_RANGE:
        return None
    x, square = np.log(v), e**2
    best, least = _vertex(x, square)
    rng = np.random.default_rng(seed)
    again = []
    for _ in range(BOOTSTRAPS):
        pick = rng.integers(0, len(x), len(x))
        if np.ptp(x[pick]) > 0.0:
            again.append(_vertex(x[pick], square[pick])[0])
    low, high = np.quantile(again, [(1 - SURE) / 2, (1 + SURE) / 2])
    low, high = (float(np.exp(best + (end - best) * _wider(len(x)))) for end in (low, high))
    speed = float(np.exp(best))
    return SweetSpot(speed, low, high, least, least * speed / float(np.sqrt(2.0)), least / speed / float(np.sqrt(2.0)),
                     bool(np.quantile(v, 0.1) < speed < np.quantile(v, 0.9)))  # fmt: skip


def _wider(count: int) -> float:
    """By how much a bootstrap of few pulls is too narrow: Student's t over the normal, and the lost degree of freedom,
    for a third of the pulls, as they come at three paces."""
    from scipy.stats import norm
    from scipy.stats import t as student

    each = count / 3.0
    quantile = (1 + SURE) / 2
    return float(student.ppf(quantile, each - 1.0) / norm.ppf(quantile) * np.sqrt(each / (each - 1.0)))


REACH = np.log(4.0)
"""The vertex is looked for as far beyond the speeds that were tried."""


def _vertex(x: np.ndarray, square: np.ndarray) -> tuple[float, float]:
    """(place, depth) of depth^2 cosh(2 (x - place)) that explains squares of errors best, over a grid that is made
    finer twice. At the place the two errors are equal: cosh is their sum. Squares of errors are taken for gamma
    variables (McCullagh and Nelder 1989, ch. 8): fast pulls are short, and the mean of their logarithms lies low."""
    low, high = float(x.min()) - REACH, float(x.max()) + REACH
    place = depth = 0.0
    for _ in range(3):
        grid = np.linspace(low, high, 61)
        shape = np.cosh(2.0 * (x[None, :] - grid[:, None]))
        least = (square / shape).mean(axis=1)
        off = np.log(least) + np.log(shape).mean(axis=1)
        k = int(off.argmin())
        place, depth = float(grid[k]), float(np.sqrt(least[k]))
        step = grid[1] - grid[0]
        low, high = place - step, place + step
    return place, depth
