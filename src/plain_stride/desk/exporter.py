"""Exports in another process: the command line's own, so that the pen never waits for pixels."""

import os
import re
import signal
import sys
from pathlib import Path

from PySide6.QtCore import QObject, QProcess, Signal

_RUN = "import os, sys; os.nice(10); from plain_stride.cli import main; sys.exit(main(sys.argv[1:]))"


class Exporter(QObject):
    """One export at a time. Signals: progressed (share done), ended (what went wrong, empty when it is written)."""

    progressed = Signal(float)
    ended = Signal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._process = QProcess(self)
        self._process.readyReadStandardError.connect(self._read)
        self._process.finished.connect(self._finished)
        self._process.errorOccurred.connect(self._failed)
        self._said = ""
        self._stopped = False

    @property
    def running(self) -> bool:
        return self._process.state() != QProcess.ProcessState.NotRunning

    def start(self, job: Path, path: Path, *options: str) -> None:
        """Begins to write a job, as its file is, to a path by its ending."""
        self._said, self._stopped = "", False
        self._process.start(sys.executable, ["-c", _RUN, "export", str(job), str(path), "--progress", *options])

    def stop(self) -> None:
        """Ends it; nothing is left half-written."""
        if self.running:
            self._stopped = True
            os.kill(self._process.processId(), signal.SIGINT)

    def close(self) -> None:
        """Stops it, and waits until nothing of it is left."""
        self.stop()
        self._process.waitForFinished(3000)

    def _read(self) -> None:
        self._said += bytes(self._process.readAllStandardError().data()).decode(errors="replace")
        *whole, self._said = self._said.split("\n")
        for line in whole:
            share = re.fullmatch(r"\s*(\d+)%", line)
            if share:
                self.progressed.emit(int(share[1]) / 100.0)
            else:
                self._said = line

    def _failed(self, fault: QProcess.ProcessError) -> None:
        # Only a process that never began is not told of as finished.
        if fault == QProcess.ProcessError.FailedToStart:
            self.ended.emit("the export could not be started: no file was written")

    def _finished(self, status: int, how: QProcess.ExitStatus) -> None:
        self._read()
        done = status == 0 and how == QProcess.ExitStatus.NormalExit
        fault = self._said.removeprefix("plain-stride: ").strip()
        if self._stopped and not done:
            fault = "stopped: no file was written"
        self.ended.emit("" if done else fault or "the export ended early: no file was written")
