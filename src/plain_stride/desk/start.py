"""Starting the window: the application object, the type, the demo, and a sentence where it cannot start."""

import gc
import os
import sys
import threading
import traceback
from collections.abc import Callable
from importlib import resources
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QCoreApplication, Qt, QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from plain_stride.desk.application import Application
from plain_stride.desk.look.theme import THEME, load_fonts
from plain_stride.desk.settings import Settings
from plain_stride.job.logfile import log_path, logger

if TYPE_CHECKING:
    from plain_stride.desk.main_window import MainWindow

NO_DISPLAY = (
    "plain-stride: there is no display to open a window on. Start it from a desktop, or save pictures of every"
    " station without one: plain-stride demo --tour DIR"
)

CrashTeller = Callable[[type[BaseException], BaseException, TracebackType | None], None]


def application() -> QApplication:
    """The one application object, every pen event delivered by itself, the shipped type loaded."""
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        return existing
    QCoreApplication.setAttribute(Qt.ApplicationAttribute.AA_CompressHighFrequencyEvents, False)
    QCoreApplication.setAttribute(Qt.ApplicationAttribute.AA_CompressTabletEvents, False)
    # Full rounds of the garbage collector stall the pen: they come seldom, and never for what a board holds.
    gc.set_threshold(2_000, 10, 1000)
    # A thread that works out a line lets the pen have its turn soon: 5 ms, the default, is a whole sample.
    sys.setswitchinterval(0.0005)
    app = Application(["plain-stride"])
    app.setApplicationName("Plain Stride")
    app.setDesktopFileName("plain-stride")
    app.setStyle("Fusion")
    app.setWindowIcon(QIcon(str(resources.files("plain_stride.data").joinpath("plain-stride.svg"))))
    load_fonts()
    app.setFont(THEME.font())
    return app


def start_demo() -> int:
    """The demo job; made on the first start, afterwards opened as it was left."""
    if not has_display():
        print(NO_DISPLAY, file=sys.stderr)
        return 1
    from plain_stride.demo.job import demo_path, ensure_demo

    path = demo_path()
    if not path.exists():
        print("Drawing the demo, once ...", file=sys.stderr)
    return start_job(ensure_demo(path), offered=True)


def start_last() -> int:
    """The job that was worked on last, else the demo."""
    from plain_stride.demo.job import demo_path, ensure_demo

    recent = Settings().recent()
    return start_job(recent[0] if recent else ensure_demo(demo_path()), opening=True)


def start_job(path: Path, opening: bool = False, offered: bool = False) -> int:
    """Opens a job in the window and runs until it is closed. opening: with the opening sheet over it, unless that was
    skipped for ever; offered: a walk is offered where it was not taken yet. Raises StrideError for a job that cannot
    be opened."""
    if not has_display():
        print(NO_DISPLAY, file=sys.stderr)
        return 1
    app = application()
    windows = Windows(path)
    if opening and int(windows.main_window.settings.number("opening", 1)):
        windows.main_window.show_opening()
    if offered:
        windows.main_window.offer_walk()
    QTimer.singleShot(0, lambda: threading.Thread(target=warm_up, daemon=True).start())
    try:
        return app.exec()
    finally:
        # However the loop ended: what waits is written, and the writer's thread lets the process go.
        windows.main_window.session.close()


class Windows:
    """The window, made anew where it asks for it."""

    def __init__(self, path: Path) -> None:
        self._settings = Settings()
        self.main_window = self._shown(path)

    def _shown(self, path: Path) -> "MainWindow":
        from plain_stride.desk.main_window import MainWindow

        main_window = MainWindow(path, self._settings)
        sys.excepthook = _crash_teller(main_window)
        threading.excepthook = lambda lost: logger().error("crash of a thread", exc_info=lost.exc_value)
        # In a turn of its own: the menu that asked is closed by then.
        main_window.made_anew.connect(lambda: QTimer.singleShot(0, self._make_anew))
        main_window.show()
        return main_window

    def _make_anew(self) -> None:
        """Closes the window, all saved, and shows its job in a new one at the same station."""
        old = self.main_window
        QApplication.setQuitOnLastWindowClosed(False)
        station, path = old.desk.station(), old.session.job.path
        if not old.close():
            QApplication.setQuitOnLastWindowClosed(True)
            return
        self.main_window = self._shown(path)
        QApplication.setFont(THEME.font())
        self.main_window.desk.show_station(station)
        QApplication.setQuitOnLastWindowClosed(True)
        old.deleteLater()


def has_display() -> bool:
    return bool(
        os.environ.get("DISPLAY")
        or os.environ.get("WAYLAND_DISPLAY")
        or os.environ.get("QT_QPA_PLATFORM", "").startswith(("offscreen", "minimal", "vnc"))
    )


def warm_up() -> None:
    """After the window is painted: makes a line and throws it away, so that the first pull is as quick as the tenth;
    then has the workers made ready, so that the first of them is there at once."""
    from plain_stride.compiled.ready import load_when_compiled
    from plain_stride.desk.workers.standing import prepare_workers
    from plain_stride.hand.nib import DEFAULT_NIB, Steadying
    from plain_stride.hand.pull import Pull, View
    from plain_stride.hand.simulated import HANDS, pulled
    from plain_stride.lines.centre import centreline_of
    from plain_stride.lines.edits import End
    from plain_stride.lines.recipe import Recipe, shape_of

    load_when_compiled()
    target = np.array([[0.0, 0.0], [9.0, 4.0], [14.0, 0.0], [6.0, -3.0]])
    pull = Pull(pulled(target, HANDS["calm"], "fast", 1), DEFAULT_NIB, View(), "simulated")
    shape = shape_of(Recipe(centreline_of(pull, Steadying()), DEFAULT_NIB, (End("pointed"), End("round"))))
    _ = shape.rings, shape.strip(0.02)
    prepare_workers()


def _crash_teller(main_window: object) -> CrashTeller:
    def tell(kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
        logger().error("crash\n%s", "".join(traceback.format_exception(kind, fault, trace)))
        words = f"Something went wrong here ({fault}). What was saved is safe; the log says more: {log_path()}"
        print(f"plain-stride: {words}", file=sys.stderr)
        getattr(main_window, "say", lambda *_: None)(words, True)

    return tell
