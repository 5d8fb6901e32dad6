"""Tools that draw one thing and hand it on: a box, a straight, a loop, a point."""

from collections.abc import Callable

import numpy as np
from PySide6.QtGui import QPainter

from plain_stride.desk.tools.base import SheetTool, box_corners, paint_outline
from plain_stride.desk.view import BoardView

LEAST_PX = 6.0
"""A shorter drag was a slip and draws nothing."""


class BoxTool(SheetTool):
    """Two opposite corners; `drawn` gets x0, y0, x1, y1 in mm, the lesser first."""

    def __init__(self, words: str, drawn: Callable[[float, float, float, float], object]) -> None:
        super().__init__()
        self.words, self._drawn = words, drawn
        self._ends: list[np.ndarray] = []

    def down(self, at: np.ndarray, pressure: float, view: BoardView) -> None:
        super().down(at, pressure, view)
        self._ends = [at, at]

    def move(self, at: np.ndarray, pressure: float, view: BoardView) -> None:
        self._ends[1] = at

    def up(self, at: np.ndarray, view: BoardView) -> None:
        super().up(at, view)
        a, b = self._ends
        self._ends = []
        if np.abs(a - b).min() * view.scale > LEAST_PX:
            self.done = True
            low, high = np.minimum(a, b), np.maximum(a, b)
            self._drawn(float(low[0]), float(low[1]), float(high[0]), float(high[1]))

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self._ends:
            (x0, y0), (x1, y1) = self._ends
            paint_outline(painter, view, box_corners(x0, y0, x1, y1))


class StraightTool(SheetTool):
    """One straight; `drawn` gets its two ends in mm."""

    def __init__(self, words: str, drawn: Callable[[np.ndarray, np.ndarray], object]) -> None:
        super().__init__()
        self.words, self._drawn = words, drawn
        self._ends: list[np.ndarray] = []

    def down(self, at: np.ndarray, pressure: float, view: BoardView) -> None:
        super().down(at, pressure, view)
        self._ends = [at, at]

    def move(self, at: np.ndarray, pressure: float, view: BoardView) -> None:
        self._ends[1] = at

    def up(self, at: np.ndarray, view: BoardView) -> None:
        super().up(at, view)
        a, b = self._ends
        self._ends = []
        if float(np.hypot(*(a - b))) * view.scale > LEAST_PX:
            self.done = True
            self._drawn(a, b)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self._ends:
            paint_outline(painter, view, np.array(self._ends), closed=False, handles=True)


class LoopTool(SheetTool):
    """A loop drawn round something; `drawn` gets its points (n, 2) mm."""

    def __init__(self, words: str, drawn: Callable[[np.ndarray], object]) -> None:
        super().__init__()
        self.words, self._drawn = words, drawn
        self._points: list[np.ndarray] = []

    def down(self, at: np.ndarray, pressure: float, view: BoardView) -> None:
        super().down(at, pressure, view)
        self._points = [at]

    def move(self, at: np.ndarray, pressure: float, view: BoardView) -> None:
        if np.hypot(*(at - self._points[-1])) * view.scale > 2.0:
            self._points.append(at)

    def up(self, at: np.ndarray, view: BoardView) -> None:
        super().up(at, view)
        points, self._points = np.array(self._points), []
        if len(points) > 2 and np.ptp(points, axis=0).max() * view.scale > LEAST_PX:
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

    def up(self, at: np.ndarray, view: BoardView) -> None:
        super().up(at, view)
        self._pointed(at)
