"""Loops of the plan's guarantees, to be compiled. Used as they are where nothing is compiled."""

import numpy as np

MANY_COLUMNS, OVER = 16, 1.5
"""How many columns are many; how far each look goes past what it wants, which settles sooner (1 to 2)."""


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
    # Rows of many columns are looked at once all others have settled: each of them stirs up all that it reaches.
    queue, late, waits = np.empty(rows + 1, np.int64), np.empty(rows + 1, np.int64), np.zeros(rows, np.uint8)
    head, tail, late_head, late_tail, visits = 0, 0, 0, 0, 0
    for r in range(rows):
        if most[r] > 0.0:
            waits[r] = 1
            if first[r + 1] - first[r] > MANY_COLUMNS:
                late[late_tail] = r
                late_tail += 1
            else:
                queue[tail] = r
                tail += 1
    while (head != tail or late_head != late_tail) and visits < most_visits:
        if head != tail:
            r = queue[head]
            head = head + 1 if head < rows else 0
        else:
            r = late[late_head]
            late_head = late_head + 1 if late_head < rows else 0
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
        now = weight[r] + OVER * (need[r] - have) / steep
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
                    waits[other] = 1
                    if first[other + 1] - first[other] > MANY_COLUMNS:
                        late[late_tail] = other
                        late_tail = late_tail + 1 if late_tail < rows else 0
                    else:
                        queue[tail] = other
                        tail = tail + 1 if tail < rows else 0
    return visits
