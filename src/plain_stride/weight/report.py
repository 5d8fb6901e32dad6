"""What widths amount to: means and spreads by role and tier, the ceiling of a part. All by length, ends left out."""

from collections.abc import Iterable
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np

from plain_stride.lines.shape import Shape

_LEAST_MM = 1e-4


@dataclass(frozen=True)
class Spread:
    """mm: mean, and the 5th and 95th percentile, by length."""

    mean: float
    low: float
    high: float


def spread_of(w: np.ndarray, weight: np.ndarray) -> Spread | None:
    """Of widths (n,) mm that stand for lengths (n,) mm each; None without any."""
    if not len(w) or weight.sum() <= 0.0:
        return None
    order = np.argsort(w)
    w, weight = w[order], weight[order]
    share = (np.cumsum(weight) - weight / 2.0) / weight.sum()
    low, high = np.interp([0.05, 0.95], share, w)
    return Spread(float((w * weight).sum() / weight.sum()), float(low), float(high))


def ceiling(outer: Iterable[Shape]) -> float | None:
    """The geometric mean width (mm) of a part's outer lines before ends, by length; None without any."""
    logs, lengths = 0.0, 0.0
    for shape in outer:
        log, length = _log_width(shape)
        logs, lengths = logs + log, lengths + length
    return float(np.exp(logs / lengths)) if lengths > 0.0 else None


_log_widths: WeakKeyDictionary[Shape, tuple[float, float]] = WeakKeyDictionary()


def _log_width(shape: Shape) -> tuple[float, float]:
    """(sum of log width by length, length) of a line; kept, since a part's ceiling is asked for after every pull."""
    kept = _log_widths.get(shape)
    if kept is None:
        w, weight = _by_length([shape])
        kept = float((np.log(np.maximum(w, _LEAST_MM)) * weight).sum()), float(weight.sum())
        _log_widths[shape] = kept
    return kept


def _by_length(shapes: Iterable[Shape]) -> tuple[np.ndarray, np.ndarray]:
    widths, weights = [np.zeros(0)], [np.zeros(0)]
    for shape in shapes:
        full = shape.body.full
        widths.append((full[1:] + full[:-1]) / 2.0)
        weights.append(np.diff(shape.body.s))
    return np.concatenate(widths), np.concatenate(weights)
