"""Lines of an import worked out beside the window: a few in a thread, many by the worker of errands."""

from PySide6.QtCore import QEventLoop, QObject, Signal

from plain_stride.desk.workers.aside import Aside
from plain_stride.desk.workers.standing import StandingWorker
from plain_stride.errors import StrideError
from plain_stride.job.errands import LayOut
from plain_stride.job.laying_out import Sheet
from plain_stride.job.serving import Answered, Failed, Progressed, Reply, StoppedError
from plain_stride.lines.recipe import Worked

FEW = 40
"""Up to so many lines are worked out in a thread."""


class Laying(QObject):
    """progressed: the share done, None when it is over; busy: something is under way."""

    progressed = Signal(object)

    def __init__(self, worker: StandingWorker) -> None:
        super().__init__()
        self._worker, self._aside = worker, Aside()
        self._number = 0
        self.busy, self._stopped = False, False

    def worked(self, sheets: list[Sheet]) -> list[Worked | None]:
        """All lines worked out; events are dealt with meanwhile. Raises StrideError where it is stopped, or where the
        worker ended, which is made anew next time."""
        if self.busy:
            raise StrideError("another file is being laid: wait for it, or stop it with Esc")
        self.busy, self._stopped = True, False
        try:
            errand = LayOut(tuple(sheets))
            return self._beside(errand) if len(sheets) > FEW else self._in_a_thread(errand)
        finally:
            self.busy = False
            self.progressed.emit(None)

    def stop(self) -> bool:
        """Gives up what is under way; whether there was anything."""
        self._stopped = self.busy
        self._worker.stop(self._number)
        return self._stopped

    def _in_a_thread(self, errand: LayOut) -> list[Worked | None]:
        lines = self._aside.worked(lambda: errand.answered(None, lambda share: not self._stopped))
        # What had begun comes to its end: what is stopped is not laid all the same.
        if self._stopped:
            raise StoppedError("stopped: nothing was laid")
        return lines

    def _beside(self, errand: LayOut) -> list[Worked | None]:
        loop, last = QEventLoop(), list[Reply]()

        def told(reply: Reply) -> None:
            if isinstance(reply, Progressed):
                self.progressed.emit(reply.share)
            else:
                last.append(reply)
                loop.quit()

        self._number = self._worker.ask(errand, told)
        if not last:
            loop.exec()
        reply = last[0]
        if isinstance(reply, Answered):
            lines: list[Worked | None] = reply.value
            return lines
        words = reply.words if isinstance(reply, Failed) and not reply.stopped else "stopped: nothing was laid"
        raise StrideError(words)
