"""Log, page Diary: what was done at each sitting, and the log as a file."""

from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from plain_stride.desk.controls.controls import Choice, Heading, Sentence
from plain_stride.desk.controls.file_dialogs import ask_new_file
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.planner import Planner
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.errand_page import ErrandPage
from plain_stride.finish.log_sheets import sitting_lines
from plain_stride.job.diary import sitting_json
from plain_stride.job.job_files import opened
from plain_stride.job.log_files import job_log
from plain_stride.job.serving import Progress
from plain_stride.job.shapes import Shapes
from plain_stride.texts import time_words

MOST_LINES = 5
KINDS = ("html", "pdf", "md", "csv", "json")


@dataclass(frozen=True)
class WriteLog:
    """The log of a job's file, written."""

    path: Path
    out: Path

    def answered(self, at: object, progress: Progress) -> str:
        with opened(self.path) as (job, store):
            told = job_log(job, Shapes(job, store), self.out, progress)
        return str(told["sentence"])


class DiaryPage(ErrandPage):
    """The sitting in hand is the one that is chosen in the list, the last one at first."""

    stopped_words = "stopped: no log was written"

    def __init__(self, session: Session, planner: Planner) -> None:
        super().__init__(session)
        self._planner, self._at = planner, 0
        self._says, self._list = Sentence(), PlaceList("Sittings", 8)
        self._lines = [Sentence("", colour="text" if n == 0 else "faint") for n in range(MOST_LINES)]
        self._write = self.verb("write the log…", self._ask, of_lines=False)
        self.kind = Choice(KINDS, KINDS[0], "As which file the log is written")
        self.add(Heading("Sittings"), self._says, self._list, *self._lines, self.kind, self._write, self.stop_word,
                 self.status, self.fault)  # fmt: skip
        self._list.picked.connect(self._pick)

    def refresh(self) -> None:
        super().refresh()
        found = self._planner.worked()
        sat = list(reversed(found.sittings))
        self._says.say("Each sitting writes itself; nothing is to be filled in." if sat else
                       "Nothing was done in this job yet. Each sitting writes itself.")  # fmt: skip
        self._write.setVisible(bool(sat))
        self._at = min(self._at, max(len(sat) - 1, 0))
        rows = [f"{datetime.fromtimestamp(one.begun):%d %b %Y, %H:%M} · {time_words(one.active)}" for one in sat]
        self._list.show_rows(rows, self._at if sat else None)
        told: dict[str, Any] | None = sitting_json(self.session.job, found, sat[self._at]) if sat else None
        words = sitting_lines(told) if told is not None else []
        for n, line in enumerate(self._lines):
            line.say(f"{words[n]}." if n < len(words) else "")
            line.setVisible(n < len(words))

    def _pick(self, n: int) -> None:
        self._at = n
        self.refresh()

    def _ask(self) -> None:
        kind = self.kind.current()
        start = self.session.job.path.with_name(f"{self.session.job.name} log.{kind}")
        path = ask_new_file(self, "Write the log", start, kind)
        if path is not None:
            self.write(path)

    def write(self, path: Path) -> bool:
        """Begins to write the log; whether it could be begun."""
        if not self.begin(WriteLog(self.session.job.path, path), lambda words: self.status.say(
                          f"**{path.name}** is written. {words}")):  # fmt: skip
            return False
        self.status.say(f"{path.name} is being written, with a picture before and after each sitting.", "faint")
        return True
