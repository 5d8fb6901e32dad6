"""The line under the pen made heavier or lighter by a drag up or down the screen."""

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter

from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.gesture import HeldGesture
from plain_stride.desk.sheet.hit_test import Touch
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.seen_edit import SeenEdit
from plain_stride.desk.sheet.view import BoardView
from plain_stride.errors import StrideError
from plain_stride.job.line_changes import swollen

SWELL_REACH = (4.0, 36.0)
"""A swell under the pen reaches this many mm, at least this many pixels, to either side."""
DOUBLE_PX = 70.0
"""Pixels up the screen that double a width."""
LEAST = 0.01


class SwellGesture(HeldGesture):
    """Takes hold of the first line that the pen comes to; up the screen is heavier, for a shave lighter."""

    def __init__(self, context: SheetContext, shave: bool = False) -> None:
        super().__init__(context)
        self._way = -1.0 if shave else 1.0
        self._touch: Touch | None = None
        self._from, self._reach, self.factor = 0.0, 0.0, 1.0
        self._seen = SeenEdit(context)

    def begin(self, at: QPointF | None) -> None:
        if at is not None:
            self._take_hold(at)

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._take_hold(event.at)

    def move(self, event: PointerEvent) -> None:
        if self._touch is None:
            self._take_hold(event.at)
            return
        up = self._way * (self._from - event.at.y()) / DOUBLE_PX
        self.factor = float(np.clip(2.0**up, 0.1, 8.0))
        self._show(self._touch)

    def _show(self, touch: Touch) -> None:
        """Shows the line as it would be; the reason is said where it cannot be."""
        job, shapes = self._context.session.job, self._context.session.shapes
        try:
            row = swollen(job.rows.lines[touch.line], shapes[touch.line], self.factor, *self._stretch(touch))
            self._seen.show({touch.line: row})
        except StrideError as fault:
            self._context.say(str(fault), True)

    def end(self) -> None:
        touch, self._touch = self._touch, None
        if touch is None:
            return
        self._seen.let_go()
        if abs(self.factor - 1.0) > LEAST:
            start, end = self._stretch(touch)
            self._context.session.make("swell", line=touch.line, factor=self.factor, **{"from": start, "to": end})

    def paint(self, painter: QPainter, view: BoardView) -> None:
        self._seen.paint(painter, view)

    def _take_hold(self, at: QPointF) -> None:
        touch = self._context.open_line_under(at) if self._touch is None else None
        if touch is not None:
            self._touch, self._from = touch, at.y()
            self._reach = max(SWELL_REACH[0], SWELL_REACH[1] / self._context.view.scale)

    def _stretch(self, touch: Touch) -> tuple[float, float]:
        """mm along the line."""
        return touch.s - self._reach, touch.s + self._reach
