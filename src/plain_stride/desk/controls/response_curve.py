"""The pressure response as a curve whose points can be dragged, with the measured marks behind it."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from plain_stride.desk.controls.controls import focus_ring, tinted
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import LABEL, THEME
from plain_stride.errors import StrideError
from plain_stride.hand.response import MOST_POINTS, Response
from plain_stride.render.paths import polyline

HIGH, LEFT, FOOT, GRIP_PX, KEY_STEP = 160, 42, 22, 12.0, 0.02


class ResponseCurve(Painted, QWidget):
    """changed: another response. A press on the curve adds a point, a double press takes one away; Tab, then the
    arrows, move the one in hand."""

    changed = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.response = Response()
        self._marks: Sequence[Sequence[float]] = ((), (), ())
        self._held: int | None = None
        self.setFixedHeight(THEME.px(HIGH))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self._name()
        THEME.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(220, THEME.px(HIGH))

    def show_response(self, response: Response, marks: Sequence[Sequence[float]]) -> None:
        """Shows a response and the pressures of light, easy and firm marks without telling anyone."""
        if self._held is None:
            self.response = response
        self._marks = marks
        self._name()
        self.update()

    def _name(self) -> None:
        told = ", ".join(f"{p:.0%} gives {s:.0%}" for p, s in self.response.points)
        self.setAccessibleName(f"Pressure response: {told}")

    def _box(self) -> QRectF:
        return QRectF(THEME.px(LEFT), 6, self.width() - THEME.px(LEFT) - 8, self.height() - THEME.px(FOOT) - 6)

    def _at(self, pressure: float, share: float) -> QPointF:
        box = self._box()
        return QPointF(box.left() + pressure * box.width(), box.bottom() - share * box.height())

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        box = self._box()
        painter.setPen(QPen(THEME.color("hair"), 1))
        for k in range(5):
            y = box.bottom() - box.height() * k / 4.0
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        for words, y in (("100 %", box.top()), ("0", box.bottom())):
            painter.drawText(QRectF(0, y - 9, box.left() - 9, 18), Qt.AlignmentFlag.AlignRight, words)
        foot = QRectF(box.left(), box.bottom() + 3, box.width(), THEME.px(FOOT))
        painter.drawText(foot, Qt.AlignmentFlag.AlignHCenter, "pressure of the pen")
        for row, marks in enumerate(self._marks):
            painter.setPen(QPen(tinted(THEME.color("ahead"), 0.8), 1.4))
            for p in marks:
                x = box.left() + p * box.width()
                y = box.bottom() - box.height() * (0.05, 0.5, 1.0)[row]
                painter.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))
        at = np.linspace(0.0, 1.0, 120)
        high = self.response.share(at) * box.height()
        points = np.column_stack([box.left() + at * box.width(), box.bottom() - high])
        painter.setPen(QPen(THEME.color("text"), 2.2))
        painter.drawPolyline(polyline(points))
        painter.setPen(QPen(THEME.color("chosen"), 1.6))
        for k, (pressure, share) in enumerate(self.response.points):
            painter.setBrush(THEME.color("chosen" if k == self._held else "margin"))
            painter.drawEllipse(self._at(pressure, share), 5.0, 5.0)
        focus_ring(painter, self)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        far = [(self._at(*point) - at).manhattanLength() for point in self.response.points]
        nearest = int(np.argmin(far))
        self._held = nearest if far[nearest] <= GRIP_PX else self._added(at)
        self.update()

    def _added(self, at: QPointF) -> int | None:
        pressure, share = self._under(at)
        points = sorted([*self.response.points, (pressure, share)])
        if len(points) > MOST_POINTS or not self._take(points):
            return None
        return points.index((pressure, share))

    def _under(self, at: QPointF) -> tuple[float, float]:
        box = self._box()
        return (float(np.clip((at.x() - box.left()) / box.width(), 0.0, 1.0)),
                float(np.clip((box.bottom() - at.y()) / box.height(), 0.0, 1.0)))  # fmt: skip

    def _take(self, points: Sequence[tuple[float, float]]) -> bool:
        try:
            self.response = Response(tuple(points))
        except StrideError:
            return False
        self._name()
        self.update()
        return True

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._move_held(*self._under(event.position()))

    def _move_held(self, pressure: float, share: float) -> None:
        """Between its neighbours; the ends stay at pressure 0 and 1."""
        points, k = list(self.response.points), self._held
        assert k is not None
        low = points[k - 1] if k > 0 else (0.0, 0.0)
        high = points[k + 1] if k + 1 < len(points) else (1.0, 1.0)
        ends = {0: 0.0, len(points) - 1: 1.0}
        gap = 0.01
        x = ends.get(k, float(np.clip(pressure, low[0] + gap, max(high[0] - gap, low[0] + gap))))
        points[k] = (x, float(np.clip(share, low[1], high[1])))
        self._take(points)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._held = None
        self.update()
        self.changed.emit(self.response)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        far = [(self._at(*point) - event.position()).manhattanLength() for point in self.response.points]
        k = int(np.argmin(far))
        if far[k] <= GRIP_PX and 0 < k < len(self.response.points) - 1:
            self._take([point for n, point in enumerate(self.response.points) if n != k])
            self.changed.emit(self.response)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Up and down bend the middle of the curve: softer, harder."""
        ways = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}
        if event.key() not in ways:
            super().keyPressEvent(event)
            return
        middle = float(self.response.share(np.array([0.5]))[0]) + KEY_STEP * ways[Qt.Key(event.key())]
        if self._take([(0.0, 0.0), (0.5, float(np.clip(middle, 0.02, 0.98))), (1.0, 1.0)]):
            self.changed.emit(self.response)
