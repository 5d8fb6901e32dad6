"""Loops of the plan's guarantees, to be compiled. Used as they are where nothing is compiled."""

import numpy as np

MANY_COLUMNS, OVER = 16, 1.5
"""How many columns are many; how far each look goes past what it wants, which settles sooner (1 to 2)."""


def have(
    first: np.ndarray, column: np.ndarray, share: np.ndarray, z: np.ndarray, thicken: float, thin: float, row: int
) -> float:
    """What a row comes to: weights above nought and below it count at their own cost."""
    total = 0.0
    for k in range(first[row], first[row + 1]):
        c = column[k]
        total += share[k] * (z[c] / thicken if z[c] > 0.0 else z[c] / thin)
    return total


def settle(
    first: np.ndarray,
    column: np.ndarray,
    share: np.ndarray,
    touch_first: np.ndarray,
    touch: np.ndarray,
    need: np.ndarray,
    steep: np.ndarray,
    most: np.ndarray,
    weight: np.ndarray,
    z: np.ndarray,
    thicken: float,
    thin: float,
    settings: np.ndarray,
) -> int:
    """Looks at rows until each is met or weighs all that it may, again at those that share a column with one that has
    changed. Row r wants the sum of share x offset over its columns to be need[r] or more; weight (rows,) and z (n,) are
    brought up to date. steep (rows,): by how much a row comes nearer for
    what it weighs more; touch: the rows of each column. settings: visits a row at most, what is near enough. Gives the
    visits."""
    rows, visits = len(need), 0
    most_visits, enough = int(settings[0]) * max(rows, 1), settings[1]
    # Rows of many columns wait until all others have settled: each of them stirs up all that it reaches.
    queue, waits = np.empty((2, rows + 1), np.int64), np.zeros(rows, np.uint8)
    at, to = np.zeros(2, np.int64), np.zeros(2, np.int64)
    for r in range(rows):
        if most[r] > 0.0:
            late = 1 if first[r + 1] - first[r] > MANY_COLUMNS else 0
            queue[late, to[late]], waits[r] = r, 1
            to[late] += 1
    while visits < most_visits and (at[0] != to[0] or at[1] != to[1]):
        late = 0 if at[0] != to[0] else 1
        r = queue[late, at[late]]
        at[late] = (at[late] + 1) % (rows + 1)
        waits[r] = 0
        visits += 1
        if steep[r] <= 0.0:
            continue
        short = need[r] - have(first, column, share, z, thicken, thin, r)
        step = min(max(weight[r] + OVER * short / steep[r], 0.0), most[r]) - weight[r]
        if abs(step) * steep[r] <= enough:
            continue
        weight[r] += step
        for k in range(first[r], first[r + 1]):
            c = column[k]
            z[c] += step * share[k]
            for j in range(touch_first[c], touch_first[c + 1]):
                other = touch[j]
                if waits[other] == 0 and most[other] > 0.0:
                    late = 1 if first[other + 1] - first[other] > MANY_COLUMNS else 0
                    queue[late, to[late]], waits[other] = other, 1
                    to[late] = (to[late] + 1) % (rows + 1)
    return visits
