"""TIFF of final art: grey, one bit a pixel by Group 4, or RGB; a page, or a page for each part on one size of sheet."""

import io
from dataclasses import replace

from PIL import Image

from plain_stride.finish.art import Art, ArtPart, Progress, share_of
from plain_stride.finish.choices import PART, Choices
from plain_stride.finish.pages import Rasteriser, page_bands, whole_page
from plain_stride.finish.png import one_bit

PAGE_NAME, SOFTWARE = 285, 305
"""Tags of TIFF 6.0."""


def tiff_bytes(art: Art, choices: Choices, rasteriser: Rasteriser, progress: Progress | None = None) -> bytes:
    """The whole file. By part: the first page is all of it, one more for each part that has ink. progress: told the
    share done; returning False raises ExportStopped."""
    several = [part for part in art.parts if part.lines] if choices.by == PART else []
    pages: list[tuple[str, Art]] = [("", art), *((part.name, _alone(art, part)) for part in several)]
    out = io.BytesIO()
    first, *others = (_picture(one, choices, rasteriser, share_of(progress, k, len(pages)))
                      for k, (_, one) in enumerate(pages))  # fmt: skip
    how = {"compression": "group4" if choices.bw else "tiff_lzw"}
    for picture, (name, _) in zip((first, *others), pages, strict=True):
        picture.encoderinfo = {"tiffinfo": {PAGE_NAME: name, SOFTWARE: "Plain Stride"}} if name else {}
    first.save(out, "TIFF", save_all=bool(others), append_images=others, dpi=(art.whole.dpi, art.whole.dpi),
               tiffinfo={SOFTWARE: "Plain Stride"}, **how)  # fmt: skip
    return out.getvalue()


def _alone(art: Art, part: ArtPart) -> Art:
    return replace(art, things=(part,))


def _picture(art: Art, choices: Choices, rasteriser: Rasteriser, progress: Progress) -> Image.Image:
    coloured = choices.coloured(art.coloured)
    values, _ = whole_page(page_bands(art, rasteriser, False, coloured, progress), art.whole.pixels)
    if not choices.bw:
        return Image.fromarray(values)
    return Image.fromarray(one_bit(values)).convert("1", dither=Image.Dither.NONE)
