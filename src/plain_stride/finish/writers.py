"""Writers of files, by their ending. Each makes a whole file of final art; one more is a function and a line here.

Pixels come from a rasteriser that is passed in: nothing here knows how they are made.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial

from plain_stride.finish.art import Art, Progress
from plain_stride.finish.choices import Choices
from plain_stride.finish.openraster import openraster_bytes
from plain_stride.finish.pages import Rasteriser
from plain_stride.finish.pdf import pdf_bytes
from plain_stride.finish.pictures import picture_of
from plain_stride.finish.png import page_png
from plain_stride.finish.svg import svg_text
from plain_stride.finish.tiff import tiff_bytes

Write = Callable[[Art, Choices, Rasteriser, Progress | None], bytes]


@dataclass(frozen=True)
class Writer:
    """words: what it writes; takes: names of the choices that it knows."""

    words: str
    takes: frozenset[str]
    write: Write


def _svg(art: Art, choices: Choices, pixels: Rasteriser, progress: Progress | None) -> bytes:
    grain = pixels.picture if choices.pictured else None
    pictures = partial(picture_of, art=art, rasteriser=pixels)
    return svg_text(art, progress, grain, pictures, choices.strokes).encode()


WRITERS: Mapping[str, Writer] = {
    ".svg": Writer("SVG, lines as curves", frozenset({"pictured", "strokes"}), _svg),
    ".pdf": Writer("PDF, a page of curves", frozenset({"marks"}), pdf_bytes),
    ".png": Writer("PNG", frozenset({"bw", "transparent", "colour"}), page_png),
    ".tif": Writer("TIFF", frozenset({"bw", "colour", "by"}), tiff_bytes),
    ".ora": Writer("OpenRaster, in layers", frozenset({"by"}), openraster_bytes),
}
"""By the ending of the file's name."""
ALSO = {".tiff": ".tif"}
"""Other endings of the same files."""


def kind_of(ending: str) -> str:
    """The ending that a writer is known by."""
    return ALSO.get(ending.lower(), ending.lower())
