"""Strokes of a tone shown as they would be, while it is tried; and where the next stroke of a hand would go."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.view import BoardView
from plain_stride.render.paths import polygon, polyline

FEW_PLACES, TICK_PX = 9, 9.0


class ToneSight:
    """What is shown lies over the board's picture, from which the strokes that it stands for are left out."""

    def __init__(self, context: SheetContext) -> None:
        self._context = context
        self._paths: list[QPainterPath] = []
        self._boxes: list[QRectF] = []
        self._next: Sequence[np.ndarray] = ()
        self._waits = False

    def show(self, rings: Sequence[np.ndarray], left_out: frozenset[str]) -> None:
        """Shows strokes by their edges, (m, 2 n, 2) mm, one entry a set. left_out: the lines that they stand for."""
        self._paths, self._boxes, self._waits = [], [], False
        for edges in rings:
            for ring in _thinned(edges):
                path = QPainterPath()
                path.addPolygon(polygon(ring))
                self._paths.append(path)
                self._boxes.append(path.boundingRect())
        self._context.compositor.leave_out(left_out)
        self._context.repaint(None)

    def let_go(self) -> None:
        """The tone lies as the job has it; what was shown stays until the board's picture is whole."""
        if self._paths:
            self._context.compositor.leave_out(frozenset())
            self._waits = True
            self._context.repaint(None)

    def show_next(self, courses: Sequence[np.ndarray]) -> None:
        """Shows where the next strokes would go: courses (n, 2) mm, none for nowhere."""
        if len(courses) or len(self._next):
            self._next = courses
            self._context.repaint(None)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self._waits and not self._context.compositor.busy:
            self._paths, self._boxes, self._waits = [], [], False
        self._paint_next(painter, view)
        if not self._paths:
            return
        painter.save()
        painter.setTransform(view.transform, True)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(sheet_color("ink"))
        seen = view.transform.inverted()[0].mapRect(QRectF(painter.viewport()))
        for path, box in zip(self._paths, self._boxes, strict=True):
            if box.intersects(seen):
                painter.drawPath(path)
        painter.restore()

    def _paint_next(self, painter: QPainter, view: BoardView) -> None:
        """The next course pale, with a tick at its start and its end to aim at; those after it paler."""
        for n, course in enumerate(self._next):
            glass = view.to_glass(course)
            painter.setPen(QPen(sheet_color("ahead" if n == 0 else "pencil"), 1.4, Qt.PenStyle.DashLine))
            painter.drawPolyline(polyline(glass))
            if n == 0:
                painter.setPen(QPen(sheet_color("ahead"), 2.0))
                for at, other in ((glass[0], glass[1]), (glass[-1], glass[-2])):
                    way = (at - other) / max(float(np.hypot(*(at - other))), 1e-9)
                    across = np.array([-way[1], way[0]]) * TICK_PX
                    painter.drawPolyline(polyline(np.array([at - across, at + across])))


def _thinned(edges: np.ndarray) -> np.ndarray:
    """Edges of strokes (m, 2 n, 2) told by at most FEW_PLACES places along each side: enough for the eye."""
    n = edges.shape[1] // 2
    if n <= FEW_PLACES:
        return edges
    keep = np.unique(np.linspace(0, n - 1, FEW_PLACES).round().astype(int))
    return np.asarray(edges[:, np.concatenate([keep, 2 * n - 1 - keep[::-1]])])
