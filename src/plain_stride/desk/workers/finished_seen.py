"""What the finished art looks like in a part of the sheet, asked beside the window as pixels."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from plain_stride.finish.pages import page_bands, whole_page
from plain_stride.job.finished_keeping import keeper_of
from plain_stride.job.questions import DrawingAtWork
from plain_stride.lines.boxes import Box
from plain_stride.measure import MM_PER_INCH


@dataclass(frozen=True, eq=False)
class SeenFinished:
    """pixels: (h, w, 3) uint8 of a box (mm) of the sheet."""

    pixels: np.ndarray
    box: Box


@dataclass(frozen=True)
class FinishedSeen:
    """The sheet in a box (x0, y0, x1, y1) mm at so many pixels a mm. plain: without its finishes; flats: with the flats
    below."""

    box: Box
    per_mm: float
    plain: bool
    flats: bool

    def answered(self, at: DrawingAtWork, progress: Callable[[float], bool]) -> SeenFinished:
        from plain_stride.render.export import Pixels

        art = keeper_of(at.shapes).art(at.job, at.shapes, self.plain, self.flats)
        page = replace(art.page, dpi=self.per_mm * MM_PER_INCH)
        seen = replace(art, page=page, seen=self.box, bleed=0.0)
        values, _ = whole_page(page_bands(seen, Pixels(), False, True, progress), seen.whole.pixels)
        return SeenFinished(values, self.box)
