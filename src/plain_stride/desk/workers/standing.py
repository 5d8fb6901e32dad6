"""A process that stands by for work of seconds: asked, stopped, held under the pen, started anew when it dies."""

import multiprocessing
import os
import signal
from collections.abc import Callable
from contextlib import suppress
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from typing import Any

from PySide6.QtCore import QObject, QSocketNotifier, QTimer, Signal

from plain_stride.job.serving import Ask, Failed, Follow, Message, Progressed, Question, Reply, Stop

_MODULES = ("job.errands", "job.following", "job.questions", "job.weight_questions", "compiled.preloaded")
PRELOADED = [f"plain_stride.{name}" for name in _MODULES]
ENDED = "the work beside the window ended early: do it again"
NOT_STARTED = "the work beside the window could not be started: nothing was done"
CLOSING_S = 3.0
Told = Callable[[Reply], object]
Serve = Callable[..., None]
_ONE_THREAD = ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS", "NUMBA_NUM_THREADS")


def prepare_workers() -> None:
    """Has what workers are forked from come up, which takes a second; does not wait for it."""
    for name in _ONE_THREAD:
        # The other cores are the pen's.
        os.environ.setdefault(name, "1")
    forkserver.set_forkserver_preload(PRELOADED)
    forkserver.ensure_running()


class StandingWorker(QObject):
    """died: the process ended by itself; whatever was asked has been told so, and the next question starts it anew."""

    died = Signal()

    def __init__(self, serve: Serve) -> None:
        """serve: what the process does, with its end of a connection first."""
        super().__init__()
        self._serve = serve
        self._process: BaseProcess | None = None
        self._connection: Connection | None = None
        self._listens: QSocketNotifier | None = None
        self._asked: dict[int, Told] = {}
        self._number = 0
        self._rests = False

    @property
    def running(self) -> bool:
        """Whether the process stands by."""
        return self._process is not None

    @property
    def busy(self) -> bool:
        """Whether an answer is waited for."""
        return bool(self._asked)

    @property
    def pid(self) -> int | None:
        return self._process.pid if self._process is not None else None

    def start(self, *arguments: Any) -> None:
        """Starts the process, with what it is to serve; one that stands by already goes. Raises OSError."""
        if self.running:
            self.close()
        prepare_workers()
        server = multiprocessing.get_context("forkserver")
        here, there = server.Pipe()
        process = server.Process(target=self._serve, args=(there, *arguments), daemon=True)
        process.start()
        there.close()
        self._process, self._connection = process, here
        self._listens = QSocketNotifier(here.fileno(), QSocketNotifier.Type.Read, self)
        self._listens.activated.connect(self._receive)

    def ask(self, question: Question, told: Told) -> int:
        """Asks; `told` gets every reply, the last of them the answer or why there is none. Gives the question's
        number."""
        self._number += 1
        self._asked[self._number] = told
        self._send(Ask(self._number, question))
        return self._number

    def follow(self, change: Any) -> None:
        """Tells of a change, for all that is asked from now on."""
        self._send(Follow(change))

    def stop(self, number: int) -> bool:
        """Gives a question up, at once for who asked it; whether it was waited for."""
        stopped = self.stop_soon(number)
        if stopped:
            self._asked.pop(number)(Failed(number, "stopped", stopped=True))
        return stopped

    def stop_soon(self, number: int) -> bool:
        """Has a question given up, and leaves it to the worker to tell: the answer may be there before. Whether it was
        waited for."""
        if number in self._asked:
            self._send(Stop(number))
        return number in self._asked

    def rest(self, on: bool) -> None:
        """Holds the process while the pen is down, or lets it go on: the pen has the machine to itself."""
        if self.pid is not None and on != self._rests and (self.busy or not on):
            self._rests = on
            # It may have ended in this very moment: that is told by its connection.
            with suppress(ProcessLookupError):
                os.kill(self.pid, signal.SIGSTOP if on else signal.SIGCONT)

    def close(self) -> None:
        """Stops all that is under way, and waits until nothing of the process is left."""
        for number in list(self._asked):
            self.stop(number)
        process = self._let_go()
        if process is not None:
            process.join(CLOSING_S)
            process.kill()
            process.join()

    def _let_go(self) -> BaseProcess | None:
        """Listens to the process no more; it ends when it finds nobody at the other end."""
        self.rest(False)
        if self._listens is not None:
            self._listens.setEnabled(False)
            self._listens.deleteLater()
        if self._connection is not None:
            self._connection.close()
        process, self._process, self._connection, self._listens = self._process, None, None, None
        return process

    def _send(self, message: Message) -> None:
        try:
            if self._connection is None:
                self.start()
            assert self._connection is not None
            self._connection.send(message)
        except OSError:
            words = ENDED if self.running else NOT_STARTED
            # Who asked is told after it knows the number of its question.
            QTimer.singleShot(0, self, lambda: self._died(words))

    def _receive(self) -> None:
        connection = self._connection
        try:
            while connection is not None and connection is self._connection and connection.poll():
                self._tell(connection.recv())
        except (EOFError, OSError):
            self._died()

    def _tell(self, reply: Reply) -> None:
        told = self._asked.get(reply.number)
        if told is None:
            return
        if not isinstance(reply, Progressed):
            del self._asked[reply.number]
        told(reply)

    def _died(self, words: str = ENDED) -> None:
        process = self._let_go()
        if process is not None:
            process.join()
        lost, self._asked = self._asked, {}
        for number, told in lost.items():
            told(Failed(number, words))
        self.died.emit()
