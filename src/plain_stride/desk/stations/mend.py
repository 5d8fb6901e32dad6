"""Mend: the chosen lines, or the one in hand, bent, carried on, tapered, set to a width, scaled, turned and tidied."""

from collections.abc import Callable
from typing import Any

import numpy as np

from plain_stride import measure
from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence, Word, plain_number
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.tools.bend import BendTool
from plain_stride.desk.sheet.tools.drawing import PointTool
from plain_stride.desk.sheet.tools.mapping import MapTool
from plain_stride.desk.stations.base import Notes
from plain_stride.errors import StrideError
from plain_stride.lines.affine import scaled, turned
from plain_stride.lines.cross import nearest
from plain_stride.texts import counted

REACH, WIDTH, ALL, NO_TURN, NEAR = "8 mm", "0.5 mm", "100 %", "0°", "1 mm"
NEXT, NIB, CROSSING = "to the next", "the nib's", "to a crossing"
BOTH, KEEP, SCALE = "both", "keep", "scale"


class MendNotes(Notes):
    """Every verb is one step of all lines it concerns; every number that is dragged can be typed."""

    name, key = "Mend", "M"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._told, self._fault = Sentence(), Sentence("", colour="red")
        self._bend, self._back = Word("bend by dragging…"), Word("as it was pulled")
        self._reach, self._width = _field("A bend gives over", REACH), _field("Width", WIDTH)
        self._set_here = Word("set it where I point…")
        self._end = Choice(("start", "end", BOTH), "end", "Which end")
        self._on, self._carry = _field("Carried on", NEXT), Word("carry on")
        self._point, self._taper = _field("A point of", NIB), Word("taper")
        self._size, self._turn = _field("Size", ALL), _field("Turned", NO_TURN)
        self._keeps = Choice((KEEP, SCALE), KEEP, "Widths of what is scaled")
        self._map, self._drag = Word("scale and turn them"), Word("by dragging…")
        self._gap, self._stub = _field("Gap", NEAR), _field("Stub", NEAR)
        self._tidy, self._tidy_part = Word("tidy these"), Word("the part in hand")
        self._build()
        self._connect()
        self._acting = (self._back, self._carry, self._taper, self._map, self._tidy)
        self.refresh()

    def _build(self) -> None:
        self.add(self._told, self._fault, Heading("Bent, and set to a width"), self._reach)
        self.add_verbs(self._bend, self._back)
        self.add(self._width)
        self.add_verbs(self._set_here)
        self.add(Heading("Their ends"), self._end, self._on, self._point)
        self.add_verbs(self._carry, self._taper)
        self.add(Heading("Their size and turn"))
        self.add_pair(self._size, self._turn)
        self.add_verbs(Sentence("widths"), self._keeps)
        self.add_verbs(self._map, self._drag)
        self.add(Heading("Gaps closed, stubs trimmed"))
        self.add_pair(self._gap, self._stub)
        self.add_verbs(self._tidy, self._tidy_part)

    def _connect(self) -> None:
        for word, work in ((self._back, self._as_pulled), (self._carry, self._carry_on), (self._taper, self._tapers),
                           (self._map, self._scale_and_turn), (self._tidy, self._tidy_these),
                           (self._tidy_part, self._tidy_the_part)):  # fmt: skip
            word.clicked.connect(lambda _=False, work=work: self._tried(work))
        for word, make in zip((self._bend, self._set_here, self._drag), self.tools().values(), strict=True):
            word.clicked.connect(lambda _=False, make=make: self.tool_wanted.emit(make()))

    def tools(self) -> dict[str, Callable[[], SheetTool]]:
        """What makes each tool that mends by dragging or pointing, by what it is called."""
        return {
            "bend": lambda: BendTool(lambda: self._read(self._reach), self._show_reach),
            "width": lambda: PointTool("**Width:** point at lines; they get it there. Esc ends it.", self._set_width),
            "place": lambda: MapTool(self.session, self._keeps.current),
        }

    def fact(self) -> str:
        n = len(self.session.chosen_lines())
        return f"{counted(n, 'line')} chosen" if n else "the line in hand" if self._lines() else "nothing in hand"

    def refresh(self) -> None:
        lines = self._lines()
        for word in self._acting:
            word.setEnabled(bool(lines))
        self._tidy_part.setEnabled(self.session.part is not None)
        if not lines:
            self._told.say("Pull a line, or choose lines with the right button: they are mended here.")
            return
        shapes = [self.session.shapes[key] for key in lines]
        long = sum(shape.length for shape in shapes)
        widths = [float(w) for shape in shapes for w in (shape.body.full.min(), shape.body.full.max())]
        who = f"**{counted(len(lines), 'line')}**" if self.session.chosen_lines() else "The line in hand"
        self._told.say(f"{who}: {long:.1f} mm, {min(widths):.2f}–{max(widths):.2f} mm wide.")

    def _lines(self) -> list[str]:
        shown = self.session.shown_line()
        return self.session.chosen_lines() or ([shown] if shown else [])

    def _tried(self, work: Callable[[], object]) -> None:
        """Does what was pressed; what was typed and cannot be read is said where it was typed."""
        self._fault.say("")
        try:
            work()
        except StrideError as fault:
            self._fault.say(str(fault))

    def _read(self, field: Field) -> float | None:
        """mm; None where it cannot be read, which is said."""
        self._fault.say("")
        try:
            return _mm(field)
        except StrideError as fault:
            self._fault.say(str(fault))
            return None

    def _show_reach(self, mm: float) -> None:
        self._reach.show_text(f"{mm:g} mm")

    def _ends(self) -> tuple[str, ...]:
        end = self._end.current()
        return ("start", "end") if end == BOTH else (end,)

    def _as_pulled(self) -> None:
        self.session.make("as-pulled", lines=self._lines())

    def _carry_on(self) -> None:
        to: Any = "next" if self._on.entry.text().strip() in (NEXT, "next") else _mm(self._on)
        wanted = [("extend", {"line": key, "end": end, "to": to}) for key in self._lines() for end in self._ends()]
        self.session.make_several(wanted, "extend")

    def _tapers(self) -> None:
        typed = self._point.entry.text().strip()
        length: Any = None if typed == NIB else "crossing" if typed in (CROSSING, "crossing") else _mm(self._point)
        self.session.make("taper", lines=self._lines(), end=self._end.current(), length=length)

    def _set_width(self, at: np.ndarray) -> None:
        mm = self._read(self._width)
        lines = [(self._away(key, at), key) for key in self._lines()]
        if mm is not None and lines:
            self.session.make("width", line=min(lines)[1], at=at.tolist(), mm=mm)
        elif mm is not None:
            self.session.said.emit("Choose a line first: then point at where it gets that width.", True)

    def _away(self, line: str, at: np.ndarray) -> float:
        return nearest(self.session.shapes[line].flat[0], at)[0]

    def _scale_and_turn(self) -> None:
        keys = self.session.chosen or self._lines()
        factor = plain_number(self._size.entry.text().replace("%", "")) / 100.0
        degrees = plain_number(self._turn.entry.text().replace("°", ""))
        boxes = np.array([self.session.shapes.ink(key).box for key in keys])
        middle = (boxes[:, :2].min(axis=0) + boxes[:, 2:].max(axis=0)) / 2.0
        by = scaled(middle, factor).then(turned(middle, degrees))
        self.session.make("affine", lines=keys, matrix=list(by.row), widths=self._keeps.current())

    def _tidy_these(self) -> None:
        self._tell_tidied(self.session.make("tidy", lines=self._lines(), gap=_mm(self._gap), overshoot=_mm(self._stub)))

    def _tidy_the_part(self) -> None:
        part = self.session.now.part
        self._tell_tidied(self.session.make("tidy", part=part, gap=_mm(self._gap), overshoot=_mm(self._stub)))

    def _tell_tidied(self, made: Any) -> None:
        if made is not None:
            n = len(made.results[0])
            self.session.said.emit(f"Tidied: **{counted(n, 'line')}** changed." if n else "Nothing was to tidy.", False)


def _field(name: str, text: str) -> Field:
    field = Field(name)
    field.show_text(text)
    return field


def _mm(field: Field) -> float:
    return measure.parse_length_mm(field.entry.text())
