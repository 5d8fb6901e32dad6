"""The ladder of widths: each step in mm, pt and px, and whether it holds where it will be printed."""

from dataclasses import dataclass

from plain_stride import measure
from plain_stride.board.page import Page
from plain_stride.board.targets import PrintTarget

RESERVE = 2.0**0.5
"""One step of the ladder: a line needs so much more than the least to be safe, since no printer is even."""
ENLARGEMENTS = (1.0, 1.5, 2.0)
SAFE, RISKY, LOST = "safe", "risky", "lost"
MARKS = {SAFE: "●", RISKY: "◐", LOST: "○"}


@dataclass(frozen=True)
class Floor:
    """The least widths, mm: what the target holds, what is seen at its distance, one pixel."""

    line_mm: float
    seen_mm: float
    pixel_mm: float

    @property
    def mm(self) -> float:
        return max(self.line_mm, self.seen_mm, self.pixel_mm)

    @property
    def why(self) -> str:
        """Which of the three it is that sets the floor."""
        least = {"the print": self.line_mm, "the eye": self.seen_mm, "one pixel": self.pixel_mm}
        return max(least, key=lambda what: least[what])


@dataclass(frozen=True)
class Step:
    """One width: mm in print, pt, px of the export; pen_px: px of a pen, at each of ENLARGEMENTS, that comes to it."""

    mm: float
    pt: float
    px: float
    pen_px: tuple[float, ...]
    verdict: str


def floor_of(page: Page, target: PrintTarget) -> Floor:
    """What sets the least width of a page for a target."""
    seen = measure.thinnest_visible_mm(target.distance_mm)
    return Floor(target.line_mm, seen, measure.mm_from_px(1.0, page.dpi))


def verdict(mm: float, floor: float) -> str:
    """safe, risky or lost, for a width against a floor, both mm."""
    return LOST if mm < floor * (1.0 - 1e-9) else RISKY if mm < floor * RESERVE * (1.0 - 1e-9) else SAFE


def ladder(page: Page, target: PrintTarget) -> list[Step]:
    """The ISO 128 widths, the thinnest first."""
    floor = floor_of(page, target).mm
    out = []
    for mm in measure.LADDER:
        px = measure.px_from_mm(mm, page.dpi)
        pens = tuple(px * times for times in ENLARGEMENTS)
        out.append(Step(mm, measure.pt_from_mm(mm), px, pens, verdict(mm, floor)))
    return out
