"""Log: what comes next, how long it takes, what was done, notes, marks, the book."""

from PySide6.QtCore import Signal

from plain_stride.desk.session.pencil_reader import PencilReader
from plain_stride.desk.session.planner import Planner
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.sheet_view import SheetView
from plain_stride.desk.sheet.step_marks import StepMarks
from plain_stride.desk.stations.base import PagedNotes
from plain_stride.desk.stations.log_book import BookNotes
from plain_stride.desk.stations.log_diary import DiaryPage
from plain_stride.desk.stations.log_marks import MarksPage
from plain_stride.desk.stations.log_next import NextPage
from plain_stride.desk.stations.log_notes import NotesPage
from plain_stride.desk.stations.log_time import TimePage
from plain_stride.desk.stations.mend_page import Make
from plain_stride.desk.stations.step_pictures import StepPictures
from plain_stride.desk.workers.owned import owned
from plain_stride.texts import counted

NEXT, TIME, DIARY, NOTES, MARKS, BOOK = "Next", "Time", "Diary", "Notes", "Marks", "Book"


class LogNotes(PagedNotes):
    """place_wanted: a place (mm) to be shown; part_wanted: a step is taken up: its part (key), the kind of its work;
    progressed: the share done of what is written, None when it is over; compare_wanted: two steps of the history, to be
    seen side by side."""

    name, key = "Log", "L"
    place_wanted = Signal(float, float)
    progressed = Signal(object)
    compare_wanted = Signal(str)

    def __init__(self, session: Session) -> None:
        self.planner = Planner(session)
        self._rings: StepMarks | None = None
        self._sheet: SheetView | None = None
        self._at_work = False
        self.next, self.time = NextPage(session, self.planner), TimePage(session, self.planner)
        pictures = StepPictures(session)
        self.diary, self.notes = DiaryPage(session, self.planner, pictures), NotesPage(session)
        self.marks, self.book = MarksPage(session, pictures), BookNotes(session)
        super().__init__(session, {NEXT: self.next, TIME: self.time, DIARY: self.diary, NOTES: self.notes,
                                   MARKS: self.marks, BOOK: self.book})  # fmt: skip
        owned(self, self.planner)
        owned(self, pictures)
        self.planner.changed.connect(self.refresh)
        for page in (self.next, self.notes):
            page.place_wanted.connect(self.place_wanted)
        self.diary.progressed.connect(self.progressed)
        self.time.progressed.connect(self.progressed)
        self.marks.progressed.connect(self.progressed)
        self.marks.compare_wanted.connect(self.compare_wanted)

    def hold_against(self, reader: PencilReader) -> None:
        self.planner.hold_against(reader)
        reader.changed.connect(self.refresh)

    def tools(self) -> dict[str, Make]:
        """What makes each of its tools, by what it is called."""
        return self.next.tools()

    def show_on(self, sheet: SheetView) -> None:
        """Shows where the next steps begin on a sheet."""
        self._rings = StepMarks(self.planner)
        sheet.overlay.add(self._rings.paint)
        self.planner.changed.connect(sheet.update)
        self._sheet = sheet

    def work(self, on: bool) -> None:
        """Whether it is the station that is looked at."""
        self._at_work = on
        self.planner.work(on)
        if self._rings is not None:
            self._rings.work(on and self.shown_page() == NEXT)

    def show_page(self, name: str) -> None:
        super().show_page(name)
        self.work(self._at_work)
        if self._sheet is not None:
            self._sheet.update()

    def fact(self) -> str:
        rows = self.session.job.rows.notes
        return counted(len(rows), "note") if rows else ""

    def refresh(self) -> None:
        if self.isVisible():
            super().refresh()

    def showEvent(self, event: object) -> None:
        self.refresh()
