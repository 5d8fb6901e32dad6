"""The thread that works out lifted pulls: the pen may be down again before the line is steadied and fitted."""

from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QObject, Signal

from plain_stride.job.shapes import Prepared


@dataclass(frozen=True, eq=False)
class Coming:
    """A pull on its way to a line: the arguments of its change, the work, and who is told its line's id (or None)."""

    arguments: dict[str, Any]
    work: Future[Prepared]
    laid: Callable[[str | None], object]


class Finisher(QObject):
    """Pulls in the order in which they were lifted. `worked` comes in the window's thread when one may be laid."""

    worked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._coming: deque[Coming] = deque()
        self._thread = ThreadPoolExecutor(1, "finisher")

    def __len__(self) -> int:
        return len(self._coming)

    def put(
        self, arguments: dict[str, Any], work: Callable[[], Prepared], laid: Callable[[str | None], object]
    ) -> None:
        """Begins to work a pull out; returns at once."""
        future = self._thread.submit(work)
        self._coming.append(Coming(arguments, future, laid))
        future.add_done_callback(lambda _: self.worked.emit())

    def take(self, wait: bool) -> Coming | None:
        """The oldest pull, when it is worked out or is waited for."""
        if not self._coming or not (wait or self._coming[0].work.done()):
            return None
        self._coming[0].work.exception()
        return self._coming.popleft()

    def close(self) -> None:
        self._thread.shutdown()
