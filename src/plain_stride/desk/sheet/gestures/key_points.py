"""Pulling by points, from the keyboard alone: arrows move the pen in mm, Enter sets a point, plus and minus press."""

import math
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.marks import trace
from plain_stride.desk.sheet.view import BoardView
from plain_stride.hand.by_points import pull_through

STEP_MM, FINE_MM, WIDE_MM = 1.0, 0.1, 10.0
PRESS_STEP = 0.1
_ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
_INKS = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
EDGE_PX = 40.0


class KeyPoints:
    """The pen of the keyboard: its place is the sheet's pointer. points: x, y mm and pressure of each point set."""

    def __init__(self, context: SheetContext, nudging: Callable[[], bool], tell: Callable[[str], None]) -> None:
        """nudging: whether the chosen lines are to be moved instead; tell: says where the pen is to who cannot see."""
        self._context, self._nudging, self._tell = context, nudging, tell
        self.points: list[tuple[float, float, float]] = []
        self.pressure = 0.5

    def key(self, key: Qt.Key, shift: bool, control: bool) -> bool:
        """Does what a key on the sheet asks for; False where it asks for nothing here."""
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
        self._context.repaint(None)
        return had

    def _place(self) -> tuple[float, float]:
        """mm under the pen; the middle of the page until it was moved."""
        viewport = self._context.viewport
        if viewport.pointer is None:
            viewport.point(viewport.about())
        return viewport.place()

    def _step(self, dx: int, dy: int, mm: float) -> None:
        session = self._context.session
        if self._nudging() and session.chosen:
            session.make("move", lines=session.chosen, by=[dx * mm, dy * mm])
            return
        turned = self._as_seen(dx, dy)
        x, y = self._place()
        self._go((x + turned[0] * mm, y + turned[1] * mm))

    def _as_seen(self, dx: int, dy: int) -> tuple[float, float]:
        """A direction of the screen as a direction on the board, however that is turned and mirrored."""
        view = self._context.view
        a, b = view.to_board(QPointF(0.0, 0.0)), view.to_board(QPointF(dx * 100.0, dy * 100.0))
        long = math.hypot(b[0] - a[0], b[1] - a[1])
        return (b[0] - a[0]) / long, (b[1] - a[1]) / long

    def _go(self, place: tuple[float, float]) -> None:
        """Puts the pen down at a place in mm; the board moves along where that is out of sight."""
        viewport = self._context.viewport
        x, y = viewport.view.to_glass(np.array([place]))[0]
        width, height = viewport.view.size
        dx = min(max(x, EDGE_PX), width - EDGE_PX) - x
        dy = min(max(y, EDGE_PX), height - EDGE_PX) - y
        if dx or dy:
            viewport.set_view(viewport.view.moved(dx, dy))
            x, y = viewport.view.to_glass(np.array([place]))[0]
        viewport.point(QPointF(x, y))
        self._say_place(place)
        self._context.repaint(None)

    def _say_place(self, place: tuple[float, float]) -> None:
        words = f"Pen at {place[0]:.1f}, {place[1]:.1f} mm"
        if self.points:
            x, y, _ = self.points[-1]
            words += f", {math.hypot(place[0] - x, place[1] - y):.1f} mm from point {len(self.points)}"
        self._tell(words)

    def _set_point(self) -> None:
        if self._context.refuses():
            return
        x, y = self._place()
        if self.points and math.hypot(x - self.points[-1][0], y - self.points[-1][1]) < FINE_MM / 2.0:
            self._ink()
            return
        self.points.append((x, y, self.pressure))
        n = len(self.points)
        self._context.say(
            f"Point **{n}** is set. Enter again at the same place, or Ctrl+Enter, inks the line; Escape drops it."
        )
        self._context.repaint(None)

    def _press(self, step: float) -> None:
        self.pressure = min(max(self.pressure + step, 0.0), 1.0)
        session = self._context.session
        width = float(session.nib_now.width(np.array([self.pressure]))[0])
        session.live_width.emit(width)
        self._context.say(f"The next point is **{width:.2f} mm** wide.")

    def _take_back(self) -> None:
        if self.points:
            self.points.pop()
            self._context.repaint(None)

    def _ink(self) -> None:
        if len(self.points) < 2:
            self._context.say("A line takes two points: move the pen, and press Enter.")
            return
        points, self.points = np.array(self.points), []
        session, lay = self._context.session, self._context.viewport.lay()
        session.strokes.lay(pull_through(points), session.pulling_nib, lay, "keyboard", "")
        session.live_width.emit(None)
        self._context.repaint(None)

    def _next_line(self, step: int) -> None:
        """Chooses the line before or after, in drawing order, and puts the pen on its middle."""
        session = self._context.session
        lines = session.shapes.visible()
        if not lines:
            self._context.say("There is no line yet.")
            return
        chosen = session.chosen
        at = lines.index(chosen[-1]) if chosen and chosen[-1] in lines else -1 if step > 0 else 0
        key = lines[(at + step) % len(lines)]
        session.choose([key])
        shape = session.shapes[key]
        x, y = shape.arc.point(np.array([shape.length / 2.0]))[0]
        self._go((float(x), float(y)))
        self._tell(session.words_of(key))

    def paint(self, painter: QPainter, view: BoardView) -> None:
        """The points so far, and the line as it would be to the pen."""
        if not self.points:
            return
        x, y = self._place()
        rows = pull_through(np.array([*self.points, (x, y, self.pressure)]))
        trace(painter, view, rows[:, :2], 1.6)
        painter.setPen(QPen(sheet_color("chosen"), 1.4))
        for place in view.to_glass(np.array(self.points)[:, :2]):
            painter.drawEllipse(QPointF(*place), 3.5, 3.5)
