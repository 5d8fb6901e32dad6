"""How sure a read line is: the chance that nine tenths of it lie within 0.25 mm of the line that was meant.

A logistic regression over what is measured along each line, fitted on drawings whose lines are known, at five ways to
draw them (one soft pass to five loose ones; `python -m benchmarks reading` shows how well it holds on others).
"""

from collections.abc import Sequence

import numpy as np

from plain_stride.pencils.read.centres import Centre
from plain_stride.pencils.read.corners import STEP_MM
from plain_stride.pencils.read.ridges import ROUGH, Kind

KEPT = 0.3
"""What is less sure an inker would not keep: construction lines lie below."""
GUIDE_SHARE = 0.25
"""A construction line was not meant to be inked, however sure it is where it lies."""
_FITTED = {"one": 4.67, "strength": 1.285, "spread": -8.707, "uneven": -3.142, "clear": 1.071, "length": -0.117,
           "usual": -5.767, "rough": -0.646}  # fmt: skip
_MOST_STRONG, _LONGEST_MM = 1.3, 100.0


def confidences(centres: Sequence[Centre], kind: Kind) -> list[float]:
    """0 to 1 for each of the lines of a drawing. strength counts in strong responses; spread and its usual value are
    RMS half-widths in mm, the wider the looser; uneven: how the darkness varies along it, for its mean; clear: the
    share of it across which no other line lies; length in natural logarithms of mm."""
    known = [c.spread[np.isfinite(c.spread)] for c in centres]
    together = np.concatenate(known) if known else np.zeros(0)
    usual = float(np.median(together)) if len(together) else kind.width / 4.0
    return [_chance(c, spread, usual, kind is ROUGH) for c, spread in zip(centres, known, strict=True)]


def _chance(c: Centre, spread: np.ndarray, usual: float, rough: bool) -> float:
    mass = c.mass[np.isfinite(c.mass)]
    told = {
        "one": 1.0, "rough": float(rough), "strength": min(c.strength, _MOST_STRONG), "usual": usual,
        "spread": float(np.median(spread)) if len(spread) else usual,
        "uneven": float(mass.std() / max(float(mass.mean()), 1e-9)) if len(mass) else 0.0,
        "clear": len(spread) / max(len(c.spread), 1),
        "length": float(np.log(np.clip(len(c.points) * STEP_MM, 1.0, _LONGEST_MM))),
    }  # fmt: skip
    return float(1.0 / (1.0 + np.exp(-sum(_FITTED[name] * value for name, value in told.items()))))
