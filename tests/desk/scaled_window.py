"""A window on a screen of another pixel ratio: QT_SCALE_FACTOR=R python -m tests.desk.scaled_window JOB. JSON of it."""

import json
import sys
from pathlib import Path

import numpy as np
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from plain_stride.desk.main_window import MainWindow
from plain_stride.desk.player import PenPlayer, on_glass
from plain_stride.desk.settings import Settings
from plain_stride.desk.sheet.ink_layer import InkLayer
from plain_stride.desk.start import application
from tests.conftest import samples_along
from tests.waiting import rest


def pixels(image: QImage) -> np.ndarray:
    grey = image.convertToFormat(QImage.Format.Format_Grayscale8)
    rows = np.frombuffer(grey.constBits(), np.uint8).reshape(grey.height(), grey.bytesPerLine())
    return rows[:, : grey.width()].astype(int)


def main() -> None:
    application()
    main_window = MainWindow(Path(sys.argv[1]), Settings())
    main_window.resize(1280, 800)
    main_window.show()
    sheet = main_window.desk.sheet
    QTest.qWaitForWindowExposed(main_window)
    for y in (20, 34, 48):
        rows = on_glass(samples_along([(10, y), (60, y + 14), (110, y)], 0.3), sheet.view.to_glass)
        PenPlayer(sheet).play(rows, between=QApplication.processEvents)
        rest(main_window)
    ratio = sheet.devicePixelRatioF()
    fresh = InkLayer(main_window.session)
    fresh.begin(sheet.view, sheet.size(), ratio)
    while fresh.busy:
        fresh.work(1.0)
    kept, shown = pixels(sheet.layer.image), pixels(sheet.grab().toImage())
    h, w = (min(a, b) for a, b in zip(kept.shape, shown.shape, strict=True))
    apart = np.abs(kept[:h, :w] - shown[:h, :w])
    seen = {
        "ratio": ratio,
        "pixels": [sheet.layer.image.width() / sheet.width(), sheet.layer.image.height() / sheet.height()],
        "mended": int(np.abs(kept - pixels(fresh.image)).max()),
        "shown otherwise": float((apart[40:-40, 40:-40] > 8).mean()),
        "lines": len(main_window.session.job.rows.lines),
        "ink": int((shown < 60).sum()),
    }
    main_window.close()
    print(json.dumps(seen))


if __name__ == "__main__":
    main()
