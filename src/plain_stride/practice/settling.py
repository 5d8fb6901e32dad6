"""Whether a hand has warmed up: a figure that falls from pull to pull towards where it will stay.

log f(n) = log end + log(1 + drop exp(-n / tau)) + noise. The drop and the pace are unknown; all of a grid are weighed
by how well they explain the pulls so far, with the end and the noise integrated out (a t distribution, as in Bayesian
regression; Gelman et al., Bayesian Data Analysis, ch. 14). A figure has settled when it is all but sure that less than
5 % of the way is left.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np

WITHIN = 0.05
"""Of the end: what is no longer a way to go."""
SURE = 0.94
LEAST_PULLS = 12
DROPS = np.concatenate([[0.0], np.geomspace(0.04, 3.0, 24)])
TAUS = np.geomspace(2.0, 10.0, 14)
"""Pulls in which the way to go shrinks to a third; how long a warm-up may take and still be told in time."""
STEADY = 0.35
"""How likely a hand is warm from the start, before anything was seen."""


@dataclass(frozen=True)
class Settled:
    """since: the number of pulls for which it has stayed, None where it has not settled; began, now: the figure at the
    first pull and where it stands, as the likeliest course has them; sure: how sure it is that it has settled."""

    since: int | None
    began: float
    now: float
    sure: float


def settled(values: Sequence[float]) -> Settled:
    """values: of a figure, positive, in the order of the pulls. n times the grid, over all that is kept."""
    v = np.log(np.maximum(np.asarray(values, float), 1e-9))
    n = len(v)
    if n < LEAST_PULLS:
        now = float(np.exp(v.mean())) if n else 0.0
        return Settled(None, now, now, 0.0)
    ways, last, prior = _courses(n)
    left = v[None, :] - ways
    end = left.mean(axis=1)
    spread = ((left - end[:, None]) ** 2).sum(axis=1)
    weight = np.log(prior) - (n - 1) / 2.0 * np.log(np.maximum(spread, 1e-12))
    chance = np.exp(weight - weight.max())
    chance /= chance.sum()
    there = last <= n - 1
    sure = float(chance[there].sum())
    began, now = (float(np.exp((chance * (end + ways[:, k])).sum())) for k in (0, n - 1))
    if sure < SURE:
        return Settled(None, began, now, sure)
    # The first pull from which on it is as sure.
    order = np.argsort(last, kind="stable")
    reached = last[order][np.searchsorted(np.cumsum(chance[order]), SURE)]
    return Settled(max(0, n - int(reached)), began, now, sure)


@cache
def _courses(n: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(log factors (courses, n), the pull from which each is within 5 % of its end, how likely each is beforehand)."""
    drop, tau = (grid.ravel() for grid in np.meshgrid(DROPS, TAUS, indexing="ij"))
    ways = np.log1p(drop[:, None] * np.exp(-np.arange(n)[None, :] / tau[:, None]))
    last = np.ceil(np.where(drop > WITHIN, tau * np.log(np.maximum(drop, 1e-9) / WITHIN), 0.0))
    none = drop == 0.0
    prior = np.where(none, STEADY / none.sum(), (1.0 - STEADY) / (~none).sum())
    return ways, last, prior
