"""Pencils, page Draft: lines laid from the pencils as pale drafts, to be taken or refused."""

import numpy as np
from PySide6.QtGui import QPainter

from plain_stride.desk.controls.controls import Choice, Heading, Sentence, Slider, Word, tinted
from plain_stride.desk.look.inked import stroke
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.session.pencil_reader import PencilReader
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import LoopTool, PointTool
from plain_stride.desk.stations.base import Page
from plain_stride.errors import StrideError
from plain_stride.measure import MeasureError
from plain_stride.pencils.read.confidence import KEPT

TAPER, OWN = "a taper", "your own pressure"


class DraftPage(Page):
    def __init__(self, session: Session, reader: PencilReader) -> None:
        super().__init__(session)
        self._reader = reader
        self._what = Sentence()
        self._sure = Slider("As sure as", _draw_sure, lambda v: f"{v:.0%}", _read_sure, _same, _same, KEPT, 0.05)
        self._left_out = Sentence("", colour="faint")
        self._width = Choice((TAPER, OWN), TAPER, "Width of drafts")
        whole, loop, point = (
            Word("draft the whole sheet"),
            Word("draft where I draw round…"),
            Word("draft line by line…"),
        )
        self._before = [Heading("Draft lines"), self._sure, self._left_out, Heading("As wide as"), self._width, whole,
                        loop, point]  # fmt: skip
        self._heading, self._drafts = Heading("To be taken or refused"), Sentence()
        self._take_chosen, self._take_all = Word("take the chosen"), Word("take them all")
        self._refuse_chosen, self._refuse_all = Word("refuse the chosen"), Word("refuse them all")
        self._into = Word("take the chosen into the part in hand")
        self.add(self._what, *self._before, self._heading, self._drafts)
        self.add_verbs(self._take_chosen, self._refuse_chosen)
        self.add(self._into)
        self.add_verbs(self._take_all, self._refuse_all)
        self.add(Sentence("A help for dull stretches, not a verdict. Drafts are no ink: they are left out of every file"
                          " until they are taken.", colour="faint"))  # fmt: skip
        self._sure.moving.connect(lambda v: self._say_left_out())
        self._doubted = False
        whole.clicked.connect(self._whole)
        loop.clicked.connect(lambda: self.tool_wanted.emit(
            LoopTool("**Draft:** draw round the pencil lines. Esc gives it up.", self._round)))  # fmt: skip
        point.clicked.connect(lambda: self.tool_wanted.emit(
            PointTool("**Draft:** point at one pencil line after the other. Esc ends it.", self._under)))  # fmt: skip
        self._take_chosen.clicked.connect(lambda: self._take(reader.drafts(self.session.chosen or [""])))
        self._into.clicked.connect(
            lambda: self._take(reader.drafts(self.session.chosen or [""]), part=self.session.now.part)
        )
        self._take_all.clicked.connect(lambda: self._take(reader.drafts()))
        self._refuse_chosen.clicked.connect(lambda: self._refuse(reader.drafts(self.session.chosen or [""])))
        self._refuse_all.clicked.connect(lambda: self._refuse(reader.drafts()))

    def _whole(self) -> None:
        """Where the picture looks like no drawing, it is asked first: the second press lays them."""
        reading = self._reader.reading
        if reading is not None and reading.doubt and not self._doubted:
            self._doubted = True
            self.session.said.emit(f"{reading.sentence} Press once more to lay them all the same.", True)
            return
        self._doubted = False
        self._reader.lay_drafts(self._reader.sure(self._sure.value), self._own())

    def _own(self) -> bool:
        return self._width.words[OWN].isChecked()

    def refresh(self) -> None:
        reading, drafts = self._reader.reading, self._reader.drafts()
        for widget in self._before:
            widget.setVisible(reading is not None)
        if reading is None:
            self._what.say("Read the pencils first: drafts are laid from what was read.")
        else:
            length = sum(line.length for line in reading.lines) / 1000.0
            self._what.say(
                f"**{len(reading.lines)} lines**, one for each that the pencils mean, **{length:.1f} m** in all."
            )
            self._say_left_out()
        chosen = self._reader.drafts(self.session.chosen or [""])
        for widget in (self._heading, self._take_all, self._refuse_all):
            widget.setVisible(bool(drafts))
        for word in (self._take_chosen, self._refuse_chosen, self._into):
            word.setVisible(bool(chosen))
        picked = f", **{len(chosen)}** of them chosen" if chosen else ": choose some with the right button, or with W"
        self._drafts.say(f"**{len(drafts)} draft{'s' if len(drafts) != 1 else ''}** lie pale on the sheet{picked}."
                         if drafts else "")  # fmt: skip

    def _say_left_out(self) -> None:
        reading = self._reader.reading
        if reading is not None:
            kept = self._reader.sure(self._sure.value)
            out = len(reading.lines) + len(reading.guides) - len(kept)
            self._left_out.say(
                f"**{len(kept)}** would be laid; **{out}** are less sure, construction lines among them."
            )

    def _round(self, loop: np.ndarray) -> None:
        self._reader.lay_drafts(self._reader.inside(loop, self._sure.value), self._own())

    def _under(self, at: np.ndarray) -> None:
        line = self._reader.under(at)
        if line is None:
            self.session.said.emit("No pencil line was read there: point nearer, or read the pencils again.", False)
        else:
            self._reader.lay_drafts([line], self._own())

    def _take(self, lines: list[str], **where: str) -> None:
        if lines:
            self.session.make("take-drafts", lines=lines, **where)

    def _refuse(self, lines: list[str]) -> None:
        if lines:
            self.session.make("refuse-drafts", lines=lines)


def _same(value: float) -> float:
    return value


def _read_sure(text: str) -> float:
    try:
        value = float(text.replace("%", "").replace(",", ".").strip()) / 100.0
    except ValueError:
        raise MeasureError(f"'{text.strip()}' is no percentage") from None
    if not 0.0 <= value <= 1.0:
        raise StrideError("how sure goes from 0 to 100 %")
    return value


def _draw_sure(painter: QPainter, wide: float, high: float) -> None:
    """Five lines that leave one by one as more is asked of them."""
    for k in range(5):
        end = wide * (k + 1) / 5.0
        x = np.linspace(0.0, end, 12)
        y = np.full(12, (k - 2) * 3.2)
        painter.fillPath(
            stroke(np.column_stack([x, y]), np.full(12, 1.0 + 0.35 * k)), tinted(THEME.color("ahead"), 0.8)
        )
