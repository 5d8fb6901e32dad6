"""Log, page Diary: what was done at each sitting, and the log as a file."""

from datetime import datetime
from pathlib import Path
from typing import Any

from plain_stride.desk.controls.controls import Choice, Sentence
from plain_stride.desk.controls.file_dialogs import ask_new_file
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.planner import Planner
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.errand_page import ErrandPage
from plain_stride.desk.stations.step_pictures import StepPicture, StepPictures
from plain_stride.finish.log_sheets import sitting_lines
from plain_stride.job.diary import sitting_json
from plain_stride.job.log_errands import ReadFolder, WriteLog
from plain_stride.texts import counted, time_words

MOST_LINES, WIDE = 6, 116
THIS, FOLDER = "this job", "all jobs here"
KINDS = ("html", "pdf", "md", "csv", "json")


class DiaryPage(ErrandPage):
    """The sitting in hand is the one that is chosen in the list, the last one at first."""

    stopped_words = "stopped: no log was written"

    def __init__(self, session: Session, planner: Planner, pictures: StepPictures) -> None:
        super().__init__(session)
        self._planner, self._at = planner, 0
        self._says, self._list = Sentence(), PlaceList("Sittings", 8)
        self._seen = [StepPicture(pictures, f"The page {when} the sitting", WIDE) for when in ("before", "after")]
        self._seen_words = Sentence("", colour="faint")
        pictures.failed.connect(self.fault.say)
        self._lines = [Sentence("", colour="text" if n == 0 else "faint") for n in range(MOST_LINES)]
        self._write = self.verb("write the log…", self._ask, of_lines=False)
        self.kind = Choice(KINDS, KINDS[0], "As which file the log is written")
        self.scope = Choice((THIS, FOLDER), THIS, "Whose log it is")
        self._months: dict[str, Any] | None = None
        self._days = PlaceList("Days of the month", 9)
        self.add(self.scope, self._says, self._list, self._days, self._seen_words)
        self.add_verbs(*self._seen)
        self.add(*self._lines, self.kind, self._write, self.stop_word, self.status, self.fault)
        self._list.picked.connect(self.pick)
        self.scope.chosen.connect(self._choose)

    def refresh(self) -> None:
        super().refresh()
        if self.scope.current() == FOLDER:
            self._show_folder()
            return
        self._days.show_rows([])
        found = self._planner.worked()
        sat = list(reversed(found.sittings))
        self._says.say("" if sat else "Nothing was done in this job yet. Each sitting writes itself.")
        self._write.setVisible(bool(sat))
        self._at = min(self._at, max(len(sat) - 1, 0))
        rows = [f"{datetime.fromtimestamp(one.begun):%d %b %Y, %H:%M} · {time_words(one.active)}" for one in sat]
        self._list.show_rows(rows, self._at if sat else None)
        self._show_sitting(sitting_json(self.session.job, found, sat[self._at]) if sat else None)

    def _show_sitting(self, told: dict[str, Any] | None) -> None:
        """What was done at it, the page before and after; None for none."""
        self._show_lines([f"{line}." for line in sitting_lines(told)] if told is not None else [])
        self._seen_words.say("The page before the sitting, and after it:" if told is not None else "")
        for picture, when in zip(self._seen, ("before", "after"), strict=True):
            if told is not None:
                picture.show_step(told[when])
            picture.setVisible(told is not None)

    def pictured(self) -> bool:
        """Whether the sitting's pictures are there."""
        return all(picture.there for picture in self._seen)

    def _show_lines(self, words: list[str]) -> None:
        for n, line in enumerate(self._lines):
            line.say(words[n] if n < len(words) else "")
            line.setVisible(n < len(words))

    def _choose(self, scope: str) -> None:
        """This job's sittings, or the months of all jobs beside it: these are read beside the window."""
        self._at, self._months = 0, None
        if scope == FOLDER and not self.begin(ReadFolder(self._folder, self._planner.pause), self._take):
            self.scope.show_chosen(THIS)
        self.refresh()

    @property
    def _folder(self) -> Path:
        return self.session.job.path.parent

    def _take(self, told: dict[str, Any]) -> None:
        self._months = told
        self._at = max(len(told["months"]) - 1, 0)
        self.refresh()

    def _show_folder(self) -> None:
        """A month on one page: its days, with the jobs that were worked on."""
        told = self._months
        self._show_sitting(None)
        self._write.setVisible(told is not None)
        if told is None:
            self._says.say("The jobs of this folder are looked through; what did not change since is known."
                           if self.working else "The jobs of this folder were not looked through.")  # fmt: skip
            for shown in (self._list, self._days):
                shown.show_rows([])
            return
        months = told["months"]
        broken = f" {counted(len(told['faults']), 'file')} could not be opened." if told["faults"] else ""
        self._says.say(f"{told['sentence']}{broken}")
        self._list.show_rows([f"{m['month']} · {time_words(m['active_s'])} · {counted(m['lines'], 'line')}"
                              for m in months], self._at if months else None)  # fmt: skip
        days = months[self._at]["days"] if months else []
        lines = [f"{d['day'][8:]}  {time_words(d['active_s'])}, {counted(d['lines'], 'line')}: {', '.join(d['jobs'])}"
                 for d in days]  # fmt: skip
        self._days.show_rows(lines)

    def pick(self, n: int) -> None:
        """Shows another sitting, or another month: 0 is the one at the top."""
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
        if self.scope.current() == FOLDER:
            words = f"**{path.name}** is written."
            wanted = ReadFolder(self._folder, self._planner.pause, path)
            return self.begin(wanted, lambda told: self.status.say(f"{words} {told['sentence']}"))
        wanted_log = WriteLog(self.session.job.path, self._planner.pause, path)
        if not self.begin(wanted_log, lambda words: self.status.say(f"**{path.name}** is written. {words}")):
            return False
        self.status.say(f"{path.name} is being written, with a picture before and after each sitting.", "faint")
        return True
