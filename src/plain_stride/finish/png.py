"""PNG of final art: grey on white, black-and-white, or ink on nothing, with the dpi written in."""

import io
from typing import Any

import numpy as np
from PIL import Image

from plain_stride.finish.art import Art, ExportStopped, Ink, Progress

OUTLINES_SHARE = 0.8
"""Of the time that a page of many lines takes."""


def page_png(art: Art, bw: bool, transparent: bool, grey: Any, clear: Any, progress: Progress | None = None) -> bytes:
    """The whole file. grey, clear: make pixels of ink, as `writers.Rasteriser` has them. progress: told the share done;
    returning False stops, which raises a StrideError."""
    told = progress or (lambda share: True)
    inked: list[Ink] = []
    total = sum(len(part.lines) for part in art.parts)
    for part in art.parts:
        for line in part.lines:
            inked.append((part.ink, [ring + art.bleed for ring in line.seen()] if art.bleed else line.seen()))
            if not told(OUTLINES_SHARE * len(inked) / total):
                raise ExportStopped("the export was stopped: no file was written")
    page = art.whole

    def filled(share: float) -> bool:
        return told(OUTLINES_SHARE + (1.0 - OUTLINES_SHARE) * share)

    if transparent:
        shown, alpha = clear(inked, page.pixels, page.dpi, filled)
        return png_bytes(shown, alpha, page.dpi, bw)
    return png_bytes(grey(inked, page.pixels, page.dpi, filled), None, page.dpi, bw)


def png_bytes(grey: np.ndarray, alpha: np.ndarray | None, dpi: float, bw: bool) -> bytes:
    """grey: uint8 (h, w), 0 ink to 255 paper. alpha: uint8 (h, w), how much of a pixel has ink, for a transparent
    picture. bw: one bit a pixel, ink from half coverage on."""
    if bw and alpha is not None:
        shown = np.dstack([np.where(grey < 128, 0, 255)] * 3 + [np.where(alpha < 128, 0, 255)]).astype(np.uint8)
        picture = Image.fromarray(shown)
    elif bw:
        picture = Image.fromarray(np.where(grey < 128, 0, 255).astype(np.uint8)).convert("1", dither=Image.Dither.NONE)
    elif alpha is not None:
        picture = Image.fromarray(np.dstack([grey, grey, grey, alpha]))
    else:
        picture = Image.fromarray(grey)
    out = io.BytesIO()
    picture.save(out, "PNG", dpi=(dpi, dpi))
    return out.getvalue()
