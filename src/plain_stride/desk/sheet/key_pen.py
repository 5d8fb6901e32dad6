"""Pulling by points, from the keyboard alone: arrows move the pen in mm, Enter sets a point, plus and minus press."""

import math
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.hand.by_points import pull_through

if TYPE_CHECKING:
    from plain_stride.desk.sheet.sheet import SheetView

STEP_MM, FINE_MM, WIDE_MM = 1.0, 0.1, 10.0
PRESS_STEP = 0.1
_ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
_INKS = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
EDGE_PX = 40.0


class KeyPen:
    """The pen of the keyboard: its place is the sheet's pointer. points: x, y mm and pressure of each point set."""

    def __init__(self, sheet: "SheetView") -> None:
        self._sheet = sheet
        self.points: list[tuple[float, float, float]] = []
        self.pressure = 0.5

    def key(self, event: QKeyEvent) -> bool:
        """Does what a key on the sheet asks for; False where it asks for nothing here."""
        key, keys = Qt.Key(event.key()), event.modifiers()
        shift, control = (bool(keys & m) for m in (Qt.KeyboardModifier.ShiftModifier,
                                                   Qt.KeyboardModifier.ControlModifier))  # fmt: skip
        if key in _ARROWS:
            self._step(*_ARROWS[key], FINE_MM if shift else WIDE_MM if control else STEP_MM)
        elif key in _INKS and control:
            self._ink()
        elif key in _INKS:
            self._set_point()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus) and not control:
            self._press(-PRESS_STEP if key == Qt.Key.Key_Minus else PRESS_STEP)
        elif key == Qt.Key.Key_Backspace:
            self._take_back()
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End):
            self._next_line(-1 if key == Qt.Key.Key_Home else 1)
        else:
            return False
        return True

    def give_up(self) -> bool:
        """Drops the points that were set; False where there were none."""
        had, self.points = bool(self.points), []
        self._sheet.update()
        return had

    def _place(self) -> tuple[float, float]:
        """mm under the pen; the middle of the page until it was moved."""
        sheet = self._sheet
        if sheet.pointer is None:
            sheet.point(QPointF(sheet.width() / 2.0, sheet.height() / 2.0))
        assert sheet.pointer is not None
        return sheet.view.to_board(sheet.pointer)

    def _step(self, dx: int, dy: int, mm: float) -> None:
        sheet = self._sheet
        if sheet.hold.what == "nudge" and sheet.session.chosen:
            sheet.session.make("move", lines=list(sheet.session.chosen), by=[dx * mm, dy * mm])
            return
        turned = self._as_seen(dx, dy)
        x, y = self._place()
        self._go((x + turned[0] * mm, y + turned[1] * mm))

    def _as_seen(self, dx: int, dy: int) -> tuple[float, float]:
        """A direction of the screen as a direction on the board, however that is turned and mirrored."""
        view = self._sheet.view
        a, b = view.to_board(QPointF(0.0, 0.0)), view.to_board(QPointF(dx * 100.0, dy * 100.0))
        long = math.hypot(b[0] - a[0], b[1] - a[1])
        return (b[0] - a[0]) / long, (b[1] - a[1]) / long

    def _go(self, place: tuple[float, float]) -> None:
        """Puts the pen down at a place in mm; the board moves along where that is out of sight."""
        sheet = self._sheet
        x, y = sheet.view.to_glass(np.array([place]))[0]
        dx = min(max(x, EDGE_PX), sheet.width() - EDGE_PX) - x
        dy = min(max(y, EDGE_PX), sheet.height() - EDGE_PX) - y
        if dx or dy:
            sheet.set_view(sheet.view.moved(dx, dy))
            x, y = sheet.view.to_glass(np.array([place]))[0]
        sheet.point(QPointF(x, y))
        self._say_place(place)
        sheet.update()

    def _say_place(self, place: tuple[float, float]) -> None:
        words = f"Pen at {place[0]:.1f}, {place[1]:.1f} mm"
        if self.points:
            x, y, _ = self.points[-1]
            words += f", {math.hypot(place[0] - x, place[1] - y):.1f} mm from point {len(self.points)}"
        self._sheet.setAccessibleDescription(words)

    def _set_point(self) -> None:
        reason = self._sheet.session.guard()
        if reason:
            self._sheet.session.said.emit(reason, True)
            return
        x, y = self._place()
        if self.points and math.hypot(x - self.points[-1][0], y - self.points[-1][1]) < FINE_MM / 2.0:
            self._ink()
            return
        self.points.append((x, y, self.pressure))
        n = len(self.points)
        self._sheet.session.said.emit(
            f"Point **{n}** is set. Enter again at the same place, or Ctrl+Enter, inks the line; Escape drops it.",
            False,
        )
        self._sheet.update()

    def _press(self, step: float) -> None:
        self.pressure = min(max(self.pressure + step, 0.0), 1.0)
        nib = self._sheet.session.nib_now
        width = float(nib.width(np.array([self.pressure]))[0])
        self._sheet.session.live_width.emit(width)
        self._sheet.session.said.emit(f"The next point is **{width:.2f} mm** wide.", False)

    def _take_back(self) -> None:
        if self.points:
            self.points.pop()
            self._sheet.update()

    def _ink(self) -> None:
        if len(self.points) < 2:
            self._sheet.session.said.emit("A line takes two points: move the pen, and press Enter.", False)
            return
        points, self.points = np.array(self.points), []
        sheet = self._sheet
        session = sheet.session
        session.strokes.lay(pull_through(points), session.pulling_nib, sheet.lay(), "keyboard", "")
        sheet.session.live_width.emit(None)
        sheet.update()

    def _next_line(self, step: int) -> None:
        """Chooses the line before or after, in drawing order, and puts the pen on its middle."""
        session = self._sheet.session
        lines = session.shapes.visible()
        if not lines:
            session.said.emit("There is no line yet.", False)
            return
        at = (
            lines.index(session.chosen[-1]) if session.chosen and session.chosen[-1] in lines else -1 if step > 0 else 0
        )
        key = lines[(at + step) % len(lines)]
        session.choose([key])
        shape = session.shapes[key]
        x, y = shape.arc.point(np.array([shape.length / 2.0]))[0]
        self._go((float(x), float(y)))
        self._sheet.setAccessibleDescription(session.words_of(key))

    def paint(self, painter: QPainter) -> None:
        """The points so far, and the line as it would be to the pen."""
        if not self.points:
            return
        sheet = self._sheet
        x, y = self._place()
        rows = pull_through(np.array([*self.points, (x, y, self.pressure)]))
        sheet.trace(painter, rows[:, :2], 1.6)
        painter.setPen(QPen(sheet_color("chosen"), 1.4))
        for place in sheet.view.to_glass(np.array(self.points)[:, :2]):
            painter.drawEllipse(QPointF(*place), 3.5, 3.5)
