"""The tool that draws remarks: red strokes with the pen's pressure, which are no ink."""

import time
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView
from plain_stride.render.paths import polyline

STEP_PX, TOGETHER_S, TOGETHER_MM = 1.5, 1.2, 25.0
"""Apart of the points of a stroke; strokes that follow so soon, so near the first, are one remark."""


class RemarkTool(SheetTool):
    """drawn: gets the strokes of a remark, each (n, 3): x, y mm and pressure, when the pen has left it."""

    words = "**Remark:** draw in red; strokes that follow soon belong together. Enter or Esc ends it."

    def __init__(self, drawn: Callable[[list[np.ndarray]], object]) -> None:
        super().__init__()
        self._hand_on = drawn
        self._strokes: list[list[np.ndarray]] = []
        self._lifted = 0.0

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        if self._strokes and not self._goes_on(event):
            self.finish()
        self._strokes.append([self._sample(event)])

    def move(self, event: PointerEvent) -> None:
        last = self._strokes[-1][-1]
        if np.hypot(*(event.mm - last[:2])) * event.view.scale > STEP_PX:
            self._strokes[-1].append(self._sample(event))

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        self._lifted = time.monotonic()

    def left(self) -> None:
        super().left()
        self.finish()

    def finish(self) -> bool:
        """Lays what was drawn as one remark."""
        strokes, self._strokes = self._strokes, []
        if strokes:
            self._hand_on([np.array(stroke) for stroke in strokes])
        return bool(strokes)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        painter.setPen(QPen(sheet_color("red"), 2.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for stroke in self._strokes:
            painter.drawPolyline(polyline(view.to_glass(np.array(stroke)[:, :2])))

    def _goes_on(self, event: PointerEvent) -> bool:
        near = np.hypot(*(event.mm - self._strokes[0][0][:2])) <= TOGETHER_MM
        return bool(near) and time.monotonic() - self._lifted <= TOGETHER_S

    def _sample(self, event: PointerEvent) -> np.ndarray:
        return np.array([*event.mm, event.pressure or 0.5])
