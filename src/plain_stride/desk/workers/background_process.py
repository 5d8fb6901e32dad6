"""Long work in another process: the command line's own, so that the pen never waits for it."""

import os
import re
import signal
import sys

from PySide6.QtCore import QObject, QProcess, QProcessEnvironment, Signal

_RUN = "import os, sys; os.nice(10); from plain_stride.cli import main; sys.exit(main(sys.argv[1:]))"


def _one_thread() -> QProcessEnvironment:
    """The environment, with libraries of numbers held to one thread: the other cores are the pen's."""
    environment = QProcessEnvironment.systemEnvironment()
    for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS", "NUMBA_NUM_THREADS"):
        environment.insert(name, "1")
    return environment


class BackgroundProcess(QObject):
    """One piece of work at a time. Signals: progressed (share done), ended (what went wrong, empty when it is done).

    what: 'the export'; nothing: 'no file was written', said where it did not come to its end. out: what it printed.
    """

    progressed = Signal(float)
    ended = Signal(str)

    def __init__(self, parent: QObject, what: str, nothing: str) -> None:
        super().__init__(parent)
        self._what, self._nothing = what, nothing
        self._process = QProcess(self)
        self._process.readyReadStandardError.connect(self._read)
        self._process.readyReadStandardOutput.connect(self._take)
        self._process.finished.connect(self._finished)
        self._process.errorOccurred.connect(self._failed)
        self._said, self.out = "", b""
        self._stopped = False

    @property
    def running(self) -> bool:
        return self._process.state() != QProcess.ProcessState.NotRunning

    def start(self, *arguments: str) -> None:
        """Begins a command of the command line that knows --progress."""
        self._said, self.out, self._stopped = "", b"", False
        self._process.setProcessEnvironment(_one_thread())
        self._process.start(sys.executable, ["-c", _RUN, *arguments, "--progress"])

    def stop(self) -> None:
        """Ends it; nothing is left half-done."""
        if self.running:
            self._stopped = True
            self.rest(False)
            os.kill(self._process.processId(), signal.SIGINT)

    def rest(self, on: bool) -> None:
        """Holds the work while the pen is down, or lets it go on: the pen has the machine to itself."""
        if self.running and self._process.processId() > 0:
            os.kill(self._process.processId(), signal.SIGSTOP if on else signal.SIGCONT)

    def close(self) -> None:
        """Stops it, and waits until nothing of it is left."""
        self.stop()
        self._process.waitForFinished(3000)

    def _take(self) -> None:
        self.out += bytes(self._process.readAllStandardOutput().data())

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
            self.ended.emit(f"{self._what} could not be started: {self._nothing}")

    def _finished(self, status: int, how: QProcess.ExitStatus) -> None:
        self._read()
        self._take()
        done = status == 0 and how == QProcess.ExitStatus.NormalExit
        fault = self._said.removeprefix("plain-stride: ").strip()
        if self._stopped and not done:
            fault = f"stopped: {self._nothing}"
        self.ended.emit("" if done else fault or f"{self._what} ended early: {self._nothing}")
