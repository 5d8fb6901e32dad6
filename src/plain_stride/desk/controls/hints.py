"""Sentences that explain: shown until their reader has done what they explain twice, then behind a `?`."""

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import Heading, Sentence, Word
from plain_stride.desk.look.theme import LABEL, THEME
from plain_stride.desk.settings import Settings

ENOUGH = 2
"""As often as this it was done: it is known."""


class Hints(QObject):
    """How often each thing was done, remembered from one day to the next. learned: one is known now, by its name."""

    learned = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._times: dict[str, int] = {}
        self._settings: Settings | None = None

    def load(self, settings: Settings) -> None:
        """Counts on from what these settings remember."""
        self._settings, self._times = settings, {}

    def times(self, what: str) -> int:
        """How often it was done, ENOUGH at most."""
        if what not in self._times:
            kept = self._settings.number(f"done/{what}", 0) if self._settings is not None else 0
            self._times[what] = min(int(kept), ENOUGH)
        return self._times[what]

    def known(self, what: str) -> bool:
        return self.times(what) >= ENOUGH

    def done(self, what: str) -> None:
        """It was done once more."""
        if self.known(what):
            return
        self._times[what] += 1
        if self._settings is not None:
            self._settings.put(f"done/{what}", self._times[what])
        if self.known(what):
            self.learned.emit(what)


HINTS = Hints()
"""Those in use."""


class Explained(QWidget):
    """A heading with a sentence under it that explains; once it is known a `?` beside the heading brings it back."""

    def __init__(self, heading: str, what: str, words: str = "") -> None:
        """what: what is done by one who knows it: the name of a change, or of a key."""
        super().__init__()
        self._what, self._words, self._asked = what, words, False
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        row = QHBoxLayout()
        row.setSpacing(THEME.px(8))
        self._heading = Heading(heading)
        self._ask = Word("?")
        self._ask.setAccessibleName(f"{heading}: explain")
        self._ask.setFixedHeight(self._heading.sizeHint().height() + THEME.px(4))
        row.addWidget(self._heading)
        row.addWidget(self._ask)
        row.addStretch(1)
        column.addLayout(row)
        self._sentence = Sentence("", LABEL, "faint")
        column.addWidget(self._sentence)
        self._ask.clicked.connect(self._toggle)
        HINTS.learned.connect(self._learned)
        self._show()

    def name(self, heading: str) -> None:
        """Another heading."""
        self._heading.setText(heading.upper())

    def explain(self, words: str) -> None:
        """Another sentence."""
        if words != self._words:
            self._words = words
            self._show()

    def _toggle(self) -> None:
        self._asked = not self._asked
        self._show()

    def _learned(self, what: str) -> None:
        if what == self._what:
            self._show()

    def _show(self) -> None:
        known = HINTS.known(self._what)
        self.setAccessibleName(self._words.replace("**", ""))
        self._sentence.say(self._words if self._asked or not known else "")
        self._ask.setVisible(known and bool(self._words))
