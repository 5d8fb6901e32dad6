"""Loops of the plan's guarantees, to be compiled. Used as they are where nothing is compiled."""

import numpy as np


def settle(
    first: np.ndarray,
    column: np.ndarray,
    share: np.ndarray,
    need: np.ndarray,
    most: np.ndarray,
    weight: np.ndarray,
    z: np.ndarray,
    thicken: float,
    thin: float,
    settings: np.ndarray,
) -> float:
    """Goes round the rows until each is met or weighs all that it may. Row r wants the sum of share x offset over its
    columns to be need[r] or more; weight (rows,) and z (n,) are brought up to date. settings: rounds, what is near
    enough. Gives the largest shortfall that was mended in the last round."""
    rounds, enough = int(settings[0]), settings[1]
    rows, worst = len(need), 0.0
    for _ in range(rounds):
        worst = 0.0
        for r in range(rows):
            if most[r] <= 0.0:
                continue
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
            if step == 0.0:
                continue
            weight[r] = now
            for k in range(first[r], first[r + 1]):
                z[column[k]] += step * share[k]
            worst = max(worst, abs(step) * steep)
        if worst <= enough:
            break
    return worst
