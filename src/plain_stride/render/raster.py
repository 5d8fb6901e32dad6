"""Pixels of final art, in bands, so that a large page needs little memory: by exact areas where the compiled loops are
loaded, else by Qt."""

from collections.abc import Callable, Iterator

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath
from shiboken6 import VoidPtr

from plain_stride import colour
from plain_stride.compiled.ready import kernels
from plain_stride.finish.art import ExportStopped
from plain_stride.render.fill import BAND_ROWS, Inked, filled_bands
from plain_stride.render.paths import path_of


def page_bands(
    inked: Inked, pixels: tuple[int, int], dpi: float, clear: bool, coloured: bool
) -> Iterator[tuple[int, np.ndarray, np.ndarray]]:
    """(first row, values, alpha), uint8, of band after band: values (rows, w) or (rows, w, 3), alpha (rows, w), or
    (rows, 0) on paper."""
    loops, scale = kernels(), dpi / 25.4
    if loops is not None:
        return filled_bands(loops, inked, pixels, scale, clear, coloured)
    return _painted(inked, pixels, scale, clear, coloured)


def grey_page(
    inked: Inked, pixels: tuple[int, int], dpi: float, progress: Callable[[float], bool] | None = None
) -> np.ndarray:
    """uint8 (h, w): 255 paper to 0 ink, anti-aliased. progress: told the share done, returns False to stop."""
    out = np.empty((pixels[1], pixels[0]), np.uint8)
    for top, grey, _ in _bands(inked, pixels, dpi, False, progress):
        out[top : top + len(grey)] = grey
    return out


def clear_page(
    inked: Inked, pixels: tuple[int, int], dpi: float, progress: Callable[[float], bool] | None = None
) -> tuple[np.ndarray, np.ndarray]:
    """(grey, alpha), both uint8 (h, w): ink on nothing. Pixels as the page asks."""
    whole = tuple(np.zeros((pixels[1], pixels[0]), np.uint8) for _ in range(2))
    for top, *band in _bands(inked, pixels, dpi, True, progress):
        for page, part in zip(whole, band, strict=True):
            page[top : top + len(part)] = part
    return whole[0], whole[1]


def _bands(
    inked: Inked, pixels: tuple[int, int], dpi: float, clear: bool, progress: Callable[[float], bool] | None
) -> Iterator[tuple[int, np.ndarray, np.ndarray]]:
    """(first row, grey, alpha) of band after band."""
    for top, grey, alpha in page_bands(inked, pixels, dpi, clear, False):
        yield top, grey, alpha
        if progress is not None and not progress((top + len(grey)) / pixels[1]):
            raise ExportStopped("the export was stopped: no file was written")


def _painted(
    inked: Inked, pixels: tuple[int, int], scale: float, clear: bool, coloured: bool
) -> Iterator[tuple[int, np.ndarray, np.ndarray]]:
    """As `filled_bands`, painted by Qt."""
    w, h = pixels
    items = [(_paint(ink, coloured), path_of(rings), _rows(rings, scale)) for ink, rings in inked if rings]
    for top in range(0, h, BAND_ROWS):
        rows = min(BAND_ROWS, h - top)
        image = QImage(w, rows, QImage.Format.Format_ARGB32_Premultiplied if clear else QImage.Format.Format_RGB32)
        image.fill(QColor(0, 0, 0, 0) if clear else QColor("white"))
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.translate(0.0, -top)
        painter.scale(scale, scale)
        for paint, path, (first, last) in items:
            if last >= top and first <= top + rows:
                _fill(painter, paint, path)
        painter.end()
        bits = np.frombuffer(VoidPtr(image.bits(), image.sizeInBytes()), np.uint8)  # type: ignore[call-arg, call-overload, arg-type]
        band = bits.reshape(rows, -1)[:, : w * 4].reshape(rows, w, 4)
        alpha = band[:, :, 3].copy() if clear else np.zeros((rows, 0), np.uint8)
        values = band[:, :, 2::-1].copy() if coloured else band[:, :, 1].copy()
        if clear:
            share = np.maximum(alpha, 1)[:, :, None] if coloured else np.maximum(alpha, 1)
            values = np.minimum(values.astype(np.uint16) * 255 // share, 255).astype(np.uint8)
        yield top, values, alpha


def _paint(ink: str, coloured: bool) -> QColor:
    if coloured:
        return QColor(ink)
    return QColor.fromRgbF(*[colour.grey(ink)] * 3)


def _fill(painter: QPainter, colour: QColor, path: QPainterPath) -> None:
    painter.setBrush(colour)
    painter.drawPath(path)


def _rows(rings: list[np.ndarray], scale: float) -> tuple[float, float]:
    ys = np.concatenate([ring[:, 1] for ring in rings])
    return float(ys.min() * scale) - 1.0, float(ys.max() * scale) + 1.0
