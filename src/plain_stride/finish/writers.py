"""Writers of files, by their ending. Each makes a whole file of final art; one more is a function and a line here.

Pixels come from a rasteriser that is passed in: nothing here knows how they are made.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from plain_stride.finish.art import Art, Ink, Progress
from plain_stride.finish.choices import Choices
from plain_stride.finish.pdf import pdf_bytes
from plain_stride.finish.png import page_png
from plain_stride.finish.svg import svg_text


class Rasteriser(Protocol):
    """What turns outlines into pixels. inked: (ink's name, rings in mm) back to front; pixels: (w, h)."""

    def grey(self, inked: list[Ink], pixels: tuple[int, int], dpi: float, progress: Progress | None) -> np.ndarray:
        """uint8 (h, w): 255 paper to 0 ink."""
        ...

    def clear(
        self, inked: list[Ink], pixels: tuple[int, int], dpi: float, progress: Progress | None
    ) -> tuple[np.ndarray, np.ndarray]:
        """(grey, alpha), both uint8 (h, w): ink on nothing."""
        ...

    def picture(self, ink: str, rings: list[np.ndarray], pixels: tuple[int, int], dpi: float) -> bytes:
        """A PNG of one line on nothing, rings in mm from its corner."""
        ...


Write = Callable[[Art, Choices, Rasteriser | None, Progress | None], bytes]


@dataclass(frozen=True)
class Writer:
    """words: what it writes; takes: names of the choices that it knows; needs: whether the choices want pixels."""

    words: str
    takes: frozenset[str]
    needs_pixels: Callable[[Choices], bool]
    write: Write


def _svg(art: Art, choices: Choices, pixels: Rasteriser | None, progress: Progress | None) -> bytes:
    picture = pixels.picture if choices.pictured and pixels is not None else None
    return svg_text(art, progress, picture).encode()


def _png(art: Art, choices: Choices, pixels: Rasteriser | None, progress: Progress | None) -> bytes:
    assert pixels is not None
    return page_png(art, choices.bw, choices.transparent, pixels.grey, pixels.clear, progress)


def _pdf(art: Art, choices: Choices, pixels: Rasteriser | None, progress: Progress | None) -> bytes:
    return pdf_bytes(art, progress)


WRITERS: Mapping[str, Writer] = {
    ".svg": Writer("SVG, lines as curves", frozenset({"pictured"}), lambda choices: choices.pictured, _svg),
    ".pdf": Writer("PDF, a page of curves", frozenset(), lambda choices: False, _pdf),
    ".png": Writer("PNG", frozenset({"bw", "transparent"}), lambda choices: True, _png),
}
"""By the ending of the file's name."""
