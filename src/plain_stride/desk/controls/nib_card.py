"""A card that shows a nib: one line pressed from nothing to all, and marks at even steps of pressure with their mm."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from plain_stride.desk.look.inked import stroke, worn_stroke
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import LABEL, THEME
from plain_stride.hand.nib import DEFAULT_NIB, Nib

HIGH, STEPS, MOST_PX = 92, (0.0, 0.25, 0.5, 0.75, 1.0), 22.0


class NibCard(Painted, QWidget):
    """At true print size as far as it fits; how much smaller it is drawn is told."""

    def __init__(self) -> None:
        super().__init__()
        self._nib, self._px_per_mm = DEFAULT_NIB, 96 / 25.4
        self.setFixedHeight(THEME.px(HIGH))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        THEME.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(220, THEME.px(HIGH))

    def show_nib(self, nib: Nib) -> None:
        self._nib = nib
        widths = ", ".join(f"{p:.0%}: {w:.2f} mm" for p, w in zip(STEPS, nib.width(np.array(STEPS)), strict=True))
        edge = f", textured by {nib.grain:g} mm" if nib.grain else ""
        self.setAccessibleName(f"Nib {nib.name} by pressure: {widths}{edge}")
        self.update()

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        scale = min(self._px_per_mm, MOST_PX / self._nib.heaviest)
        wide, y = self.width() - 12.0, THEME.px(24)
        at = np.linspace(0.0, 1.0, 60)
        points = np.column_stack([6.0 + at * wide, y + 4.0 * np.sin(at * 9.0)])
        ink = THEME.color("text")
        painter.fillPath(stroke(points, np.maximum(self._nib.width(at) * scale, 0.4)), ink)
        painter.setFont(THEME.font(LABEL))
        for k, (pressure, mm) in enumerate(zip(STEPS, self._nib.width(np.array(STEPS)), strict=True)):
            x = 6.0 + (k + 0.5) * wide / len(STEPS)
            painter.fillPath(self._mark(QPointF(x, THEME.px(54)), float(mm), scale), ink)
            painter.setPen(THEME.color("faint"))
            box = QRectF(x - 40.0, THEME.px(66), 80.0, THEME.px(18))
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, f"{mm:.2f}" + (" mm" if pressure == 0.0 else ""))
        larger = self._mark_scale(scale) / self._px_per_mm
        words = f"drawn {self._px_per_mm / scale:.1f} times smaller" if scale < self._px_per_mm else ""
        if self._nib.grain > 0.0 and larger > 1.0:
            words = f"marks {larger:.1f} times as large"
        painter.drawText(QPointF(6.0, THEME.px(12)), words)

    def _mark(self, at: QPointF, mm: float, scale: float) -> QPainterPath:
        """A short mark at a place; one with grain is drawn large enough to show it."""
        if self._nib.grain <= 0.0:
            points = np.column_stack([np.linspace(at.x() - 9.0, at.x() + 9.0, 12), np.full(12, at.y())])
            return stroke(points, np.full(12, max(mm * scale, 0.4)))
        scale = self._mark_scale(scale)
        # Marks lie on the same piece of paper wherever they are drawn.
        points = np.column_stack([np.linspace(-9.0, 9.0, 30) / scale, np.full(30, 3.0)])
        return worn_stroke(points, np.full(30, mm), self._nib.grain, scale).translated(at.x(), at.y() - 3.0 * scale)

    def _mark_scale(self, scale: float) -> float:
        return MOST_PX / self._nib.heaviest if self._nib.grain > 0.0 else scale
