"""Our rasteriser, as writers of files take it."""

from collections.abc import Iterator, Sequence

import numpy as np

from plain_stride.finish.art import Art, Ink, Progress
from plain_stride.finish.choices import Choices
from plain_stride.finish.pages import Band
from plain_stride.finish.png import page_png, png_bytes
from plain_stride.render.raster import clear_page, page_bands


class Pixels:
    """See `finish.pages.Rasteriser`."""

    def bands(
        self, inked: Sequence[Ink], pixels: tuple[int, int], dpi: float, coloured: bool, clear: bool
    ) -> Iterator[Band]:
        """(first row, values uint8, alpha uint8) of band after band, each (rows, w) or (rows, w, 3)."""
        return page_bands(inked, pixels, dpi, clear, coloured)

    def picture(self, ink: str, rings: list[np.ndarray], pixels: tuple[int, int], dpi: float) -> bytes:
        """(h, w) uint8 of one textured line, as a picture in an SVG. Pixels as the page asks."""
        return png_bytes(*clear_page([(ink, rings)], pixels, dpi), dpi, False)


def png_of(art: Art, bw: bool, transparent: bool, progress: Progress | None = None) -> bytes:
    """A PNG by our rasteriser; see `finish.png.page_png`."""
    return page_png(art, Choices(bw=bw, transparent=transparent), Pixels(), progress)
