"""Lines shown as they would be while a drag edits them, with all that is held to them, at the pen's pace."""

from collections.abc import Mapping

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QRegion

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.bands import SHOWN_BOXES, band_of
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.view import BoardView
from plain_stride.job.holding import follow
from plain_stride.job.records import LineRecord
from plain_stride.lines.shape import Shape
from plain_stride.render.paths import quick_path

NEAR_PX, MARGIN_PX = 0.2, 6
"""How near the picture of a moment comes to a line's middle; so far beyond a line reach marks on it."""


class SeenEdit:
    """shapes: the lines as they would be, by id. Those lines are left out of the board's picture meanwhile."""

    def __init__(self, context: SheetContext) -> None:
        self._context = context
        self.shapes: dict[str, Shape] = {}
        self._shown, self._marks = QRegion(), QRegion()
        self._waits = False

    def show(self, rows: Mapping[str, LineRecord]) -> None:
        """Shows lines with other rows. Raises StrideError where they, or what is held to them, cannot be so."""
        session, holds = self._context.session, self._context.session.job.rows.holds
        every = follow(session.shapes, holds, list(rows), rows).rows if holds else rows
        self.show_shapes({line: session.shapes.tried(line, row) for line, row in every.items()})

    def show_shapes(self, shapes: dict[str, Shape]) -> None:
        """Shows lines as they would be."""
        self.shapes, self._waits = shapes, False
        self._context.compositor.leave_out(frozenset(self.shapes))
        self._repaint()

    def let_go(self) -> None:
        """The lines lie where the job has them. What was shown last is shown until the board's picture is whole."""
        self._context.compositor.leave_out(frozenset())
        self._waits = True
        self._repaint()

    def drop(self) -> None:
        """Nothing is edited after all."""
        self.shapes = {}
        self.let_go()

    def mark(self, region: QRegion) -> None:
        """Pixels of marks that go with the lines shown next."""
        self._marks = region

    def _repaint(self) -> None:
        view, before = self._context.view, self._shown
        self._shown = QRegion(self._marks)
        for shape in self.shapes.values():
            for rect in list(band_of(shape, view, SHOWN_BOXES)):  # type: ignore[call-overload]
                self._shown += rect.adjusted(-MARGIN_PX, -MARGIN_PX, MARGIN_PX, MARGIN_PX)
        self._context.repaint(before + self._shown)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self._waits and not self._context.compositor.busy:
            self.shapes, self._waits = {}, False
        if not self.shapes:
            return
        painter.save()
        painter.setTransform(view.transform, True)
        painter.setPen(Qt.PenStyle.NoPen)
        for line, shape in self.shapes.items():
            painter.fillPath(quick_path(shape, NEAR_PX / view.scale), sheet_color(self._ink(line)))
        painter.restore()

    def _ink(self, line: str) -> str:
        rows = self._context.session.job.rows
        white = line in rows.lines and rows.parts[rows.lines[line].part].ink == "white"
        return "paper" if white else "ink"
