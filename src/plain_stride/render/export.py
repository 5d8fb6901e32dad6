"""A PNG of final art: our pixels, Pillow's file."""

from collections.abc import Callable

import numpy as np

from plain_stride.finish.art import Art
from plain_stride.finish.png import png_bytes
from plain_stride.render.raster import Stopped, clear_page, grey_page

OUTLINES_SHARE = 0.8
"""Of the time that a page of many lines takes."""


def grain_png(ink: str, rings: list[np.ndarray], pixels: tuple[int, int], dpi: float) -> bytes:
    """A picture of one line, ink on nothing: rings in mm from its upper left corner."""
    grey, alpha = clear_page([(ink, rings)], pixels, dpi)
    return png_bytes(grey, alpha, dpi, False)


def png_of(art: Art, bw: bool, transparent: bool, progress: Callable[[float], bool] | None = None) -> bytes:
    """The whole file. progress: told the share done; returning False stops, which raises `raster.Stopped`."""
    told = progress or (lambda share: True)
    inked, total = [], sum(len(part.lines) for part in art.parts)
    for part in art.parts:
        for line in part.lines:
            inked.append((part.ink, [ring + art.bleed for ring in line.seen()] if art.bleed else line.seen()))
            if not told(OUTLINES_SHARE * len(inked) / total):
                raise Stopped("the export was stopped: no file was written")
    page = art.whole

    def filled(share: float) -> bool:
        return told(OUTLINES_SHARE + (1.0 - OUTLINES_SHARE) * share)

    if transparent:
        grey, alpha = clear_page(inked, page.pixels, page.dpi, filled)
        return png_bytes(grey, alpha, page.dpi, bw)
    return png_bytes(grey_page(inked, page.pixels, page.dpi, filled), None, page.dpi, bw)
