"""Pixels of final art, in bands, so that a large page needs little memory."""

from collections.abc import Callable, Iterator, Sequence

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath
from shiboken6 import VoidPtr

from plain_stride.errors import StrideError
from plain_stride.render.paths import path_of

BAND_ROWS = 600
Inked = Sequence[tuple[str, list[np.ndarray]]]
"""(ink, rings in mm) of every line, back to front."""


class Stopped(StrideError):
    """The work was stopped before it was done."""


def grey_page(
    inked: Inked, pixels: tuple[int, int], dpi: float, progress: Callable[[float], bool] | None = None
) -> np.ndarray:
    """uint8 (h, w): 255 paper to 0 ink, anti-aliased. progress: told the share done, returns False to stop."""
    out = np.empty((pixels[1], pixels[0]), np.uint8)
    for top, band in _bands(inked, pixels, dpi, QImage.Format.Format_RGB32, QColor("white"), progress):
        out[top : top + len(band)] = band[:, :, 1]
    return out


def clear_page(
    inked: Inked, pixels: tuple[int, int], dpi: float, progress: Callable[[float], bool] | None = None
) -> tuple[np.ndarray, np.ndarray]:
    """(grey, alpha), both uint8 (h, w): ink on nothing."""
    grey, alpha = (np.zeros((pixels[1], pixels[0]), np.uint8) for _ in range(2))
    kind = QImage.Format.Format_ARGB32_Premultiplied
    for top, band in _bands(inked, pixels, dpi, kind, QColor(0, 0, 0, 0), progress):
        a = band[:, :, 3]
        whole = np.maximum(a.astype(np.uint16), 1)
        grey[top : top + len(band)] = np.minimum(band[:, :, 1].astype(np.uint16) * 255 // whole, 255)
        alpha[top : top + len(band)] = a
    return grey, alpha


def _bands(
    inked: Inked,
    pixels: tuple[int, int],
    dpi: float,
    kind: QImage.Format,
    ground: QColor,
    progress: Callable[[float], bool] | None,
) -> Iterator[tuple[int, np.ndarray]]:
    w, h = pixels
    scale = dpi / 25.4
    items = [(QColor(ink), path_of(rings), _rows(rings, scale)) for ink, rings in inked if rings]
    for top in range(0, h, BAND_ROWS):
        rows = min(BAND_ROWS, h - top)
        image = QImage(w, rows, kind)
        image.fill(ground)
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.translate(0.0, -top)
        painter.scale(scale, scale)
        for colour, path, (first, last) in items:
            if last >= top and first <= top + rows:
                _fill(painter, colour, path)
        painter.end()
        bits = np.frombuffer(VoidPtr(image.bits(), image.sizeInBytes()), np.uint8)  # type: ignore[call-arg, call-overload, arg-type]
        yield top, bits.reshape(rows, -1)[:, : w * 4].reshape(rows, w, 4).copy()
        if progress is not None and not progress((top + rows) / h):
            raise Stopped("the export was stopped: no file was written")


def _fill(painter: QPainter, colour: QColor, path: QPainterPath) -> None:
    painter.setBrush(colour)
    painter.drawPath(path)


def _rows(rings: list[np.ndarray], scale: float) -> tuple[float, float]:
    ys = np.concatenate([ring[:, 1] for ring in rings])
    return float(ys.min() * scale) - 1.0, float(ys.max() * scale) + 1.0
