"""A quiet word about hands and breaks, once in a while, as often as the inker likes; never medical advice."""

from PySide6.QtCore import QObject, QTimer, Signal

MINUTES = (0, 20, 45, 90)
DEFAULT_MINUTES = 45
CAUTION = (
    "Loose grip, no tension in the shoulder; long lines from elbow and shoulder; turn the board, not the wrist. Stop at"
    " pain or numbness: that is a matter for a doctor."
)
"""The usual cautions, as anybody who teaches inking says them; no medical advice."""
WORDS = (
    "You have pulled lines for {n} minutes: let the hand lie open, look far away, change the grip. Pain or numbness"
    " that stays is a matter for a doctor."
)
LOADED = (
    "Your hand has had **{n:.0f} minutes** of load, long and firm pulls counted double: let it lie open, look far away."
    " Pain or numbness that stays is a matter for a doctor."
)
LOAD_SHARE = 0.4
"""Of the minutes that were set, with the pen down: as much of a load as all of them at work. Common practice has no
figure; the minutes are a setting."""
TICK_MS = 60_000


class Cautions(QObject):
    """Counts minutes in which lines were pulled, and the load of the pulls; `due` says the words, once, then it begins
    anew."""

    due = Signal(str)

    def __init__(self, minutes: int) -> None:
        super().__init__()
        self.minutes = minutes
        self._worked, self._pulled, self._load = 0, False, 0.0
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

    def loaded(self, seconds: float) -> None:
        """A pull was made, of so much load: see `hand.load`."""
        self._load += seconds

    def tick(self) -> None:
        """A minute has gone; one without a pull is a rest, and the count begins anew after several."""
        self._worked = self._worked + 1 if self._pulled else max(0, self._worked - 5)
        if not self._pulled:
            self._load = max(0.0, self._load - 5.0 * LOAD_SHARE * 60.0)
        self._pulled = False
        if self.minutes and self._load >= self.minutes * LOAD_SHARE * 60.0:
            self._say(LOADED.format(n=self._load / 60.0))
        elif self.minutes and self._worked >= self.minutes:
            self._say(WORDS.format(n=self.minutes))

    def _say(self, words: str) -> None:
        self._worked, self._load = 0, 0.0
        self.due.emit(words)
