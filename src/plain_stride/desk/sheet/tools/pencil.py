"""The pen as a pencil: loose passes on a sheet of their own, until it is put away."""

import numpy as np
from PySide6.QtGui import QPainter

from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.pencil_image import draw_passes
from plain_stride.desk.sheet.pointer_event import PointerEvent
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

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._rows = []
        self.move(event)

    def move(self, event: PointerEvent) -> None:
        x, y = event.mm
        self._rows.append((float(x), float(y), float(np.clip(event.pressure, 0.0, 1.0))))

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        rows, self._rows = self._rows[:MOST_POINTS], []
        self._session.make("pencil-pass", points=[list(row) for row in rows])

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self._rows:
            painter.save()
            painter.setTransform(view.transform, True)
            draw_passes(painter, [np.array(self._rows)], FADE, PASSES_TINT)
            painter.restore()
