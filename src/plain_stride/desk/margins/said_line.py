"""The sentence at the head of the notes: what was just done, or what is wrong."""

from PySide6.QtCore import QTimer

from plain_stride.desk.controls.controls import Sentence

SAID_MS = 9000


class SaidLine(Sentence):
    """One that is no fault goes by itself; a fault stays until its cause is gone."""

    def __init__(self) -> None:
        super().__init__()
        self._faulty = False
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.setInterval(SAID_MS)
        self._quiet.timeout.connect(lambda: self.say(""))

    def tell(self, words: str, fault: bool) -> None:
        self.say(words, "red" if fault else "text")
        self._faulty = fault
        if fault:
            self._quiet.stop()
        else:
            self._quiet.start()

    def cause_gone(self) -> None:
        """A fault that was said is past."""
        if self._faulty:
            self.say("")
            self._faulty = False
