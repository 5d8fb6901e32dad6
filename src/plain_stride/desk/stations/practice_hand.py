"""Practice, page Hand: what the hand book says of this hand, and the book itself: taken out, taken in, deleted."""

import json
from pathlib import Path

from plain_stride.desk.controls.controls import Field, Heading, Sentence
from plain_stride.desk.controls.course_view import CourseView
from plain_stride.desk.controls.file_dialogs import ask_file, ask_new_file
from plain_stride.desk.controls.json_files import given
from plain_stride.desk.session.practising import Practising
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.mend_page import MendPage
from plain_stride.errors import StrideError
from plain_stride.job.reading import read_json
from plain_stride.practice.changing import Change
from plain_stride.practice.estimates import Estimate
from plain_stride.practice.figures import NAMES, HandFigures

HERE = "It lies on this machine, and goes nowhere by itself."
DELETE, SURE = "delete all of it…", "yes, for good"


class HandPage(MendPage):
    """Figures with their intervals, of the last pulls of all drills."""

    def __init__(self, session: Session, practising: Practising) -> None:
        super().__init__(session)
        self._practising = practising
        self._who = Field("Person", 120)
        self._figures, self._more, self._changed = Sentence(), Sentence(), Sentence()
        self._delete = self.verb(DELETE, self._ask_delete, of_lines=False)
        self._months = CourseView("Shake by month")
        self.add(Heading("Your hand"), self._who, self._figures, self._more, Heading("Changed"), self._changed,
                 self._months, Heading("The hand book"))  # fmt: skip
        self.add_verbs(self.verb("take it out…", self._ask_out, of_lines=False),
                       self.verb("take one in…", self._ask_in, of_lines=False))  # fmt: skip
        self.add(
            self._delete, self.fault, Sentence("It lies on this machine, and goes nowhere by itself.", colour="faint")
        )
        self._who.typed.connect(lambda text: practising.be(text.strip() or "me"))

    def refresh(self) -> None:
        super().refresh()
        self._who.show_text(self._practising.person)
        hand = self._practising.hand()
        figures, changes = hand.figures, hand.changes
        if not figures.pulls:
            self._figures.say("The hand book is empty: pull a drill, and it begins.")
            self._more.say("")
        else:
            self._figures.say(_figure_words(figures))
            self._more.say(_more_words(figures, hand.liking))
        shakes = list(hand.months.values())
        self._months.show_values(range(len(shakes)), shakes, (" to ".join([*hand.months][:: max(len(shakes) - 1, 1)]),
                                                              "shake, mm, month by month"))  # fmt: skip
        self._changed.say(_change_words(changes) if changes else
                          "Sixty pulls against sixty before tell whether anything changed.")  # fmt: skip
        self._delete.setVisible(figures.pulls > 0)
        self.fault.say(self._practising.fault)

    def _ask_delete(self) -> None:
        if self._delete.text() == DELETE:
            self._delete.setText(SURE)
        else:
            self._delete.setText(DELETE)
            person = self._practising.person
            self._practising.in_book(lambda book: book.delete_all(person))
        self._delete.updateGeometry()

    def _ask_out(self) -> None:
        path = ask_new_file(self, "Take the hand book out", Path.home() / "hand book.json", "json")
        if path is not None:
            self.take_out(path)

    def take_out(self, path: Path) -> None:
        """Writes the book as JSON."""
        told = self._practising.in_book(lambda book: book.as_json())
        if told is not None:
            given(path, json.dumps(told, indent=1, ensure_ascii=False), self.fault)

    def _ask_in(self) -> None:
        path = ask_file(self, "Take a hand book in", Path.home(), "Hand books (*.json)")
        if path is not None:
            self.take_in(path)

    def take_in(self, path: Path) -> None:
        """Adds what another book has."""
        try:
            told = read_json(path)
        except StrideError as fault:
            self.fault.say(f"{fault}. The hand book is as it was.")
            return
        added = self._practising.in_book(lambda book: book.take_in(told))
        if added is not None:
            self.session.said.emit(f"**{added}** pulls and pages were taken in.", False)


def _of(one: Estimate, digits: int = 2, unit: str = "mm") -> str:
    between = "" if one.low is None or one.high is None else f" ({one.low:.{digits}f} to {one.high:.{digits}f})"
    return f"**{one.value:.{digits}f} {unit}**{between}"


def _figure_words(f: HandFigures) -> str:
    return (f"Shake {_of(f.shake)} at {f.hz.value:.0f} Hz; wander {_of(f.wander)}; ends missed by {_of(f.end)}."
            f" From your last {f.pulls} pulls.")  # fmt: skip


def _more_words(f: HandFigures, liking: str) -> str:
    out = []
    if f.light is not None and f.firm is not None:
        out.append(f"Pressure **{f.light.value:.2f} to {f.firm.value:.2f}** of its range.")
    if f.best_speed is not None:
        out.append(f"Best speed **{f.best_speed.speed:.0f} mm/s**.")
    if len(f.pivots) > 1:
        out.append(
            "Wander " + ", ".join(f"{joint} {one.value:.2f}" for joint, one in sorted(f.pivots.items())) + " mm."
        )
    return " ".join([*out, liking]).strip()


def _change_words(changes: tuple[Change, ...]) -> str:
    real = [c for c in changes if c.real]
    if not real:
        return "Nothing changed that is more than chance, against the 60 pulls before."
    said = [f"{NAMES[c.figure]} **{abs(1.0 - c.factor):.0%} {'less' if c.factor < 1.0 else 'more'}**" for c in real]
    return f"Against the 60 pulls before: {', '.join(said)}. That is more than chance."
