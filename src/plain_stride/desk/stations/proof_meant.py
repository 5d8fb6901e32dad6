"""Proof, page Meant: what was said to be meant so, with its reason; taken back by a press."""

from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Heading, Sentence, Word
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.proofer import Proofer
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.base import Page
from plain_stride.job.proof_records import MeantRecord
from plain_stride.proof.intent import FINDING, KIND, LINE, PART
from plain_stride.proof.words import TITLES
from plain_stride.texts import counted

SCOPE_WORDS = {FINDING: "one place", LINE: "a line", PART: "a part", KIND: "everywhere"}


class MeantPage(Page):
    """place_wanted: a place (mm) to be shown."""

    place_wanted = Signal(float, float)

    def __init__(self, session: Session, proofer: Proofer) -> None:
        super().__init__(session)
        self._proofer = proofer
        self._keys: list[str] = []
        self._at = -1
        self._says, self._reason = Sentence(), Sentence()
        self._list = PlaceList("What is meant so", 10)
        self._back = Word("take it back")
        self.add(Heading("Meant so"), self._says, self._list, self._reason, self._back)
        self._list.picked.connect(self._pick)
        self._back.clicked.connect(self._take_back)

    def refresh(self) -> None:
        rows = self.session.job.rows.meant
        self._keys = list(rows)
        self._at = self._at if self._at < len(self._keys) else -1
        self._list.show_rows([self._words(row) for row in rows.values()], self._at if self._at >= 0 else None)
        holds = len(self._proofer.proof.meant)
        said = f"**{counted(len(rows), 'thing')}** said, **{counted(holds, 'note')}** left out by it."
        self._says.say(f"{said} A place that changes is asked about again." if rows else
                       "Nothing is said yet. At Notes, 'meant so' keeps a note away, with your reason.")  # fmt: skip
        self._show_picked()

    def _words(self, row: MeantRecord) -> str:
        title = TITLES.get(row.kind, "whatever is found")
        of = SCOPE_WORDS[row.scope]
        if row.scope == PART and row.ink and row.ink[0] in self.session.job.rows.parts:
            of = self.session.job.rows.parts[row.ink[0]].name
        return f"{title} · {of}"

    def _pick(self, n: int) -> None:
        self._at = n
        row = self.session.job.rows.meant[self._keys[n]]
        if row.scope == FINDING:
            self.place_wanted.emit(row.x_mm, row.y_mm)
        self.session.choose([key for key in row.ink if key in self.session.job.inked_rows()])
        self._show_picked()

    def _show_picked(self) -> None:
        row = self.session.job.rows.meant.get(self._keys[self._at]) if 0 <= self._at < len(self._keys) else None
        for widget in (self._reason, self._back):
            widget.setVisible(row is not None)
        if row is not None:
            self._reason.say(f"Because: {row.reason}" if row.reason else "No reason was given.")

    def _take_back(self) -> None:
        if 0 <= self._at < len(self._keys):
            key, self._at = self._keys[self._at], -1
            self.session.make("meant-off", meant=[key])
