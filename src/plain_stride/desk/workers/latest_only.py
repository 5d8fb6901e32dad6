"""The thread that works out what is only tried: while a question is worked on, newer ones take each other's place."""

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any

from PySide6.QtCore import QObject, Signal

from plain_stride.job.logfile import logger


class LatestOnly(QObject):
    """answered: what the newest question came to, in the window's thread."""

    answered = Signal(object)
    _worked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._thread = ThreadPoolExecutor(1, "trying")
        self._work: Future[Any] | None = None
        self._next: Callable[[], Any] | None = None
        self._wanted = False
        self._worked.connect(self._tell)
        thread = self._thread
        self.destroyed.connect(lambda: thread.shutdown(wait=False))

    def ask(self, question: Callable[[], Any]) -> None:
        """Begins to work on a question, or keeps it until the one under way is done; returns at once."""
        self._next, self._wanted = question, True
        if self._work is None:
            self._begin()

    def forget(self) -> None:
        """Nothing that was asked is answered any more."""
        self._next, self._wanted = None, False

    def close(self) -> None:
        self.forget()
        self._thread.shutdown()

    def _begin(self) -> None:
        if self._next is not None:
            work, self._next = self._next, None
            self._work = self._thread.submit(work)
            self._work.add_done_callback(lambda _: self._worked.emit())

    def _tell(self) -> None:
        done, self._work = self._work, None
        fault = done.exception() if done is not None else None
        if fault is not None:
            # What is only tried must not stop the work; that it went wrong is not lost all the same.
            logger().error("what was tried went wrong", exc_info=fault)
        elif done is not None and self._wanted:
            self.answered.emit(done.result())
        self._begin()
