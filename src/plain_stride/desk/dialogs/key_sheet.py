"""The sheet of keys: what each does while held and when tapped, and where it lies on this board of keys."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QResizeEvent
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import Heading, Sentence, Word
from plain_stride.desk.keys.action import Action, Actions
from plain_stride.desk.keys.key_hand import place_of
from plain_stride.desk.keys.key_plan import PLACES, KeyPlan
from plain_stride.desk.look.theme import THEME

OTHERS = (
    ("Wheel", "enlarges round the pointer; with Shift it turns; the middle button moves the board"),
    ("Two fingers", "move, turn and enlarge the board; touch never inks"),
    ("Eraser end", "a touch trims the stretch under it, a stroke upwards shaves the line"),
    ("Right button", "chooses the line under the pointer, with Shift one more; drawn round, all inside; again: a menu"),
    ("Arrows", "on the sheet: the pen by 1 mm, with Shift by 0.1, with Ctrl by 10; chosen lines while nudge is held"),
    ("Enter, + and −", "on the sheet: sets a point of a line, heavier and lighter there; Ctrl+Enter inks it"),
    ("Home, End", "the line before, the line after, back to front"),
)


def _is_nib(key: str) -> bool:
    return key.isdigit() and key != "0"


class _Column(QWidget):
    """As high as its sentences need at its width, and no higher."""

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        layout = self.layout()
        if layout is not None:
            self.setFixedHeight(layout.totalHeightForWidth(self.width()))


class KeySheet(QDialog):
    """Escape closes it, or gives up choosing a key. changed is called when a key was given another place."""

    def __init__(self, parent: QWidget, actions: Actions, plan: KeyPlan, changed: Callable[[], object]) -> None:
        super().__init__(parent)
        self._actions, self._uses, self._plan, self._changed = actions, actions.by_key, plan, changed
        self._waiting = ""
        self.setWindowTitle("Keys")
        self.setStyleSheet(f"QDialog, #keys {{ background: {THEME.palette.margin} }}")
        column = QVBoxLayout(self)
        column.setContentsMargins(THEME.px(28), THEME.px(12), THEME.px(12), THEME.px(16))
        self.said = Sentence("Press a key's letter here to give its work to another key.", colour="faint")
        head = QHBoxLayout()
        self._back = Word("as they were made")
        self._back.clicked.connect(self._as_made)
        head.addWidget(self.said, 1)
        head.addWidget(self._back)
        column.addLayout(head)
        column.addWidget(self._scrolled(), 1)
        screen = self.screen().availableSize() if self.screen() is not None else None
        wanted = self.sizeHint().expandedTo(self.minimumSize())
        self.resize(THEME.px(760), min(wanted.height() + THEME.px(640), screen.height() - 80 if screen else 760))
        self._show()

    def _scrolled(self) -> QScrollArea:
        inner = _Column()
        inner.setObjectName("keys")
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, THEME.px(12), 0)
        grid = QGridLayout()
        grid.setHorizontalSpacing(THEME.px(18))
        grid.setVerticalSpacing(0)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(2, 1)
        for n, head in enumerate(("Key", "While held", "Tapped")):
            grid.addWidget(Heading(head), 0, n)
        self.words: dict[str, Word] = {}
        for row, (name, use) in enumerate(self._shown_uses(), 1):
            word = self.words[name] = Word(self._plan.shown(name))
            word.clicked.connect(lambda _=False, n=name: self._ask(n))
            grid.addWidget(word, row, 0, Qt.AlignmentFlag.AlignTop)
            for k, text in enumerate((use.held, use.tapped), 1):
                sentence = Sentence(text)
                sentence.setVisible(True)
                grid.addWidget(sentence, row, k, Qt.AlignmentFlag.AlignVCenter)
        column.addLayout(grid)
        column.addWidget(Heading("Besides"))
        others = QGridLayout()
        others.setHorizontalSpacing(THEME.px(18))
        others.setColumnStretch(1, 1)
        others.addWidget(Sentence("**Nibs**"), 0, 0, Qt.AlignmentFlag.AlignVCenter)
        others.addLayout(self._nib_words(), 0, 1)
        for row, (key, words) in enumerate((*OTHERS, *self._shortcuts()), 1):
            named = Sentence(f"**{key}**")
            named.setWordWrap(False)
            others.addWidget(named, row, 0, Qt.AlignmentFlag.AlignTop)
            others.addWidget(Sentence(words), row, 1)
        column.addLayout(others)
        column.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidget(inner)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        return scroll

    def _shortcuts(self) -> list[tuple[str, str]]:
        """Shortcuts, and what they do, as the other rows say it."""
        said = [(one.shortcuts, one.words.rstrip("…")) for one in self._actions.all if one.shortcuts]
        return [(", ".join(shortcuts), words[0].lower() + words[1:]) for shortcuts, words in said]

    def _nib_words(self) -> QHBoxLayout:
        """The keys of the nibs in one row."""
        row = QHBoxLayout()
        row.setSpacing(THEME.px(12))
        for name in filter(_is_nib, self._uses):
            word = self.words[name] = Word(self._plan.shown(name))
            word.clicked.connect(lambda _=False, n=name: self._ask(n))
            row.addWidget(word)
        words = Sentence("that nib; while held, only as long as it is held")
        words.setWordWrap(False)
        row.addWidget(words)
        row.addStretch(1)
        return row

    def _shown_uses(self) -> list[tuple[str, Action]]:
        return [(name, use) for name, use in self._uses.items() if not _is_nib(name)]

    def _show(self) -> None:
        for name, word in self.words.items():
            waiting = name == self._waiting
            word.setText("press a key" if waiting else self._plan.shown(name))
            what = self._uses[name].key_words
            word.setAccessibleName(f"{word.text()}: {what}; press to give it another key")
            word.updateGeometry()
        self._back.setVisible(bool(self._plan.own))

    def _ask(self, name: str) -> None:
        self._waiting = name
        what = self._uses[name].key_words
        self.said.say(f"Now press the key for: **{what}**. Escape leaves it as it is.", "text")
        self._show()
        self.setFocus()

    def _as_made(self) -> None:
        self._plan.own.clear()
        self._waiting = ""
        self.said.say("All keys lie as they were made.", "text")
        self._changed()
        self._show()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self._waiting:
            super().keyPressEvent(event)
            return
        if event.key() == Qt.Key.Key_Escape:
            self.said.say("It stays where it was.", "text")
        else:
            self._give(place_of(event))
        self._waiting = ""
        self._show()

    def _give(self, place: str) -> None:
        """Gives the use that waits a place, where that is free."""
        if place not in PLACES:
            self.said.say("That key stays the desktop's: take a letter, a digit or a sign.", "red")
            return
        clash = self._plan.clash(self._waiting, place, self._uses)
        if clash:
            there = self._uses[clash].key_words
            self.said.say(f"{self._plan.printed(place)} is taken: **{there}**. Give that another key first.", "red")
            return
        self._plan.move(self._waiting, place)
        self.said.say(f"It lies on **{self._plan.printed(place)}** now.", "text")
        self._changed()
