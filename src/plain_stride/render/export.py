"""A PNG of final art: Qt's pixels, Pillow's file."""

from collections.abc import Callable

from plain_stride.finish.art import Art
from plain_stride.finish.png import png_bytes
from plain_stride.render.raster import clear_page, grey_page


def png_of(art: Art, bw: bool, transparent: bool, progress: Callable[[float], bool] | None = None) -> bytes:
    """The whole file. progress: told the share done; returning False stops, which raises `raster.Stopped`."""
    inked = [(part.ink, line.seen()) for part in art.parts for line in part.lines]
    page = art.page
    if transparent:
        grey, alpha = clear_page(inked, page.pixels, page.dpi, progress)
        return png_bytes(grey, alpha, page.dpi, bw)
    return png_bytes(grey_page(inked, page.pixels, page.dpi, progress), None, page.dpi, bw)
