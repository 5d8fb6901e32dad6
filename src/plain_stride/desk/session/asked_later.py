"""What is asked of the drawing only while it is looked at, once nothing has changed for a moment, and kept while it is
true."""

from PySide6.QtCore import QObject, QTimer, Signal

from plain_stride.desk.session.session import Session

ASK_MS = 250


class AskedLater(QObject):
    """changed: what is known is another now. Whoever asks says in `known` whether it is true of the job as it is, and
    asks in `_ask`."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._at_work = False
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(ASK_MS)
        self._later.timeout.connect(self._ask)
        session.updates.add(self._wake)

    @property
    def known(self) -> bool:
        """Whether what was found is of the job as it is now."""
        raise NotImplementedError

    def work(self, on: bool) -> None:
        """Whether it is looked at: only then is it asked for."""
        self._at_work = on
        self._wake()

    def _wake(self) -> None:
        if self._at_work and not self.known:
            self._later.start()

    def _ask(self) -> None:
        raise NotImplementedError
