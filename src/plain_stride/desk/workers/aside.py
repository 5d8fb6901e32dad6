"""Work of seconds beside the window: done in a thread, waited for by a loop of events, so that the pen goes on."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

from PySide6.QtCore import QEventLoop, QObject, Signal

from plain_stride.errors import StrideError

T = TypeVar("T")


class _Bell(QObject):
    rung = Signal()


class Aside:
    """One piece of work at a time."""

    def __init__(self) -> None:
        self._busy = False

    def worked(self, work: Callable[[], T]) -> T:
        """What work comes to. Events are dealt with meanwhile; what it raises is raised here. Raises StrideError where
        another piece is under way."""
        if self._busy:
            raise StrideError("another file is being read: wait for it")
        self._busy = True
        bell, loop = _Bell(), QEventLoop()
        bell.rung.connect(loop.quit)
        try:
            with ThreadPoolExecutor(1, "aside") as thread:
                future = thread.submit(work)
                future.add_done_callback(lambda _: bell.rung.emit())
                if not future.done():
                    loop.exec()
                return future.result()
        finally:
            self._busy = False
