"""Mends a board in the real window and tells how long everything took, as JSON; run by `benchmarks.mend`."""

import json
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from plain_stride.compiled.ready import load_if_compiled
from plain_stride.desk.main_window import MainWindow
from plain_stride.desk.settings import Settings
from plain_stride.desk.start import application
from plain_stride.desk.stations.mend import MendNotes

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
TOUCHES, FRAMES, TIDIED, ROUNDS = 200, 60, 500, 5


class Mending:
    def __init__(self, path: Path) -> None:
        self.app = application()
        load_if_compiled()
        self.window = MainWindow(path, Settings())
        self.window.resize(1280, 800)
        self.window.show()
        self.sheet, self.session = self.window.desk.sheet, self.window.session
        self.lines = list(self.session.job.rows.lines)
        while not self.sheet.viewport.view.size[0] or self.sheet.layer.busy:
            self.app.processEvents()

    def told(self) -> dict[str, object]:
        notes = self.window.desk.stations["Mend"]
        assert isinstance(notes, MendNotes)
        self.window.desk.show_station("Mend")
        lengths = np.array([self.session.shapes[key].length for key in self.lines])
        frames = {"chosen under the pen": self.touched()}
        for mm in (20, 60):
            key = self.lines[int(np.argmin(np.abs(lengths - mm)))]
            self.session.choose([key])
            self.sheet.gestures.take_tool(notes.tools()["bend"]())
            shape = self.session.shapes[key]
            frames[f"bent, {mm} mm"] = self.dragged(shape.arc.point(np.array([shape.length / 2.0]))[0])
        for n in (50, 300):
            self.session.choose(self.lines[:n])
            self.sheet.gestures.take_tool(notes.tools()["place"]())
            boxes = np.array([self.session.shapes[key].box for key in self.lines[:n]])
            frames[f"{n} lines moved"] = self.dragged((boxes[:, :2].min(axis=0) + boxes[:, 2:].max(axis=0)) / 2.0)
        return {"frames": frames, "loop": self.looped(), "tidied": self.tidied()}

    def touched(self) -> list[float]:
        random, context = np.random.default_rng(1), self.sheet.context
        context.line_under(QPointF(400.0, 400.0))
        places = random.uniform((150, 150), (900, 600), (TOUCHES, 2))
        pixels = [QPointF(*at) for at in places.tolist()]
        return [_timed(partial(context.line_under, at)) for at in pixels]

    def dragged(self, place: np.ndarray) -> list[float]:
        at = QPointF(*self.sheet.view.to_glass(place[None])[0].tolist()).toPoint()
        QTest.mousePress(self.sheet, LEFT, NONE, at)
        spent = []
        for k in range(FRAMES):
            spent.append(_timed(partial(self._moved, at + QPoint(0, k // 2))))
        QTest.mouseRelease(self.sheet, LEFT, NONE, at + QPoint(0, FRAMES // 2))
        self.sheet.gestures.put_tool_away()
        return spent

    def _moved(self, to: QPoint) -> None:
        QTest.mouseMove(self.sheet, to)
        self.app.processEvents()

    def looped(self) -> tuple[int, float]:
        angle, size = np.linspace(0.0, 2.0 * np.pi, 200), np.array(self.session.job.page.size_mm)
        loop = size / 2.0 + size * 0.32 * np.column_stack([np.cos(angle), np.sin(angle)])
        hits = self.sheet.context.hits
        best = min(_timed(lambda: hits.inside(loop)) for _ in range(ROUNDS))
        return len(hits.inside(loop)), best

    def tidied(self) -> tuple[int, float]:
        keys = self.lines[:TIDIED]
        return len(keys), _timed(lambda: self.session.make("tidy", lines=keys))


def _timed(work: Callable[[], object]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


if __name__ == "__main__":
    mending = Mending(Path(sys.argv[1]))
    try:
        told = mending.told()
    finally:
        # Whatever went wrong: the writer's thread lets the process go.
        mending.window.close()
    json.dump(told, sys.stdout)
