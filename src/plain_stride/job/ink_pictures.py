"""Pictures of a job's ink as it prints: of the whole page, and of places on it."""

import numpy as np

from plain_stride.finish.art import Ink, box_of
from plain_stride.finish.png import png_bytes
from plain_stride.job.art import parts_of_art
from plain_stride.job.job import Job
from plain_stride.job.print_seen import darkness
from plain_stride.job.shapes import Shapes
from plain_stride.lines.boxes import Box, meet
from plain_stride.measure import MM_PER_INCH

PAGE_PER_MM, MOST_PAGE_PX = 8.0, 9_000_000
"""Pixels a mm of a page's picture, and the largest one."""
Inked = list[tuple[Ink, Box]]


def inked_of(job: Job, shapes: Shapes) -> Inked:
    """All ink back to front, with the box of each."""
    return [((part.ink, line.seen()), box_of(line)) for part in parts_of_art(job, shapes) for line in part.lines]


def ink_png(inked: Inked, box: Box, per_mm: float) -> bytes:
    """A grey PNG of a box (x0, y0, x1, y1) mm."""
    near = [ink for ink, own in inked if meet(own, box)]
    grey = np.rint(255.0 * (1.0 - darkness(near, box, per_mm))).astype(np.uint8)
    return png_bytes(grey, None, per_mm * MM_PER_INCH, False)


def page_png(inked: Inked, size_mm: tuple[float, float], most_px: float = MOST_PAGE_PX) -> bytes:
    """A grey PNG of the whole page, of so many pixels at most."""
    per_mm = min(PAGE_PER_MM, float(np.sqrt(most_px / (size_mm[0] * size_mm[1]))))
    return ink_png(inked, (0.0, 0.0, *size_mm), per_mm)


def picture_at(job: Job, shapes: Shapes, step: int, most_px: float) -> bytes:
    """A grey PNG of the page as it was at a step of the history."""
    then = job.as_at(step)
    return page_png(inked_of(then, shapes.of_state(then)), then.page.size_mm, most_px)
