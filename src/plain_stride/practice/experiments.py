"""The same curve at several speeds and sizes: what errs least, and what steadying the hand wants."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from plain_stride.hand.advice import Thresholds
from plain_stride.practice.estimates import amplitude
from plain_stride.practice.hand_book import Kept
from plain_stride.practice.speeds import LEAST_PULLS, SweetSpot, sweet_spot

SIZES = (1.0, 1.5, 2.0)
SAME, EACH = 0.06, 5
"""Pulls at a size are those within this share of it; so many tell of it."""
SHAKY = Thresholds().shake * float(np.sqrt(2.0))
"""The amplitude from which a hand counts as shaky: its RMS to the side is the threshold of the advice."""


@dataclass(frozen=True)
class Experiment:
    """spot: the speed that errs least, None while that cannot be told; in_print: straying in print, mm, by size; size:
    that errs least there, None where fewer than two were tried; school: the steadying that the hand wants, None for too
    few pulls."""

    pulls: int
    spot: SweetSpot | None
    in_print: Mapping[float, float]
    size: float | None
    school: str | None


def experiment(pulls: Sequence[Kept]) -> Experiment:
    """Of pulls of one drill. A line that is pulled at a size is as much smaller in print, its straying with it."""
    in_print = {size: amplitude([k.measures.straying for k in some]).value / size for size in SIZES
                if len(some := [k for k in pulls if abs(k.scale / size - 1.0) < SAME]) >= EACH}  # fmt: skip
    school = None
    if len(pulls) >= LEAST_PULLS:
        school = "after" if amplitude([k.measures.shake for k in pulls]).value > SHAKY else "live"
    return Experiment(
        len(pulls),
        sweet_spot([k.measures.speed for k in pulls], [k.measures.straying for k in pulls]),
        in_print,
        min(in_print, key=lambda size: in_print[size]) if len(in_print) > 1 else None,
        school,
    )
