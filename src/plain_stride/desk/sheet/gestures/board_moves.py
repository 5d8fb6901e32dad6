"""The board moved, turned and enlarged by dragging."""

import math

from PySide6.QtCore import QPointF

from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.gesture import HeldGesture
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView

DOUBLE_PX = 120.0
"""Pixels up the screen that double the board."""


class BoardGesture(HeldGesture):
    """Goes on from where the pointer was last, with the pen up or down."""

    def __init__(self, context: SheetContext) -> None:
        super().__init__(context)
        self._last: QPointF | None = None

    def begin(self, at: QPointF | None) -> None:
        self._last = at

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._last = event.at

    def move(self, event: PointerEvent) -> None:
        last = self._last if self._last is not None else event.at
        self._context.viewport.set_view(self.moved(self._context.view, last, event.at))
        self._last = event.at

    def moved(self, view: BoardView, a: QPointF, b: QPointF) -> BoardView:
        """The board as it lies after a drag from one pixel to another."""
        return view.moved(b.x() - a.x(), b.y() - a.y())


class TurnGesture(BoardGesture):
    """Turns the board about the middle of the window."""

    def moved(self, view: BoardView, a: QPointF, b: QPointF) -> BoardView:
        middle = QPointF(view.size[0] / 2.0, view.size[1] / 2.0)
        before, after = a - middle, b - middle
        turn = math.atan2(after.y(), after.x()) - math.atan2(before.y(), before.x())
        return view.turned(math.degrees(turn), middle)


class EnlargeGesture(BoardGesture):
    """Up the screen enlarges the board round the pen, down reduces it."""

    def moved(self, view: BoardView, a: QPointF, b: QPointF) -> BoardView:
        return view.enlarged(2.0 ** ((a.y() - b.y()) / DOUBLE_PX), self._context.viewport.about())
