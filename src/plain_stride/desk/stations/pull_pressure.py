"""Pull, page Pressure: what pressure becomes, drawn or calibrated from three rows of marks; kept and given away."""

import json
from pathlib import Path

from plain_stride.desk.controls.controls import Choice, Heading, Sentence, Word
from plain_stride.desk.controls.file_dialogs import ask_file, ask_new_file
from plain_stride.desk.controls.hints import Explained
from plain_stride.desk.controls.json_files import given, taken
from plain_stride.desk.controls.response_curve import ResponseCurve
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.marks import MarksTool
from plain_stride.desk.stations.base import Page
from plain_stride.errors import StrideError
from plain_stride.hand.response import Response, calibrated, hand_range, response_from_json, response_json
from plain_stride.lines.profile import SWELL_LIMIT

ROWS = ("light", "easy", "firm")
ASKED = {"light": "hardly at all, as for a hair", "easy": "as you would all day", "firm": "as firmly as you ever draw"}
ENOUGH = 12
LIMITED, FREE = f"{SWELL_LIMIT:g} mm for each mm", "none"
"""A faster change of width is a blob (common practice): an inker who wants blobs lifts the limit."""

CURVE = "Drag the points; press the curve for a new one, twice on a point to take it away."


class PressurePage(Page):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._curve, self._says = ResponseCurve(), Sentence()
        self._marks: dict[str, list[float]] = {row: [] for row in ROWS}
        self._row = ""
        self._begin, self._next, self._fit = Word("calibrate with marks…"), Word(""), Word("fit the curve to them")
        self._dialogs, self._range = Sentence(), Sentence("", colour="faint")
        self._plain, self._all = Word("pressure as it is"), Word("give it to all nibs")
        give, take = Word("write to a file…"), Word("take from a file…")
        self._fault = Sentence("", colour="red")
        self.add(Explained("Response of the nib in hand", "nib", CURVE), self._curve, self._says)
        self.add_verbs(self._plain, self._all)
        self._limit = Choice((LIMITED, FREE), LIMITED, "Swell limit")
        self.add(Heading("Swell limit"), self._limit)
        self._limit.chosen.connect(
            lambda word: self.session.make("nib", key=self.session.now.nib, limited=word == LIMITED)
        )
        self.add(Heading("Your hand"), self._dialogs, self._begin, self._next, self._range, self._fit, self._fault)
        self.add(Heading("Keep it"))
        self.add_verbs(give, take)
        self._curve.changed.connect(self._set)
        self._begin.clicked.connect(self._start)
        self._next.clicked.connect(self._next_row)
        self._fit.clicked.connect(self._calibrate)
        self._plain.clicked.connect(lambda: self._set(Response()))
        self._all.clicked.connect(self._give_all)
        give.clicked.connect(self._ask_give)
        take.clicked.connect(self._ask_take)

    def refresh(self) -> None:
        nib = self.session.nib
        self._curve.show_response(nib.response, [self._marks[row] for row in ROWS])
        half = nib.response.pressure_for(0.5)
        self._says.say(f"Nib {self.session.now.nib}: half its range comes at **{half:.0%}** of the pen's pressure.")
        self._plain.setVisible(not nib.response.plain)
        self._limit.show_chosen(LIMITED if nib.limited else FREE)
        counts = [len(self._marks[row]) for row in ROWS]
        self._next.setVisible(bool(self._row))
        self._begin.setVisible(not self._row)
        self._fit.setVisible(min(counts) >= 4)
        if self._row:
            n = len(self._marks[self._row])
            self._dialogs.say(f"**{self._row.capitalize()}:** press {ASKED[self._row]}. **{n}** of {ENOUGH} marks.")
            last = self._row == ROWS[-1]
            self._next.setText("that is my hand" if last else f"now {ROWS[ROWS.index(self._row) + 1]} marks")
            self._next.updateGeometry()
        else:
            self._dialogs.say(
                "Three rows of marks tell your hand's real range: light, easy, firm." if not any(counts) else ""
            )
        self._say_range()

    def _say_range(self) -> None:
        try:
            found = hand_range(*(self._marks[row] for row in ROWS))
        except StrideError:
            self._range.say("")
            return
        more = f" **{found.wanted}** more marks would make it steady." if found.wanted else " It is steady."
        self._range.say(
            f"Your hand goes from **{found.light:.0%}** to **{found.firm:.0%}** of the pen's pressure, easy at"
            f" **{found.easy:.0%}**.{more}"
        )

    def _start(self) -> None:
        self._marks = {row: [] for row in ROWS}
        self._row = ROWS[0]
        self._fault.say("")
        self.tool_wanted.emit(MarksTool(self._marked))
        self.refresh()

    def _marked(self, pressure: float) -> None:
        if self._row:
            self._marks[self._row].append(pressure)
            if len(self._marks[self._row]) == ENOUGH and self._row != ROWS[-1]:
                self._next_row()
        self.refresh()

    def _next_row(self) -> None:
        at = ROWS.index(self._row) + 1
        if at < len(ROWS):
            self._row = ROWS[at]
            self.tool_wanted.emit(MarksTool(self._marked))
        else:
            self._row = ""
            self.tool_wanted.emit(None)
            self.session.said.emit("Your marks are measured, and shown on the curve.", False)
        self.refresh()

    def _calibrate(self) -> None:
        try:
            response = calibrated(hand_range(*(self._marks[row] for row in ROWS)))
        except StrideError as fault:
            self._fault.say(str(fault))
            return
        self._fault.say("")
        self._row = ""
        self.tool_wanted.emit(None)
        self._set(response)
        self.session.said.emit(f"The curve of nib **{self.session.now.nib}** is fitted to your marks.", False)

    def _set(self, response: Response) -> None:
        row = None if response.plain else response.as_row()
        self.session.make("nib", key=self.session.now.nib, response=row)
        self.refresh()

    def _give_all(self) -> None:
        response = self.session.nib.response
        row = None if response.plain else response.as_row()
        self.session.make_several([("nib", {"key": key, "response": row}) for key in self.session.job.nibs()], "nib")

    def give(self, path: Path) -> None:
        """Writes the response of the nib in hand."""
        text = json.dumps(response_json(self.session.nib.response, path.stem), ensure_ascii=False, indent=1) + "\n"
        if given(path, text, self._fault):
            self.session.said.emit(f"The response is written to **{path.name}**.", False)

    def take(self, path: Path) -> None:
        """Takes a response from a file."""
        response = taken(path, response_from_json, "The response is as it was.", self._fault)
        if response is not None:
            self._set(response)

    def _ask_give(self) -> None:
        path = ask_new_file(self, "Write the response", Path.home() / "my hand.json", "json")
        if path is not None:
            self.give(path)

    def _ask_take(self) -> None:
        path = ask_file(self, "Take a response", Path.home(), "Responses (*.json)")
        if path is not None:
            self.take(path)
