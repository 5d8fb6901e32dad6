"""Waiting for a window's work. Other threads work meanwhile, which they do not in QTest.qWait."""

import time
from collections.abc import Callable

from PySide6.QtCore import QCoreApplication

from plain_stride.desk.main_window import MainWindow


def wait_until(true: Callable[[], object], seconds: float = 20.0) -> None:
    """Lets windows and threads work until something is true."""
    until = time.monotonic() + seconds
    while not true() and time.monotonic() < until:
        time.sleep(0.002)
        QCoreApplication.processEvents()
    assert true()


def rest(main_window: MainWindow) -> None:
    """Until pulls are lines, pictures whole, facts shown (while the pen is up) and all is painted."""
    QCoreApplication.processEvents()
    wait_until(lambda: not (main_window.session.strokes.coming() or main_window.desk.sheet.layer.busy))
    wait_until(lambda: main_window.desk.sheet.compositor.live is not None or not main_window.session.updates.busy)
    for _ in range(3):
        time.sleep(0.004)
        QCoreApplication.processEvents()
