"""Figures as a small picture: a course of values from pull to pull, or values over another figure with a curve."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from plain_stride.desk.look.inked import stroke
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import LABEL, THEME

HEIGHT, LEFT, BELOW, TOP = 110, 34, 20, 8
DOT_PX = 2.2
LEAST = 1e-6


class CourseView(Painted, QWidget):
    """values over places; a curve through them, inked; a band of places, washed; words for both axes."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._x, self._y = np.zeros(0), np.zeros(0)
        self._curve = np.zeros((0, 2))
        self._band: tuple[float, float] | None = None
        self._words = ("", "")
        THEME.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(240, THEME.px(HEIGHT))

    def show_values(
        self, x: Sequence[float], y: Sequence[float], words: tuple[str, str], curve: np.ndarray | None = None,
        band: tuple[float, float] | None = None,
    ) -> None:  # fmt: skip
        """words: under the picture, and beside the top of it with its unit; curve: (n, 2)."""
        self._x, self._y = np.asarray(x, float), np.asarray(y, float)
        self._curve = np.zeros((0, 2)) if curve is None else curve
        self._band, self._words = band, words
        self.setVisible(len(self._x) > 1)
        self.setAccessibleDescription(f"{len(self._x)} values of {words[1]} over {words[0]}")
        self.update()

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        if len(self._x) < 2:
            return
        box = QRectF(LEFT, TOP, self.width() - LEFT - 6, self.height() - TOP - THEME.px(BELOW))
        x = np.concatenate([self._x, self._curve[:, 0]])
        low, high = float(x.min()), float(x.max())
        most = float(max(self._y.max(), self._curve[:, 1].max(initial=0.0), LEAST)) * 1.1

        def at(points: np.ndarray) -> np.ndarray:
            u = (points[:, 0] - low) / max(high - low, LEAST)
            v = np.clip(points[:, 1] / most, 0.0, 1.0)
            return np.column_stack([box.left() + u * box.width(), box.bottom() - v * box.height()])

        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._band is not None:
            a, b = at(np.array([[self._band[0], 0.0], [self._band[1], 0.0]]))[:, 0]
            painter.fillRect(QRectF(a, box.top(), max(b - a, 2.0), box.height()), THEME.color("wash"))
        painter.setPen(QPen(THEME.color("hair"), 1.0))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        painter.drawLine(box.topLeft(), box.bottomLeft())
        self._paint_words(painter, box, most)
        if len(self._curve) > 1:
            line = at(self._curve)
            painter.fillPath(stroke(line, np.full(len(line), 2.0)), THEME.color("text"))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(THEME.color("chosen"))
        for px, py in at(np.column_stack([self._x, self._y])).tolist():
            painter.drawEllipse(QPointF(px, py), DOT_PX, DOT_PX)
        if not len(self._curve):
            painter.setPen(QPen(THEME.color("pencil"), 1.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            smooth = at(np.column_stack([self._x, _running(self._y)]))
            painter.drawPolyline(QPolygonF([QPointF(*p) for p in smooth.tolist()]))

    def _paint_words(self, painter: QPainter, box: QRectF, most: float) -> None:
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        painter.drawText(QRectF(0, box.top() - 4, LEFT - 4, 18), Qt.AlignmentFlag.AlignRight, f"{most / 1.1:.2g}")
        painter.drawText(QRectF(0, box.bottom() - 12, LEFT - 4, 18), Qt.AlignmentFlag.AlignRight, "0")
        painter.drawText(QRectF(box.left() + 6, box.top() - 4, box.width(), 18), Qt.AlignmentFlag.AlignLeft,
                         self._words[1])  # fmt: skip
        painter.drawText(QRectF(box.left(), box.bottom() + 2, box.width(), THEME.px(18)), Qt.AlignmentFlag.AlignRight,
                         self._words[0])  # fmt: skip


def _running(y: np.ndarray) -> np.ndarray:
    """The mean of five values that follow each other."""
    kernel = np.ones(min(5, len(y)))
    return np.asarray(np.convolve(y, kernel, "same") / np.convolve(np.ones(len(y)), kernel, "same"))
