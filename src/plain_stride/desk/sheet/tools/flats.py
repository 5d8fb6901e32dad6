"""Tools of the flats map: an area taken in hand, areas joined by a drag, an area parted by a line across it."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.gestures.tool import SheetTool, TwoEndsTool
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView
from plain_stride.render.paths import polyline

STEP_PX = 3.0


class PickFlat(SheetTool):
    """picked: gets a place (2,) mm."""

    words = "**Flat:** press an area to take it in hand. Esc ends it."

    def __init__(self, picked: Callable[[np.ndarray], object]) -> None:
        super().__init__()
        self._picked = picked

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._picked(event.mm)


class ColourFlat(PickFlat):
    """picked: gets a place (2,) mm of each area that is pressed."""

    words = "**Colour:** press areas: each takes the colour that was typed last. Esc ends it."


class JoinFlats(TwoEndsTool):
    """joined: gets two places (2,) mm."""

    words = "**Join:** drag from one area into another: they are one from then on. Esc ends it."

    def __init__(self, joined: Callable[[np.ndarray, np.ndarray], object]) -> None:
        super().__init__()
        self._joined = joined

    def drawn(self, a: np.ndarray, b: np.ndarray) -> None:
        self._joined(a, b)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self.ends:
            painter.setPen(QPen(sheet_color("chosen"), 2.0))
            painter.drawPolyline(polyline(view.to_glass(np.array(self.ends))))


class SplitFlat(SheetTool):
    """parted: gets a line (n, 2) mm."""

    words = "**Part:** draw a line across an area, from edge to edge: it is never inked. Esc ends it."

    def __init__(self, parted: Callable[[np.ndarray], object]) -> None:
        super().__init__()
        self._parted = parted
        self._places: list[np.ndarray] = []

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._places = [event.mm]

    def move(self, event: PointerEvent) -> None:
        if np.hypot(*(event.mm - self._places[-1])) * event.view.scale > STEP_PX:
            self._places.append(event.mm)

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        places, self._places = [*self._places, event.mm], []
        if len(places) > 2 or np.hypot(*(places[-1] - places[0])) * event.view.scale > STEP_PX:
            self._parted(np.array(places))

    def left(self) -> None:
        super().left()
        self._places = []

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if len(self._places) > 1:
            painter.setPen(QPen(sheet_color("chosen"), 1.6, Qt.PenStyle.DashLine))
            painter.drawPolyline(polyline(view.to_glass(np.array(self._places))))
