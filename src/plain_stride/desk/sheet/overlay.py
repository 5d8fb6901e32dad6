"""What lies over the picture of the sheet: what is chosen, what is under way, the nib under the pen."""

import math
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRect, Qt
from PySide6.QtGui import QPainter, QPen, QRegion

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.marks import paint_word, trace
from plain_stride.desk.sheet.view import BoardView
from plain_stride.hand.joining import NONE, SECTION, STRETCH, TAIL, TAKE
from plain_stride.lines.shape import Shape
from plain_stride.render.paths import polyline

Painting = Callable[[QPainter, BoardView], object]
AGAIN_PX, CROSS_PX = 150, 11
"""Pixels round the pen that the word beside it takes, and the hair cross."""
MOST_HALOS, HALO_PX, HALO_SHARE = 60, 5.0, 0.3
"""Up to so many chosen lines have a halo, which reaches so far beyond their ink, at such a strength."""
PULL_WORDS = {TAKE: "another take", TAIL: "its tail", SECTION: "its next section", STRETCH: "a stretch of it",
              NONE: "a new line"}  # fmt: skip


class Overlay:
    """Painted at every frame, so that it must cost little."""

    def __init__(self, context: SheetContext) -> None:
        self._context = context
        self._under: list[Painting] = []
        self._word: Callable[[], str] = str
        self._beside: Callable[[], bool] = bool
        self._moved: Callable[[], bool] = bool
        self._ring = QRect()

    def add(self, *paintings: Painting) -> None:
        """Has something painted over the board, under the ink of the moment."""
        self._under += paintings

    def tell(self, word: Callable[[], str], beside: Callable[[], bool], moved: Callable[[], bool]) -> None:
        """word: told beside the pen, '' for nothing; beside: whether more is shown round the pen; moved: whether what
        is chosen is shown elsewhere for the moment."""
        self._word, self._beside, self._moved = word, beside, moved

    def paint(self, painter: QPainter, view: BoardView) -> None:
        session, compositor = self._context.session, self._context.compositor
        chosen = () if self._moved() else session.now.chosen
        for key in chosen:
            self._trace_ink(painter, view, key, len(chosen) <= MOST_HALOS)
        for painting in self._under:
            painting(painter, view)
        if session.now.again:
            self._paint_again(painter, view)
        if session.strokes.tried is not None:
            trace(painter, view, session.strokes.tried, 1.6)
        compositor.paint_pulls(painter)
        pointer = self._context.viewport.pointer
        if pointer is not None and compositor.live is None:
            self._paint_ring(painter, view, pointer)
            if word := self._word():
                paint_word(painter, pointer + QPointF(14.0, 22.0), word)

    def pointed(self) -> QRegion:
        """The pixels that are another now that the pointer is elsewhere."""
        session, at = self._context.session, self._context.viewport.pointer
        room = AGAIN_PX if session.now.again or self._word() or self._beside() else CROSS_PX
        reach = math.ceil(session.nib_now.heaviest * self._context.view.scale / 2.0 + room)
        before = self._ring
        self._ring = QRect() if at is None else QRect(at.toPoint(), at.toPoint()).adjusted(-reach, -reach, reach, reach)
        return QRegion(before).united(self._ring)

    def _trace_ink(self, painter: QPainter, view: BoardView, key: str, halo: bool) -> None:
        """A chosen line by its middle, with a breath of colour on both its sides; a black by its edge."""
        ink = self._context.session.shapes.ink(key)
        if isinstance(ink, Shape):
            if halo:
                wide = float(ink.body.full.max()) * view.scale + 2.0 * HALO_PX
                trace(painter, view, ink.flat[0], wide, HALO_SHARE)
            trace(painter, view, ink.flat[0], 1.6)
        else:
            for ring in ink.rings:
                trace(painter, view, np.vstack([ring, ring[:1]]), 1.6)

    def _paint_again(self, painter: QPainter, view: BoardView) -> None:
        """Other takes of the line in hand, pale; and beside the pen what a pull from there would be."""
        session, pointer = self._context.session, self._context.viewport.pointer
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(sheet_color("pencil"), 1.4))
        for points in session.strokes.other_takes(session.shown_line()):
            painter.drawPolyline(polyline(view.to_glass(points)))
        if pointer is not None and self._context.compositor.live is None:
            found = session.what_again(view.to_board(pointer))
            paint_word(painter, pointer + QPointF(14.0, -12.0), PULL_WORDS[found.what])

    def _paint_ring(self, painter: QPainter, view: BoardView, at: QPointF) -> None:
        """The nib at true size, lightest and heaviest, with a hair cross that leaves its middle free."""
        nib = self._context.session.nib_now
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(sheet_color("chosen"), 1))
        for width in (nib.lightest, nib.heaviest):
            painter.drawEllipse(at, width * view.scale / 2.0, width * view.scale / 2.0)
        reach = nib.heaviest * view.scale / 2.0
        for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1)):
            painter.drawLine(at + QPointF(dx, dy) * (reach + 3), at + QPointF(dx, dy) * (reach + 8))
