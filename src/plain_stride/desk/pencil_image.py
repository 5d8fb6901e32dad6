"""Pencils as they are shown: faded and tinted, at a resolution that fits the view."""

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, qRgba

from plain_stride.pencils.picture import darkness

TINT_COLOURS = {"pale blue": (38, 104, 176), "as drawn": (23, 22, 26)}


class PencilImage:
    """One sheet of pencils, decoded once and kept at halved sizes."""

    def __init__(self, data: bytes) -> None:
        self._levels = [to_full_range(darkness(data))]
        while min(self._levels[-1].shape) > 256:
            self._levels.append(_halved(self._levels[-1]))
        self._shown: dict[int, QImage] = {}
        self._look: tuple[float, str] | None = None

    def draw(self, painter: QPainter, place: QRectF, scale: float, fade: float, tint: str) -> None:
        """Paints into `place` (mm) through the painter's transform; scale: device pixels for one mm."""
        if (fade, tint) != self._look:
            self._shown.clear()
            self._look = (fade, tint)
        per_mm = self._levels[0].shape[1] / max(place.width(), 1e-9)
        level = int(np.clip(np.floor(np.log2(max(per_mm / max(scale, 1e-9), 1.0))), 0, len(self._levels) - 1))
        if level not in self._shown:
            self._shown[level] = tinted_image(self._levels[level], fade, tint)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(place, self._shown[level])


def tinted_image(dark: np.ndarray, fade: float, tint: str) -> QImage:
    """Darkness (h, w) as colour on nothing: the blackest pencil is as dark as `fade` of ink, whatever the tint."""
    colour = QColor(*TINT_COLOURS.get(tint, TINT_COLOURS["as drawn"]))
    depth = 1.0 - colour.lightnessF()
    strength = fade / depth
    if strength > 1.0:
        colour = colour.darker(round(100 * strength))
        strength = 1.0
    h, w = dark.shape
    image = QImage(dark.data, w, h, w, QImage.Format.Format_Indexed8)
    r, g, b = colour.red(), colour.green(), colour.blue()
    image.setColorTable([qRgba(r, g, b, round(v * strength)) for v in range(256)])
    return image.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied, Qt.ImageConversionFlag.NoOpaqueDetection)


def to_full_range(dark: np.ndarray) -> np.ndarray:
    """Darkness with the paper's own tone taken to 0 and the blackest pencil to 255, so that a fade means one thing
    for soft and hard pencils, bright and dull scans."""
    sample = dark[:: max(1, dark.shape[0] // 1000), :: max(1, dark.shape[1] // 1000)]
    paper = float(np.percentile(sample, 50))
    marks = sample[sample > paper + 24.0]
    black = float(np.percentile(marks, 90)) if marks.size else 255.0
    table = np.clip((np.arange(256) - paper - 3.0) / max(black - paper - 3.0, 1.0), 0.0, 1.0)
    return np.ascontiguousarray((table * 255.0).astype(np.uint8)[dark])


def _halved(a: np.ndarray) -> np.ndarray:
    h, w = a.shape[0] // 2 * 2, a.shape[1] // 2 * 2
    wide = a[:h, :w].astype(np.uint16)
    total = wide[::2, ::2] + wide[1::2, ::2] + wide[::2, 1::2] + wide[1::2, 1::2]
    return np.ascontiguousarray(total // 4, np.uint8)
