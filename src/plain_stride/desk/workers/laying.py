"""Lines of an import worked out beside the window: a few in a thread, many in a process that stands by for it."""

import multiprocessing
import os
from concurrent.futures import CancelledError, Executor, Future, ProcessPoolExecutor, ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool

from PySide6.QtCore import QEventLoop, QObject, Signal

from plain_stride.errors import StrideError
from plain_stride.job.laying_out import Sheet, laid_out
from plain_stride.lines.recipe import Worked

FEW, BATCH = 40, 25
"""Up to so many lines are worked out in a thread; the process works them out so many at a time."""
YIELDING = 15


class LayingStoppedError(StrideError):
    """The inker stopped it."""


class Laying(QObject):
    """progressed: the share done, None when it is over; busy: something is under way."""

    progressed = Signal(object)
    _came = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._process: ProcessPoolExecutor | None = None
        self._coming: list[Future[list[Worked | None]]] = []
        self.busy, self._stopped = False, False

    def worked(self, sheets: list[Sheet]) -> list[Worked | None]:
        """All lines worked out; events are dealt with meanwhile. Raises StrideError where it is stopped, or where the
        process ended, which is made anew next time."""
        if self.busy:
            raise StrideError("another file is being laid: wait for it, or stop it with Esc")
        self.busy, self._stopped = True, False
        try:
            return self._worked(sheets)
        finally:
            self.busy = False

    def _worked(self, sheets: list[Sheet]) -> list[Worked | None]:
        size = BATCH if len(sheets) > FEW else max(len(sheets), 1)
        batches = [sheets[k : k + size] for k in range(0, len(sheets), size)]
        if len(sheets) <= FEW:
            with ThreadPoolExecutor(1, "laying") as thread:
                return self._taken(thread, batches)
        try:
            return self._taken(self._standing(), batches)
        except BrokenProcessPool:
            self._process = None
            raise StrideError("the work beside the window ended early: nothing was laid; do it again") from None

    def stop(self) -> bool:
        """Gives up what is under way; whether there was anything."""
        self._stopped = self.busy
        for future in self._coming:
            future.cancel()
        return self._stopped

    def close(self) -> None:
        self.stop()
        if self._process is not None:
            self._process.shutdown(wait=False, cancel_futures=True)

    def _standing(self) -> ProcessPoolExecutor:
        if self._process is None:
            server = multiprocessing.get_context("forkserver")
            server.set_forkserver_preload(["plain_stride.job.laying_out"])
            self._process = ProcessPoolExecutor(1, server, _began)
        return self._process

    def _taken(self, where: Executor, batches: list[list[Sheet]]) -> list[Worked | None]:
        loop = QEventLoop()
        self._came.connect(loop.quit)
        self._coming = [where.submit(laid_out, batch) for batch in batches]
        try:
            for future in self._coming:
                future.add_done_callback(lambda _: self._came.emit())
            while not all(future.done() for future in self._coming):
                loop.exec()
                self.progressed.emit(sum(future.done() for future in self._coming) / len(batches))
            # A batch that had begun comes to its end: what is stopped is not laid all the same.
            if self._stopped:
                raise LayingStoppedError("stopped: nothing was laid")
            return [line for future in self._coming for line in future.result()]
        except CancelledError:
            raise LayingStoppedError("stopped: nothing was laid") from None
        finally:
            self._coming = []
            self._came.disconnect(loop.quit)
            self.progressed.emit(None)


def _began() -> None:
    """What the process does first: it yields to the pen, and loads the loops if they are compiled."""
    from plain_stride.compiled.ready import load_if_compiled

    os.nice(YIELDING)
    load_if_compiled()
