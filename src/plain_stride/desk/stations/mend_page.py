"""What the pages of Mend share: the lines they mend, fields that are read, faults said where they were typed."""

from collections.abc import Callable

from plain_stride import measure
from plain_stride.desk.controls.controls import Field, Sentence, Word, plain_number
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.stations.base import Page
from plain_stride.errors import StrideError

Make = Callable[[], SheetTool]


class MendPage(Page):
    """Every verb is one step of all lines it concerns; every number that is dragged can be typed. fault: the sentence
    that says what could not be read or done."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.fault = Sentence("", colour="red")
        self._of_lines: list[Word] = []

    def lines(self) -> list[str]:
        """The chosen lines, else the one in hand."""
        shown = self.session.shown_line()
        return self.session.chosen_lines() or ([shown] if shown else [])

    def refresh(self) -> None:
        some = bool(self.lines())
        for word in self._of_lines:
            word.setEnabled(some)

    def tools(self) -> dict[str, Make]:
        """What makes each of its tools, by what it is called."""
        return {}

    def verb(self, words: str, work: Callable[[], object], of_lines: bool = True) -> Word:
        """A word that does something. of_lines: it can be pressed only where there are lines."""
        word = Word(words)
        word.clicked.connect(lambda _=False: self.tried(work))
        if of_lines:
            self._of_lines.append(word)
        return word

    def tool_words(self, *words: str) -> list[Word]:
        """Words that take the tools of `tools` in hand, one after the other."""
        out = [Word(text) for text in words]
        for word, make in zip(out, self.tools().values(), strict=True):
            word.clicked.connect(lambda _=False, make=make: self.tool_wanted.emit(make()))
        return out

    def tried(self, work: Callable[[], object]) -> None:
        """Does what was pressed; what was typed and cannot be read is said where it was typed."""
        self.fault.say("")
        try:
            work()
        except StrideError as fault:
            self.fault.say(str(fault))

    def read(self, field: Field) -> float | None:
        """mm; None where it cannot be read, which is said."""
        self.fault.say("")
        try:
            return mm_of(field)
        except StrideError as fault:
            self.fault.say(str(fault))
            return None


def field_with(name: str, text: str) -> Field:
    """A field that shows a text."""
    field = Field(name)
    field.show_text(text)
    return field


def mm_of(field: Field) -> float:
    """mm. Raises MeasureError."""
    return measure.parse_length_mm(field.entry.text())


def number_of(field: Field, unit: str) -> float:
    """A plain number, written with or without its unit. Raises MeasureError."""
    return plain_number(field.entry.text().replace(unit, ""))
