"""What is seen of final art, cropped to its own box of pixels."""

from dataclasses import replace

import numpy as np

from plain_stride.finish.art import Art, ArtPart, Progress, box_of
from plain_stride.finish.pages import Rasteriser, page_bands, whole_page
from plain_stride.lines.boxes import Box
from plain_stride.measure import MM_PER_INCH

PAD_PX = 1


def cropped(
    art: Art, rasteriser: Rasteriser, progress: Progress | None = None
) -> tuple[np.ndarray, np.ndarray, tuple[int, int]] | None:
    """(values (h, w) or (h, w, 3), alpha (h, w), its upper left corner in pixels of what is written), uint8; None where
    nothing is seen. Only the box that the ink lies in is ever made."""
    found = _box(art)
    if found is None:
        return None
    seen, (left, top) = found
    alone = replace(art, seen=seen)
    values, alpha = whole_page(page_bands(alone, rasteriser, True, art.coloured, progress), alone.whole.pixels)
    assert alpha is not None
    rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
    if not len(rows):
        return None
    box = slice(int(rows[0]), int(rows[-1]) + 1), slice(int(columns[0]), int(columns[-1]) + 1)
    return values[box], alpha[box], (left + box[1].start, top + box[0].start)


def _box(art: Art) -> tuple[Box, tuple[int, int]] | None:
    """(box in mm on whole pixels of the page, its upper left corner in pixels) that holds all that is seen; the whole
    page where there is more than ink."""
    wide, high = art.whole.pixels
    mm, (x, y) = MM_PER_INCH / art.whole.dpi, art.corner.tolist()
    left, top, right, low = 0, 0, wide, high
    if all(isinstance(one, ArtPart) for one in art.things):
        boxes = np.array([box_of(line) for part in art.parts for line in part.lines]).reshape(-1, 4)
        if not len(boxes):
            return None
        (x0, y0), (x1, y1) = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
        left, top = max(0, int((x0 - x) / mm) - PAD_PX), max(0, int((y0 - y) / mm) - PAD_PX)
        right, low = min(wide, int((x1 - x) / mm) + 1 + PAD_PX), min(high, int((y1 - y) / mm) + 1 + PAD_PX)
        if right <= left or low <= top:
            return None
    return (x + left * mm, y + top * mm, x + right * mm, y + low * mm), (left, top)
