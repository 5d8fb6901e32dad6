"""Other uses of the same art: which lines fall below the floor when it is printed smaller, larger or elsewhere."""

from dataclasses import dataclass

import numpy as np

from plain_stride import measure
from plain_stride.board.page import Page
from plain_stride.board.targets import STANDARD, PrintTarget

LEAST_SHARE = 0.2
"""A line counts as lost where so much of its length lies below the floor: its tips always do."""


@dataclass(frozen=True)
class Use:
    """The art at a width of `width_mm`, printed on `target`."""

    name: str
    width_mm: float
    target: PrintTarget


@dataclass(frozen=True)
class Fallen:
    """factor: how large it comes out against the finished size; floor_mm: the least width, in mm of the finished
    size; lines: those that fall below it; of: how many there are; dpi: what is left of the resolution."""

    use: Use
    factor: float
    floor_mm: float
    lines: tuple[str, ...]
    of: int
    dpi: float


USES = (
    Use("postcard, 148 mm wide", 148.0, STANDARD["digital press"]),
    Use("poster, 594 mm wide", 594.0, STANDARD["digital press"]),
    Use("newspaper, 100 mm wide", 100.0, STANDARD["newsprint"]),
    Use("phone, 65 mm wide", 65.0, STANDARD["phone"]),
)


def fallen(use: Use, page: Page, widths: dict[str, np.ndarray]) -> Fallen:
    """widths: of each line, mm at places spread evenly over its length. (n,) of them a line."""
    factor = use.width_mm / page.size_mm[0]
    floor = max(use.target.line_mm, measure.thinnest_visible_mm(use.target.distance_mm)) / factor
    below = tuple(key for key, w in widths.items() if len(w) and float(np.mean(w < floor)) > LEAST_SHARE)
    return Fallen(use, factor, floor, below, len(widths), page.dpi / factor)
