"""The protocol of work beside the window: a process that stands by, is told of changes, is asked, and answers.

A question is a frozen dataclass that knows how it is answered; it comes pickled, and so does the answer. Nothing here
knows the window.
"""

import os
import queue
import threading
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import Any, Protocol

from plain_stride.errors import StrideError
from plain_stride.job.logfile import log_crash

YIELDING = 15
Progress = Callable[[float], bool]
"""Told the share done, 0 to 1; gives False where the work is to stop."""


class StoppedError(StrideError):
    """It was stopped before it was done."""


class Question(Protocol):
    """What can be asked of a worker."""

    def answered(self, at: Any, progress: Progress) -> Any:
        """The answer, from what the worker has. Raises StrideError."""


class AtWork(Protocol):
    """What a worker has. follow: takes over a change."""

    def follow(self, change: Any) -> None: ...


@dataclass(frozen=True)
class Ask:
    number: int
    question: Question


@dataclass(frozen=True)
class Follow:
    change: Any


@dataclass(frozen=True)
class Stop:
    number: int


@dataclass(frozen=True)
class Progressed:
    number: int
    share: float


@dataclass(frozen=True)
class Answered:
    """after: how many changes had been followed."""

    number: int
    value: Any
    after: int


@dataclass(frozen=True)
class Failed:
    """words: a sentence; stopped: it was asked to stop."""

    number: int
    words: str
    stopped: bool = False


Message = Ask | Follow | Stop
Reply = Progressed | Answered | Failed


def serve(connection: Connection, prepare: Callable[[], AtWork]) -> None:
    """Answers until the other side is gone; yields to the pen. prepare: makes what questions are answered from."""
    os.nice(YIELDING)
    _Server(connection, prepare).run()


class _Server:
    """Messages are read by a thread of their own, so that a stop comes through while something is worked on."""

    def __init__(self, connection: Connection, prepare: Callable[[], AtWork]) -> None:
        self._connection, self._prepare = connection, prepare
        self._work: queue.SimpleQueue[Ask | Follow | None] = queue.SimpleQueue()
        self._stopped: set[int] = set()
        self._at: AtWork | None = None
        self._followed = 0

    def run(self) -> None:
        threading.Thread(target=self._read, daemon=True).start()
        while (message := self._work.get()) is not None:
            if isinstance(message, Ask):
                self._answer(message)
            else:
                self._followed += 1
                self._ready().follow(message.change)

    def _read(self) -> None:
        try:
            while True:
                message = self._connection.recv()
                if isinstance(message, Stop):
                    self._stopped.add(message.number)
                else:
                    self._work.put(message)
        except (EOFError, OSError):
            self._work.put(None)

    def _ready(self) -> AtWork:
        if self._at is None:
            self._at = self._prepare()
        return self._at

    def _answer(self, ask: Ask) -> None:
        told = -1

        def progress(share: float) -> bool:
            nonlocal told
            if ask.number in self._stopped:
                return False
            if int(share * 100.0) > told:
                told = int(share * 100.0)
                self._tell(Progressed(ask.number, share))
            return True

        try:
            if ask.number in self._stopped:
                raise StoppedError("stopped")
            self._tell(Answered(ask.number, ask.question.answered(self._ready(), progress), self._followed))
        except StrideError as fault:
            self._tell(Failed(ask.number, str(fault), ask.number in self._stopped))
        except Exception as fault:
            self._tell(Failed(ask.number, f"something went wrong ({fault}). The log: {log_crash()}"))

    def _tell(self, reply: Reply) -> None:
        try:
            self._connection.send(reply)
        except OSError:
            # Nobody listens any more: the reader has found that out as well.
            self._work.put(None)
