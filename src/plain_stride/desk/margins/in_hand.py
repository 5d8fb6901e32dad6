"""What is in hand, in one place that never moves: part, role, nib, steadying, follow, tool. A word opens its list."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QHBoxLayout, QMenu, QSizePolicy, QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import Word
from plain_stride.desk.keys.action import Action, Entry, fill
from plain_stride.desk.look.theme import BODY, THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.state import State
from plain_stride.desk.session.verbs import follow, step_nib, step_part, step_role, step_school
from plain_stride.desk.sheet.symmetry_in_hand import symmetry_word
from plain_stride.form.roles import ROLES
from plain_stride.hand.follow import SUGGESTED
from plain_stride.hand.nib import SCHOOLS, Steadying
from plain_stride.weight.plan import TIERS

SCHOOL_WORDS = {"off": "not steadied", "live": "steadied live", "after": "steadied after"}
FOLLOW_SHARES = (0.0, 0.3, SUGGESTED, 1.0)
MOST_NAME_PX = 150

Entries = Callable[[], list[Entry]]
Step = Callable[[int], object]


def elided(word: str, most_px: int) -> str:
    """A word that loses its middle where it is wider than so many pixels."""
    return QFontMetricsF(THEME.font(BODY, bold=True)).elidedText(word, Qt.TextElideMode.ElideMiddle, most_px)


class HandWord(Word):
    """A word of what is in hand. Pressed, its list opens there, and what the pointer is let go on is taken; the wheel
    and the arrow keys step through it."""

    def __init__(self, name: str, entries: Entries, step: Step | None = None, most_px: int = 0) -> None:
        """most_px: a longer word loses its middle; 0 for no limit."""
        super().__init__("", "hand")
        self._name, self._entries, self._step, self._most = name, entries, step, most_px
        self.clicked.connect(self.open_list)

    def show_word(self, word: str) -> None:
        """Shows what is in hand now."""
        short = elided(word, THEME.px(self._most)) if self._most else word
        if short != self.text():
            self.setText(short)
            self.updateGeometry()
        self.setToolTip(word if short != word else "")
        self.setAccessibleName(f"{self._name}: {word}")

    def menu(self) -> QMenu:
        """Its list as things stand now."""
        return fill(QMenu(self), self._entries())

    def open_list(self) -> None:
        self.menu().exec(self.mapToGlobal(self.rect().bottomLeft()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.open_list()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self._step is not None and event.angleDelta().y():
            self._step(-1 if event.angleDelta().y() > 0 else 1)
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Left: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_Right: 1}
        if self._step is not None and event.key() in steps:
            self._step(steps[Qt.Key(event.key())])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.open_list()
        else:
            super().keyPressEvent(event)


class PartWord(HandWord):
    """The part in hand: pressed, the list of all parts takes the place of the notes, or goes again."""

    pressed_for_list = Signal()

    def open_list(self) -> None:
        self.pressed_for_list.emit()


class InHand(QWidget):
    """parts_wanted: the list of all parts, or the notes again; explain_wanted: `?` was pressed. `tool_word` says what a
    drag does, `tools` lists what it could do, `symmetries` what new lines could be copied by."""

    parts_wanted = Signal()
    explain_wanted = Signal()

    def __init__(self, session: Session, tool_word: Callable[[], str], tools: Entries, symmetries: Entries) -> None:
        super().__init__()
        self._session, self._tool_word = session, tool_word
        self.setAccessibleName("In hand")
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self._part = PartWord("Part in hand", list, lambda step: step_part(session, step), MOST_NAME_PX)
        self._part.pressed_for_list.connect(self.parts_wanted)
        self._tier = HandWord("Depth of the part", self._tiers)
        self._lock = Word("open", "hand")
        self._lock.clicked.connect(self._open_or_lock)
        self._tool = HandWord("What a drag does", tools, None, MOST_NAME_PX)
        self._role = HandWord("Role of the next line", self._roles, lambda step: step_role(session, step))
        self._nib = HandWord("Nib", self._nibs, lambda step: step_nib(session, step))
        self._school = HandWord("Steadying", self._schools, lambda step: step_school(session, step))
        self._follow = HandWord("Following the pencils", self._follows)
        self._symmetry = HandWord("Symmetry", symmetries)
        explain = Word("?")
        explain.setAccessibleName("What is this? Then press it")
        explain.clicked.connect(self.explain_wanted)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, THEME.px(2), 0, THEME.px(2))
        column.setSpacing(0)
        rows: list[QHBoxLayout] = []
        for words in ((self._part, self._tier, self._lock), (self._tool, self._role, self._nib),
                      (self._school, self._follow, self._symmetry)):  # fmt: skip
            rows.append(_row(words))
            column.addLayout(rows[-1])
        rows[0].addWidget(explain)
        session.updates.add(self.refresh)
        session.state.changed.connect(self._state_changed)
        self.refresh()

    def words(self) -> list[str]:
        """What is told now, from the first word to the last."""
        return [word.accessibleName() for word in self.findChildren(Word) if not word.isHidden()]

    def word(self, name: str) -> HandWord:
        """The word of what is called so. Raises StopIteration where there is none."""
        return next(w for w in self.findChildren(HandWord) if w.accessibleName().startswith(f"{name}:"))

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.FontChange:
            self.refresh()

    def _state_changed(self, before: State, now: State) -> None:
        """What every lift and every zoom sets is shown a moment later, with all other facts."""
        if replace(before, last_line=now.last_line, chosen=now.chosen, glass=now.glass) != now:
            self.refresh()

    def refresh(self) -> None:
        """Shows what is in hand now."""
        session, now = self._session, self._session.now
        part, nib = session.part, session.nib_now
        self._part.show_word(now.part)
        self._tier.setVisible(part is not None)
        self._lock.setVisible(part is not None)
        if part is not None:
            self._tier.show_word(part.tier)
            state = "hidden" if part.hidden else "locked" if part.locked else "open"
            self._lock.setText(state)
            self._lock.setAccessibleName(f"{state}: press to {'open' if state != 'open' else 'lock'} the part")
            self._lock.updateGeometry()
        self._tool.show_word(self._tool_word())
        self._role.show_word(now.role)
        self._nib.show_word(f"nib {now.nib}, {nib.lightest:.2f}\N{EN DASH}{nib.heaviest:.2f} mm")
        self._school.show_word(_steadied(session.pulling_nib.steadying))
        self._follow.show_word(_followed(now.follow_share))
        self._symmetry.show_word(symmetry_word(now.symmetry))

    # Their lists

    def _tiers(self) -> list[Entry]:
        now = self._session.part
        return [
            Action(words=tier, run=partial(self._session.make, "part", name=self._session.now.part, tier=tier),
                   checked=partial(_is, tier, now.tier if now is not None else ""))
            for tier in TIERS
        ]  # fmt: skip

    def _open_or_lock(self) -> None:
        part = self._session.part
        if part is None:
            return
        if part.hidden:
            self._session.make("part", name=part.name, hidden=False)
        else:
            self._session.make("part", name=part.name, locked=not part.locked)

    def _roles(self) -> list[Entry]:
        return [_choice(role, partial(self._session.take, role=role), role == self._session.now.role) for role in ROLES]

    def _nibs(self) -> list[Entry]:
        return [
            _choice(f"{key}   {nib.name}, {nib.lightest:g} to {nib.heaviest:g} mm",
                    partial(self._session.take, nib=key), key == self._session.now.nib)
            for key, nib in self._session.job.nibs().items()
        ]  # fmt: skip

    def _schools(self) -> list[Entry]:
        now, key = self._session.nib.steadying.school, self._session.now.nib
        return [_choice(SCHOOL_WORDS[school], partial(self._session.make, "nib", key=key, school=school), school == now)
                for school in SCHOOLS]  # fmt: skip

    def _follows(self) -> list[Entry]:
        now = self._session.now.follow_share
        return [_choice(_followed(share), partial(follow, self._session, share), abs(share - now) < 1e-6)
                for share in FOLLOW_SHARES]  # fmt: skip


def _row(words: tuple[Word, ...]) -> QHBoxLayout:
    row = QHBoxLayout()
    row.setSpacing(THEME.px(11))
    for word in words:
        row.addWidget(word)
    row.addStretch(1)
    return row


def _choice(words: str, run: Callable[[], object], chosen: bool) -> Action:
    return Action(words=words, run=run, checked=lambda: chosen)


def _is(value: object, chosen: object) -> bool:
    return value == chosen


def _steadied(setting: Steadying) -> str:
    """Steadying in few words, with its leeway where one was set."""
    if setting.school == "off" or setting.leeway is None:
        return SCHOOL_WORDS[setting.school]
    return f"{SCHOOL_WORDS[setting.school]}, {setting.leeway:.2f} mm"


def _followed(share: float) -> str:
    return f"follows {share:.0%}" if share > 0.0 else "hand free"
