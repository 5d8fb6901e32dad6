"""A card that shows a nib: one line pressed from nothing to all, and marks at even steps of pressure with their mm."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from plain_stride.desk.inked import stroke
from plain_stride.desk.painted import Painted
from plain_stride.desk.theme import LABEL, THEME
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
        self.setAccessibleName(f"Nib {nib.name} by pressure: {widths}")
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
            mark = np.column_stack([np.linspace(x - 9.0, x + 9.0, 12), np.full(12, THEME.px(54))])
            painter.fillPath(stroke(mark, np.full(12, max(float(mm) * scale, 0.4))), ink)
            painter.setPen(THEME.color("faint"))
            box = QRectF(x - 40.0, THEME.px(66), 80.0, THEME.px(18))
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, f"{mm:.2f}" + (" mm" if pressure == 0.0 else ""))
        if scale < self._px_per_mm:
            words = f"drawn {self._px_per_mm / scale:.1f} times smaller"
            painter.drawText(QPointF(6.0, THEME.px(12)), words)
