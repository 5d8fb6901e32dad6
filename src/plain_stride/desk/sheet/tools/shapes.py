"""Shapes drawn as lines by dragging: straights, a bow whose middle is pulled, ellipses from the middle or corner."""

from collections.abc import Callable

import numpy as np
from PySide6.QtGui import QPainter

from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.tool import LEAST_PX, SheetTool, TwoEndsTool, box_corners, paint_outline
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView
from plain_stride.errors import StrideError
from plain_stride.lines.drawn import bow, ellipse

JOIN_PX, MOST_CORNERS = 10.0, 500
"""How near the last corner a click must be to mean it; a chain of so many corners is laid."""
Drawn = Callable[[str, list[list[float]]], object]
"""Told a shape and its points in mm."""
DrawnRound = Callable[[list[list[float]], float], object]
"""Told an ellipse's middle and a corner of its box in mm, and by how many degrees clockwise it is turned."""


class ChainTool(TwoEndsTool):
    """Straights: each drag is one; one that begins where the last ended goes on from it exactly. Clicks set the corners
    of a chain, which is one line; a second click on the last corner, or Enter, lays it."""

    words = "**Straights:** drag one, or click corner after corner; a click on the last one lays the line. Esc ends it."

    def __init__(self, drawn: Drawn) -> None:
        super().__init__()
        self._hand_on = drawn
        self._last: np.ndarray | None = None
        self._corners: list[np.ndarray] = []

    def taken(self, context: SheetContext) -> None:
        super().taken(context)
        self._corners, self._last = [], None

    def begun(self, at: np.ndarray, view: BoardView) -> np.ndarray:
        last = self._corners[-1] if self._corners else self._last
        return last if last is not None and _near(last, at, view) else at

    def up(self, event: PointerEvent) -> None:
        slip = self.size(*self.ends) * event.view.scale <= LEAST_PX
        at = self.ends[0]
        super().up(event)
        if slip:
            self._click(at)

    def _click(self, at: np.ndarray) -> None:
        if len(self._corners) > 1 and at is self._corners[-1]:
            self.finish()
        elif not self._corners or at is not self._corners[-1]:
            self._corners.append(at)
            if len(self._corners) == MOST_CORNERS:
                self.finish()

    def finish(self) -> bool:
        """Lays the chain as one line; whether there was one."""
        corners, self._corners = self._corners, []
        if len(corners) > 1:
            self._last = corners[-1]
            self._hand_on("straight", [corner.tolist() for corner in corners])
        return len(corners) > 1

    def take_back(self) -> bool:
        if self._corners:
            self._corners.pop()
            return True
        return False

    def drawn(self, a: np.ndarray, b: np.ndarray) -> None:
        if self._corners:
            # Dragged on from a chain of clicks: its next corner.
            self._corners.append(b)
        else:
            self._last = b
            self._hand_on("straight", [a.tolist(), b.tolist()])

    def paint(self, painter: QPainter, view: BoardView) -> None:
        super().paint(painter, view)
        if self._corners:
            paint_outline(painter, view, np.array(self._corners), closed=False, handles=True)


def _near(a: np.ndarray, b: np.ndarray, view: BoardView) -> bool:
    return float(np.hypot(*(a - b))) * view.scale <= JOIN_PX


class BowTool(SheetTool):
    """First a straight, then its middle is pulled to where the bow goes through."""

    words = "**Bow:** drag a straight, then drag its middle to where the bow should go. Esc ends it."

    def __init__(self, drawn: Drawn) -> None:
        super().__init__()
        self._drawn = drawn
        self._ends: list[np.ndarray] = []
        self._through: np.ndarray | None = None

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        if len(self._ends) == 2:
            self._through = event.mm
        else:
            self._ends, self._through = [event.mm, event.mm], None

    def move(self, event: PointerEvent) -> None:
        if self._through is not None:
            self._through = event.mm
        else:
            self._ends[1] = event.mm

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        a, b = self._ends
        if self._through is not None:
            points = [a.tolist(), b.tolist(), self._through.tolist()]
            self._ends, self._through = [], None
            self._drawn("bow", points)
        elif float(np.hypot(*(b - a))) * event.view.scale <= LEAST_PX:
            self._ends = []

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if len(self._ends) == 2:
            a, b = self._ends
            line = np.array([a, b]) if self._through is None else bow(a, b, self._through)
            paint_outline(painter, view, line, closed=False, handles=len(line) == 2)


class RoundTool(TwoEndsTool):
    """An ellipse or a circle. way: 'middle' drags from the middle out, 'corner' from corner to corner of its box,
    'across' along a diameter of a circle. An ellipse lies as the board is seen, and turned from there as asked."""

    def __init__(
        self,
        drawn: DrawnRound,
        way: str = "middle",
        circle: bool = False,
        turn: Callable[[], float | None] = lambda: 0.0,
    ) -> None:
        """turn: degrees clockwise, as it is seen, by which an ellipse is drawn turned."""
        super().__init__()
        self._hand_on, self._way, self._circle, self._turn = drawn, way, circle, turn
        self._view: BoardView | None = None
        what = "Circle" if circle or way == "across" else "Ellipse"
        name, how = {"middle": ("from its middle", "drag outwards"),
                     "corner": ("by its box", "drag from corner to corner"),
                     "across": ("by a diameter", "drag from one side straight across to the other")}[way]  # fmt: skip
        self.words = f"**{what} {name}:** {how}. Esc ends it."

    def begun(self, at: np.ndarray, view: BoardView) -> np.ndarray:
        self._view = view
        return at

    def _turned(self) -> float:
        """Degrees clockwise on the sheet of the ellipse's first axis; 0 where what was typed cannot be read."""
        view, typed = self._view, self._turn() or 0.0
        if view is None or self._circle or self._way == "across":
            return 0.0
        # A mirrored board shows a turn the other way round.
        return (view.turn - typed) if view.mirror else (typed - view.turn)

    def _middle(self, a: np.ndarray, b: np.ndarray) -> tuple[np.ndarray, tuple[float, float]]:
        if self._way == "across":
            r = float(np.hypot(*(b - a))) / 2.0
            return (a + b) / 2.0, (r, r)
        angle = np.radians(self._turned())
        along, over = np.array([np.cos(angle), np.sin(angle)]), np.array([-np.sin(angle), np.cos(angle)])
        reach = np.abs([(b - a) @ along, (b - a) @ over]) / (2.0 if self._way == "corner" else 1.0)
        if self._circle:
            r = float(np.hypot(*(b - a))) if self._way == "middle" else float(reach.min())
            reach = np.array([r, r])
        return (a + b) / 2.0 if self._way == "corner" else a, (float(reach[0]), float(reach[1]))

    def size(self, a: np.ndarray, b: np.ndarray) -> float:
        return 2.0 * min(self._middle(a, b)[1])

    def drawn(self, a: np.ndarray, b: np.ndarray) -> None:
        if self._turn() is None:
            return
        middle, half = self._middle(a, b)
        self._hand_on([middle.tolist(), (middle + half).tolist()], self._turned())

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self.ends:
            try:
                paint_outline(painter, view, ellipse(*self._middle(*self.ends), self._turned()))
            except StrideError:
                paint_outline(painter, view, box_corners(*self.ends[0], *self.ends[1]))
