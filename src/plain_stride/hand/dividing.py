"""Where a curve too long for one pull is best divided: within the hand's sweep, where its bend changes sides or is
least, never in a tight bend, into sections of about the same length."""

import numpy as np

from plain_stride.hand.along import lengths_along, places_at

STEP_MM, BEND_SPAN_MM = 1.0, 4.0
"""Places looked at, and the span over which a bend is measured, on the sheet."""
LEAST_SHARE = 0.3
"""No section is shorter than this share of the sweep."""
STRAIGHT_MM, TURN_COST, UNEVEN_COST, MORE_COST = 60.0, 3.0, 1.0, 1.0
"""A cut in a bend of this radius costs as much as three sections that are a whole sweep off the mean; one at an
inflection nothing; one section more than are needed as much as one so uneven."""


def divided(line: np.ndarray, sweep: float) -> np.ndarray:
    """Arc lengths (k,) mm, rising, at which a curve (n, 2) mm is best divided into sections of at most `sweep` mm;
    none where it is no longer than that. The fewest sections that fit, or one more where that spares a bend."""
    s = lengths_along(line)
    total = float(s[-1])
    if total <= sweep or sweep <= 2.0 * STEP_MM:
        return np.zeros(0)
    places = np.linspace(0.0, total, max(3, round(total / STEP_MM)) + 1)
    cost = _bends(line, s, places) * STRAIGHT_MM * TURN_COST
    fewest = int(np.ceil(total / sweep))
    choices = [_cheapest(places, cost, sweep, count) for count in (fewest, fewest + 1)]
    found = [(spent + MORE_COST * n, cuts) for n, (spent, cuts) in enumerate(choices) if np.isfinite(spent)]
    even: np.ndarray = total * np.arange(1, fewest) / fewest
    return min(found, key=lambda choice: choice[0])[1] if found else even


def _cheapest(places: np.ndarray, cost: np.ndarray, sweep: float, count: int) -> tuple[float, np.ndarray]:
    """(cost, cuts) of the cheapest way into so many sections, by dynamic programming; infinite where none fits."""
    mean = places[-1] / count
    least = min(LEAST_SHARE * sweep, 0.99 * mean)
    best = np.full((count + 1, len(places)), np.inf)
    came = np.zeros((count + 1, len(places)), int)
    best[0, 0] = 0.0
    paid = np.append(cost[:-1], 0.0)
    for n in range(1, count + 1):
        for k in range(1, len(places)):
            long = places[k] - places[:k]
            fits = (long <= sweep + 1e-9) & (long >= least)
            tried = np.where(fits, best[n - 1, :k] + UNEVEN_COST * ((long - mean) / sweep) ** 2, np.inf)
            came[n, k] = int(np.argmin(tried))
            best[n, k] = tried[came[n, k]] + paid[k]
    cuts, k = [], len(places) - 1
    for n in range(count, 0, -1):
        k = int(came[n, k])
        cuts.append(places[k])
    return float(best[count, -1]), np.array(cuts[-2::-1])


def _bends(line: np.ndarray, s: np.ndarray, places: np.ndarray) -> np.ndarray:
    """How bent (1 / mm) a curve is at places along it; nothing at inflections, where its bend changes sides."""
    half = BEND_SPAN_MM / 2.0
    a, b, c = (places_at(line, s, places + off) for off in (-half, 0.0, half))
    u, v = b - a, c - b
    turn = np.arctan2(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0], (u * v).sum(axis=1))
    out: np.ndarray = np.abs(turn) / half
    changes = np.flatnonzero(np.sign(turn[1:]) * np.sign(turn[:-1]) < 0)
    out[changes] = out[changes + 1] = 0.0
    return out
