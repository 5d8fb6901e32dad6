"""What held keys do on the sheet: the board moved, turned, enlarged; lines swollen, trimmed, nudged, drawn round."""

import math
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.line_tools import SwellInHand, inside_loop, trim_preview
from plain_stride.job.changes import make
from plain_stride.lines.black import Black
from plain_stride.lines.shape import Shape
from plain_stride.render.paths import path_of, polyline
from plain_stride.texts import counted

if TYPE_CHECKING:
    from plain_stride.desk.sheet.sheet import SheetView

LEAST_NUDGE_PX = 2.0


class SpringLoadedTools:
    """The held key's work in progress. what: '', move, turn, enlarge, swell, shave, trim or nudge."""

    def __init__(self, sheet: "SheetView") -> None:
        self._sheet = sheet
        self.what = ""
        self.swell: SwellInHand | None = None
        self._last: QPointF | None = None
        self._preview: Shape | None = None
        self._trim: np.ndarray | None = None
        self._nudged: list[str] = []
        self._from: QPointF | None = None
        self._shift = QPointF()
        self.loop: list[QPointF] = []
        self._more = False
        self.used = False

    # From the keys

    def begin(self, what: str) -> None:
        self.what, self._last, self.used = what, self._sheet.pointer, False
        if self._sheet.pointer is not None and what != "nudge":
            self.down(self._sheet.pointer)

    def end(self) -> None:
        held, self.what = self.what, ""
        sheet = self._sheet
        if self.swell is not None:
            swell, self.swell, self._preview = self.swell, None, None
            sheet.layer.left_out.discard(swell.line)
            if abs(swell.factor - 1.0) > 0.01:
                sheet.session.make("swell", **swell.arguments())
            sheet.redraw()
        if held == "trim":
            self._show_trim(None)
        if self.busy:
            self.up()

    @property
    def busy(self) -> bool:
        """Whether lines are being nudged or a loop is being drawn."""
        return self._from is not None or bool(self.loop)

    # From pen and mouse

    def down(self, at: QPointF, more: bool = False) -> None:
        """The pen has come down with the key held, or the key has gone down over a line."""
        self._last, self.used = at, True
        if self.what in ("swell", "shave") and self.swell is None:
            self._begin_swell(at)
        elif self.what == "trim":
            self._show_trim(at)
        elif self.what == "nudge":
            self._begin_nudge(at, more)

    def move(self, at: QPointF) -> None:
        if self.loop:
            self._draw_loop(at)
        elif self._from is not None:
            self._shift = at - self._from
            self._sheet.update()
        elif self.what in ("move", "turn", "enlarge"):
            self.drag_board(self.what, at)
        elif self.swell is not None:
            self.swell.move(at.y())
            self._preview = self._swollen(self.swell)
            self._sheet.update()
        elif self.what in ("swell", "shave"):
            self.down(at)
        elif self.what == "trim":
            self._show_trim(at)

    def up(self) -> None:
        """The pen has lifted: nudged lines lie there now, what the loop holds is chosen."""
        if self.loop:
            self._end_loop()
        elif self._from is not None:
            self._end_nudge()

    def begin_loop(self, at: QPointF, more: bool) -> None:
        """Begins to draw round lines."""
        self.loop, self._more = [at], more

    def moves_board(self) -> bool:
        return self.what in ("move", "turn", "enlarge")

    def drag_board(self, how: str, at: QPointF) -> None:
        sheet = self._sheet
        last = self._last if self._last is not None else at
        dx, dy = at.x() - last.x(), at.y() - last.y()
        middle = QPointF(sheet.width() / 2.0, sheet.height() / 2.0)
        if how == "move":
            sheet.set_view(sheet.view.moved(dx, dy))
        elif how == "turn":
            a, b = last - middle, at - middle
            turn = math.degrees(math.atan2(b.y(), b.x()) - math.atan2(a.y(), a.x()))
            sheet.set_view(sheet.view.turned(turn, middle))
        else:
            sheet.set_view(sheet.view.enlarged(2.0 ** (-dy / 120.0), sheet.about()))
        self._last = at

    def drag_from(self, at: QPointF | None) -> None:
        """Where a drag of the board by the middle button begins, or None where it ends."""
        self._last = at

    # Swelling and trimming

    def _begin_swell(self, at: QPointF) -> None:
        sheet = self._sheet
        touch = sheet.open_line_under(at)
        if touch is not None:
            self.swell = SwellInHand(touch, sheet.view.scale, at.y(), self.what == "shave")
            sheet.layer.left_out.add(touch.line)
            self._preview = sheet.session.shapes[touch.line]
            sheet.redraw()

    def _swollen(self, swell: SwellInHand) -> Shape:
        """The line as it would be: the change is made on the job in memory and taken back at once."""
        job, shapes = self._sheet.session.job, self._sheet.session.shapes
        made = make(job, shapes, "swell", swell.arguments())
        shape = shapes[swell.line]
        if made.commit is not None:
            job.forget_newest()
        return shape

    def _show_trim(self, at: QPointF | None) -> None:
        touch = self._sheet.line_under(at) if at is not None else None
        trim = trim_preview(self._sheet.session, touch) if touch is not None else None
        if trim is not None or self._trim is not None:
            self._trim = trim
            self._sheet.update()

    # Nudging and drawing round

    def _begin_nudge(self, at: QPointF, more: bool) -> None:
        """On a line it is nudged, with all that are chosen if it is one of them; on empty paper a loop begins."""
        touch = self._sheet.line_under(at)
        if touch is None:
            self.begin_loop(at, more)
            return
        session = self._sheet.session
        if touch.line not in session.chosen:
            session.choose([touch.line])
        self._nudged, self._from, self._shift = list(session.chosen), at, QPointF()

    def _end_nudge(self) -> None:
        lines, shift, start = self._nudged, self._shift, self._from
        self._nudged, self._from, self._shift = [], None, QPointF()
        assert start is not None
        if math.hypot(shift.x(), shift.y()) >= LEAST_NUDGE_PX:
            view = self._sheet.view
            a, b = view.to_board(start), view.to_board(start + shift)
            by = [round(b[0] - a[0], 4), round(b[1] - a[1], 4)]
            self._sheet.session.make("move", lines=lines, by=by)
        self._sheet.update()

    def _draw_loop(self, at: QPointF) -> None:
        self.loop.append(at)
        self._sheet.update()

    def _end_loop(self) -> None:
        loop, self.loop = self.loop, []
        session, view = self._sheet.session, self._sheet.view
        places = np.array([view.to_board(at) for at in loop])
        inside = inside_loop(session, places) if len(places) > 2 else []
        kept = [key for key in session.chosen if key not in inside] if self._more else []
        session.choose([*kept, *inside])
        if len(places) > 2:
            n = len(inside)
            session.said.emit(f"**{counted(n, 'line')}** inside." if n else "No line lies inside.", False)
        self._sheet.update()

    # Painting

    def paint(self, painter: QPainter) -> None:
        view = self._sheet.view
        if self._preview is not None:
            painter.save()
            painter.setTransform(view.transform, True)
            painter.fillPath(path_of(self._preview.rings), sheet_color("ink"))
            painter.restore()
        if self._from is not None:
            painter.save()
            painter.translate(self._shift)
            painter.setTransform(view.transform, True)
            for key in self._nudged:
                painter.fillPath(path_of(self._shape(key).rings), sheet_color("chosen"))
            painter.restore()
        if self._trim is not None:
            self._sheet.trace(painter, self._trim, 3.0)
        if len(self.loop) > 1:
            painter.setPen(QPen(sheet_color("chosen"), 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolygon(polyline(np.array([[p.x(), p.y()] for p in self.loop])))

    def _shape(self, key: str) -> Shape | Black:
        return self._sheet.session.shapes.ink(key)
