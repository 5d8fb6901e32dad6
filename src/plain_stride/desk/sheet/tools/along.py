"""A stretch of a line, pointed out by dragging along it; and places where lines meet, pointed at."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.hit_test import Touch
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView
from plain_stride.lines.cross import nearest
from plain_stride.render.paths import polyline

LEAST_MM, WIDE_PX = 0.2, 5.0


class StretchTool(SheetTool):
    """`drawn` gets the line, and the arc lengths in mm from and to."""

    def __init__(self, words: str, drawn: Callable[[str, float, float], object]) -> None:
        super().__init__()
        self.words, self._hand_on = words, drawn
        self._context: SheetContext | None = None
        self._touch: Touch | None = None
        self._to = 0.0

    def taken(self, context: SheetContext) -> None:
        super().taken(context)
        self._context = context

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        if self._context is not None:
            self._touch = self._context.open_line_under(event.at, self._context.session.chosen)
            self._to = self._touch.s if self._touch is not None else 0.0

    def move(self, event: PointerEvent) -> None:
        if self._context is not None and self._touch is not None:
            points, s = self._context.session.shapes[self._touch.line].flat
            _, index = nearest(points, event.mm)
            self._to = float(np.interp(index, np.arange(len(s)), s))

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        touch, self._touch = self._touch, None
        if touch is not None and abs(self._to - touch.s) >= LEAST_MM:
            low, high = sorted((touch.s, self._to))
            self._hand_on(touch.line, round(low, 4), round(high, 4))

    def left(self) -> None:
        super().left()
        self._touch = None

    def paint(self, painter: QPainter, view: BoardView) -> None:
        touch, context = self._touch, self._context
        if touch is None or context is None or touch.line not in context.session.job.rows.lines:
            return
        low, high = sorted((touch.s, self._to))
        points, s = context.session.shapes[touch.line].flat
        painter.setPen(QPen(sheet_color("ahead"), WIDE_PX, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(polyline(view.to_glass(points[(s >= low) & (s <= high)])))
