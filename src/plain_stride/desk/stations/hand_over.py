"""Hand over: final art as files, in its inks, with its finishes and flats, delivered; by way of paper."""

from pathlib import Path

from PySide6.QtCore import Signal

from plain_stride.desk.keys.action import Action
from plain_stride.desk.session.flats_link import FlatsLink
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.finish_sight import FINISHED, FLATS, INKED, FinishSight
from plain_stride.desk.sheet.flats_marks import FlatsMarks
from plain_stride.desk.sheet.sheet_view import SheetView
from plain_stride.desk.stations.base import PagedNotes
from plain_stride.desk.stations.hand_over_files import FilesPage
from plain_stride.desk.stations.hand_over_finish import FinishPage
from plain_stride.desk.stations.hand_over_flats import FlatsPage
from plain_stride.desk.stations.hand_over_inks import InksPage
from plain_stride.desk.stations.hand_over_paper import PaperPage
from plain_stride.desk.stations.hand_over_send import SendPage
from plain_stride.desk.stations.mend_page import Make
from plain_stride.desk.workers.owned import owned

FILES, INKS, FINISH, FLATS_PAGE, SEND, PAPER = "Files", "Inks", "Finish", "Flats", "Send", "Paper"


class HandOverNotes(PagedNotes):
    """progressed: the share done of what is written or read, None when it is over; place_wanted: a place (mm) to be
    shown."""

    progressed = Signal(object)
    place_wanted = Signal(float, float)
    name, key = "Hand over", "H"

    def __init__(self, session: Session) -> None:
        self.link = FlatsLink(session)
        self.files, self.inks, self.finish = FilesPage(session), InksPage(session), FinishPage(session)
        self.flats, self.send, self.paper = FlatsPage(session, self.link), SendPage(session), PaperPage(session)
        self._sight: FinishSight | None = None
        self._marks: FlatsMarks | None = None
        self._at_work = False
        super().__init__(session, {FILES: self.files, INKS: self.inks, FINISH: self.finish, FLATS_PAGE: self.flats,
                                   SEND: self.send, PAPER: self.paper})  # fmt: skip
        owned(self, self.link)
        for page in (self.files, self.flats, self.send, self.paper):
            page.progressed.connect(self.progressed)
        self.flats.place_wanted.connect(self.place_wanted)
        self.inks.place_wanted.connect(self.place_wanted)
        self.finish.sight_wanted.connect(lambda _: self._look())
        self.pages.chosen.connect(lambda _: self._look())

    def fact(self) -> str:
        w, h = self.session.job.page.pixels
        return f"{w:,} × {h:,} px"

    def tools(self) -> dict[str, Make]:
        """What makes each of its tools, by what it is called."""
        return self.flats.tools()

    def key_actions(self) -> list[Action]:
        """What its key does: the art as it is inked while it is held, without inks, finishes and flats."""
        return [Action(key="`", held="at Hand over: as it is inked, without its finishes",
                       tapped="finished, or as inked", run=self._toggle,
                       hold=lambda: self._hold(True), let_go=lambda: self._hold(False))]  # fmt: skip

    def show_on(self, sheet: SheetView) -> None:
        """Shows the finished art, and the flat in hand, on a sheet."""
        self._sight, self._marks = owned(sheet, FinishSight(sheet.context)), FlatsMarks(self.link)
        sheet.overlay.add(self._sight.paint, self._marks.paint)
        self.link.changed.connect(sheet.update)
        self._look()

    def work(self, on: bool) -> None:
        """Whether it is the station that is looked at."""
        self._at_work = on
        if self._sight is not None:
            self._sight.work(on)
        self._look()

    def refresh(self) -> None:
        if self.isVisible():
            super().refresh()

    def showEvent(self, event: object) -> None:
        self.refresh()

    @property
    def writing(self) -> bool:
        """Whether a file is being written."""
        return self.files.working

    def write(self, path: Path) -> bool:
        """Begins to write a file of final art by its ending."""
        return self.files.write(path)

    def stop(self) -> None:
        """Stops what is being written."""
        self.files.stop()

    def choose_pixels(self, word: str) -> None:
        self.files.choose_pixels(word)

    def sight_is_true(self) -> bool:
        """Whether what is shown of the finished art is of the job as it is."""
        return self._sight is None or self._sight.is_true()

    def _look(self) -> None:
        """At Flats the flats are shown, else what the page Finish says."""
        flats = self.shown_page() == FLATS_PAGE
        self.link.work(self._at_work and flats)
        if self._marks is not None:
            self._marks.work(self._at_work and flats)
        if self._sight is not None:
            wanted = FLATS if flats else self.finish.sight.current()
            if self._sight.shows != wanted:
                self._sight.show(wanted)

    def _toggle(self) -> None:
        choice = self.finish.sight
        choice.show_chosen(FINISHED if choice.current() == INKED else INKED)
        self._look()

    def _hold(self, on: bool) -> None:
        if self._sight is not None:
            self._sight.hold_back(on)
