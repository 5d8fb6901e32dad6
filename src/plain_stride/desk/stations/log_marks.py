"""Log, page Marks: versions of the history with a picture each, compared, gone back to, taken out as a job."""

from pathlib import Path

from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Heading, Sentence
from plain_stride.desk.controls.file_dialogs import ask_new_file
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.errand_page import ErrandPage
from plain_stride.desk.stations.step_pictures import StepPicture, StepPictures
from plain_stride.job.log_errands import TakeOut
from plain_stride.texts import counted

WIDE = 240


class MarksPage(ErrandPage):
    """compare_wanted: a mark that is to be seen beside the job as it is."""

    compare_wanted = Signal(str)
    stopped_words = "stopped: nothing was written"

    def __init__(self, session: Session, pictures: StepPictures) -> None:
        super().__init__(session)
        self._mark = ""
        self._says, self._list = Sentence(), PlaceList("Versions", 7)
        self._picture = StepPicture(pictures, "The version that is chosen", WIDE)
        pictures.failed.connect(self.fault.say)
        self._compare = self.verb("beside the job as it is", self._see, of_lines=False)
        self._out = self.verb("take it out as a job…", self._ask, of_lines=False)
        self.add(Heading("Versions"), self._says, self._list, self._picture, self._compare, self._out, self.stop_word,
                 self.status, self.fault)  # fmt: skip
        self._list.picked.connect(self._pick)

    def refresh(self) -> None:
        super().refresh()
        marks = self.session.job.history.marks
        names = sorted(marks, key=lambda name: marks[name])
        if self._mark not in marks:
            self._mark = names[-1] if names else ""
        self._says.say(f"**{counted(len(names), 'mark')}**. Q sets one; held, it shows the last." if names else
                       "No marks yet: Q sets one, and it stands here with its picture.")  # fmt: skip
        self._list.show_rows(names, names.index(self._mark) if self._mark else None)
        if self._mark:
            self._picture.show_step(marks[self._mark])
        for widget in (self._picture, self._compare, self._out):
            widget.setVisible(bool(self._mark))

    def _pick(self, n: int) -> None:
        marks = self.session.job.history.marks
        self._mark = sorted(marks, key=lambda name: marks[name])[n]
        self.refresh()

    def _see(self) -> None:
        self.compare_wanted.emit(self._mark)

    def _ask(self) -> None:
        start = self.session.job.path.with_name(f"{self.session.job.name} {self._mark}.stride")
        path = ask_new_file(self, "Take the version out", start, "stride")
        if path is not None:
            self.write(path)

    def write(self, path: Path) -> bool:
        """Begins to write the version in hand as a job of its own; whether it could be begun."""
        words = f"**{path.name}** holds it; undo reaches back from there."
        return self.begin(TakeOut(self.session.job.path, self._mark, path), lambda _: self.status.say(words))
