"""The real window under a pen of another process: how long each sample takes to the flush of its first frame.

python -m benchmarks.pen_window JOB SECONDS [PX_PER_MM [--anew]] [--reading]; JSON on the standard output: latency
and stamps (s), samples sent and stored, CPU seconds a sample; for each lift when it was (s), how long until its line
was durable on disk and until that was told (s), and the longest stretch for which it held the window's thread (s).
--reading: the window has its pencils read again and again meanwhile.
"""

import json
import os
import subprocess
import sys
import threading
import time
from pathlib import Path

import numpy as np
from PySide6.QtCore import QEvent, QSocketNotifier, QTimer

from benchmarks.pen_source import ROW
from benchmarks.watched import WatchedShell, longest, watch
from plain_stride.desk.player import PenPlayer
from plain_stride.desk.settings import Settings
from plain_stride.desk.start import application, warm_up
from plain_stride.job.commit import Commit
from plain_stride.job.store import Store

KINDS = (QEvent.Type.TabletPress, QEvent.Type.TabletMove, QEvent.Type.TabletRelease)
SETTLE_MS, FULL_SETTLE_MS, ANEW_MS = 2500, 9000, 20


class Run:
    def __init__(self, job: Path, seconds: float, scale: float, anew: bool, reading: bool) -> None:
        self.app = application()
        watch()
        self.main_window = WatchedShell(job, Settings())
        self.main_window.resize(1280, 800)
        self.main_window.show()
        self.main_window.flushed = self._flushed  # type: ignore[method-assign]
        threading.Thread(target=warm_up, daemon=True).start()
        if scale:
            view = self.main_window.desk.sheet.view
            self.main_window.desk.sheet.viewport.set_view(
                view.enlarged(scale / view.scale, self.main_window.desk.sheet.rect().center().toPointF())
            )
        self.pen = PenPlayer(self.main_window.desk.sheet)
        self.seconds = seconds
        self.lines_before = set(self.main_window.session.job.rows.lines)
        self.waiting: list[float] = []
        self.latency: list[tuple[float, float]] = []
        self.sent = 0
        self.lifts: list[float] = []
        self.saved: list[float] = []
        self.written: list[float] = []
        commit = Store.commit

        def timed(store: Store, what: Commit) -> bool:
            moved = commit(store, what)
            self.written.append(time.perf_counter())
            return moved

        Store.commit = timed  # type: ignore[method-assign]
        self.main_window.session.saving.waiting.connect(self._saving)
        self._rest = b""
        self.anew = QTimer()
        self.anew.timeout.connect(self._anew)
        if anew:
            self.anew.start(ANEW_MS)
        self.reader = self.main_window.desk.pencils().reader
        if reading:
            self.reader.changed.connect(self._read_again)
            self.reader.read()
        self.always = anew
        QTimer.singleShot(SETTLE_MS if not scale else FULL_SETTLE_MS, self._begin)

    def _begin(self) -> None:
        sheet = self.main_window.desk.sheet
        # A board of 20,000 strokes is painted the first time for longer than that; the pen is measured on a whole one.
        if sheet.layer.busy and not self.always:
            QTimer.singleShot(SETTLE_MS, self._begin)
            return
        box = [str(v) for v in (self.seconds, 40, 40, sheet.width() - 80, sheet.height() - 80)]
        self.source = subprocess.Popen([sys.executable, "-m", "benchmarks.pen_source", *box], stdout=subprocess.PIPE)
        assert self.source.stdout is not None
        self.notifier = QSocketNotifier(self.source.stdout.fileno(), QSocketNotifier.Type.Read)
        self.notifier.activated.connect(self._read)
        self.cpu = time.process_time()

    def _read(self) -> None:
        assert self.source.stdout is not None
        got = os.read(self.source.stdout.fileno(), 65536)
        if not got:
            self.cpu = time.process_time() - self.cpu
            self.notifier.setEnabled(False)
            QTimer.singleShot(400, self._end)
            return
        got = self._rest + got
        whole = len(got) // ROW.size * ROW.size
        self._rest = got[whole:]
        for stamp, x, y, pressure, kind in ROW.iter_unpack(got[:whole]):
            if kind == 2.0:
                self.lifts.append(time.perf_counter())
            self.pen.send(KINDS[int(kind)], np.array([x, y, pressure, stamp, 30.0]))
            self.waiting.append(stamp)
            self.sent += kind != 2.0

    def _read_again(self) -> None:
        if not self.reader.running:
            QTimer.singleShot(0, self.reader.read)

    def _anew(self) -> None:
        """The whole view is painted again as soon as it is whole."""
        if not self.main_window.desk.sheet.layer.busy:
            self.main_window.desk.sheet.compositor.redraw()

    def _end(self) -> None:
        """Ends the run when all is saved."""
        session = self.main_window.session
        if session.strokes.coming() or session.document.writer.pending():
            QTimer.singleShot(50, self._end)
        else:
            QTimer.singleShot(50, self.app.quit)

    def _saving(self, waiting: int) -> None:
        if not waiting and len(self.saved) < len(self.lifts):
            self.saved.append(time.perf_counter())

    def _flushed(self) -> None:
        now = time.perf_counter()
        self.latency += [(stamp, now - stamp) for stamp in self.waiting]
        self.waiting.clear()

    def go(self) -> dict[str, object]:
        self.app.exec()
        self.source.wait()
        job = self.main_window.session.job
        fresh = [row for key, row in job.rows.lines.items() if key not in self.lines_before]
        stored = sum(len(job.pull(str(row.pull)).samples) for row in fresh)
        self.main_window.close()
        stamps, late = np.array(self.latency).T
        held = [longest(a, b) for a, b in zip(self.lifts, self.saved, strict=True)]
        told, durable = ([b - a for a, b in zip(self.lifts, ends, strict=True)] for ends in (self.saved, self.written))
        return {"stamps": stamps.tolist(), "late": late.tolist(), "sent": self.sent, "stored": stored,
                "cpu": self.cpu / self.sent, "lifts": self.lifts, "held": held, "durable": durable,
                "told": told}  # fmt: skip


def main() -> None:
    job, seconds = Path(sys.argv[1]), float(sys.argv[2])
    scale = float(sys.argv[3]) if len(sys.argv) > 3 and not sys.argv[3].startswith("--") else 0.0
    json.dump(Run(job, seconds, scale, "--anew" in sys.argv, "--reading" in sys.argv).go(), sys.stdout)


if __name__ == "__main__":
    main()
