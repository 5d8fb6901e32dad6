"""Pencils, page Clean: how dark and in what colour they are shown, light, levels, specks, blue told from graphite."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtCore import QPoint
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QColorDialog, QMenu

from plain_stride import measure
from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence, Slider, Word, tinted
from plain_stride.desk.controls.hints import Explained
from plain_stride.desk.look.inked import stroke
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.pencil_image import tint_colour
from plain_stride.desk.stations.base import Page
from plain_stride.desk.stations.pencil_sheet import SheetInHand
from plain_stride.errors import StrideError
from plain_stride.job.changes import TINTS
from plain_stride.pencils.cleaning import PENCILS, Cleaning

DEFAULT_FADE = 0.15
SCHOOL_FADES = {"ink first, 8 %": 0.08, "to follow, 22 %": 0.22}
"""The middles of what the two schools keep: 3 to 15 and 20 to 25 %."""
LIGHTS = ("light as it fell", "light flattened")


class CleanPage(Page):
    def __init__(self, session: Session, sheet: SheetInHand) -> None:
        super().__init__(session)
        self._sheet = sheet
        self._fade = Slider("Fade", _draw_fade, lambda v: f"{v * 100:.0f} %", partial(_per_cent, "a fade"), _same,
                            _same, DEFAULT_FADE, 0.01)  # fmt: skip
        self._words = Explained("Fade and tint", "pencils")
        schools = [Word(words) for words in SCHOOL_FADES]
        self._tint, self._all = Word(""), Word("fade all so")
        self._light = Choice(LIGHTS, LIGHTS[0], "Light of the scan")
        self._white = Slider("Paper up to", _draw_white, _shown, partial(_per_cent, "a level"), _same, _same, 0.0, 0.02)
        self._black = Slider("Black from", _draw_black, _shown, partial(_per_cent, "a level"), _same, _same, 1.0, 0.02)
        self._specks = Field("Specks gone below")
        self._pencil = Choice(PENCILS, PENCILS[0], "Which pencil is kept")
        self._fault, self._undo = Sentence("", colour="red"), Word("as it was scanned")
        self._clean = [self._light, self._white, self._black, self._specks, Heading("Pencil kept"),
                       self._pencil, self._undo]  # fmt: skip
        self._empty = Sentence("Place a scan first: then its light, levels and colour are set here.", colour="faint")
        self._shade = [self._words, self._fade, *schools, self._tint]
        self._key = Explained("Scan", "K", "The key K shows the scan as it came, while it is held.")
        self.add(self._empty, self._words, self._fade)
        self.add_verbs(*schools)
        self.add_verbs(self._tint, self._all)
        self.add(self._key, *self._clean, self._fault)
        self._fade.settled.connect(lambda v: sheet.change(fade=v))
        self._fade.moving.connect(self._say_fade)
        for word, fade in zip(schools, SCHOOL_FADES.values(), strict=True):
            word.clicked.connect(partial(self._set_fade, fade))
        self._all.clicked.connect(self._fade_all)
        self._tint.clicked.connect(lambda: self.tints().exec(self._tint.mapToGlobal(QPoint(0, self._tint.height()))))
        self._light.chosen.connect(lambda word: self._set(even=word == LIGHTS[1]))
        self._white.settled.connect(lambda v: self._set(white=v))
        self._black.settled.connect(lambda v: self._set(black=v))
        self._specks.typed.connect(self._set_specks)
        self._pencil.chosen.connect(lambda word: self._set(pencil=word))
        self._undo.clicked.connect(lambda: sheet.change(clean=None))

    def _fade_all(self) -> None:
        """All sheets of pencils as pale as this one, in one step; references keep their own colours."""
        fade = self._sheet.row.fade
        others = [key for key, row in self.session.job.pencils() if row.kind != "reference" and row.fade != fade]
        self.session.make_several([("pencils", {"sheet": key, "fade": fade}) for key in others], "pencils")

    def _set_fade(self, fade: float) -> None:
        self._sheet.change(fade=fade)

    def refresh(self) -> None:
        row = self._sheet.row
        self._empty.setVisible(row is None)
        for widget in (*self._shade, self._key, self._fault):
            widget.setVisible(row is not None)
        scan = row is not None and row.kind != "passes"
        for widget in self._clean:
            widget.setVisible(scan)
        if row is None:
            return
        fades = {other.fade for _, other in self.session.job.pencils() if other.kind != "reference"}
        self._all.setVisible(len(fades) > 1)
        self._fade.show_value(row.fade)
        self._say_fade(row.fade)
        self._tint.setText(f"tint: {row.tint}…")
        self._tint.setAccessibleName(self._tint.text())
        self._tint.updateGeometry()
        if scan:
            self._show_cleaning(row.cleaning, bool(row.locked))

    def _show_cleaning(self, clean: Cleaning, locked: bool) -> None:
        self._light.show_chosen(LIGHTS[clean.even])
        self._white.show_value(clean.white)
        self._black.show_value(clean.black)
        self._specks.show_text(f"{clean.speck_mm:g} mm")
        self._pencil.show_chosen(clean.pencil)
        for widget in self._clean:
            widget.setEnabled(not locked)
        self._undo.setVisible(not clean.plain)

    def _say_fade(self, fade: float) -> None:
        if fade <= 0.15:
            words = "the eye judges the ink alone. Others keep 20 to 25 %."
        elif fade <= 0.25:
            words = "pencils to follow. Others keep 3 to 15 %, to judge the ink alone."
        else:
            words = "darker than either school keeps them: 3 to 15 %, or 20 to 25 %."
        self._words.explain(f"**{fade * 100:.0f} %:** {words}")

    def _set(self, **values: object) -> None:
        try:
            clean = replace(self._sheet.row.cleaning, **values)
        except StrideError as fault:
            self._fault.say(str(fault))
            self.refresh()
            return
        self._fault.say("")
        self._sheet.change(clean=clean.as_row())

    def _set_specks(self, text: str) -> None:
        try:
            self._set(speck_mm=measure.parse_length_mm(text))
        except StrideError as fault:
            self._fault.say(str(fault))

    def tints(self) -> QMenu:
        menu = QMenu(self.window())
        for tint in TINTS:
            menu.addAction(tint, partial(self._sheet.change, tint=tint))
        menu.addAction("any colour…", self._ask_colour)
        return menu

    def _ask_colour(self) -> None:
        colour = QColorDialog.getColor(tint_colour(str(self._sheet.row.tint)), self, "Tint of the pencils")
        if colour.isValid():
            self._sheet.change(tint=colour.name())


def _same(value: float) -> float:
    return value


def _shown(value: float) -> str:
    return f"{value * 100:.0f} %"


def _per_cent(what: str, text: str) -> float:
    try:
        value = float(text.replace("%", "").replace(",", ".").strip()) / 100.0
    except ValueError:
        raise measure.MeasureError(f"'{text.strip()}' is no percentage") from None
    if not 0.0 <= value <= 1.0:
        raise measure.MeasureError(f"{what} goes from 0 to 100 %")
    return value


def _draw_fade(painter: QPainter, wide: float, high: float) -> None:
    """A doubled pencil line that comes out of nothing."""
    _draw_pencil(painter, wide, lambda share: share)


def _draw_white(painter: QPainter, wide: float, high: float) -> None:
    """A pencil line over grey paper that turns white."""
    painter.fillRect(0, -5, round(wide), 10, tinted(THEME.color("faint"), 0.12))
    _draw_pencil(painter, wide, lambda share: 1.0 - 0.7 * share)


def _draw_black(painter: QPainter, wide: float, high: float) -> None:
    """A pencil line that is black early, and only where it was firm."""
    _draw_pencil(painter, wide, lambda share: 1.0 - 0.6 * share)


def _draw_pencil(painter: QPainter, wide: float, strength: Callable[[float], float]) -> None:
    n = 24
    for k in range(n):
        x = np.linspace(k / n, (k + 1) / n, 6) * wide
        for off in (-2.0, 2.2):
            y = off + 1.2 * np.sin(x / 17.0 + off)
            path = stroke(np.column_stack([x, y]), np.full(6, 2.2))
            painter.fillPath(path, tinted(THEME.color("ahead"), strength((k + 1) / n)))
