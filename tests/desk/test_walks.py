"""The whole walk by the pen alone, by the mouse alone, by the keyboard alone: open, place a scan, pull five lines,
weight, trim, export."""

from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractItemView, QApplication, QFileDialog, QMenu, QPushButton, QWidget

from plain_stride.board.page import Page
from plain_stride.desk.controls.controls import Track, Word
from plain_stride.desk.player import PenPlayer
from plain_stride.job.job_files import new_job
from plain_stride.pencils.scanner import SOFT, scan

KEY = Qt.Key
LINES = [((20, 15), (100, 15)), ((20, 30), (60, 40), (100, 30)), ((20, 55), (100, 60)), ((20, 75), (100, 75)),
         ((80, 8), (80, 82))]  # fmt: skip


def soon(work, until=lambda: True):
    """Does work in the event loop as soon as something is true: a dialog or a menu waits for it."""

    def look():
        if until():
            work()
        else:
            QTimer.singleShot(20, look)

    QTimer.singleShot(20, look)


def dialog():
    found = QApplication.activeModalWidget()
    return found if isinstance(found, QFileDialog) else None


def open_menu():
    found = QApplication.activePopupWidget()
    return found if isinstance(found, QMenu) else None


class Mouse:
    """Everything by clicks and drags."""

    def __init__(self, window):
        self.window = window

    def press(self, widget: QWidget, at: QPoint | None = None):
        QTest.mouseClick(
            widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at or widget.rect().center()
        )

    def station(self, name):
        self.press(self.window.main_window.desk.stride.words[name])

    def verb(self, words):
        found = [w for w in self.window.main_window.findChildren(Word) if w.text() == words and w.isVisible()]
        self.press(found[0])

    def open_job(self, path):
        soon(lambda: self.pick(path.name), dialog)
        soon(lambda: self.press_action("Open a job…"), open_menu)
        self.press(self.window.main_window.desk.stride.menu)

    def press_action(self, words):
        menu = open_menu()
        action = next(a for a in menu.actions() if a.text() == words)
        self.press(menu, menu.actionGeometry(action).center())

    def place(self, path):
        soon(lambda: self.pick(path.name), dialog)
        self.verb("place a scan…")

    def pick(self, name):
        """A file by its row in the list, as soon as the dialog has read its folder; then the button that accepts."""
        view = dialog().findChild(QAbstractItemView, "listView")
        model = view.model()
        names = [model.index(r, 0, view.rootIndex()).data() for r in range(model.rowCount(view.rootIndex()))]
        if name not in names:
            soon(lambda: self.pick(name))
            return
        index = model.index(names.index(name), 0, view.rootIndex())
        view.scrollTo(index)
        self.press(view.viewport(), view.visualRect(index).center())
        self.accept()

    def accept(self):
        """The button that accepts; a dialog that still looks at its folder is asked once more."""
        box = dialog()
        if box is not None:
            button = next(b for b in box.findChildren(QPushButton) if "pen" in b.text() or "ave" in b.text())
            soon(self.accept)
            self.press(button)

    def pull(self, points):
        self.window.mouse_pull(*points)

    def weigh(self):
        track = next(t for t in self.window.main_window.findChildren(Track) if t.isVisible())
        at = QPoint(track.width() // 2, track.height() // 2)
        QTest.mousePress(track, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(20, at.y()))
        QTest.mouseMove(track, at)
        QTest.mouseRelease(track, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)

    def trim(self, mm):
        sheet, at = self.window.sheet, self.window.px(mm).toPoint()
        for _ in range(2):
            QTest.mouseClick(sheet, Qt.MouseButton.RightButton, Qt.KeyboardModifier.NoModifier, at)
        self.window.wait_until(open_menu)
        self.press_action("trim the stretch here")

    def export(self, name):
        soon(self.accept, dialog)
        self.verb("PNG…")


class Pen(Mouse):
    """A real pen: where a widget does not take it, the system sends a mouse in its place, as Qt documents."""

    def press(self, widget, at=None):
        at = at or widget.rect().center()
        player = PenPlayer(widget)
        row = np.array([at.x(), at.y(), 0.5, 0.0, 30.0])
        for kind, mouse in ((QEvent.Type.TabletPress, QEvent.Type.MouseButtonPress),
                            (QEvent.Type.TabletRelease, QEvent.Type.MouseButtonRelease)):  # fmt: skip
            if not player.send(kind, row):
                self._as_mouse(widget, mouse, at, player.device)

    @staticmethod
    def _as_mouse(widget, kind, at, device):
        down = Qt.MouseButton.LeftButton if kind != QEvent.Type.MouseButtonRelease else Qt.MouseButton.NoButton
        event = QMouseEvent(kind, QPointF(at), QPointF(widget.mapToGlobal(at)), Qt.MouseButton.LeftButton, down,
                            Qt.KeyboardModifier.NoModifier, device)  # fmt: skip
        QApplication.sendEvent(widget, event)

    def pull(self, points):
        self.window.pull(*points)

    def weigh(self):
        track = next(t for t in self.window.main_window.findChildren(Track) if t.isVisible())
        self.press(track, QPoint(track.width() // 2, track.height() // 2))

    def trim(self, mm):
        """The pen's other end touches the stretch."""
        at = self.window.px(mm)
        eraser = PenPlayer(self.window.sheet, eraser=True)
        for kind in (QEvent.Type.TabletPress, QEvent.Type.TabletRelease):
            eraser.send(kind, np.array([at.x(), at.y(), 0.5, 0.0, 30.0]))


class Keyboard:
    """Everything by keys; Tab goes where it must."""

    def __init__(self, window):
        self.window = window

    def key(self, key, keys=Qt.KeyboardModifier.NoModifier):
        self.to_front()
        QTest.keyClick(self.window.main_window.windowHandle(), key, keys)

    def to_front(self):
        """A desktop gives the focus back when a dialog has closed; this platform has none that does."""
        main_window = self.window.main_window
        if not main_window.isActiveWindow():
            main_window.activateWindow()
            self.window.wait_until(main_window.isActiveWindow)

    def tab_to(self, wanted):
        for _ in range(200):
            if wanted(QApplication.focusWidget()):
                return
            self.key(KEY.Key_Tab)
        raise AssertionError("Tab never gets there")

    def station(self, name):
        self.to_front()
        key = getattr(KEY, f"Key_{self.window.main_window.desk.stations[name].key}")
        QTest.keyClick(self.window.main_window, key, Qt.KeyboardModifier.AltModifier)
        self.window.wait_until(lambda: self.window.main_window.desk.station() == name)

    def verb(self, words):
        self.tab_to(lambda w: isinstance(w, Word) and w.text() == words)
        QTest.keyClick(QApplication.focusWidget(), KEY.Key_Space)

    def type_name(self, name):
        """The dialog's entry has the focus from the start."""
        for letter in name:
            QTest.keyClick(dialog().windowHandle(), letter)
        self.enter()

    def enter(self):
        """Return, once more where the dialog still looks at its folder."""
        if dialog() is not None:
            soon(self.enter)
            QTest.keyClick(dialog().windowHandle(), KEY.Key_Return)

    def open_job(self, path):
        soon(lambda: self.type_name(path.name), dialog)
        QTest.keyClick(self.window.main_window, KEY.Key_O, Qt.KeyboardModifier.ControlModifier)

    def place(self, path):
        soon(lambda: self.type_name(path.name), dialog)
        self.verb("place a scan…")

    def pull(self, points):
        self.tab_to(lambda w: w is self.window.sheet)
        for mm in points:
            self.go(mm)
            self.key(KEY.Key_Return)
        self.key(KEY.Key_Return)
        self.window.settle()

    def go(self, mm):
        """Moves the pen by arrows, 10 mm, 1 mm and 0.1 mm at a time."""
        sheet = self.window.sheet
        if sheet.viewport.pointer is None:
            self.key(KEY.Key_Right)
        for axis, ways in ((0, (KEY.Key_Right, KEY.Key_Left)), (1, (KEY.Key_Down, KEY.Key_Up))):
            for step, keys in ((10, Qt.KeyboardModifier.ControlModifier), (1, Qt.KeyboardModifier.NoModifier),
                               (0.1, Qt.KeyboardModifier.ShiftModifier)):  # fmt: skip
                off = mm[axis] - sheet.view.to_board(sheet.viewport.pointer)[axis]
                for _ in range(round(abs(off) / step - 0.499)):
                    self.key(ways[off < 0], keys)

    def weigh(self):
        self.tab_to(lambda w: isinstance(w, Track))
        for _ in range(10):
            self.key(KEY.Key_Right)

    def trim(self, mm):
        self.tab_to(lambda w: w is self.window.sheet)
        self.go(mm)
        self.key(KEY.Key_Y)

    def export(self, name):
        soon(self.enter, dialog)
        self.verb("PNG…")


@pytest.mark.parametrize("hand_class", [Pen, Mouse, Keyboard])
def test_the_whole_walk(window, hand_class, tmp_path):
    hand = hand_class(window)
    home = Path.home()
    folder = home / "Documents"
    folder.mkdir(exist_ok=True)
    job = folder / "page.stride"
    new_job(job, Page((120.0, 90.0), 150.0))
    (home / "rough.png").write_bytes(scan([np.array(line, float) for line in LINES], (120.0, 90.0), 100.0, 1, SOFT))

    hand.open_job(job)
    window.wait_until(lambda: window.session.job.path == job)
    hand.station("Pencils")
    hand.place(home / "rough.png")
    window.wait_until(lambda: window.session.job.rows.pencils)
    hand.station("Pull")
    for points in LINES:
        hand.pull(points)
    assert len(window.lines()) == 5
    assert {window.session.job.pull(row.pull).device for row in window.lines().values()} == {
        "keyboard" if hand_class is Keyboard else "mouse" if hand_class is Mouse else "pen"
    }
    hand.station("Weigh")
    hand.weigh()
    window.wait_until(lambda: window.session.job.plan.share > 0.3)
    hand.trim((95, 15))
    window.settle()
    first = window.session.shapes.visible()[0]
    assert window.session.shapes[first].flat[0][:, 0].max() == pytest.approx(80, abs=1.0)
    hand.station("Hand over")
    hand.export("page.png")
    out = job.with_suffix(".png")
    window.wait_until(out.exists, 60)
    window.wait_until(lambda: not window.main_window.desk.hand_over().writing, 60)
    page = np.asarray(Image.open(out))
    assert page.shape == (531, 709) and page.min() == 0 and page.max() == 255
