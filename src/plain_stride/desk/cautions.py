"""A quiet word about hands and breaks, once in a while, as often as the inker likes; never medical advice."""

from PySide6.QtCore import QObject, QTimer, Signal

MINUTES = (0, 20, 45, 90)
DEFAULT_MINUTES = 45
WORDS = (
    "You have pulled lines for {n} minutes: let the hand lie open, look far away, change the grip. Pain or numbness"
    " that stays is a matter for a doctor."
)
TICK_MS = 60_000


class Cautions(QObject):
    """Counts minutes in which lines were pulled; `due` says the words, once, then it begins anew."""

    due = Signal(str)

    def __init__(self, minutes: int) -> None:
        super().__init__()
        self.minutes = minutes
        self._worked, self._pulled = 0, False
        self._timer = QTimer(self)
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self.tick)
        self._timer.start()

    def use(self, minutes: int) -> None:
        """Says them after so many minutes, never for 0."""
        self.minutes = minutes

    def pulled(self) -> None:
        """A line was pulled in this minute."""
        self._pulled = True

    def tick(self) -> None:
        """A minute has gone; one without a pull is a rest, and the count begins anew after several."""
        self._worked = self._worked + 1 if self._pulled else max(0, self._worked - 5)
        self._pulled = False
        if self.minutes and self._worked >= self.minutes:
            self._worked = 0
            self.due.emit(WORDS.format(n=self.minutes))
