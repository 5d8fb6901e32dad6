"""From when on a pull is advised on: the thresholds of the advice, kept for this user."""

import json
from collections.abc import Callable
from dataclasses import asdict, fields, replace
from functools import partial

from PySide6.QtWidgets import QDialog, QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import Field, Heading, Sentence, Word, plain_number
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.settings import Settings
from plain_stride.errors import StrideError
from plain_stride.hand.advice import Thresholds

LEAST, MOST = 0.001, 10_000.0
ASKED = {
    "shake": ("Shaky, from so much shake on the tablet", "mm"),
    "slow": ("Then faster, if it was pulled slower than", "mm/s"),
    "helped": ("Steadying helped, from so much shake", "mm"),
    "flat": ("Flat in a bend, moved by more than", "mm"),
    "tight": ("A bend is tight, below a radius of", "mm"),
    "missed": ("Its end misses the pencils by more than", "mm"),
    "long": ("Beyond the wrist, longer on the tablet than", "mm"),
}


def kept_thresholds(settings: Settings) -> Thresholds:
    """What was set; what cannot be read counts as not set."""
    try:
        row = json.loads(str(settings.get("advice", "{}")))
        known = {field.name for field in fields(Thresholds)}
        return Thresholds(**{k: float(v) for k, v in row.items() if k in known and LEAST <= float(v) <= MOST})
    except (ValueError, TypeError, AttributeError):
        return Thresholds()


def keep_thresholds(settings: Settings, at: Thresholds) -> None:
    settings.put("advice", json.dumps(asdict(at)))


class AdviceSheet(QDialog):
    """One figure a row; told is called with each new set. Escape closes it."""

    def __init__(self, parent: QWidget, at: Thresholds, told: Callable[[Thresholds], object]) -> None:
        super().__init__(parent)
        self.setWindowTitle("When a pull is advised on")
        self.setStyleSheet(f"QDialog {{ background: {THEME.palette.margin} }}")
        self._at, self._told = at, told
        column = QVBoxLayout(self)
        column.setContentsMargins(THEME.px(24), THEME.px(14), THEME.px(24), THEME.px(18))
        column.addWidget(Heading("Advice on a pull is given"))
        self.rows = {name: Field(words, 110) for name, (words, _) in ASKED.items()}
        for name, row in self.rows.items():
            row.typed.connect(partial(self._typed, name))
            column.addWidget(row)
        self.fault, usual = Sentence("", colour="red"), Word("as they were at first")
        usual.clicked.connect(lambda: self._take(Thresholds()))
        column.addWidget(self.fault)
        column.addWidget(usual)
        self.setMinimumWidth(THEME.px(460))
        self._show()

    def _show(self) -> None:
        for name, row in self.rows.items():
            row.show_text(f"{getattr(self._at, name):g} {ASKED[name][1]}")

    def _typed(self, name: str, text: str) -> None:
        unit = ASKED[name][1]
        try:
            value = plain_number(text.strip().removesuffix(unit))
            if not LEAST <= value <= MOST:
                raise StrideError(f"{value:g} {unit} is not possible: {LEAST:g} to {MOST:g} {unit}")
        except StrideError as fault:
            self.fault.say(f"{fault}. It stays as it was.")
            self._show()
            return
        self._take(replace(self._at, **{name: value}))

    def _take(self, at: Thresholds) -> None:
        self.fault.say("")
        self._at = at
        self._told(at)
        self._show()
