"""Where lines are held together: a small double ring at each meeting, while lines are mended."""

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.view import BoardView
from plain_stride.job.holding import end_of

INNER_PX, OUTER_PX = 2.5, 5.5


class HoldMarks:
    def __init__(self, session: Session) -> None:
        self._session, self._at_work = session, False

    def work(self, on: bool) -> None:
        """Whether lines are mended: only then are they shown."""
        self._at_work = on

    def paint(self, painter: QPainter, view: BoardView) -> None:
        holds = self._session.job.rows.holds
        if not self._at_work or not holds:
            return
        shown, lines = self._session.shown_parts(), self._session.job.rows.lines
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(sheet_color("chosen"), 1.4))
        for hold in holds.values():
            if hold.line in lines and lines[hold.line].part in shown:
                at = end_of(self._session.shapes[hold.line], hold.line_end)
                x, y = view.to_glass(at[None])[0].tolist()
                painter.drawEllipse(QPointF(x, y), INNER_PX, INNER_PX)
                painter.drawEllipse(QPointF(x, y), OUTER_PX, OUTER_PX)
