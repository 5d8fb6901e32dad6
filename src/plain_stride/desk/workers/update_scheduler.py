"""What shows facts of the job beside the sheet: brought up to date one after the other, and never under the pen."""

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

Work = Callable[[], object]
REST_MS = 60
"""A line is on its way to the disk first."""


class UpdateScheduler(QObject):
    """Each piece of work is done once in a turn of the event loop of its own, however often it was woken."""

    def __init__(self) -> None:
        super().__init__()
        self._all: list[Work] = []
        self._due: list[Work] = []
        self._held = False
        self._turn = QTimer(self)
        self._turn.timeout.connect(self._next)

    @property
    def busy(self) -> bool:
        return bool(self._due)

    def add(self, work: Work) -> None:
        """Has work done at every `wake`."""
        self._all.append(work)

    def wake(self) -> None:
        """Something of the job has changed."""
        self._due = list(self._all)
        if self._due and not self._held:
            self._turn.start(REST_MS)

    def hold(self, held: bool) -> None:
        """Nothing is done while it is held: the pen is down."""
        self._held = held
        if held:
            self._turn.stop()
        elif self._due:
            self._turn.start(REST_MS)

    def close(self) -> None:
        """Nothing is done any more."""
        self._turn.stop()
        self._all, self._due = [], []

    def _next(self) -> None:
        work = self._due.pop(0)
        if self._due:
            self._turn.setInterval(0)
        else:
            self._turn.stop()
        work()
