"""Walks through a real window on whatever display there is: python -m tests.desk.real_window JOB. JSON of what it saw."""

import json
import sys
from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from plain_stride.desk.player import PenPlayer, on_glass
from plain_stride.desk.settings import Settings
from plain_stride.desk.shell import Shell
from plain_stride.desk.start import application
from tests.conftest import samples_along
from tests.waiting import rest


def main() -> None:
    application()
    shell = Shell(Path(sys.argv[1]), Settings())
    shell.resize(1280, 800)
    shell.show()
    shell.activateWindow()
    QTest.qWaitForWindowActive(shell)
    rows = on_glass(samples_along([(10, 20), (110, 70)], 0.3), shell.sheet.view.to_glass)
    PenPlayer(shell.sheet).play(rows, by_clock=True, between=QApplication.processEvents)
    middle = QPoint(*(int(v) for v in rows[80, :2]))
    QTest.mousePress(shell.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, middle + QPoint(-90, 60))
    for k in range(30):
        QTest.mouseMove(shell.sheet, middle + QPoint(-90 + 6 * k, 60 - 4 * k), 8)
    QTest.mouseRelease(shell.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, middle + QPoint(84, -56))
    rest(shell)
    seen = {"platform": QApplication.platformName(), "lines": len(shell.bench.job.rows.lines)}
    shot = shell.screen().grabWindow(shell.winId()).toImage()
    at = shell.sheet.mapTo(shell, middle)
    seen["ink"] = min(shot.pixelColor(at + QPoint(0, dy)).green() for dy in range(-3, 4))
    QTest.keyClick(shell.windowHandle(), Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    seen["after undo"] = len(shell.bench.job.rows.lines)
    shell.close()
    print(json.dumps(seen))


if __name__ == "__main__":
    main()
