"""What can be done: from a menu, by a shortcut, by a key of the free hand; said in the same words everywhere."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QWidget


def nothing() -> None:
    """Does nothing."""


def always() -> bool:
    return True


@dataclass(frozen=True)
class Action:
    """run: does it; words: in a menu, '' where it is in none; shortcuts: as on a board of keys.

    key: its place on the board for the free hand, '' for none; tapped, held: what a tap and holding it do, in words;
    hold, let_go: done around the time it is held. enabled, checked: as things stand; checked is None for no choice.
    """

    run: Callable[[], object] = nothing
    words: str = ""
    shortcuts: tuple[str, ...] = ()
    key: str = ""
    tapped: str = ""
    held: str = ""
    hold: Callable[[], object] = nothing
    let_go: Callable[[], object] = nothing
    enabled: Callable[[], bool] = always
    checked: Callable[[], bool] | None = None

    @property
    def key_words(self) -> str:
        """What its key is for."""
        return self.held or self.tapped


@dataclass(frozen=True)
class Submenu:
    """Entries of a menu, as they are when it is opened."""

    words: str
    entries: Callable[[], list["Entry"]]


Entry = Action | Submenu | None
"""None is a line between entries."""


class Actions:
    """All that can be done in a window; menus, shortcuts, held keys and the sheet of keys come from it."""

    def __init__(self, entries: Iterable[Action]) -> None:
        self.all = list(entries)
        self.by_key = {action.key: action for action in self.all if action.key}

    def install(self, widget: QWidget) -> None:
        """Makes the shortcuts those of a window."""
        for one in self.all:
            if one.shortcuts:
                action = QAction(widget)
                action.setShortcuts([QKeySequence(key) for key in one.shortcuts])
                action.triggered.connect(_runner(one))
                widget.addAction(action)


def _runner(action: Action) -> Callable[[bool], object]:
    return lambda checked: action.run()


def fill(menu: QMenu, entries: Iterable[Entry]) -> QMenu:
    """Puts entries into a menu; one without any is greyed."""
    for entry in entries:
        if entry is None:
            menu.addSeparator()
        elif isinstance(entry, Submenu):
            fill(menu.addMenu(entry.words), entry.entries())
        else:
            action = menu.addAction(entry.words)
            action.triggered.connect(_runner(entry))
            action.setEnabled(entry.enabled())
            action.setShortcuts([QKeySequence(key) for key in entry.shortcuts])
            # Shown here; what it does it does in the whole window, by `install`.
            action.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
            action.setShortcutVisibleInContextMenu(True)
            if entry.checked is not None:
                action.setCheckable(True)
                action.setChecked(entry.checked())
    menu.setEnabled(not menu.isEmpty())
    return menu
