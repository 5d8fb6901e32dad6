"""What every gesture has: it takes the pen down, moving and up, and shows what it does."""

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter

from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView


class Gesture:
    """busy: a drag is under way."""

    def __init__(self) -> None:
        self.busy = False

    def down(self, event: PointerEvent) -> None:
        """The pen comes down."""
        self.busy = True

    def move(self, event: PointerEvent) -> None:
        """The pen moves on while it is down."""

    def up(self, event: PointerEvent) -> None:
        """The pen lifts."""
        self.busy = False

    def paint(self, painter: QPainter, view: BoardView) -> None:
        """What it shows over the sheet, in pixels."""


class HeldGesture(Gesture):
    """A gesture that lasts as long as a key is held; moves of the pen count with the pen up as well."""

    def __init__(self, context: SheetContext) -> None:
        super().__init__()
        self._context = context

    def begin(self, at: QPointF | None) -> None:
        """The key goes down, with the pointer at a pixel, or nowhere."""

    def end(self) -> None:
        """The key is let go."""
