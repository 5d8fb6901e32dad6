"""Marks of the hand for a calibration: each stroke is shown, measured, and never becomes a line."""

from collections.abc import Callable

import numpy as np
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView
from plain_stride.hand.response import mark_pressure
from plain_stride.render.paths import polyline


class MarksTool(SheetTool):
    """`marked` gets the pressure (0..1) of each mark."""

    words = "**Calibrating:** make your marks anywhere on the sheet; none of them is kept. Esc ends it."

    def __init__(self, marked: Callable[[float], object]) -> None:
        super().__init__()
        self._marked = marked
        self._rows: list[tuple[float, float, float]] = []
        self._shown: list[np.ndarray] = []

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._rows = []
        self.move(event)

    def move(self, event: PointerEvent) -> None:
        self._rows.append((float(event.mm[0]), float(event.mm[1]), float(event.pressure)))

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        rows = np.array(self._rows)
        self._shown.append(rows[:, :2])
        self._marked(mark_pressure(rows[:, 2]))

    def paint(self, painter: QPainter, view: BoardView) -> None:
        painter.setPen(QPen(sheet_color("chosen"), 1.6))
        for points in [*self._shown, np.array([row[:2] for row in self._rows])] if self.busy else self._shown:
            if len(points) > 1:
                painter.drawPolyline(polyline(view.to_glass(points)))
