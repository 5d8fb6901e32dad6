"""The pen as a pencil: loose passes on a sheet of their own, until it is put away."""

import numpy as np
from PySide6.QtGui import QPainter

from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.pencil_image import draw_passes
from plain_stride.desk.sheet.tools.base import SheetTool
from plain_stride.desk.sheet.view import BoardView
from plain_stride.job.pencil_changes import PASSES_TINT
from plain_stride.pencils.pencil_passes import MOST_POINTS

FADE = 0.6


class PencilTool(SheetTool):
    """Lays a pass with each lift of the pen, on the uppermost sheet of passes."""

    words = "**Pencil:** the pen draws loose passes now, to settle a place; they are never exported. Esc ends it."

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._rows: list[tuple[float, float, float]] = []

    def down(self, at: np.ndarray, pressure: float, view: BoardView) -> None:
        super().down(at, pressure, view)
        self._rows = []
        self.move(at, pressure, view)

    def move(self, at: np.ndarray, pressure: float, view: BoardView) -> None:
        x, y = at
        self._rows.append((float(x), float(y), float(np.clip(pressure, 0.0, 1.0))))

    def up(self, at: np.ndarray, view: BoardView) -> None:
        super().up(at, view)
        rows, self._rows = self._rows[:MOST_POINTS], []
        self._session.make("pencil-pass", points=[list(row) for row in rows])

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self._rows:
            painter.save()
            painter.setTransform(view.transform, True)
            draw_passes(painter, [np.array(self._rows)], FADE, PASSES_TINT)
            painter.restore()
