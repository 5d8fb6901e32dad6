"""Our rasteriser, as writers of files take it."""

import numpy as np

from plain_stride.finish.art import Art, Ink, Progress
from plain_stride.finish.png import page_png, png_bytes
from plain_stride.render.raster import clear_page, grey_page


class Pixels:
    """See `finish.writers.Rasteriser`."""

    def grey(
        self, inked: list[Ink], pixels: tuple[int, int], dpi: float, progress: Progress | None = None
    ) -> np.ndarray:
        """(h, w) uint8 of ink on paper. Pixels as the page asks."""
        return grey_page(inked, pixels, dpi, progress)

    def clear(
        self, inked: list[Ink], pixels: tuple[int, int], dpi: float, progress: Progress | None = None
    ) -> tuple[np.ndarray, np.ndarray]:
        """(h, w) uint8 grey and alpha of ink on nothing. Pixels as the page asks."""
        return clear_page(inked, pixels, dpi, progress)

    def picture(self, ink: str, rings: list[np.ndarray], pixels: tuple[int, int], dpi: float) -> bytes:
        """(h, w) uint8 of one textured line, as a picture in an SVG. Pixels as the page asks."""
        return png_bytes(*clear_page([(ink, rings)], pixels, dpi), dpi, False)


def png_of(art: Art, bw: bool, transparent: bool, progress: Progress | None = None) -> bytes:
    """A PNG by our rasteriser; see `finish.png.page_png`."""
    pixels = Pixels()
    return page_png(art, bw, transparent, pixels.grey, pixels.clear, progress)
