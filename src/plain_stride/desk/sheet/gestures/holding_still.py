"""A pen that is held still at the end of a pull: what the pull could be meant as is shown, one after the other."""

import numpy as np
from PySide6.QtCore import QObject, QPointF, QTimer, Signal
from PySide6.QtGui import QPainter

from plain_stride.desk.sheet.marks import trace
from plain_stride.desk.sheet.view import BoardView
from plain_stride.lines.drawn import shapes_meant

FIRST_MS, NEXT_MS = 600, 1100
STILL_PX, LEAST_PX = 5.0, 40.0
"""How far a pen that is held still may wander, and how long a pull must be."""
WORDS = {"straight": "straight", "round": "an arc or a circle", "ellipse": "an ellipse"}


class HoldingStill(QObject):
    """changed: another shape is offered, or none. `shape` is what the pull becomes when the pen is lifted now, '' for
    what the hand made."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._at: QPointF | None = None
        self._places: list[QPointF] = []
        self._view: BoardView | None = None
        self._offered: list[tuple[str, np.ndarray, bool]] = []
        self._shown = 0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._next)

    @property
    def shape(self) -> str:
        return self._offered[self._shown][0] if self._shown < len(self._offered) else ""

    def words(self) -> str:
        """What is offered, in a sentence."""
        if not self.shape:
            return "Your own hand again: lift to keep it."
        return f"Lift: **{WORDS[self.shape]}**. Hold on for another shape, move on to keep your own hand."

    def begin(self, at: QPointF, view: BoardView) -> None:
        """A pull begins."""
        self._view, self._at, self._places = view, at, [at]
        self._drop()

    def move(self, at: QPointF) -> None:
        """The pen is elsewhere, or nearly where it was."""
        self._places.append(at)
        if self._at is None or _far(at, self._at) > STILL_PX:
            self._at = at
            self._drop()
            self._timer.start(FIRST_MS)

    def end(self) -> str:
        """The pen is lifted; gives the shape that was offered."""
        shape = self.shape
        self._timer.stop()
        self._places, self._offered, self._shown = [], [], 0
        return shape

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self.shape:
            _, points, closed = self._offered[self._shown]
            trace(painter, view, np.vstack([points, points[:1]]) if closed else points, 2.0)

    def _drop(self) -> None:
        self._timer.stop()
        had, self._offered, self._shown = bool(self._offered), [], 0
        if had:
            self.changed.emit()

    def _next(self) -> None:
        if self._view is None:
            return
        if not self._offered:
            points = np.array([self._view.to_board(at) for at in self._places])
            if np.hypot(*np.diff(points, axis=0).T).sum() * self._view.scale < LEAST_PX:
                return
            self._offered, self._shown = shapes_meant(_apart(points)), 0
        else:
            self._shown = (self._shown + 1) % (len(self._offered) + 1)
        if self._offered:
            self._timer.start(NEXT_MS)
            self.changed.emit()


def _far(a: QPointF, b: QPointF) -> float:
    return float(np.hypot(a.x() - b.x(), a.y() - b.y()))


def _apart(points: np.ndarray) -> np.ndarray:
    """Without places where the pen stood: evenly along the way, so that a rest weighs nothing."""
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    at = np.linspace(0.0, s[-1], 120)
    return np.column_stack([np.interp(at, s, points[:, k]) for k in (0, 1)])
