"""`?` and then a press on any figure or word of the window: it is explained in a sentence, and nothing else happens."""

from collections.abc import Callable

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QCursor, QMouseEvent
from PySide6.QtWidgets import QWidget

from plain_stride.desk.controls.terms import meanings

ASK = "Press what you want explained. Esc leaves it."
UNKNOWN = "There is no figure here that could be explained."


class Explainer(QWidget):
    """Lies over the desk while it waits for what is asked about."""

    def __init__(self, desk: QWidget, say: Callable[[str], object]) -> None:
        super().__init__(desk)
        self._desk, self._say = desk, say
        self.setAccessibleName("What is this?")
        self.setCursor(Qt.CursorShape.WhatsThisCursor)
        self.hide()

    def ask(self) -> None:
        """The next press tells what it lies on."""
        self.setGeometry(self._desk.rect())
        self.show()
        self.raise_()
        self.setFocus()
        self._say(ASK)

    def explain_under_pointer(self) -> None:
        """Tells what the pointer is over."""
        self._explain(self._desk.mapFromGlobal(QCursor.pos()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.hide()
        self._explain(event.position().toPoint())

    def leave(self) -> bool:
        """Nothing is asked any more; whether something was."""
        asked = self.isVisible()
        self.hide()
        if asked:
            self._say("")
        return asked

    def _explain(self, at: QPoint) -> None:
        self._say(self.words_at(at) or UNKNOWN)

    def words_at(self, at: QPoint) -> str:
        """What stands at a place of the desk, explained; the nearest widget that has a term in it."""
        one = self._desk.childAt(at)
        while one is not None and one is not self._desk:
            said = f"{one.accessibleName()} {one.accessibleDescription()}"
            if words := meanings(said):
                return words
            one = one.parentWidget()
        return ""
