"""Held keys: hold, do, let go, and you are inking again; a tap does the small form of the same thing.

Keys are places on the board of keys: where the system tells which key was pressed, that counts, not its letter.
"""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QAbstractButton, QApplication, QLineEdit, QWidget

HOLD_MS = 180
_EVDEV_OFFSET = 8
_PLACES = {
    "Q": 16, "W": 17, "E": 18, "R": 19, "T": 20, "Y": 21, "A": 30, "S": 31, "D": 32, "F": 33, "G": 34, "H": 35,
    "Z": 44, "X": 45, "C": 46, "V": 47, "B": 48, "1": 2, "2": 3, "3": 4, "4": 5, "5": 6, "6": 7, "7": 8, "8": 9,
    "9": 10,
}  # fmt: skip
"""Key codes of the Linux input layer (linux/input-event-codes.h, from memory), by the letter on a US board."""
_BY_CODE = {code + _EVDEV_OFFSET: letter for letter, code in _PLACES.items()}


def _nothing() -> None:
    return None


@dataclass(frozen=True)
class KeyUse:
    """What one key does: hold and let_go around the time it is held, tap for a short press; words that say so."""

    words_hold: str = ""
    words_tap: str = ""
    hold: Callable[[], None] = _nothing
    let_go: Callable[[], None] = _nothing
    tap: Callable[[], None] = _nothing


class KeyHand(QObject):
    """Watches a window's keys. `uses` maps places (letters of a US board) to what they do."""

    def __init__(self, window: QWidget, uses: dict[str, KeyUse]) -> None:
        super().__init__(window)
        self._window, self.uses = window, uses
        self.by_pen = "W"
        self._down = ""
        self._holding = False
        self.on_pen_away: Callable[[], None] = _nothing
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(HOLD_MS)
        self._timer.timeout.connect(self.begin_hold)
        QApplication.instance().installEventFilter(self)  # type: ignore[union-attr]

    def begin_hold(self) -> None:
        """The key that is down is held, not tapped: after HOLD_MS, or at the first move of pen or mouse."""
        if self._down and not self._holding:
            self._holding = True
            self._timer.stop()
            self.uses[self._down].hold()

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

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind == QEvent.Type.WindowDeactivate and watched is self._window:
            self.let_all_go()
            return False
        if kind == QEvent.Type.TabletLeaveProximity:
            self.on_pen_away()
            return False
        if kind not in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease) or not isinstance(event, QKeyEvent):
            return False
        if not isinstance(watched, QWidget) or watched.window() is not self._window:
            return False
        if isinstance(watched, QLineEdit):
            return False
        place = place_of(event)
        if place not in self.uses or event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier & _MODIFIERS:
            return False
        if isinstance(watched, QAbstractButton) and event.key() == Qt.Key.Key_Space:
            return False
        if not event.isAutoRepeat():
            (self._pressed if kind == QEvent.Type.KeyPress else self._released)(place)
        return True

    def _pressed(self, place: str) -> None:
        if self._down and self._down != place:
            self.let_all_go()
        self._down = place
        self._timer.start()

    def _released(self, place: str) -> None:
        if place != self._down:
            return
        use, held = self.uses[place], self._holding
        self._down, self._holding = "", False
        self._timer.stop()
        (use.let_go if held else use.tap)()


_MODIFIERS = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier


def place_of(event: QKeyEvent) -> str:
    """The letter that a US board has at the place of this key; by its own letter where the place is not told."""
    if event.nativeScanCode() in _BY_CODE and QApplication.platformName() in ("xcb", "wayland"):
        return _BY_CODE[event.nativeScanCode()]
    text = chr(event.key()) if 0x20 <= event.key() < 0x7F else ""
    return text.upper()
