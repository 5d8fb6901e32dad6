"""Loops of the plan's guarantees, to be compiled. Used as they are where nothing is compiled."""

import numpy as np


def settle(
    first: np.ndarray,
    column: np.ndarray,
    share: np.ndarray,
    touch_first: np.ndarray,
    touch: np.ndarray,
    need: np.ndarray,
    most: np.ndarray,
    weight: np.ndarray,
    z: np.ndarray,
    thicken: float,
    thin: float,
    settings: np.ndarray,
) -> int:
    """Looks at rows until each is met or weighs all that it may, again at those that share a column with one that has
    changed. Row r wants the sum of share x offset over its columns to be need[r] or more; weight (rows,) and z (n,) are
    brought up to date. touch: the rows of each column. settings: visits a row at most, what is near enough. Gives the
    visits."""
    rows = len(need)
    most_visits, enough = int(settings[0]) * max(rows, 1), settings[1]
    queue, waits = np.empty(rows + 1, np.int64), np.zeros(rows, np.uint8)
    head, tail, visits = 0, 0, 0
    for r in range(rows):
        if most[r] > 0.0:
            queue[tail], waits[r] = r, 1
            tail += 1
    while head != tail and visits < most_visits:
        r = queue[head]
        head = head + 1 if head < rows else 0
        waits[r] = 0
        visits += 1
        have, steep = 0.0, 0.0
        for k in range(first[r], first[r + 1]):
            c = column[k]
            have += share[k] * (z[c] / thicken if z[c] > 0.0 else z[c] / thin)
            steep += share[k] * share[k]
        steep /= min(thicken, thin)
        if steep <= 0.0:
            continue
        now = weight[r] + (need[r] - have) / steep
        now = min(max(now, 0.0), most[r])
        step = now - weight[r]
        if abs(step) * steep <= enough:
            continue
        weight[r] = now
        for k in range(first[r], first[r + 1]):
            c = column[k]
            z[c] += step * share[k]
            for j in range(touch_first[c], touch_first[c + 1]):
                other = touch[j]
                if waits[other] == 0 and most[other] > 0.0:
                    queue[tail], waits[other] = other, 1
                    tail = tail + 1 if tail < rows else 0
    return visits
