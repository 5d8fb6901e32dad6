"""Resolution: whether the board has the pixels that its print wants, and its thinnest lines enough of them."""

from collections.abc import Iterator

import numpy as np

from plain_stride.measure import MM_PER_INCH
from plain_stride.proof.finding import LOOK, MUST, Finding
from plain_stride.proof.page import Page

KIND = "low-resolution"
HALF, LEAST_PX = 0.5, 1.5
"""Below such a share of what print wants it must be changed; lines thinner than so many pixels break up."""


def find(page: Page) -> Iterator[Finding]:
    """At most one finding: the board's dpi against its print target's."""
    sheet, limit = page.sheet, page.limit(KIND)
    share = sheet.dpi / sheet.target.dpi
    if share >= limit or not page.lines:
        return
    severity = MUST if share < HALF else None
    if sheet.target.line_mm / MM_PER_INCH * sheet.dpi >= 2.0 * LEAST_PX and share >= HALF:
        severity = LOOK
    target = sheet.target
    says = f"The board has {sheet.dpi:g} dpi and {target.name} wants {target.dpi:g}: set it on Board, no line changes."
    wide, high = sheet.size_mm
    corners = np.array([[0.0, 0.0], [wide, 0.0], [wide, high], [0.0, high]])
    yield page.found(KIND, corners[0], corners, (), sheet.dpi, says, limit=limit * target.dpi, unit="dpi",
                     severity=severity)  # fmt: skip
