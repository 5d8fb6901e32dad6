"""The real window with a full board, turned, enlarged, moved and changed: python -m benchmarks.board_window JOB.

JSON on the standard output. frames: for each way of moving and each scale (pixels a mm), seconds from a new view to the
end of its flush. changes: for a line added and one changed, longest stretch and sum (s) on the window's thread, and
seconds until the picture was whole. open: seconds from opening the job to the first flush and to the whole picture;
memory: bytes of the process before and after.
"""

import json
import sys
import threading
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QPointF
from PySide6.QtWidgets import QApplication

from benchmarks import memory
from benchmarks.watched import WatchedShell, held, watch
from plain_stride.board.page import Page
from plain_stride.desk.settings import Settings
from plain_stride.desk.start import application, warm_up
from plain_stride.hand.pull import View
from plain_stride.job.job_files import new_job

SCALES, FRAMES, CHANGES = (5, 15), 60, 12


class Run:
    def __init__(self, job: Path) -> None:
        application()
        watch()
        small = job.with_name("small.stride")
        new_job(small, Page((100.0, 100.0), 300.0))
        self.main_window = WatchedShell(small, Settings())
        self.main_window.resize(1280, 800)
        self.main_window.show()
        self.flushed = 0.0
        self.main_window.flushed = self._flushed  # type: ignore[method-assign]
        warm = threading.Thread(target=warm_up, daemon=True)
        warm.start()
        self.until(lambda: not warm.is_alive())
        self.job = job

    def _flushed(self) -> None:
        self.flushed = time.perf_counter()

    def until(self, true: Callable[[], bool], rest_s: float = 0.001) -> None:
        while not true():
            QApplication.processEvents()
            time.sleep(rest_s)

    def quiet(self) -> None:
        layer = self.main_window.desk.sheet.layer
        self.until(
            lambda: (
                not layer.busy
                and not self.main_window.session.strokes.coming()
                and not self.main_window.session.updates.busy
            )
        )
        end = time.perf_counter() + 0.4
        self.until(lambda: time.perf_counter() > end and not layer.busy)

    def opened(self) -> dict[str, float]:
        before, begun = memory.now(), time.perf_counter()
        self.main_window.open_job(self.job)
        self.until(lambda: self.flushed > begun, 0.0)
        first = self.flushed - begun
        self.until(lambda: not self.main_window.desk.sheet.layer.busy, 0.0)
        whole = time.perf_counter() - begun
        self.quiet()
        return {"first": first, "whole": whole, "before": before, "after": memory.now()}

    def frames(self, scale: float) -> dict[str, list[float]]:
        sheet = self.main_window.desk.sheet
        middle = QPointF(sheet.width() / 2.0, sheet.height() / 2.0)
        viewport = sheet.viewport
        viewport.set_view(sheet.view.enlarged(scale / sheet.view.scale, middle))
        self.quiet()
        moves = {
            "turning": lambda n: sheet.view.turned(1.5, middle),
            "enlarging": lambda n: sheet.view.enlarged(1.03 if n < FRAMES / 2 else 1 / 1.03, middle),
            "moving": lambda n: sheet.view.moved(6.0, 4.0 if n < FRAMES / 2 else -4.0),
        }
        out = {}
        for name, move in moves.items():
            out[name] = [self._frame(lambda n=n, move=move: viewport.set_view(move(n))) for n in range(FRAMES)]
            viewport.upright()
            self.quiet()
        return out

    def _frame(self, work: Callable[[], object]) -> float:
        begun = time.perf_counter()
        work()
        self.until(lambda: self.flushed > begun, 0.0)
        return self.flushed - begun

    def changes(self) -> dict[str, list[tuple[float, float, float]]]:
        session, sheet = self.main_window.session, self.main_window.desk.sheet
        x, y = sheet.view.to_board(QPointF(sheet.width() / 2.0, sheet.height() / 2.0))
        shown = sorted(sheet.layer.index.touching((x - 40, y - 25, x + 40, y + 25)))
        added = session.job.pull(str(session.job.rows.lines[shown[0]].pull)).samples
        out: dict[str, list[tuple[float, float, float]]] = {"added": [], "changed": []}
        for n in range(CHANGES):
            samples = added.copy()
            samples[:, :2] += (x, y) - samples[0, :2] + (n, 2 * n % 7)
            pull = partial(session.strokes.lay, samples, session.pulling_nib, View(), "pen", "")
            out["added"].append(self._change(pull))
            out["changed"].append(self._change(lambda n=n: session.make("swell", line=shown[n], factor=1.5)))
        return out

    def _change(self, work: Callable[[], object]) -> tuple[float, float, float]:
        """(longest stretch, sum, until whole): of the sheet; facts beside it come later."""
        held.clear()
        begun = time.perf_counter()
        work()
        held.append((time.perf_counter(), time.perf_counter() - begun))
        self.until(lambda: not self.main_window.session.strokes.coming() and not self.main_window.desk.sheet.layer.busy)
        whole = time.perf_counter()
        QApplication.processEvents()
        spent = [s for at, s in held if at <= whole + 0.02]
        self.quiet()
        return max(spent), sum(spent), whole - begun


def main() -> None:
    run = Run(Path(sys.argv[1]))
    try:
        told = {"open": run.opened()}
        told["frames"] = {scale: run.frames(scale) for scale in SCALES}
        told["changes"] = run.changes()
    finally:
        # Whatever went wrong: the writer's thread lets the process go.
        run.main_window.close()
    json.dump(told, sys.stdout)


if __name__ == "__main__":
    main()
