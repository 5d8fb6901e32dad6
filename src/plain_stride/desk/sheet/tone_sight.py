"""Strokes of a tone shown as they would be, while it is tried; and where the next stroke of a hand would go."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from plain_stride.compiled.ready import kernels
from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.view import BoardView
from plain_stride.render.fill import filled_bands
from plain_stride.render.paths import path_of, polyline

FEW_PLACES, TICK_PX = 9, 9.0


class ToneSight:
    """What is shown lies over the board's picture, from which the strokes that it stands for are left out. It is made a
    picture once for each way in which the board lies."""

    def __init__(self, context: SheetContext) -> None:
        self._context = context
        self._edges: list[np.ndarray] = []
        self._picture: tuple[BoardView, QSize, QImage] | None = None
        self._next: Sequence[np.ndarray] = ()
        self._waits = False

    def show(self, edges: Sequence[np.ndarray], left_out: frozenset[str]) -> None:
        """Shows strokes by their edges, (m, 2 n, 2) mm, one entry a set. left_out: the lines that they stand for."""
        self._edges, self._picture, self._waits = [_thinned(one) for one in edges], None, False
        self._context.compositor.leave_out(left_out)
        self._context.repaint(None)

    def let_go(self) -> None:
        """The tone lies as the job has it; what was shown stays until the board's picture is whole."""
        if self._edges:
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
            self._edges, self._picture, self._waits = [], None, False
        self._paint_next(painter, view)
        if self._edges:
            ratio = painter.device().devicePixelRatio()
            size = QSize(painter.device().width(), painter.device().height())
            if self._picture is None or self._picture[:2] != (view, size):
                self._picture = (view, size, _pictured(self._edges, view, size, ratio))
            painter.drawImage(0, 0, self._picture[2])

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


def _pictured(edges: list[np.ndarray], view: BoardView, size: QSize, ratio: float) -> QImage:
    """Strokes in ink on nothing, size in logical pixels: by exact areas where the compiled loops are loaded, else by
    Qt."""
    wide, high = round(size.width() * ratio), round(size.height() * ratio)
    rings = [ring for one in edges for ring in _seen(view.to_glass(one.reshape(-1, 2)).reshape(one.shape), size)]
    loops = kernels()
    if loops is not None:
        grey = np.zeros((high, wide), np.uint8)
        for top, band, _ in filled_bands(loops, [("black", rings)], (wide, high), ratio, False):
            grey[top : top + len(band)] = band
        image = _inked(grey, sheet_color("ink"))
    else:
        image = QImage(wide, high, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(sheet_color("ink"))
        painter.scale(ratio, ratio)
        for ring in rings:
            painter.drawPath(path_of([ring]))
        painter.end()
    image.setDevicePixelRatio(ratio)
    return image


def _seen(edges: np.ndarray, size: QSize) -> np.ndarray:
    """Those of edges (m, k, 2), in pixels, whose boxes meet the window."""
    low, high = edges.min(axis=1), edges.max(axis=1)
    far = (size.width(), size.height())
    return np.asarray(edges[((high >= 0.0) & (low <= far)).all(axis=1)])


def _inked(grey: np.ndarray, ink: QColor) -> QImage:
    """A picture of one ink, as strong as grey (h, w), uint8, is dark."""
    strong = 255 - np.arange(256, dtype=np.uint32)
    levels = [strong * level // 255 for level in (ink.red(), ink.green(), ink.blue())]
    table = strong << 24 | levels[0] << 16 | levels[1] << 8 | levels[2]
    pixels, (high, wide) = table[grey], grey.shape
    return QImage(pixels.data, wide, high, 4 * wide, QImage.Format.Format_ARGB32_Premultiplied).copy()


def _thinned(edges: np.ndarray) -> np.ndarray:
    """Edges of strokes (m, 2 n, 2) told by at most FEW_PLACES places along each side: enough for the eye."""
    n = edges.shape[1] // 2
    if n <= FEW_PLACES:
        return edges
    keep = np.unique(np.linspace(0, n - 1, FEW_PLACES).round().astype(int))
    return np.asarray(edges[:, np.concatenate([keep, 2 * n - 1 - keep[::-1]])])
