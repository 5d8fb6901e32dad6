"""The real window, offscreen, driven by real pen, mouse and key events."""

import itertools

import numpy as np
import pytest
from PySide6.QtCore import QCoreApplication, QEvent, QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from plain_stride.board.page import Page
from plain_stride.desk.main_window import MainWindow
from plain_stride.desk.player import PenPlayer, on_glass
from plain_stride.desk.settings import Settings
from plain_stride.desk.start import application
from plain_stride.job.job_files import new_job
from tests.conftest import samples_along
from tests.waiting import rest, wait_until

MOUSE_MS = 8
"""Time between two mouse events, and their stamps with it: a hand is not quicker."""


@pytest.fixture(scope="session")
def qapp():
    return application()


class Window:
    """A main_window with the ways a hand has of driving it. Places are mm on the sheet."""

    def __init__(self, main_window: MainWindow) -> None:
        self.main_window = main_window
        self._pen = PenPlayer(main_window.desk.sheet)

    @property
    def session(self):
        return self.main_window.session

    @property
    def sheet(self):
        return self.main_window.desk.sheet

    @property
    def pen(self):
        """The pen over the sheet of the open job."""
        if self._pen.widget is not self.sheet:
            self._pen = PenPlayer(self.sheet)
        return self._pen

    def lines(self):
        self.session.settle()
        return self.session.job.rows.lines

    def px(self, mm) -> QPointF:
        return QPointF(*self.sheet.view.to_glass(np.array([mm], float))[0])

    def settle(self):
        rest(self.main_window)

    def wait_until(self, true, seconds=20.0):
        """Lets the window and its threads work until something is true."""
        wait_until(true, seconds)

    def pull(self, *points, pressure=0.5, n=120, seconds=0.6, frames=False):
        """A pull with the pen, painted at every sample if frames; gives the new line's id."""
        before = set(self.lines())
        samples = samples_along(points, seconds, n, pressure)
        between = QCoreApplication.processEvents if frames else None
        self.pen.play(on_glass(samples, self.sheet.view.to_glass), between=between)
        self.settle()
        new = set(self.lines()) - before
        return new.pop() if new else None

    def hover(self, mm):
        QTest.mouseMove(self.sheet, self.px(mm).toPoint() + QPoint(1, 0))
        QTest.mouseMove(self.sheet, self.px(mm).toPoint())

    def tap(self, key):
        QTest.keyClick(self.main_window.windowHandle(), key)
        self.settle()

    def hold(self, key):
        QTest.keyPress(self.main_window.windowHandle(), key)
        self.main_window.desk.keys.begin_hold()

    def let_go(self, key):
        QTest.keyRelease(self.main_window.windowHandle(), key)
        self.settle()

    def mouse_pull(self, *points):
        """A pull with the left button down."""
        before = set(self.lines())
        places = [self.px(p).toPoint() for p in points]
        QTest.mousePress(self.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, places[0])
        for a, b in itertools.pairwise(places):
            for k in range(1, 21):
                QTest.mouseMove(self.sheet, a + (b - a) * k / 20, MOUSE_MS)
        QTest.mouseRelease(self.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, places[-1])
        self.settle()
        new = set(self.lines()) - before
        return new.pop() if new else None

    def ink_at(self, mm) -> int:
        """Darkness (0..255) of the window's own picture at a place."""
        self.settle()
        picture = self.sheet.grab().toImage()
        at = self.px(mm).toPoint()
        return 255 - picture.pixelColor(at).green()


@pytest.fixture
def window_on(qapp):
    """Opens windows on jobs and closes them afterwards, all saved."""
    opened = []

    def open_on(path) -> Window:
        main_window = MainWindow(path, Settings())
        main_window.resize(1280, 800)
        main_window.show()
        main_window.activateWindow()
        QTest.qWaitForWindowActive(main_window)
        opened.append(main_window)
        return Window(main_window)

    yield open_on
    for main_window in opened:
        # A test that leaves something unsaved on purpose is not asked about it.
        main_window.desk.dialogs.ask_unsaved = lambda *_: "go"
        main_window.close()
        main_window.deleteLater()
    qapp.processEvents()
    # Windows that are to go do so now: the next one would have them painted anew.
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.fixture
def window(window_on, tmp_path):
    path = tmp_path / "walk.stride"
    new_job(path, Page((120.0, 90.0), 300.0))
    return window_on(path)
