"""A walk of eight short steps over the demo: each says what to do, sees when it was done, and goes on by itself."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal

from plain_stride.desk.keys.key_plan import KEYS


@dataclass(frozen=True)
class WalkStep:
    """words: what to do, {0} where a key is named; key: its use; done: what has to happen, see `Walk.happened`."""

    words: str
    done: tuple[str, ...]
    key: str = ""


STEPS = (
    WalkStep("Hold **{0}**: the pencils go, and the ink stands alone. Let go.", ("key A",), "A"),
    WalkStep("Pull a line along the roof's pencils, with the pen or the left mouse button.", ("made pull",)),
    WalkStep("Not good enough? Tap **{0}** to take it back, then pull again: nothing is lost by it.", ("key Z",), "Z"),
    WalkStep("Point at a line, hold **{0}** and push the pen up: it swells there.", ("made swell",), "S"),
    WalkStep("Point at an end that sticks out and tap **{0}**: it is trimmed to the nearest crossing. Or hold it to see"
             " first.", ("made trim", "key Y"), "Y"),
    WalkStep("Press the part's name at the upper right, and take another part from the list.", ("part",)),
    WalkStep("Go to **Weigh**, and hold **{0}**: your hand's widths, then the plan's again.", ("key H",), "H"),
    WalkStep("Go to **Hand over**: what is written there is the ink, at print size.", ("station Hand over",)),
)  # fmt: skip


class Walk(QObject):
    """said: (words, verb, what it does) of the step in hand. ended: the walk is over, or was left."""

    said = Signal(str, str, object)
    ended = Signal(bool)

    def __init__(self) -> None:
        super().__init__()
        self._at = -1

    @property
    def step(self) -> int:
        """The number of the step in hand, from 1; 0 where there is none."""
        return self._at + 1

    def begin(self) -> None:
        self._at = 0
        self._say()

    def leave(self) -> None:
        """Ends it where it is."""
        if self._at >= 0:
            self._at = -1
            self.ended.emit(False)

    def happened(self, what: str) -> None:
        """Something was done: 'key A', 'made pull', 'part', 'station Weigh'."""
        if 0 <= self._at < len(STEPS) and what in STEPS[self._at].done:
            self.go_on()

    def go_on(self) -> None:
        """The next step, or the end."""
        self._at += 1
        if self._at < len(STEPS):
            self._say()
        else:
            self._at = -1
            self.ended.emit(True)

    def _say(self) -> None:
        step = STEPS[self._at]
        words = step.words.format(KEYS.shown(step.key)) if step.key else step.words
        skip: Callable[[], None] = self.go_on
        self.said.emit(f"**{self._at + 1} of {len(STEPS)}.** {words}", "skip this step", skip)
