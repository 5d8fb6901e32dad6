"""PNG from a picture of coverage: grey on white, black-and-white, or ink on nothing, with the dpi written in."""

import io

import numpy as np
from PIL import Image


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
