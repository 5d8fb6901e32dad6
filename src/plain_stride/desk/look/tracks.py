"""Tracks of the sliders of Tone: what they do is drawn along them."""

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPainterPath, QPen

from plain_stride.desk.look.theme import THEME

STEP_PX, HIGH = 4.0, 0.9


def draw_greys(painter: QPainter, wide: float, high: float) -> None:
    """Upright strokes, from thin ones to those that leave no white."""
    for n in range(int(wide / STEP_PX)):
        share = (n + 0.5) * STEP_PX / wide
        painter.setPen(QPen(THEME.color("text"), max(0.35, STEP_PX * 0.95 * share)))
        x = (n + 0.5) * STEP_PX
        painter.drawLine(QPointF(x, -high * HIGH), QPointF(x, high * HIGH))


def draw_crescents(painter: QPainter, wide: float, high: float) -> None:
    """Rounds, from one in full light to one of which all lies in its own shadow."""
    radius = high * HIGH
    many = max(2, int(wide / (2.6 * radius)))
    for n in range(many):
        share = n / (many - 1)
        x = radius + n * (wide - 2.0 * radius) / (many - 1)
        disc, light = QPainterPath(), QPainterPath()
        disc.addEllipse(QPointF(x, 0.0), radius, radius)
        light.addEllipse(QPointF(x, 0.0) - QPointF(1.0, 1.0) * (share * 1.42 * radius), radius, radius)
        painter.setPen(QPen(THEME.color("text"), 1.0))
        painter.drawPath(disc)
        painter.fillPath(disc.subtracted(light), THEME.color("text"))


def draw_hands(painter: QPainter, wide: float, high: float) -> None:
    """Slanted strokes, ruled at the left, by hand at the right: uneven, some of them broken."""
    rng = np.random.default_rng(4)
    step = STEP_PX * 1.6
    for n in range(int(wide / step)):
        share = n * step / wide
        x = (n + 0.5) * step + rng.normal(0.0, 0.28 * step) * share
        lean, long = rng.normal(0.0, 1.6) * share, high * (HIGH + rng.normal(0.0, 0.22) * share)
        painter.setPen(QPen(THEME.color("text"), 1.1 * (1.0 + rng.normal(0.0, 0.35) * share)))
        low, top = QPointF(x - 3.0, long), QPointF(x + 3.0 + lean, -long)
        if rng.uniform() < 0.45 * share:
            painter.drawLine(low, low + (top - low) * 0.45)
            painter.drawLine(low + (top - low) * 0.65, top)
        else:
            painter.drawLine(low, top)
