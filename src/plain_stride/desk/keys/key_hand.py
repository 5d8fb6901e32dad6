"""Held keys: hold, do, let go, and you are inking again; a tap does the small form of the same thing.

Keys are places on the board of keys: where the system tells which key was pressed, that counts, not its letter.
"""

from PySide6.QtCore import QEvent, QObject, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QWindow
from PySide6.QtWidgets import QApplication, QLineEdit

from plain_stride.desk.keys.action import Action
from plain_stride.desk.keys.key_plan import PLACES, KeyPlan

HOLD_MS = 180
_KINDS = (QEvent.Type.KeyPress, QEvent.Type.KeyRelease)
_EVDEV_OFFSET = 8
_BY_CODE = {code + _EVDEV_OFFSET: letter for letter, code in PLACES.items()}


class KeyHand(QObject):
    """Watches a window's keys. `uses` by their key; `plan` says where each lies. changed: another one is held, or
    none; used: one was tapped, or begins to be held."""

    changed = Signal()
    used = Signal(str)

    def __init__(self, uses: dict[str, Action], plan: KeyPlan) -> None:
        super().__init__()
        self.uses, self.plan = uses, plan
        self.by_pen = "W"
        self._down = ""
        self._holding = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(HOLD_MS)
        self._timer.timeout.connect(self.begin_hold)
        self._watched: QObject | None = None

    def begin_hold(self) -> None:
        """The key that is down is held, not tapped: after HOLD_MS, or at the first move of pen or mouse."""
        if self._down and not self._holding:
            self._holding = True
            self.used.emit(self._down)
            self._timer.stop()
            self.uses[self._down].hold()
            self.changed.emit()

    @property
    def held(self) -> str:
        """The use that is held now, '' for none."""
        return self._down if self._holding else ""

    def latch(self, use: str) -> None:
        """Holds a use until it is latched again, or another key comes; one that cannot be held is tapped."""
        if self.held == use:
            self.let_all_go()
        elif not self.uses[use].held:
            self.uses[use].run()
        else:
            self.press(use)
            self.begin_hold()

    def press(self, use: str) -> None:
        """The key of a use goes down."""
        self._pressed(use)

    def release(self, use: str) -> None:
        """The key of a use comes up: the end of a hold, or a tap."""
        self._released(use)

    def use_pen_button(self, use: str) -> None:
        """Lets the pen's own button stand for a key."""
        self.by_pen = use

    def pen_button(self, down: bool) -> None:
        """The pen's own button stands for one of the keys."""
        (self._pressed if down else self._released)(self.by_pen)

    def let_all_go(self) -> None:
        """As if every key had been let go, without its tap."""
        down, held = self._down, self._holding
        self._down, self._holding = "", False
        self._timer.stop()
        if down and held:
            self.uses[down].let_go()
            self.changed.emit()

    def attach(self, handle: QWindow | None) -> None:
        """Begins to watch a window of the system. Only its own events pass through here: a filter on the whole
        application would also be shown objects that are half taken down."""
        if handle is not None and handle is not self._watched:
            self._watched = handle
            handle.installEventFilter(self)

    def detach(self) -> None:
        """Watches no more."""
        self.let_all_go()
        if self._watched is not None:
            self._watched.removeEventFilter(self)
            self._watched = None

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind not in _KINDS or not isinstance(event, QKeyEvent):
            return False
        place = place_of(event)
        if isinstance(QApplication.focusWidget(), QLineEdit):
            return False
        self._see(place, event)
        use = self.plan.use_at(place, self.uses) if place else ""
        if not use or event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier & _MODIFIERS:
            return False
        if not event.isAutoRepeat():
            (self._pressed if kind == QEvent.Type.KeyPress else self._released)(use)
        return True

    def _see(self, place: str, event: QKeyEvent) -> None:
        """Notes what is printed on a key, for the sheet of keys."""
        plain = not event.modifiers() & _MODIFIERS and event.text().isprintable()
        if place and plain and event.text().strip():
            self.plan.seen[place] = event.text().upper()

    def _pressed(self, use: str) -> None:
        if self._down and self._down != use:
            self.let_all_go()
        self._down = use
        self._timer.start()

    def _released(self, use: str) -> None:
        if use != self._down:
            return
        work, held = self.uses[use], self._holding
        self._down, self._holding = "", False
        self._timer.stop()
        (work.let_go if held else work.run)()
        if not held:
            self.used.emit(use)
        if held:
            self.changed.emit()


_MODIFIERS = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier


def place_of(event: QKeyEvent) -> str:
    """The letter that a US board has at the place of this key; by its own letter where the place is not told."""
    if event.nativeScanCode() in _BY_CODE and QApplication.platformName() in ("xcb", "wayland"):
        return _BY_CODE[event.nativeScanCode()]
    text = chr(event.key()) if 0x20 <= event.key() < 0x7F else ""
    return text.upper()
