"""What every sheet tool has: it is taken in hand, does its work by drags, and is done or goes on until put away."""

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.gesture import Gesture
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView
from plain_stride.render.paths import polyline

HANDLE_PX, GRIP_PX = 5.0, 12.0
"""Half-width of a handle as it is drawn, and how near it a pen must come down."""
LEAST_PX = 6.0
"""A shorter drag was a slip and draws nothing."""


class SheetTool(Gesture):
    """words: said when it is taken in hand; done: it puts itself away after the drag;
    shows_itself: it has shown anew what moves with the drag, and no more is; moves_chosen: it shows
    what is chosen elsewhere while it drags."""

    words = ""
    shows_itself = moves_chosen = False

    def __init__(self) -> None:
        super().__init__()
        self.done = False

    @property
    def name(self) -> str:
        """What it is called, in lower case: the word that its sentence begins with."""
        return self.words.partition(":**")[0].strip("*").lower()

    def taken(self, context: SheetContext) -> None:
        """It is taken in hand, perhaps not for the first time. context: of the sheet that it works on."""
        self.done = False

    def left(self) -> None:
        """It is put away, perhaps in the middle of a drag."""
        self.busy = False

    def wheel(self, turns: float) -> bool:
        """The wheel is turned in the middle of a drag; whether that means something to it."""
        return False

    def finish(self) -> bool:
        """Lays what was begun by several presses; whether there was anything."""
        return False

    def take_back(self) -> bool:
        """Takes the last of several presses back; whether there was one."""
        return False


class TwoEndsTool(SheetTool):
    """A drag from one place to another: `drawn` gets both in mm; a drag shorter than `LEAST_PX` was a slip."""

    def __init__(self) -> None:
        super().__init__()
        self.ends: list[np.ndarray] = []

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self.ends = [self.begun(event.mm, event.view), event.mm]

    def begun(self, at: np.ndarray, view: BoardView) -> np.ndarray:
        """Where a drag that comes down at a place begins."""
        return at

    def move(self, event: PointerEvent) -> None:
        self.ends[1] = event.mm

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        (a, b), self.ends = self.ends, []
        if self.size(a, b) * event.view.scale > LEAST_PX:
            self.drawn(a, b)

    def size(self, a: np.ndarray, b: np.ndarray) -> float:
        """mm: how large what is drawn would be."""
        return float(np.hypot(*(b - a)))

    def drawn(self, a: np.ndarray, b: np.ndarray) -> None:
        """Hands on what was drawn."""

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self.ends:
            paint_outline(painter, view, np.array(self.ends), closed=False, handles=True)


def grip(points: np.ndarray, at: np.ndarray, view: BoardView) -> int | None:
    """Which of some places (n, 2) mm a pen takes hold of; None where none is near."""
    if not len(points):
        return None
    far = np.hypot(*(points - at).T) * view.scale
    k = int(np.argmin(far))
    return k if far[k] <= GRIP_PX else None


def paint_outline(painter: QPainter, view: BoardView, points: np.ndarray, closed: bool = True,
                  handles: bool = False) -> None:  # fmt: skip
    """An outline in the colour of what is chosen, with handles at its corners if wanted."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(sheet_color("chosen"), 1.6, Qt.PenStyle.DashLine))
    glass = view.to_glass(np.vstack([points, points[:1]]) if closed else points)
    painter.drawPolyline(polyline(glass))
    if handles:
        painter.setPen(QPen(sheet_color("chosen"), 1.6))
        painter.setBrush(sheet_color("paper"))
        for x, y in view.to_glass(points):
            painter.drawEllipse(QPointF(x, y), HANDLE_PX, HANDLE_PX)


def box_corners(x0: float, y0: float, x1: float, y1: float) -> np.ndarray:
    """(4, 2) clockwise from the upper left."""
    return np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]], float)
