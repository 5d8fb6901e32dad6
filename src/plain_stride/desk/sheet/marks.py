"""Marks over the drawing, in the colour of what is chosen."""

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.controls.controls import tinted
from plain_stride.desk.look.theme import LABEL, THEME, sheet_color
from plain_stride.desk.sheet.view import BoardView
from plain_stride.render.paths import polyline


def trace(painter: QPainter, view: BoardView, points: np.ndarray, width: float, strength: float = 1.0) -> None:
    """Points (n, 2) mm as a line of so many pixels."""
    cap, join = Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin
    painter.setPen(QPen(tinted(sheet_color("chosen"), strength), width, Qt.PenStyle.SolidLine, cap, join))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(polyline(view.to_glass(points)))


def paint_word(painter: QPainter, at: QPointF, words: str) -> None:
    """A word over the drawing, on a breath of paper so that ink does not run through it."""
    painter.setFont(THEME.font(LABEL, bold=True))
    box = painter.fontMetrics().boundingRect(words).translated(at.toPoint()).adjusted(-4, -1, 4, 1)
    painter.fillRect(box, tinted(sheet_color("paper"), 0.85))
    painter.setPen(sheet_color("chosen"))
    painter.drawText(at, words)
