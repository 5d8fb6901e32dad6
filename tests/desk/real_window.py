"""Walks through a real window on whatever display there is: python -m tests.desk.real_window JOB. JSON of what it saw."""

import json
import sys
from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from plain_stride.desk.main_window import MainWindow
from plain_stride.desk.player import PenPlayer, on_glass
from plain_stride.desk.settings import Settings
from plain_stride.desk.start import application
from tests.conftest import samples_along
from tests.waiting import rest


def main() -> None:
    application()
    main_window = MainWindow(Path(sys.argv[1]), Settings())
    main_window.resize(1280, 800)
    main_window.show()
    main_window.activateWindow()
    QTest.qWaitForWindowActive(main_window)
    rows = on_glass(samples_along([(10, 20), (110, 70)], 0.3), main_window.desk.sheet.view.to_glass)
    PenPlayer(main_window.desk.sheet).play(rows, by_clock=True, between=QApplication.processEvents)
    middle = QPoint(*(int(v) for v in rows[80, :2]))
    QTest.mousePress(
        main_window.desk.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, middle + QPoint(-90, 60)
    )
    for k in range(30):
        QTest.mouseMove(main_window.desk.sheet, middle + QPoint(-90 + 6 * k, 60 - 4 * k), 8)
    QTest.mouseRelease(
        main_window.desk.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, middle + QPoint(84, -56)
    )
    rest(main_window)
    seen = {"platform": QApplication.platformName(), "lines": len(main_window.session.job.rows.lines)}
    shot = main_window.screen().grabWindow(main_window.winId()).toImage()
    at = main_window.desk.sheet.mapTo(main_window, middle)
    seen["ink"] = min(shot.pixelColor(at + QPoint(0, dy)).green() for dy in range(-3, 4))
    QTest.keyClick(main_window.windowHandle(), Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    seen["after undo"] = len(main_window.session.job.rows.lines)
    main_window.close()
    print(json.dumps(seen))


if __name__ == "__main__":
    main()
