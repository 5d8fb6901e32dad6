"""Marks round what is to be drawn again, in one tint that stands against the ink. They are never printed."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.controls.controls import tinted
from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.view import BoardView
from plain_stride.job.areas import areas_of
from plain_stride.job.pencil_records import AGAIN
from plain_stride.render.paths import polygon

PALE, STRONG, THIN_PX, THICK_PX = 0.10, 0.22, 1.4, 2.6


class AgainMarks:
    """in_hand: the key of the mark that is worked on, '' for none."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self.in_hand = ""

    def take(self, key: str) -> None:
        """Another mark is worked on."""
        self.in_hand = key

    def paint(self, painter: QPainter, view: BoardView) -> None:
        for mark in areas_of(self._session.job, AGAIN):
            now = mark.key == self.in_hand
            painter.setPen(QPen(sheet_color("ahead"), THICK_PX if now else THIN_PX, Qt.PenStyle.SolidLine))
            painter.setBrush(tinted(sheet_color("ahead"), STRONG if now else PALE))
            painter.drawPolygon(polygon(view.to_glass(mark.outline)))
