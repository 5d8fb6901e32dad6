"""Tools that draw one thing and hand it on: a box, a straight, a loop, a point."""

from collections.abc import Callable

import numpy as np
from PySide6.QtGui import QPainter

from plain_stride.desk.sheet.gestures.tool import LEAST_PX, SheetTool, TwoEndsTool, box_corners, paint_outline
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView


class BoxTool(TwoEndsTool):
    """Two opposite corners; `drawn` gets x0, y0, x1, y1 in mm, the lesser first."""

    def __init__(self, words: str, drawn: Callable[[float, float, float, float], object]) -> None:
        super().__init__()
        self.words, self._hand_on = words, drawn

    def size(self, a: np.ndarray, b: np.ndarray) -> float:
        return float(np.abs(a - b).min())

    def drawn(self, a: np.ndarray, b: np.ndarray) -> None:
        self.done = True
        low, high = np.minimum(a, b), np.maximum(a, b)
        self._hand_on(float(low[0]), float(low[1]), float(high[0]), float(high[1]))

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self.ends:
            paint_outline(painter, view, box_corners(*self.ends[0], *self.ends[1]))


class StraightTool(TwoEndsTool):
    """One straight; `drawn` gets its two ends in mm."""

    def __init__(self, words: str, drawn: Callable[[np.ndarray, np.ndarray], object]) -> None:
        super().__init__()
        self.words, self._hand_on = words, drawn

    def drawn(self, a: np.ndarray, b: np.ndarray) -> None:
        self.done = True
        self._hand_on(a, b)


class LoopTool(SheetTool):
    """A loop drawn round something; `drawn` gets its points (n, 2) mm."""

    def __init__(self, words: str, drawn: Callable[[np.ndarray], object]) -> None:
        super().__init__()
        self.words, self._drawn = words, drawn
        self._points: list[np.ndarray] = []

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._points = [event.mm]

    def move(self, event: PointerEvent) -> None:
        if np.hypot(*(event.mm - self._points[-1])) * event.view.scale > 2.0:
            self._points.append(event.mm)

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        points, self._points = np.array(self._points), []
        if len(points) > 2 and np.ptp(points, axis=0).max() * event.view.scale > LEAST_PX:
            self.done = True
            self._drawn(points)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if len(self._points) > 1:
            paint_outline(painter, view, np.array(self._points))


class PointTool(SheetTool):
    """One place after the other, until it is put away; `pointed` gets each in mm."""

    def __init__(self, words: str, pointed: Callable[[np.ndarray], object]) -> None:
        super().__init__()
        self.words, self._pointed = words, pointed

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        self._pointed(event.mm)
