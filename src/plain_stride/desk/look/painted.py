"""Widgets that paint themselves, with a painter that is ended whatever happens.

A painter left open by an error would take the whole program down with it at the next frame.
"""

from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter, QPaintEvent


class Painted:
    """Mixed in before a widget's class: `paint` gets an open painter, antialiased."""

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        raise TypeError(f"{type(self).__name__} paints nothing")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)  # type: ignore[call-overload]
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        try:
            self.paint(painter, event)
        finally:
            painter.end()


def draw_whole(painter: QPainter, image: QImage) -> None:
    """Draws an image at the origin pixel for pixel, whatever its ratio; the painter's clip bounds the work."""
    ratio, whole = image.devicePixelRatio(), QRectF(image.rect())
    painter.save()
    painter.scale(1.0 / ratio, 1.0 / ratio)
    painter.drawImage(whole, image, whole)
    painter.restore()
