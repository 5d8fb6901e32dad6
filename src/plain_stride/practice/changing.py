"""Whether a hand is another than it was, or only chance: Welch's test (1947) on the logarithms of its figures, with
Holm's correction (1979) for looking at several."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

CHANCE = 0.04
"""How often a hand that did not change may be called changed."""
LEAST = 8
"""Pulls on each side; fewer tell nothing."""


@dataclass(frozen=True)
class Change:
    """Of one figure. factor: now over before, by their geometric means; low, high: its interval (80 %); chance: how
    often as much comes about by chance, after Holm; real: whether it is more than that."""

    figure: str
    factor: float
    low: float
    high: float
    chance: float
    real: bool


def changes(before: Mapping[str, Sequence[float]], now: Mapping[str, Sequence[float]]) -> tuple[Change, ...]:
    """Values of each figure, positive, one each pull. Figures with fewer than LEAST on a side are left out."""
    from scipy.stats import t as student
    from scipy.stats import ttest_ind

    told = []
    for figure in before:
        a, b = (np.log(np.maximum(np.asarray(side.get(figure, ()), float), 1e-9)) for side in (before, now))
        if min(len(a), len(b)) < LEAST or a.std() == 0.0 or b.std() == 0.0:
            continue
        result = ttest_ind(b, a, equal_var=False)
        off = float(b.mean() - a.mean())
        half = float(student.ppf(0.9, result.df) * np.sqrt(a.var(ddof=1) / len(a) + b.var(ddof=1) / len(b)))
        told.append((figure, off, half, float(result.pvalue)))
    return tuple(
        Change(figure, float(np.exp(off)), float(np.exp(off - half)), float(np.exp(off + half)), p, p < CHANCE)
        for (figure, off, half, _), p in zip(told, _holm([one[3] for one in told]), strict=True)
    )


def _holm(p: Sequence[float]) -> list[float]:
    """Chances corrected for how many were looked at, in the order given."""
    rank = np.argsort(p)
    out, most = [0.0] * len(p), 0.0
    for k, at in enumerate(rank.tolist()):
        most = max(most, min(1.0, p[at] * (len(p) - k)))
        out[at] = most
    return out
