"""The flat in hand, and where areas leak, over the sheet."""

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import LABEL, THEME, sheet_color
from plain_stride.desk.session.flats_link import FlatsLink
from plain_stride.desk.sheet.view import BoardView
from plain_stride.render.paths import polygon

RING_PX, MOST_RINGS = 10.0, 30


class FlatsMarks:
    """An outline round the flat in hand, a numbered red ring beside each leak."""

    def __init__(self, link: FlatsLink) -> None:
        self._link = link
        self._at_work = False

    def work(self, on: bool) -> None:
        """Whether the map is looked at."""
        self._at_work = on

    def paint(self, painter: QPainter, view: BoardView) -> None:
        found = self._link.found
        if not self._at_work or found is None or not self._link.known:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        self._paint_in_hand(painter, view)
        painter.setFont(THEME.font(LABEL, bold=True))
        for n, leak in enumerate(found.leaks[:MOST_RINGS], 1):
            at = view.to_glass(np.array([leak.at]))[0]
            middle = QPointF(at[0] + 2.0 * RING_PX, at[1] - 2.0 * RING_PX)
            painter.setPen(QPen(sheet_color("red"), 1.6))
            painter.drawLine(QPointF(*at), middle + QPointF(-0.7 * RING_PX, 0.7 * RING_PX))
            painter.setBrush(sheet_color("paper"))
            painter.drawEllipse(middle, RING_PX, RING_PX)
            words = painter.fontMetrics().boundingRect(str(n))
            painter.drawText(middle - QPointF(words.center()), str(n))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.restore()

    def _paint_in_hand(self, painter: QPainter, view: BoardView) -> None:
        import shapely

        one = self._link.in_hand()
        if one is None:
            return
        painter.setPen(QPen(sheet_color("chosen"), 2.4))
        for piece in shapely.get_parts(one.area):
            if piece.geom_type == "Polygon":
                for ring in (piece.exterior, *piece.interiors):
                    painter.drawPolygon(polygon(view.to_glass(shapely.get_coordinates(ring)[:-1])))
