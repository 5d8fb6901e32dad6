"""Weigh, page See: the weight map, the drawing overdone, with the plan and without."""

from PySide6.QtCore import Signal
from PySide6.QtGui import QPainter

from plain_stride.desk.controls.controls import Choice, Heading, Sentence, Slider
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.look.inked import tapered
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.base import Page
from plain_stride.measure import MeasureError

OFF, ON = "off", "on"
MOST_TIMES = 3.0


class SeePage(Page):
    """Views only: no line is changed. overdone: by how much, 1 for as it is; mapped: whether widths are shown in
    bands."""

    overdone = Signal(float)
    mapped = Signal(bool)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.times = 1.0
        self._over = Slider("Overdone", _draw, _times, _read, lambda v: (v - 1.0) / (MOST_TIMES - 1.0),
                            lambda s: 1.0 + s * (MOST_TIMES - 1.0), 0.0)  # fmt: skip
        self._over.settled.connect(self._overdo)
        self._map = Choice((OFF, ON), OFF, "The weight map")
        self._map.chosen.connect(lambda word: self.mapped.emit(word == ON))
        self._legend = Sentence()
        what = Sentence("Every width drawn farther from the plan's base than it is. Nothing is changed by it.")
        before = Sentence(f"Hold **{KEYS.shown('H')}** to see your hand alone; **{KEYS.shown('N')}** shows the drawing"
                          " as it was at the last mark.")  # fmt: skip
        self.add(Heading("Weight overdone"), what, self._over)
        self.add(Heading("Weight map"), self._map, self._legend)
        self.add(Heading("With the plan and without"), before)

    @property
    def shows_map(self) -> bool:
        return self._map.current() == ON

    def show_map(self, on: bool) -> None:
        """Shows the weight map, or the drawing as it is."""
        self._map.show_chosen(ON if on else OFF)
        self.mapped.emit(on)

    def refresh(self) -> None:
        self._over.show_value(self.times)

    def say_bands(self, words: str) -> None:
        """The legend of the map."""
        self._legend.say(words)
        self._legend.setVisible(bool(words))

    def _overdo(self, times: float) -> None:
        self.times = times
        self.overdone.emit(times)


def _draw(painter: QPainter, wide: float, high: float) -> None:
    painter.fillPath(tapered(round(wide), 2.0, 12.0), THEME.color("text"))


def _times(value: float) -> str:
    return "as it is" if value <= 1.0 else f"{value:.1f} times"


def _read(text: str) -> float:
    try:
        value = float(text.replace("times", "").replace(",", ".").strip())
    except ValueError:
        raise MeasureError(f"'{text.strip()}' is no number of times") from None
    if not 1.0 <= value <= MOST_TIMES:
        raise MeasureError(f"weights are overdone 1 to {MOST_TIMES:g} times")
    return value
