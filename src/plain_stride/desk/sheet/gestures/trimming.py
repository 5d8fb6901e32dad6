"""The stretch of a line that a trim would take away, shown while a key is held; and what is rubbed out."""

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter

from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.gesture import Gesture, HeldGesture
from plain_stride.desk.sheet.gestures.swelling import SwellGesture
from plain_stride.desk.sheet.hit_test import Touch
from plain_stride.desk.sheet.marks import trace
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView
from plain_stride.errors import StrideError
from plain_stride.job.changes import trimmed_stretch
from plain_stride.lines.shape import Shape

RUB_PX = 5.0
"""An eraser that moves farther strokes; one that does not, touches."""
RUBS = ("trim", "cut", "whole")
"""What a touch of the pen's other end takes away: back to the nearest crossings, nothing but the join, the line."""


class TrimGesture(HeldGesture):
    """Shows what a trim under the pen would take."""

    def __init__(self, context: SheetContext) -> None:
        super().__init__(context)
        self.shown: np.ndarray | None = None

    def begin(self, at: QPointF | None) -> None:
        self._show(at)

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._show(event.at)

    def move(self, event: PointerEvent) -> None:
        self._show(event.at)

    def end(self) -> None:
        self._show(None)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self.shown is not None:
            trace(painter, view, self.shown, 3.0)

    def _show(self, at: QPointF | None) -> None:
        touch = self._context.line_under(at) if at is not None else None
        trim = trim_preview(self._context.session, touch) if touch is not None else None
        if trim is not None or self.shown is not None:
            self.shown = trim
            self._context.repaint(None)


class RubGesture(Gesture):
    """The eraser end: a touch takes away what lies under it, a stroke shaves the line, up is lighter."""

    def __init__(self, context: SheetContext) -> None:
        super().__init__()
        self._context, self._shave = context, SwellGesture(context, shave=True)
        self._touched: QPointF | None = None
        self.how = RUBS[0]

    def use(self, how: str) -> None:
        """What a touch takes away from now on, one of RUBS."""
        self.how = how if how in RUBS else RUBS[0]

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._touched = event.at
        self._context.viewport.point(event.at)
        self._shave.begin(event.at)

    def move(self, event: PointerEvent) -> None:
        if self._touched is not None and (event.at - self._touched).manhattanLength() > RUB_PX:
            self._touched = None
        if self._touched is None:
            self._shave.move(event)
            self._context.viewport.point(event.at)

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        touched, self._touched = self._touched, None
        self._shave.end()
        if touched is not None:
            self._context.viewport.point(touched)
            rub(self._context, self.how, touched)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        self._shave.paint(painter, view)


def rub(context: SheetContext, how: str, at: QPointF | None = None) -> None:
    """Trims, cuts or takes away the line under a pixel, under the pen by default."""
    touch = context.line_under(at)
    if touch is None:
        context.say("No line is under the pen: point at the stretch that should go.")
    elif how == "whole":
        context.session.make("delete", lines=[touch.line])
    else:
        to = {"to": context.session.now.trim_to} if how == "trim" else {}
        context.session.make(how, line=touch.line, at=[float(v) for v in context.place_of(touch)], **to)


def trim_preview(session: Session, touch: Touch) -> np.ndarray | None:
    """Points (n, 2) in mm of the stretch that a trim there would take away; None where it would take nothing."""
    shape = session.shapes[touch.line]
    try:
        stretch = trimmed_stretch(
            session.shapes, touch.line, shape.arc.point(np.array([touch.s]))[0], session.now.trim_to
        )
    except StrideError:
        return None
    return None if stretch is None else stretch_points(shape, *stretch)


def stretch_points(shape: Shape, a: float, b: float) -> np.ndarray:
    """Points along a line between two arc lengths; on a closed line they may lie beyond its ends."""
    s = np.linspace(a, b, 60)
    return shape.arc.point(np.mod(s, shape.length) if shape.closed else s)
