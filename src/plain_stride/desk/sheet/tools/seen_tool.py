"""A tool that takes hold of a line and shows it as it would be while the pen is down."""

from PySide6.QtGui import QPainter

from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.hit_test import Touch
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.seen_edit import SeenEdit
from plain_stride.desk.sheet.view import BoardView


class SeenTool(SheetTool):
    """The line under the pen is held as it comes down, a chosen one before others; one that is locked is not."""

    shows_itself = True

    def __init__(self) -> None:
        super().__init__()
        self._context: SheetContext | None = None
        self._seen: SeenEdit | None = None
        self._touch: Touch | None = None

    def taken(self, context: SheetContext) -> None:
        super().taken(context)
        self._context, self._seen = context, SeenEdit(context)

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        if self._context is not None:
            self._touch = self._context.open_line_under(event.at, self._context.session.chosen)

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        if self._seen is not None:
            self._seen.let_go()
        self._touch = None

    def left(self) -> None:
        super().left()
        self._touch = None
        if self._seen is not None:
            self._seen.drop()

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self._seen is not None:
            self._seen.paint(painter, view)
