"""Lines bent by dragging them: each gives softly about the place where it was taken hold of; and pushed by a round that
is drawn over them. They are seen as they would be."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QRegion

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.hit_test import Touch
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.seen_edit import SeenEdit
from plain_stride.desk.sheet.view import BoardView
from plain_stride.errors import StrideError
from plain_stride.job.line_fields import MOST_PUSHES
from plain_stride.job.mend_changes import bent, pushed
from plain_stride.job.records import LineRecord
from plain_stride.lines.bending import LEAST_REACH_MM, MOST_REACH_MM
from plain_stride.render.paths import polyline

LEAST_PX, WIDE_PX, WHEEL, STEP_SHARE = 2.0, 8.0, 1.2, 0.2
"""A shorter drag bends nothing; by so much wider than its ink the stretch that gives is marked; how much a step of the
wheel widens it; a
round goes on by so much of its reach at a time."""
Reach = Callable[[], float | None]


class ReachTool(SheetTool):
    """A drag of lines that give over a reach, mm, which the wheel sets while it drags."""

    shows_itself = True

    def __init__(self, reach: Reach, reach_set: Callable[[float], object]) -> None:
        """reach: None where what was typed cannot be read; reach_set: takes what the wheel set."""
        super().__init__()
        self._reach_now, self._reach_set, self._reach = reach, reach_set, 0.0
        self._context: SheetContext | None = None
        self._seen: SeenEdit | None = None
        self._grip, self._by = np.zeros(2), np.zeros(2)

    def taken(self, context: SheetContext) -> None:
        super().taken(context)
        self._context, self._seen = context, SeenEdit(context)

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        reach = self._reach_now()
        if self._context is not None and reach is not None:
            self._reach, self._grip, self._by = reach, event.mm, np.zeros(2)
            self._begin(self._context, event)
            self._try()

    def _begin(self, context: SheetContext, event: PointerEvent) -> None:
        """Takes hold of what lies there."""
        raise TypeError(f"{type(self).__name__} takes hold of nothing")

    def _rows(self, context: SheetContext) -> dict[str, LineRecord]:
        """Lines as they would be; none where nothing is held. Raises StrideError."""
        raise TypeError(f"{type(self).__name__} bends nothing")

    def _marked(self, view: BoardView) -> QRegion:
        """Pixels of its marks that lie beside the lines."""
        return QRegion()

    def _forget(self) -> None:
        """Nothing is held any more."""
        raise TypeError(f"{type(self).__name__} holds nothing")

    def _make(self, context: SheetContext) -> None:
        """Makes the change that was shown."""
        raise TypeError(f"{type(self).__name__} makes nothing")

    def move(self, event: PointerEvent) -> None:
        self._by = event.mm - self._grip
        self._try()

    def _try(self) -> None:
        """Shows the lines as they would be; where they cannot be, lets them go and says why."""
        if self._context is None or self._seen is None:
            return
        self._seen.mark(self._marked(self._context.view))
        try:
            self._seen.show(self._rows(self._context))
        except StrideError as fault:
            self._context.say(str(fault), True)
            self._seen.drop()
            self._forget()

    def left(self) -> None:
        super().left()
        self._forget()
        if self._seen is not None:
            self._seen.drop()

    def wheel(self, turns: float) -> bool:
        if self._seen is None or not self._seen.shapes:
            return False
        self._reach = round(float(np.clip(self._reach * WHEEL**turns, LEAST_REACH_MM, MOST_REACH_MM)), 2)
        self._reach_set(self._reach)
        self._try()
        return True

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        context, seen = self._context, self._seen
        if context is not None and seen is not None:
            if seen.shapes and np.hypot(*self._by) * event.view.scale >= LEAST_PX:
                seen.let_go()
                self._make(context)
            else:
                seen.drop()
        self._forget()

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self._seen is not None:
            self._seen.paint(painter, view)


class BendTool(ReachTool):
    """One line gives along itself, its ends stay; or several give together, wherever they lie within the reach."""

    words = "**Bend:** drag a line where it is wrong; the wheel sets how far along it gives. Esc ends it."

    def __init__(self, reach: Reach, reach_set: Callable[[float], object], others: Callable[[str], list[str]]) -> None:
        """others: lines that give along with one."""
        super().__init__(reach, reach_set)
        self._others_of = others
        self._touch: Touch | None = None
        self._from, self._others = np.zeros(2), list[str]()

    def _begin(self, context: SheetContext, event: PointerEvent) -> None:
        self._touch = context.open_line_under(event.at, context.session.chosen)
        if self._touch is not None:
            self._from, self._others = context.place_of(self._touch), self._others_of(self._touch.line)

    def _rows(self, context: SheetContext) -> dict[str, LineRecord]:
        touch, session = self._touch, context.session
        if touch is None:
            return {}
        rows = session.job.rows.lines
        if touch.line not in rows:
            raise StrideError("That line was taken back: nothing is bent.")
        if not self._others:
            new = bent(touch.line, rows[touch.line], session.shapes[touch.line], self._from, self._by, self._reach)
            return {touch.line: new}
        path = np.array([self._from, self._from + self._by])
        return _pushed(context, [touch.line, *self._others], path, self._reach)

    def _forget(self) -> None:
        self._touch = None

    def _marked(self, view: BoardView) -> QRegion:
        return _round_region(view, self._from, self._reach) if self._others else QRegion()

    def _make(self, context: SheetContext) -> None:
        if self._touch is not None:
            at, by = ([round(float(v), 4) for v in place] for place in (self._from, self._by))
            others = {"others": self._others} if self._others else {}
            context.session.make("bend", line=self._touch.line, at=at, by=by, reach=self._reach, **others)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        seen, touch = self._seen, self._touch
        if seen is not None and touch is not None and self._others:
            _paint_round(painter, view, self._from, self._reach)
        elif seen is not None and touch is not None and touch.line in seen.shapes:
            points, s = seen.shapes[touch.line].flat
            gives = points[np.abs(s - touch.s) <= self._reach]
            wide = WIDE_PX + float(seen.shapes[touch.line].body.full.max()) * view.scale
            painter.setPen(QPen(sheet_color("ahead"), wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(polyline(view.to_glass(gives)))
        super().paint(painter, view)


class PushTool(ReachTool):
    """A round of a set size takes along what it is drawn over."""

    words = "**Push:** draw the round against lines; they give before it. The wheel sets its size. Esc ends it."

    def __init__(self, reach: Reach, reach_set: Callable[[float], object], lines: Callable[[], list[str]]) -> None:
        """lines: that may be pushed; none for all that are open."""
        super().__init__(reach, reach_set)
        self._lines_now = lines
        self._lines, self._path = list[str](), list[np.ndarray]()

    def _begin(self, context: SheetContext, event: PointerEvent) -> None:
        self._lines, self._path = self._lines_now(), [event.mm]

    def move(self, event: PointerEvent) -> None:
        if self._path and np.hypot(*(event.mm - self._path[-1])) >= STEP_SHARE * self._reach:
            if len(self._path) < MOST_PUSHES:
                self._path.append(event.mm)
            super().move(event)

    def _rows(self, context: SheetContext) -> dict[str, LineRecord]:
        if len(self._path) < 2:
            return {}
        return _pushed(context, self._lines, np.array(self._path), self._reach)

    def _marked(self, view: BoardView) -> QRegion:
        return _round_region(view, self._path[-1], self._reach) if self._path else QRegion()

    def _forget(self) -> None:
        self._path = []

    def _make(self, context: SheetContext) -> None:
        path, rows = np.round(np.array(self._path), 4), _pushed(context, self._lines, np.array(self._path), self._reach)
        if rows:
            context.session.make("push", lines=list(rows), path=path.tolist(), reach=self._reach)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        super().paint(painter, view)
        if self._path:
            _paint_round(painter, view, self._path[-1], self._reach)


def _pushed(context: SheetContext, lines: list[str], path: np.ndarray, reach: float) -> dict[str, LineRecord]:
    """Rows of those lines that a push reaches. Raises StrideError."""
    session, rows = context.session, context.session.job.rows.lines
    low, high = path.min(axis=0) - reach, path.max(axis=0) + reach
    near = set(context.hits.near((*low.tolist(), *high.tolist())))
    found = ((key, pushed(key, rows[key], session.shapes[key], path, reach)) for key in lines if key in near)
    return {key: row for key, row in found if row is not None}


def _round_region(view: BoardView, at: np.ndarray, reach: float) -> QRegion:
    x, y = view.to_glass(at[None])[0].tolist()
    r = reach * view.scale + 3.0
    return QRegion(QRectF(x - r, y - r, 2.0 * r, 2.0 * r).toAlignedRect())


def _paint_round(painter: QPainter, view: BoardView, at: np.ndarray, reach: float) -> None:
    painter.setPen(QPen(sheet_color("ahead"), 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    x, y = view.to_glass(at[None])[0].tolist()
    painter.drawEllipse(QPointF(x, y), reach * view.scale, reach * view.scale)
