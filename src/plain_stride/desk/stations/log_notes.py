"""Log, page Notes: words pinned to a place, a line, a part or a rule, found again by words and where they belong."""

from collections.abc import Callable

from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.mend_page import MendPage
from plain_stride.finish.log_sheets import note_words
from plain_stride.job.diary import notes_here, notes_json
from plain_stride.weight.rule_book import LIGHT, RULES

JOB, PART, LINE, PLACE, RULE = "the job", "its part", "its line", "here", "a rule"
PINS = (JOB, PART, LINE, PLACE, RULE)


class NotesPage(MendPage):
    """place_wanted: a note's place, mm."""

    place_wanted = Signal(float, float)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._keys: list[str] = []
        self._key, self._looked_at = "", _nowhere
        self._says, self._list, self._whole = Sentence(), PlaceList("Notes", 8), Sentence()
        self.search, self.words = Field("Find", 170), Field("New note", 170)
        self.pin = Choice(PINS, JOB, "What the note is pinned to", 5)
        self.rules = PlaceList("Rules of the plan", 5)
        self.pin.chosen.connect(lambda pin: self.rules.setVisible(pin == RULE))
        self._delete = self.verb("take it away", self._take_away, of_lines=False)
        self.add(Heading("Notes"), self._says, self.search, self._list, self._whole, self._delete, Heading("Write one"),
                 self.words, Sentence("Pinned to", colour="faint"), self.pin, self.rules, self.fault)  # fmt: skip
        # Once it has a place: rows that are shown without one would open a window.
        self.rules.show_rows(list(RULES), list(RULES).index(LIGHT))
        self.rules.setVisible(False)
        self.search.typed.connect(lambda _: self.refresh())
        self.words.typed.connect(self._write)
        self._list.picked.connect(self._pick)

    def pin_by(self, looked_at: Callable[[], tuple[float, float]]) -> None:
        """Gives the place that is looked at, mm."""
        self._looked_at = looked_at

    def refresh(self) -> None:
        super().refresh()
        job, words = self.session.job, self.search.entry.text().strip()
        told = {one["id"]: one for one in notes_json(job)}
        part = job.part_named(self.session.now.part)
        found = notes_here(job, words, part.id if part is not None else "", self.lines(),
                           [rule.name for rule in job.plan.rules if rule.on])  # fmt: skip
        first = [key for key in told if key in found]
        self._keys = first if words else first + [key for key in told if key not in found]
        if self._key not in told:
            self._key = ""
        self._list.show_rows([told[key]["words"] for key in self._keys],
                             self._keys.index(self._key) if self._key in self._keys else None)  # fmt: skip
        if not told:
            self._says.say("No notes yet: a rule of this page, what a part is made of, what to ask.")
        elif words:
            self._says.say(f"**{len(first)}** hold '{words}'.")
        else:
            self._says.say(f"**{len(told)}** notes, those that belong here first.")
        self._whole.say(note_words(told[self._key]) if self._key else "")
        self._delete.setVisible(bool(self._key))

    def _pick(self, n: int) -> None:
        self._key = self._keys[n]
        row = self.session.job.rows.notes[self._key]
        if row.x_mm is not None and row.y_mm is not None:
            self.place_wanted.emit(row.x_mm, row.y_mm)
        elif row.line in self.session.job.rows.lines:
            self.session.choose([str(row.line)])
        self.refresh()

    def _write(self, text: str) -> None:
        if not text.strip():
            return
        self.fault.say("")
        made = self.session.make("note", words=text.strip(), **self._pinned())
        if made is not None:
            self._key = str(made.results[0])
            self.words.show_text("")
            self.refresh()

    def _pinned(self) -> dict[str, object]:
        wanted = self.pin.current()
        if wanted == PART and self.session.job.part_named(self.session.now.part) is not None:
            return {"part": self.session.now.part}
        if wanted == LINE and self.lines():
            return {"line": self.lines()[0]}
        if wanted == PLACE:
            return {"at": list(self._looked_at())}
        return {"rule": list(RULES)[self.rules.currentRow()]} if wanted == RULE else {}

    def _take_away(self) -> None:
        if self._key:
            self.session.make("note-delete", notes=[self._key])


def _nowhere() -> tuple[float, float]:
    return 0.0, 0.0
