"""Lays a hatch in the real window and tells how long everything took, as JSON; run by `benchmarks.tone`."""

import json
import sys
import time
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPointF

from plain_stride.compiled.ready import load_if_compiled
from plain_stride.desk.main_window import MainWindow
from plain_stride.desk.settings import Settings
from plain_stride.desk.start import application
from plain_stride.desk.stations.tone import ToneNotes

FRAMES, CLOSE = 30, 6.0


def told(path: Path, hatch: dict[str, Any]) -> dict[str, Any]:
    app = application()
    load_if_compiled()
    window = MainWindow(path, Settings())
    window.resize(1280, 800)
    window.show()
    sheet, session = window.desk.sheet, window.session
    window.desk.show_station("Tone")
    notes = window.desk.stations["Tone"]
    assert isinstance(notes, ToneNotes)
    notes.show_page("Hatch")
    while not sheet.viewport.view.size[0] or sheet.layer.busy:
        app.processEvents()
    page, start = notes.hatch, time.perf_counter()
    page.lay(**hatch)
    sheet.repaint()
    laid = time.perf_counter() - start
    app.processEvents()
    while sheet.layer.busy:
        app.processEvents()
    outlined = time.perf_counter() - start
    strokes = len(session.job.rows.lines)
    frames = {"the whole sheet": _moved(page, sheet, app)}
    view = sheet.view
    sheet.viewport.set_view(view.enlarged(CLOSE, QPointF(sheet.rect().center())))
    while sheet.layer.busy:
        app.processEvents()
    frames[f"{CLOSE:g} times as large"] = _moved(page, sheet, app)
    return {"laid": laid, "outlined": outlined, "strokes": strokes, "frames": frames}


def _moved(page: Any, sheet: Any, app: Any) -> list[float]:
    """Seconds of each frame while the slider of the grey moves."""
    spent = []
    for k in range(FRAMES):
        start = time.perf_counter()
        page.try_grey(20.0 + k)
        sheet.repaint()
        app.processEvents()
        spent.append(time.perf_counter() - start)
    return spent


if __name__ == "__main__":
    print(json.dumps(told(Path(sys.argv[1]), json.loads(sys.argv[2]))))
    sys.stdout.flush()
    # The process is over when its answer is told: nothing of the job is kept.
    import os

    os._exit(0)
