"""Proof, page Remarks: the reviewer's own red words and strokes on the board, answered and seen to one by one."""

import getpass
from datetime import date
from pathlib import Path

import numpy as np
from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Field, Heading, Sentence
from plain_stride.desk.controls.file_dialogs import ask_file, ask_new_file
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.remarks import RemarkTool
from plain_stride.desk.stations.errand_page import ErrandPage
from plain_stride.desk.stations.mend_page import Make
from plain_stride.errors import StrideError
from plain_stride.job.log_errands import GiveOut
from plain_stride.job.red_review import mark_name, remarks_back
from plain_stride.texts import counted


class RemarksPage(ErrandPage):
    """place_wanted: a place (mm) to be shown."""

    place_wanted = Signal(float, float)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._keys: list[str] = []
        self._key = ""
        self._says, self._who = Sentence(), Sentence(colour="faint")
        self._list = PlaceList("Remarks", 8)
        self._words, self._answer = Field("Words", 170), Field("Answer", 170)
        (draw,) = self.tool_words("draw a remark…")
        self._done = self.verb("seen to", self._see_to, of_lines=False)
        self._delete = self.verb("take it away", self._take_away, of_lines=False)
        self.add(Heading("Remarks"), self._says, draw, self._list, self.fault, self._who, self._words, self._answer)
        self.add_verbs(self._done, self._delete)
        self.add(Heading("Review"))
        self.add_verbs(self.verb("a copy for a senior…", self._ask_out, of_lines=False),
                       self.verb("bring remarks back…", self._ask_back, of_lines=False))  # fmt: skip
        self.add(self.stop_word, self.status)
        self._list.picked.connect(self._pick)
        self._words.typed.connect(lambda text: self._set(words=text))
        self._answer.typed.connect(lambda text: self._set(answer=text))

    def tools(self) -> dict[str, Make]:
        return {"remark": lambda: RemarkTool(self._drawn)}

    def refresh(self) -> None:
        super().refresh()
        rows = self.session.job.rows.remarks
        self._keys = list(rows)
        if self._key not in rows:
            self._key = ""
        words = [
            f"{n}  {row.words or 'strokes'}{' · seen to' if row.done else ''}" for n, row in enumerate(rows.values(), 1)
        ]
        self._list.show_rows(words, self._keys.index(self._key) if self._key else None)
        left = sum(1 for row in rows.values() if not row.done)
        told = f"**{counted(len(rows), 'remark')}**, **{left}** not seen to. They travel with the job, never exported."
        self._says.say(told if rows else
                       "No remarks yet. Draw in red what you would say beside the page; then type it.")  # fmt: skip
        row = rows.get(self._key)
        for widget in (self._who, self._words, self._answer, self._done, self._delete):
            widget.setVisible(row is not None)
        if row is not None:
            self._who.say(f"By {row.author}." if row.author else "")
            self._words.show_text(row.words)
            self._answer.show_text(row.answer)
            self._done.setText("not seen to" if row.done else "seen to")
            self._done.updateGeometry()

    def _drawn(self, strokes: list[np.ndarray]) -> None:
        """Lays what was drawn; its words are typed then."""
        at = strokes[0][0, :2].tolist()
        told = [np.round(stroke, 3).tolist() for stroke in strokes]
        made = self.session.make("remark", at=at, strokes=told, by=_name())
        if made is not None:
            self._key = str(made.results[0])
            self.refresh()
            self._words.entry.setFocus()

    def _ask_out(self) -> None:
        start = self.session.job.path.with_name(f"{self.session.job.name} for review.stride")
        path = ask_new_file(self, "A copy for a senior", start, "stride")
        if path is not None:
            self.give_out(path)

    def give_out(self, path: Path) -> bool:
        """Begins to save a copy of the job to be remarked on, and beside it a PDF only to look at."""
        words = f"**{path.name}** and a PDF only to look at are written: remarks are drawn on the copy."
        return self.begin(GiveOut(self.session.job.path, path), lambda _: self.status.say(words))

    def _ask_back(self) -> None:
        path = ask_file(self, "Bring remarks back", self.session.job.path.parent, "Jobs (*.stride)")
        if path is not None:
            self.bring_back(path)

    def bring_back(self, path: Path) -> None:
        """Lays the new remarks of a copy on the board, as one step; the moment before is marked, to compare with."""
        self.fault.say("")
        try:
            wanted = remarks_back(self.session.job, path)
        except StrideError as fault:
            self.fault.say(f"{fault}.")
            return
        name = mark_name(self.session.job.history.marks, f"{date.today():%d %b}")
        self.session.timeline.mark(name)
        if self.session.make_several(wanted, "remarks brought back") is not None:
            words = f"**{counted(len(wanted), 'remark')}** came back. The mark **{name}** keeps the page as it was."
            self.session.said.emit(words, False)

    def _pick(self, n: int) -> None:
        self._key = self._keys[n]
        row = self.session.job.rows.remarks[self._key]
        self.place_wanted.emit(row.x_mm, row.y_mm)
        self.refresh()

    def _set(self, **what: str) -> None:
        if self._key:
            self.session.make("remark-set", remark=self._key, **what)

    def _see_to(self) -> None:
        if self._key:
            self.session.make("remark-set", remark=self._key, done=not self.session.job.rows.remarks[self._key].done)

    def _take_away(self) -> None:
        if self._key:
            key, self._key = self._key, ""
            self.session.make("remark-delete", remarks=[key])


def _name() -> str:
    """Whoever sits here, as the system knows them."""
    try:
        return getpass.getuser()
    except (OSError, KeyError, ImportError):
        return ""
