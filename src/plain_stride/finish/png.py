"""PNG of final art: grey on white, in colours, black-and-white, or ink on nothing, with the dpi written in."""

import io
import zlib

import numpy as np
from PIL import Image

from plain_stride.finish.art import Art, Progress
from plain_stride.finish.choices import Choices
from plain_stride.finish.pages import Rasteriser, page_bands, whole_page

QUICK = {"compress_level": 1, "compress_type": zlib.Z_RLE}
"""Runs of one value are most of what a layer of ink is."""
HALF = 128
"""Ink from half coverage on where there is one bit a pixel."""


def page_png(art: Art, choices: Choices, rasteriser: Rasteriser, progress: Progress | None = None) -> bytes:
    """The whole file. progress: told the share done; returning False stops, which raises a StrideError."""
    page = art.whole
    bands = page_bands(art, rasteriser, choices.transparent, choices.coloured(art.coloured), progress)
    return png_bytes(*whole_page(bands, page.pixels), page.dpi, choices.bw)


def png_bytes(values: np.ndarray, alpha: np.ndarray | None, dpi: float, bw: bool, quick: bool = False) -> bytes:
    """values: uint8, 0 ink to 255 paper (h, w), or colours (h, w, 3). alpha: uint8 (h, w), how much of a pixel has ink,
    for a transparent picture. bw: one bit a pixel. quick: larger, in less time."""
    if bw:
        values = one_bit(values)
        alpha = None if alpha is None else one_bit(alpha)
    if alpha is None:
        picture = Image.fromarray(values)
        picture = picture.convert("1", dither=Image.Dither.NONE) if bw else picture
    else:
        wide = values.shape[1]
        whole = np.empty((len(values), wide, 4), np.uint8)
        whole[:, :, :3] = values if values.ndim == 3 else values[:, :, None]
        whole[:, :, 3] = alpha
        picture = Image.fromarray(whole)
    out = io.BytesIO()
    picture.save(out, "PNG", dpi=(dpi, dpi), **(QUICK if quick else {}))
    return out.getvalue()


def one_bit(grey: np.ndarray) -> np.ndarray:
    """(h, w) uint8 of nothing but 0 and, from half on, 255."""
    return (grey >= HALF).astype(np.uint8) * np.uint8(255)
