"""The place of sentences, at the foot of the sheet: what was just done, or what is wrong, and what can be done about
it. It never moves and pushes nothing; a long sentence grows upwards over the desk."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from plain_stride.desk.controls.controls import Sentence, Word
from plain_stride.desk.keys.action import nothing
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import THEME

HIGH = 24
SAID_MS = 9000


class SaidPlace(Painted, QWidget):
    """The room that the layout keeps for it."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(THEME.px(HIGH))
        THEME.changed.connect(self.update)

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        painter.fillRect(self.rect(), THEME.color("margin"))
        painter.fillRect(0, 0, self.width(), 1, THEME.color("hair"))


class SaidLine(Painted, QWidget):
    """What is no fault goes by itself; a fault stays until its cause is gone. At rest it tells what a drag does."""

    def __init__(self, place: SaidPlace, desk: QWidget) -> None:
        """place: where it lies on the desk while that is shown, else at the desk's foot."""
        super().__init__(desk)
        self._place, self._faulty, self._resting = place, False, ""
        self._standing: tuple[str, str, Callable[[], object]] | None = None
        row = self._row = QHBoxLayout(self)
        row.setContentsMargins(THEME.px(18), THEME.px(3), THEME.px(18), THEME.px(1))
        row.setSpacing(THEME.px(12))
        self._sentence, self._verb = Sentence(), Word("")
        self._verb.setFixedHeight(THEME.px(HIGH - 4))
        self._run: Callable[[], object] = nothing
        row.addWidget(self._sentence, 1)
        row.addWidget(self._verb)
        self._verb.clicked.connect(self.take_offer)
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.setInterval(SAID_MS)
        self._quiet.timeout.connect(self._rest)
        place.installEventFilter(self)
        THEME.changed.connect(self.update)
        self._rest()

    def tell(self, words: str, fault: bool) -> None:
        self._say(words, "red" if fault else "text")
        self._faulty = fault
        if fault:
            self._quiet.stop()
        else:
            self._quiet.start()

    def offer(self, words: str, verb: str, run: Callable[[], object]) -> None:
        """A sentence with something that can be done about it, for as long as it stands."""
        self.tell(words, False)
        self._run = run
        self._show_verb(verb)
        self._lie()

    def take_offer(self) -> bool:
        """Does what the sentence offers; whether it offers anything."""
        run, offered = self._run, not self._verb.isHidden()
        self._run = nothing
        run()
        if not self._busy():
            self._rest()
        return offered

    def rest_on(self, words: str) -> None:
        """What it tells while nothing else is said: what a tool in hand does."""
        self._resting = words
        if not self._busy():
            self._rest()

    def stand(self, words: str, verb: str, run: Callable[[], object]) -> None:
        """A sentence that comes back whenever nothing else is said, with what can be done; '' for none any more."""
        self._standing = (words, verb, run) if words else None
        self._rest()

    def _busy(self) -> bool:
        return self._quiet.isActive() or self._faulty

    def cause_gone(self) -> None:
        """A fault that was said is past."""
        if self._faulty:
            self._rest()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.Resize, QEvent.Type.Move, QEvent.Type.Show, QEvent.Type.Hide):
            self._lie()
        return False

    def _rest(self) -> None:
        self._faulty = False
        self._quiet.stop()
        if self._resting or self._standing is None:
            self._say(self._resting, "faint")
            return
        words, verb, run = self._standing
        self._say(words, "text")
        self._run = run
        self._show_verb(verb)
        self._lie()

    def _say(self, words: str, colour: str) -> None:
        self._run = nothing
        self._show_verb("")
        self._sentence.say(words, colour)
        self.setAccessibleName(self._sentence.accessibleName())
        self._lie()

    def _show_verb(self, words: str) -> None:
        self._verb.setText(words)
        self._verb.setAccessibleName(words)
        self._verb.setVisible(bool(words))
        self._verb.updateGeometry()

    def _lie(self) -> None:
        """Lies on its place, its foot on the place's foot."""
        desk, place = self.parentWidget(), self._place
        self.setVisible(bool(self.accessibleName()))
        if desk is None or not self.accessibleName():
            return
        box = place.geometry()
        if place.isHidden():
            box.setRect(0, desk.height() - THEME.px(HIGH), desk.width(), THEME.px(HIGH))
        high = max(box.height(), self._row.heightForWidth(box.width()))
        self.setGeometry(box.x(), box.y() + box.height() - high, box.width(), high)
        self.raise_()

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        painter.fillRect(self.rect(), THEME.color("margin"))
        painter.fillRect(0, 0, self.width(), 1, THEME.color("hair"))
