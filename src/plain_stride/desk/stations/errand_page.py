"""What pages share that have work of seconds done by another process: begun, shown, stopped, one at a time."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Sentence, Word
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.mend_page import MendPage
from plain_stride.errors import StrideError
from plain_stride.job.serving import Failed, Progressed, Question, Reply


class ErrandPage(MendPage):
    """progressed: the share done of what is being worked on, None when it is over; stop_word: stops it; status: what is
    being done, or was."""

    progressed = Signal(object)
    stopped_words = "stopped: nothing was changed"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._worker, self._number = session.document.errands, 0
        self.stop_word, self.status = Word("stop"), Sentence()
        self.stop_word.setVisible(False)
        self.stop_word.clicked.connect(self.stop)

    @property
    def working(self) -> bool:
        """Whether something is being done."""
        return self._number > 0

    def begin(self, question: Question, done: Callable[[Any], None]) -> bool:
        """Has a question answered once all is saved; `done` gets the answer. False where it cannot begin, which is
        said."""
        self.fault.say("")
        if self._number:
            self.fault.say("One thing is being done already: wait for it, or stop it.")
            return False
        try:
            self.session.saving.save_all()
        except StrideError as fault:
            self.fault.say(f"{fault}. Nothing was written.")
            return False
        self._number = self._worker.ask(question, lambda reply: self._told(reply, done))
        self.stop_word.setVisible(True)
        return True

    def stop(self) -> None:
        """Stops what is being done."""
        self._worker.stop_soon(self._number)

    def _told(self, reply: Reply, done: Callable[[Any], None]) -> None:
        if isinstance(reply, Progressed):
            self.progressed.emit(reply.share)
            return
        self._number = 0
        self.progressed.emit(None)
        self.stop_word.setVisible(False)
        self.refresh()
        if isinstance(reply, Failed):
            self.status.say("")
            self.fault.say(self.stopped_words if reply.stopped else reply.words)
        else:
            done(reply.value)
