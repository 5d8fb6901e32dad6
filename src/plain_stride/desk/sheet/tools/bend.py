"""Lines bent by dragging them: each gives softly about the place where it was taken hold of, and is seen as it would
be."""

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
from plain_stride.errors import StrideError
from plain_stride.job.mend_changes import bent
from plain_stride.lines.bending import LEAST_REACH_MM, MOST_REACH_MM
from plain_stride.lines.shape import Shape
from plain_stride.render.paths import path_of, polyline

LEAST_PX, WIDE_PX, WHEEL = 2.0, 5.0, 1.2
"""A shorter drag bends nothing; how wide the stretch that gives is marked; how much a step of the wheel widens it."""


class BendTool(SheetTool):
    """The wheel gives it a wider or a narrower reach while it drags."""

    words = "**Bend:** drag a line where it is wrong; the wheel sets how far along it gives. Esc ends it."

    def __init__(self, reach: Callable[[], float | None], reach_set: Callable[[float], object]) -> None:
        """reach: mm to either side over which a line gives, None where what was typed cannot be read; reach_set: takes
        what the wheel set."""
        super().__init__()
        self._reach_now, self._reach_set, self._reach = reach, reach_set, 0.0
        self._context: SheetContext | None = None
        self._touch: Touch | None = None
        self._grip, self._from, self._by = np.zeros(2), np.zeros(2), np.zeros(2)
        self._preview: Shape | None = None

    def taken(self, context: SheetContext) -> None:
        super().taken(context)
        self._context = context

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        reach = self._reach_now()
        if self._context is None or reach is None:
            return
        self._touch, self._reach = self._context.open_line_under(event.at, self._context.session.chosen), reach
        if self._touch is None:
            return
        self._grip, self._from, self._by = event.mm, self._context.place_of(self._touch), np.zeros(2)
        self._context.compositor.look(left_out=self._touch.line)
        self._try(self._context, self._touch)

    def move(self, event: PointerEvent) -> None:
        if self._context is not None and self._touch is not None:
            self._by = event.mm - self._grip
            self._try(self._context, self._touch)
            self._context.repaint(None)

    def _try(self, context: SheetContext, touch: Touch) -> None:
        """Shows the line as it would be; where it cannot be, lets it go and says why."""
        session = context.session
        row = session.job.rows.lines.get(touch.line)
        try:
            if row is None:
                raise StrideError("That line was taken back: nothing is bent.")
            new = bent(touch.line, row, session.shapes[touch.line], self._from, self._by, self._reach)
            self._preview = session.shapes.tried(touch.line, new)
        except StrideError as fault:
            context.say(str(fault), True)
            self._let_go()

    def _let_go(self) -> None:
        """The line is shown where it lies."""
        if self._context is not None:
            self._context.compositor.look(left_out="")
        self._touch, self._preview = None, None

    def left(self) -> None:
        super().left()
        self._let_go()

    def wheel(self, turns: float) -> bool:
        if self._context is None or self._touch is None:
            return False
        self._reach = round(float(np.clip(self._reach * WHEEL**turns, LEAST_REACH_MM, MOST_REACH_MM)), 2)
        self._reach_set(self._reach)
        self._try(self._context, self._touch)
        self._context.repaint(None)
        return True

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        touch, context = self._touch, self._context
        self._let_go()
        if touch is None or context is None:
            return
        if np.hypot(*self._by) * event.view.scale >= LEAST_PX:
            at, by = ([round(float(v), 4) for v in place] for place in (self._from, self._by))
            context.session.make("bend", line=touch.line, at=at, by=by, reach=self._reach)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        shape, touch = self._preview, self._touch
        if shape is None or touch is None:
            return
        points, s = shape.flat
        gives = points[np.abs(s - touch.s) <= self._reach]
        painter.setPen(QPen(sheet_color("ahead"), WIDE_PX, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(polyline(view.to_glass(gives)))
        painter.save()
        painter.setTransform(view.transform, True)
        painter.fillPath(path_of(shape.rings), sheet_color("ink"))
        painter.restore()
