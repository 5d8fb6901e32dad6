"""Pull, page Shapes: straights, bows, ellipses, parallels and symmetry, that stay lines; what was pulled made so."""

from collections.abc import Callable

import numpy as np
from PySide6.QtWidgets import QWidget

from plain_stride import measure
from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence, Word, plain_number
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.tools.drawing import PointTool, StraightTool
from plain_stride.desk.sheet.tools.shapes import BowTool, ChainTool, RoundTool
from plain_stride.desk.stations.base import Page
from plain_stride.errors import StrideError

EVEN, TAPER = "even", "tapered"
NO_TURN = "0°"
DEFAULT_GAP, DEFAULT_TIMES, DEFAULT_AROUND = "2 mm", "1", "6"


class ShapesPage(Page):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._ends = Choice((EVEN, TAPER), EVEN, "Width of drawn shapes")
        straight, bow = Word("straights…"), Word("a bow…")
        middle, corner = Word("ellipse from its middle…"), Word("by its box…")
        circle, across = Word("circle from its middle…"), Word("by a diameter…")
        self._turned = Field("Ellipses turned by")
        self._turned.show_text(NO_TURN)
        self._gap, self._times = Field("Parallels at"), Field("How many")
        self._gap.show_text(DEFAULT_GAP)
        self._times.show_text(DEFAULT_TIMES)
        self._beside, self._axis = Word("beside the line in hand"), Word("mirror it about an axis…")
        self._count, self._round = Field("Turned round, in all"), Word("turn it round a place…")
        self._count.show_text(DEFAULT_AROUND)
        self._straighten, self._rounder = Word("straight"), Word("round")
        self._elliptic = Word("an ellipse")
        self._fault, self._none = Sentence("", colour="red"), Sentence("", colour="faint")
        make_it = Sentence("Make it")
        self._acting: list[QWidget] = [make_it, self._straighten, self._rounder, self._elliptic, self._gap, self._times,
                                       self._beside, self._axis, self._count, self._round]  # fmt: skip
        self.add(Heading("Drawn, and lines all the same"))
        self.add_verbs(straight, bow)
        self.add_verbs(middle, corner)
        self.add_verbs(circle, across)
        self.add(self._turned, self._ends, Heading("From the line in hand"), self._none)
        self.add_verbs(make_it, self._straighten, self._rounder, self._elliptic)
        self.add(self._gap, self._times, self._beside, self._axis, self._count, self._round, self._fault)
        for word, make in zip((straight, bow, middle, corner, circle, across), self.tools().values(), strict=True):
            word.clicked.connect(lambda _=False, make=make: self.tool_wanted.emit(make()))
        self._beside.clicked.connect(self._lay_beside)
        self._axis.clicked.connect(lambda: self.tool_wanted.emit(
            StraightTool("**Mirror:** draw along the axis. Esc gives it up.", self._mirror)))  # fmt: skip
        self._round.clicked.connect(lambda: self.tool_wanted.emit(
            PointTool("**Turn round:** point at the middle. Esc ends it.", self._turn)))  # fmt: skip
        self._straighten.clicked.connect(lambda: self._reshape("straight"))
        self._rounder.clicked.connect(lambda: self._reshape("round"))
        self._elliptic.clicked.connect(lambda: self._reshape("ellipse"))

    def tools(self) -> dict[str, Callable[[], SheetTool]]:
        """What makes each tool that draws, by what it is called."""
        return {
            "straights": lambda: ChainTool(self._draw),
            "bow": lambda: BowTool(self._draw),
            "ellipse from its middle": lambda: RoundTool(self._draw_round, turn=self._turn_of),
            "ellipse by its box": lambda: RoundTool(self._draw_round, "corner", turn=self._turn_of),
            "circle from its middle": lambda: RoundTool(self._draw_round, "middle", True),
            "circle by a diameter": lambda: RoundTool(self._draw_round, "across"),
        }

    def _lines(self) -> list[str]:
        shown = self.session.shown_line()
        return self.session.chosen_lines() or ([shown] if shown else [])

    def refresh(self) -> None:
        lines = self._lines()
        for widget in self._acting:
            widget.setVisible(bool(lines))
        self._none.say("" if lines else "Pull a line, or choose one: then it can be mirrored, repeated, made straight.")

    def _draw_round(self, points: list[list[float]], turn: float) -> None:
        self._draw("ellipse", points, turn)

    def _draw(self, shape: str, points: list[list[float]], turn: float = 0.0) -> None:
        reason = self.session.guard()
        if reason:
            self.session.said.emit(reason, True)
            return
        hand, pressure = self.session.now, self.session.nib.middle_pressure
        made = self.session.make("draw", shape=shape, points=points, nib=hand.nib, part=hand.part, role=hand.role,
                               turn=turn, pressure=pressure, symmetry=hand.symmetry and hand.symmetry.as_json(),
                               taper=self._ends.words[TAPER].isChecked())  # fmt: skip
        if made is not None:
            self.session.take(last_line=str(made.results[0]))
            self.session.updates.wake()

    def _turn_of(self) -> float | None:
        """Degrees clockwise by which ellipses are drawn turned; None where none can be read, which is said."""
        self._fault.say("")
        try:
            return plain_number(self._turned.entry.text().replace("°", ""))
        except StrideError as fault:
            self._fault.say(f"{fault}: an ellipse is turned by degrees, clockwise")
            return None

    def _lay_beside(self) -> None:
        try:
            gap = measure.parse_length_mm(self._gap.entry.text())
        except StrideError as fault:
            self._fault.say(str(fault))
            return
        count = self._whole(self._times.entry.text())
        if count is not None:
            self.session.make_several(
                [("beside", {"line": key, "gap": gap, "count": count}) for key in self._lines()], "beside"
            )

    def _whole(self, text: str) -> int | None:
        self._fault.say("")
        if not text.strip().isdigit():
            self._fault.say(f"'{text.strip()}' is no whole number")
            return None
        return int(text)

    def _mirror(self, a: np.ndarray, b: np.ndarray) -> None:
        self.session.make("mirror", lines=self._lines(), axis=[a.tolist(), b.tolist()])

    def _turn(self, at: np.ndarray) -> None:
        count = self._whole(self._count.entry.text())
        if count is not None:
            self.session.make("around", lines=self._lines(), centre=at.tolist(), count=count)

    def _reshape(self, shape: str) -> None:
        self.session.make("reshape", lines=self._lines(), shape=shape)
