"""Proof, page Notes: red notes as a list, the one in hand with its figures, its reason and its mend."""

from collections.abc import Sequence

from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence, Word
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.proofer import Proofer
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.base import Page
from plain_stride.errors import StrideError
from plain_stride.job.changes import Made
from plain_stride.job.errors import JobError
from plain_stride.job.proof_mends import Mended, make_mends, safe_ones
from plain_stride.proof.balance import Balance
from plain_stride.proof.finding import SEVERITIES, Finding
from plain_stride.proof.intent import FINDING, KIND, LINE, PART
from plain_stride.proof.limits import LIMITS
from plain_stride.proof.words import TITLES, limit_words, measured_words
from plain_stride.texts import counted

ALL, WORST, PLACE, BY_KIND, BY_PART = "all", "worst", "place", "kind", "part"
THIS = "this note"
SCOPES = {THIS: FINDING, "its line": LINE, "its part": PART, "the kind": KIND}
ROWS_MM = 20.0
"""Places in bands of so many mm, from the top down, are told from left to right."""


class NotesPage(Page):
    """place_wanted: a place (mm) to be shown; listed: the findings in the order in which they are listed."""

    place_wanted = Signal(float, float)
    listed = Signal(object)

    def __init__(self, session: Session, proofer: Proofer) -> None:
        super().__init__(session)
        self._proofer = proofer
        self.rows: list[Finding] = []
        self._says = Sentence()
        self._severity = Choice((ALL, *SEVERITIES), ALL, "Which notes are listed")
        self._order = Choice((WORST, PLACE, BY_KIND, BY_PART), WORST, "In which order notes are listed")
        self._list = PlaceList("Red notes", 7)
        self._what, self._why = Sentence(), Sentence(colour="faint")
        self._mend, self._kind, self._safe = Word(""), Word(""), Word("")
        self._before, self._next = Word("before"), Word("next")
        self._meant, self._scope = Word("meant so"), Choice(tuple(SCOPES), THIS, "Of what it is said")
        self._reason = Field("because", 150)
        self.add(Heading("Red notes"), self._severity, self._order, self._says, self._list)
        self.add(self._what, self._why, self._mend)
        self.add_verbs(self._before, self._next, self._meant)
        self.add(self._scope, self._reason, self._kind, self._safe)
        self._balance = Sentence()
        self.add(Heading("Balance"), self._balance)
        self._severity.chosen.connect(lambda _: self.refresh())
        self._order.chosen.connect(lambda _: self.refresh())
        self._list.picked.connect(lambda row: self._pick(self.rows[row]))
        self._mend.clicked.connect(lambda: self._make([self._in_hand()], "mend of the proof"))
        self._kind.clicked.connect(self._mend_kind)
        self._safe.clicked.connect(lambda: self._make(safe_ones(proofer.proof.told), "safe mends of the proof"))
        self._before.clicked.connect(lambda: self.step(-1))
        self._next.clicked.connect(lambda: self.step(1))
        self._meant.clicked.connect(self._say_meant)

    def refresh(self) -> None:
        told = self._proofer.proof.told
        counts = {name: sum(1 for one in told if one.severity == name) for name in SEVERITIES}
        for name, word in self._severity.words.items():
            word.setText(f"{name} {len(told) if name == ALL else counts[name]}")
            word.updateGeometry()
        wanted = self._severity.current()
        self.rows = self._sorted([one for one in told if wanted in (ALL, one.severity)])
        in_hand = self._in_hand()
        at = self.rows.index(in_hand) if in_hand in self.rows else None
        self._list.show_rows([self._row(n, one) for n, one in enumerate(self.rows, 1)], at)
        self._says.say(self._sentence())
        self._show_in_hand(in_hand)
        self._balance.say(balance_words(self._proofer.proof.balance))
        self.listed.emit(tuple(self.rows))

    def step(self, by: int) -> None:
        """The note after the one in hand, or before it."""
        if not self.rows:
            self.session.said.emit("There is no note in this list.", False)
            return
        in_hand = self._in_hand()
        at = self.rows.index(in_hand) + by if in_hand in self.rows else 0 if by > 0 else -1
        self._pick(self.rows[at % len(self.rows)])

    def only(self, severity: str) -> None:
        """Lists notes of one severity, or all."""
        self._severity.show_chosen(severity)
        self.refresh()

    def pick_row(self, row: int) -> None:
        """The note whose ring was pressed."""
        if 0 <= row < len(self.rows):
            self._pick(self.rows[row])

    def _in_hand(self) -> Finding | None:
        return self._proofer.in_hand()

    def _sentence(self) -> str:
        job = self.session.job
        if not any(not row.draft for row in job.rows.lines.values()) and not job.rows.blacks:
            return "Nothing is inked yet: there is nothing to proof. Pull the lines first."
        if not self._proofer.known and not self._proofer.proof.told:
            return "Looking at every line…"
        meant = len(self._proofer.proof.meant)
        said = f" {counted(meant, 'more')} you said is meant so." if meant == 1 else (
            f" {meant} more you said are meant so." if meant else "")  # fmt: skip
        return said.strip() if self.rows else f"Nothing to mark.{said}"

    def _sorted(self, found: list[Finding]) -> list[Finding]:
        order = self._order.current()
        if order == PLACE:
            return sorted(found, key=lambda one: (one.at[1] // ROWS_MM, one.at[0]))
        if order == BY_KIND:
            return sorted(found, key=lambda one: (list(LIMITS).index(one.kind), -one.weight))
        if order == BY_PART:
            return sorted(found, key=lambda one: (self._part(one), -one.weight))
        return found

    def _row(self, n: int, one: Finding) -> str:
        part = self._part(one)
        return f"{n}  {TITLES[one.kind]} · {measured_words(one, plain=True)}{' · ' + part if part else ''}"

    def _part(self, one: Finding) -> str:
        rows = self.session.job.rows
        line = next((key for key in one.lines if key in rows.lines), None)
        return rows.parts[rows.lines[line].part].name if line is not None else ""

    def _show_in_hand(self, one: Finding | None) -> None:
        for widget in (self._what, self._why, self._meant, self._scope, self._reason):
            widget.setVisible(one is not None)
        self._mend.setVisible(one is not None and one.mend is not None)
        same = [
            other for other in self._proofer.proof.told if one is not None and other.kind == one.kind and other.mend
        ]
        safe = safe_ones(self._proofer.proof.told)
        self._kind.setVisible(len(same) > 1)
        self._safe.setVisible(bool(safe))
        self._before.setVisible(bool(self.rows))
        self._next.setVisible(bool(self.rows))
        if one is not None:
            below = "at least" if LIMITS[one.kind].below else "at most"
            self._what.say(f"{one.advice} Measured **{measured_words(one)}**, {below} **{limit_words(one)}**.")
            self._why.say(LIMITS[one.kind].reason)
            _say(self._mend, one.mend.says if one.mend else "")
            _say(self._kind, f"mend all {len(same)} of '{TITLES[one.kind]}'")
        _say(self._safe, f"mend all {len(safe)} that are safe")

    def _pick(self, one: Finding) -> None:
        self._proofer.pick(one.id)
        # The line that is to be mended, for the strip: all of them would hide in colour what the note points at.
        self.session.choose([key for key in one.lines if key in self.session.job.inked_rows()][:1])
        self.place_wanted.emit(*one.at)

    def _mend_kind(self) -> None:
        one = self._in_hand()
        if one is not None:
            same = [other for other in self._proofer.proof.told if other.kind == one.kind and other.mend]
            self._make(same, f"mends of '{TITLES[one.kind]}'")

    def _make(self, found: Sequence[Finding | None], words: str) -> None:
        """Makes mends as one step; what could not be is said."""
        wanted = [one for one in found if one is not None]
        at = self.rows.index(wanted[0]) if len(wanted) == 1 and wanted[0] in self.rows else None
        self.session.settle()
        done: list[Mended] = []
        if self.session.document.made(lambda: self._made(wanted, words, done)) is None:
            return
        left = f", {len(done[0].left)} could not be: {done[0].left[0][1]}" if done[0].left else ""
        self.session.said.emit(f"**{counted(len(done[0].mended), 'mend')}** made as one step{left}.", bool(left))
        if at is not None and at + 1 < len(self.rows):
            self._proofer.pick(self.rows[at + 1].id)

    def _made(self, wanted: list[Finding], words: str, done: list[Mended]) -> Made:
        """Raises JobError where none of them can be made."""
        done.append(make_mends(self.session.job, self.session.shapes, wanted, words))
        if done[0].made is None:
            raise JobError(done[0].left[0][1] if done[0].left else "there is nothing to mend")
        return done[0].made

    def _say_meant(self) -> None:
        one = self._in_hand()
        if one is None:
            return
        scope = SCOPES[self._scope.current()]
        try:
            arguments = meant_arguments(one, scope, self._part(one))
        except StrideError as fault:
            self.session.said.emit(f"{fault}.", True)
            return
        reason = self._reason.entry.text().strip()
        if self.session.make("meant", **arguments, reason=reason) is not None:
            self._reason.show_text("")
            words = f"**Meant so:** {self._scope.current()}. It is listed at Meant, and can be taken back."
            self.session.said.emit(words, False)


def meant_arguments(one: Finding, scope: str, part: str) -> dict[str, object]:
    """What `meant` is told of a finding. Raises StrideError where it has no line, or no part."""
    if scope == FINDING:
        return {"scope": FINDING, "kind": one.kind, "lines": [*one.lines, *one.others], "at": list(one.at),
                "measured": one.measured}  # fmt: skip
    if scope == LINE:
        if not one.lines:
            raise StrideError("that note is on no line: say it of the note")
        return {"scope": LINE, "kind": one.kind, "lines": list(one.lines[:1])}
    if scope == PART:
        if not part:
            raise StrideError("that note is in no part: say it of the note")
        return {"scope": PART, "kind": one.kind, "part": part}
    return {"scope": KIND, "kind": one.kind}


def balance_words(balance: Balance | None) -> str:
    """The balance of a page in words, '' before it is known."""
    if balance is None or balance.dense == 0.0:
        return ""
    fine, heavy = balance.classes[0], balance.classes[-1]
    x, y = balance.dense_at
    times = balance.dense / max(balance.usual, 1e-9)
    return (f"**{balance.rest:.0%}** of the sheet is at rest. Detail is densest round {x:.0f}, {y:.0f} mm,"
            f" **{times:.1f} times** the usual. **{fine:.0%}** of all length is fine,"
            f" **{heavy:.0%}** heavy.")  # fmt: skip


def _say(word: Word, text: str) -> None:
    word.setText(text)
    word.setToolTip(text)
    word.updateGeometry()
