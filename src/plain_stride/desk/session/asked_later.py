"""What is asked of the drawing only while it is looked at, once nothing has changed for a moment, and kept while it is
true."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

from plain_stride.desk.session.session import Session
from plain_stride.job.serving import Question

ASK_MS = 250


class AskedLater(QObject):
    """changed: what is known is another now."""

    changed = Signal()

    def __init__(
        self,
        session: Session,
        question: Callable[[], Question],
        take: Callable[[Any], object],
        few_lines: int,
        also: Callable[[], object] = lambda: None,
    ) -> None:
        """question: makes what is asked; take: gets the answer; few_lines: a job of so few is asked here; also: what
        the answer is true of, besides the job."""
        super().__init__()
        self._session = session
        self._question, self._take_in, self._few, self._also = question, take, few_lines, also
        self._true_of: tuple[int, object] | None = None
        self._at_work = False
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(ASK_MS)
        self._later.timeout.connect(self._ask)
        session.updates.add(self.wake)

    @property
    def known(self) -> bool:
        """Whether what was found is of the job as it is now."""
        return self._true_of == self._now()

    def work(self, on: bool) -> None:
        """Whether it is looked at: only then is it asked for."""
        self._at_work = on
        self.wake()

    def wake(self) -> None:
        """What is known may be true no more."""
        if self._at_work and not self.known:
            self._later.start()

    def ask_anew(self) -> None:
        """What is known is true no more."""
        self._true_of = None
        self.wake()

    def _now(self) -> tuple[int, object]:
        return self._session.job.version, self._also()

    def _ask(self) -> None:
        asked = self._now()
        self._session.drawing.ask(self._question(), lambda found: self._answered(found, asked), self._few)

    def _answered(self, found: object, asked: tuple[int, object]) -> None:
        self._true_of = asked
        self._take_in(found)
        self.changed.emit()
