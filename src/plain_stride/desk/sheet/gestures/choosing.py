"""Ink chosen by a touch or by a loop drawn round it, and nudged."""

import math
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.gesture import Gesture, HeldGesture
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView
from plain_stride.render.paths import path_of, polyline
from plain_stride.texts import counted

LEAST_NUDGE_PX, LOOP_PX = 2.0, 6.0


class LoopGesture(Gesture):
    """A loop round lines to choose; they are added to what was chosen if more."""

    def __init__(self, context: SheetContext) -> None:
        super().__init__()
        self._context, self._more = context, False
        self._places: list[QPointF] = []

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._places, self._more = [event.at], event.more

    def move(self, event: PointerEvent) -> None:
        self._places.append(event.at)
        self._context.repaint(None)

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        session, view = self._context.session, self._context.view
        loop, self._places = np.array([view.to_board(at) for at in self._places]), []
        touching = session.now.loop_touching
        inside = self._context.hits.inside(loop, touching) if len(loop) > 2 else []
        kept = [key for key in session.chosen if key not in inside] if self._more else []
        session.choose([*kept, *inside])
        if len(loop) > 2:
            n = len(inside)
            where = "touched" if touching else "inside"
            self._context.say(f"**{counted(n, 'line')}** {where}." if n else f"No line is {where}.")
        self._context.repaint(None)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if len(self._places) > 1:
            painter.setPen(QPen(sheet_color("chosen"), 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolygon(polyline(np.array([[p.x(), p.y()] for p in self._places])))


class NudgeGesture(HeldGesture):
    """On a line it is nudged, with all that are chosen if it is one of them; on empty paper a loop begins. A key that
    was held a moment and not used was meant as a tap."""

    def __init__(self, context: SheetContext, tapped: Callable[[], None]) -> None:
        """tapped: what a tap does."""
        super().__init__(context)
        self._tapped, self._used = tapped, False
        self._loop = LoopGesture(context)
        self._nudged: list[str] = []
        self._from: QPointF | None = None
        self._shift = QPointF()

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._used = True
        session, touch = self._context.session, self._context.line_under(event.at)
        if touch is None:
            self._loop.down(event)
            return
        if touch.line not in session.chosen:
            session.choose([touch.line])
        self._nudged, self._from, self._shift = session.chosen, event.at, QPointF()

    def move(self, event: PointerEvent) -> None:
        if self._loop.busy:
            self._loop.move(event)
        elif self._from is not None:
            self._shift = event.at - self._from
            self._context.repaint(None)

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        if self._loop.busy:
            self._loop.up(event)
        self._put_down()

    def end(self) -> None:
        if self._loop.busy:
            self._loop.up(PointerEvent(QPointF(), self._context.view))
        self._put_down()
        if not self._used:
            self._tapped()

    def _put_down(self) -> None:
        """Nudged lines lie there now."""
        lines, shift, start = self._nudged, self._shift, self._from
        self._nudged, self._from, self._shift = [], None, QPointF()
        if start is None:
            return
        if math.hypot(shift.x(), shift.y()) >= LEAST_NUDGE_PX:
            view = self._context.view
            a, b = view.to_board(start), view.to_board(start + shift)
            self._context.session.make("move", lines=lines, by=[round(b[0] - a[0], 4), round(b[1] - a[1], 4)])
        self._context.repaint(None)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        self._loop.paint(painter, view)
        if self._from is None:
            return
        painter.save()
        painter.translate(self._shift)
        painter.setTransform(view.transform, True)
        for key in self._nudged:
            painter.fillPath(path_of(self._context.session.shapes.ink(key).rings), sheet_color("chosen"))
        painter.restore()


class ChooseGesture(Gesture):
    """The right button: a touch chooses what lies under it, a drag all that lies inside."""

    def __init__(self, context: SheetContext, menu: Callable[[QPointF], None]) -> None:
        """menu: opens the menu of a line that was chosen already, at a pixel."""
        super().__init__()
        self._context, self._menu = context, menu
        self._first: PointerEvent | None = None
        self._loop = LoopGesture(context)

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._first = event

    def move(self, event: PointerEvent) -> None:
        if self._loop.busy:
            self._loop.move(event)
        elif self._first is not None and (event.at - self._first.at).manhattanLength() > LOOP_PX:
            self._loop.down(self._first)

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        first, self._first = self._first, None
        if self._loop.busy:
            self._loop.up(event)
        elif first is not None:
            self.choose(first.at, event.more)

    def choose(self, at: QPointF | None, more: bool) -> None:
        """Chooses the ink under a pixel; more: adds it, or takes it out again. On empty paper nothing is chosen."""
        session, key = self._context.session, self._context.ink_under(at)
        chosen = session.chosen if more else []
        if key and not more and key in session.chosen:
            self._menu(at if at is not None else self._context.viewport.about())
            return
        if key in chosen:
            chosen.remove(key)
        elif key:
            chosen.append(key)
        session.choose(chosen)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        self._loop.paint(painter, view)
