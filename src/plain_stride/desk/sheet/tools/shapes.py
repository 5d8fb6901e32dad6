"""Shapes drawn as lines by dragging: straights, a bow whose middle is pulled, ellipses from the middle or corner."""

from collections.abc import Callable

import numpy as np
from PySide6.QtGui import QPainter

from plain_stride.desk.sheet.gestures.tool import LEAST_PX, SheetTool, TwoEndsTool, box_corners, paint_outline
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView
from plain_stride.errors import StrideError
from plain_stride.lines.drawn import bow, ellipse

JOIN_PX = 10.0
Drawn = Callable[[str, list[list[float]]], object]
"""Told a shape and its points in mm."""


class ChainTool(TwoEndsTool):
    """Straights: each drag is one; one that begins where the last ended goes on from it exactly."""

    words = "**Straights:** drag one after the other; begin where the last ended to go on. Esc ends it."

    def __init__(self, drawn: Drawn) -> None:
        super().__init__()
        self._hand_on = drawn
        self._last: np.ndarray | None = None

    def begun(self, at: np.ndarray, view: BoardView) -> np.ndarray:
        last = self._last
        return last if last is not None and float(np.hypot(*(last - at))) * view.scale <= JOIN_PX else at

    def drawn(self, a: np.ndarray, b: np.ndarray) -> None:
        self._last = b
        self._hand_on("straight", [a.tolist(), b.tolist()])


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
    'across' along a diameter of a circle."""

    def __init__(
        self, drawn: Drawn, way: str = "middle", circle: bool = False, turn: Callable[[], float | None] = lambda: 0.0
    ) -> None:
        """turn: degrees clockwise by which an ellipse is drawn turned."""
        super().__init__()
        self._hand_on, self._way, self._circle, self._turn = drawn, way, circle, turn
        what = "Circle" if circle or way == "across" else "Ellipse"
        name, how = {"middle": ("from its middle", "drag outwards"),
                     "corner": ("by its box", "drag from corner to corner"),
                     "across": ("by a diameter", "drag from one side straight across to the other")}[way]  # fmt: skip
        self.words = f"**{what} {name}:** {how}. Esc ends it."

    def _middle(self, a: np.ndarray, b: np.ndarray) -> tuple[np.ndarray, tuple[float, float]]:
        if self._way == "across":
            r = float(np.hypot(*(b - a))) / 2.0
            return (a + b) / 2.0, (r, r)
        reach = np.abs(b - a) / (2.0 if self._way == "corner" else 1.0)
        if self._circle:
            r = float(np.hypot(*(b - a))) if self._way == "middle" else float(reach.min())
            reach = np.array([r, r])
        return (a + b) / 2.0 if self._way == "corner" else a, (float(reach[0]), float(reach[1]))

    def size(self, a: np.ndarray, b: np.ndarray) -> float:
        return 2.0 * min(self._middle(a, b)[1])

    def drawn(self, a: np.ndarray, b: np.ndarray) -> None:
        middle, half = self._middle(a, b)
        self._hand_on("ellipse", [middle.tolist(), (middle + half).tolist()])

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self.ends:
            try:
                paint_outline(painter, view, ellipse(*self._middle(*self.ends), self._turn() or 0.0))
            except StrideError:
                paint_outline(painter, view, box_corners(*self.ends[0], *self.ends[1]))
