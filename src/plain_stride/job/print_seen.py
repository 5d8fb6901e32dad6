"""What print makes of a part of the sheet: asked beside the window, to be shown enlarged."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import groupby

import numpy as np

from plain_stride.finish.art import Ink, box_of
from plain_stride.job.art import parts_of_art
from plain_stride.job.board_facts import target_of
from plain_stride.job.questions import DrawingAtWork
from plain_stride.lines.boxes import Box, meet
from plain_stride.measure import MM_PER_INCH
from plain_stride.tone.covered import covered
from plain_stride.tone.printed import Printed, printed

MOST_PX = 6_000_000


@dataclass(frozen=True, eq=False)
class SeenInPrint:
    """printed: of a box (mm), as of `Printed`; target: by name."""

    printed: Printed
    box: Box
    target: str


@dataclass(frozen=True)
class PrintSeen:
    """What the job's print target makes of a box (x0, y0, x1, y1) mm of its sheet; a sentence for one of more
    than MOST_PX pixels of the target."""

    box: Box

    def answered(self, at: DrawingAtWork, progress: Callable[[float], bool]) -> SeenInPrint | str:
        target = target_of(at.job)
        per_mm = target.dpi / MM_PER_INCH
        x0, y0, x1, y1 = _whole(self.box, per_mm)
        if (x1 - x0) * (y1 - y0) * per_mm**2 > MOST_PX:
            return f"That is more of the sheet than can be seen at {target.dpi:g} dpi at once: enlarge it."
        inked = [(part.ink, line.seen()) for part in parts_of_art(at.job, at.shapes) for line in part.lines
                 if meet(box_of(line), self.box)]  # fmt: skip
        dark = darkness(inked, (x0, y0, x1, y1), per_mm)
        return SeenInPrint(printed(dark, target), (x0, y0, x1, y1), target.name)


def darkness(inked: Sequence[Ink], box: Box, per_mm: float) -> np.ndarray:
    """(h, w) 0 to 1: how much of each pixel of a box is black, inks laid over each other back to front."""
    x0, y0, x1, y1 = box
    wide, high = round((x1 - x0) * per_mm), round((y1 - y0) * per_mm)
    dark = np.zeros((max(high, 1), max(wide, 1)))
    for ink, several in groupby(inked, key=lambda one: one[0]):
        rings = [ring for _, rings in several for ring in rings if _meets(ring, box)]
        if rings:
            share = covered(rings, box, per_mm)
            dark = dark * (1.0 - share) + (share if ink == "black" else 0.0)
    return dark


def _meets(ring: np.ndarray, box: Box) -> bool:
    (u0, v0), (u1, v1) = ring.min(axis=0).tolist(), ring.max(axis=0).tolist()
    return meet((u0, v0, u1, v1), box)


def _whole(box: Box, per_mm: float) -> Box:
    """A box grown to whole pixels of the target's grid, which begins at the sheet's corner."""
    low, high = np.floor(np.array(box[:2]) * per_mm) / per_mm, np.ceil(np.array(box[2:]) * per_mm) / per_mm
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])
