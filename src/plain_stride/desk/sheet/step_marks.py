"""The next steps of the work on the board: numbered rings where each begins."""

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter

from plain_stride.desk.look.theme import LABEL, THEME
from plain_stride.desk.session.planner import Planner
from plain_stride.desk.sheet.pencil_overlay import ring
from plain_stride.desk.sheet.view import BoardView
from plain_stride.order.steps import Step

MOST_RINGS = 9


class StepMarks:
    """Shown while the order of work is looked at."""

    def __init__(self, planner: Planner) -> None:
        self._planner, self._at_work = planner, False
        self._steps: list[Step] = []
        planner.changed.connect(self._look)

    def work(self, on: bool) -> None:
        """Whether the order is looked at."""
        self._at_work = on
        self._look()

    def _look(self) -> None:
        self._steps = self._planner.to_do()[:MOST_RINGS] if self._at_work else []

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if not self._steps:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(THEME.font(LABEL, bold=True))
        for n, step in enumerate(self._steps, 1):
            at = view.transform.map(QPointF(step.x, step.y))
            ring(painter, at, str(n), "ahead")
        painter.restore()
