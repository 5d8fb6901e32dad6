"""The symmetry in hand: switched, laid on the sheet by a drag, shown as pale axes."""

import math

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import PointTool, StraightTool
from plain_stride.desk.sheet.view import BoardView
from plain_stride.lines.symmetry import MIRRORED, ROUND, Symmetry
from plain_stride.render.paths import polyline

ROUNDS = (3, 4, 5, 6, 8, 12)


class SymmetryInHand:
    """The one in hand, and the last one that was, so that a key brings it back."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._before: Symmetry | None = None

    def use(self, kind: str, count: int) -> None:
        """Takes a symmetry in hand; where one was before, it lies there, else through the middle of the sheet."""
        before = self._session.now.symmetry or self._before
        w, h = self._session.job.page.size_mm
        centre, angle = ((w / 2.0, h / 2.0), 0.0) if before is None else (before.centre, before.angle)
        self._take(Symmetry(kind, count, centre, angle))

    def off(self) -> None:
        self._session.take(symmetry=None)

    def toggle(self) -> None:
        """Puts it away, or takes the last one in hand again."""
        if self._session.now.symmetry is not None:
            self.off()
        elif self._before is not None:
            self._take(self._before)
        else:
            self.use(MIRRORED, 1)

    def laying_tool(self) -> StraightTool | PointTool:
        """The tool that lays the one in hand elsewhere: along an axis, or round a place."""
        now = self._session.now.symmetry or self._before
        if now is not None and now.kind == ROUND:
            return PointTool("**Middle of the turn:** point at it. Esc leaves it.", self._lay_middle)
        return StraightTool("**Axis:** drag along it. Esc leaves it.", self._lay_axis)

    def _take(self, symmetry: Symmetry) -> None:
        self._before = symmetry
        self._session.take(symmetry=symmetry)

    def _lay_axis(self, a: np.ndarray, b: np.ndarray) -> None:
        now = self._session.now.symmetry or self._before
        (x0, y0), (x1, y1) = a.tolist(), b.tolist()
        angle = math.degrees(math.atan2(x1 - x0, -(y1 - y0)))
        # A second axis goes through the middle of the first as it was drawn.
        self._take(Symmetry(MIRRORED, now.count if now is not None else 1, ((x0 + x1) / 2.0, (y0 + y1) / 2.0), angle))

    def _lay_middle(self, at: np.ndarray) -> None:
        now = self._session.now.symmetry or self._before
        x, y = at.tolist()
        self._take(Symmetry(ROUND, now.count if now is not None else ROUNDS[0], (x, y)))

    def paint(self, painter: QPainter, view: BoardView) -> None:
        """Its axes, pale and dotted."""
        now = self._session.now.symmetry
        if now is None:
            return
        reach = math.hypot(*self._session.job.page.size_mm)
        painter.setPen(QPen(sheet_color("ahead"), 1.0, Qt.PenStyle.DotLine))
        for a, b in now.axes(reach):
            painter.drawPolyline(polyline(view.to_glass(np.array([a, b]))))


def symmetry_word(symmetry: Symmetry | None) -> str:
    """What is in hand, in a word or two."""
    if symmetry is None:
        return "single"
    if symmetry.kind == ROUND:
        return f"{symmetry.count} round"
    return "mirrored" if symmetry.count == 1 else "2 axes"
