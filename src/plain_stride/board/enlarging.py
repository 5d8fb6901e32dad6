"""How much larger than print a drawing is worth inking, and what pens come to after reduction."""

import math
from dataclasses import dataclass

from plain_stride import measure
from plain_stride.board.page import Page
from plain_stride.board.targets import PrintTarget

USUAL_TREMOR_MM = 0.15 / math.sqrt(2.0)
"""RMS to each side on the tablet of an average hand, as the simulated one has it."""
MOST, STEP = 3.0, 0.25
"""Beyond three times a line leaves the reach of the wrist, so that it misses its end: common practice."""
CREST = 2.0
"""A shake's bumps stand out about twice its RMS."""


@dataclass(frozen=True)
class Worth:
    """times: the enlargement that is worth it; bump_mm: how far the shake stands out of a line in print, inked at
    print size; seen_mm: what is seen at the target's distance; reached: whether `times` brings the one below the
    other."""

    times: float
    bump_mm: float
    seen_mm: float
    reached: bool


def worth(tremor_mm: float, target: PrintTarget) -> Worth:
    """The least enlargement, in quarters, at which the hand's shake (mm RMS on the tablet, unsteadied) is no longer
    seen in print: what is inked n times as large has its wobble divided by n."""
    seen = measure.thinnest_visible_mm(target.distance_mm)
    bump = CREST * tremor_mm
    wanted = max(1.0, math.ceil(bump / seen / STEP - 1e-9) * STEP)
    return Worth(min(wanted, MOST), bump, seen, wanted <= MOST)


def after_reduction(pen_px: float, page: Page) -> tuple[float, float]:
    """(px, mm) in print of a pen of so many px on a sheet that is inked `page.enlarge` times as large at `page.dpi`."""
    px = pen_px / page.enlarge
    return px, measure.mm_from_px(px, page.dpi)
