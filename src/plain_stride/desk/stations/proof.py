"""Proof: what a senior would mark in red, with places, figures and mends; looks; remarks."""

from PySide6.QtCore import Signal

from plain_stride.desk.keys.action import Action
from plain_stride.desk.session.pencil_reader import PencilReader
from plain_stride.desk.session.proofer import Proofer
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.moments import Moments
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.print_sight import OFF, PrintSight
from plain_stride.desk.sheet.proof_marks import ProofMarks
from plain_stride.desk.sheet.sheet_view import SheetView
from plain_stride.desk.stations.base import PagedNotes
from plain_stride.desk.stations.mend_page import Make
from plain_stride.desk.stations.proof_limits import LimitsPage
from plain_stride.desk.stations.proof_looks import LooksPage
from plain_stride.desk.stations.proof_meant import MeantPage
from plain_stride.desk.stations.proof_notes import NotesPage
from plain_stride.desk.stations.proof_out import OutPage
from plain_stride.desk.stations.proof_remarks import RemarksPage
from plain_stride.desk.workers.owned import owned
from plain_stride.texts import counted

NOTES, MEANT, LIMITS, LOOKS, REMARKS, OUT = "Notes", "Meant", "Limits", "Looks", "Own", "Out"


class ProofNotes(PagedNotes):
    """place_wanted: a place (mm) to be shown."""

    place_wanted = Signal(float, float)
    name, key = "Proof", "F"

    def __init__(self, session: Session) -> None:
        self.proofer = Proofer(session)
        self.notes, self.meant = NotesPage(session, self.proofer), MeantPage(session, self.proofer)
        self.limits, self.looks, self.remarks = LimitsPage(session), LooksPage(session), RemarksPage(session)
        self.out = OutPage(session, self.proofer)
        self._marks: ProofMarks | None = None
        super().__init__(session, {NOTES: self.notes, MEANT: self.meant, LIMITS: self.limits, LOOKS: self.looks,
                                   REMARKS: self.remarks, OUT: self.out})  # fmt: skip
        owned(self, self.proofer)
        for page in (self.notes, self.meant, self.remarks, self.out):
            page.place_wanted.connect(self.place_wanted)
        self.proofer.changed.connect(self.refresh)

    def fact(self) -> str:
        if not self.proofer.known:
            return "not looked at"
        n = len(self.proofer.proof.told)
        return counted(n, "note") if n else "nothing marked"

    def tools(self) -> dict[str, Make]:
        """What makes each of its tools, by what it is called."""
        return self.remarks.tools()

    def key_actions(self) -> list[Action]:
        """What its keys do."""
        return [Action(words="the next note of the proof", shortcuts=("Alt+Down",), run=lambda: self.notes.step(1)),
                Action(words="the note before", shortcuts=("Alt+Up",), run=lambda: self.notes.step(-1))]  # fmt: skip

    def hold_against(self, reader: PencilReader) -> None:
        """What the pencils are read by."""
        self.proofer.hold_against(reader)

    def show_on(self, sheet: SheetView, moments: Moments) -> None:
        """Shows its notes, and what print makes of the drawing, on a sheet."""
        marks, sight = ProofMarks(self.session, self.proofer), owned(sheet, PrintSight(sheet.context))
        sheet.overlay.add(marks.paint, sight.paint)
        self._marks = marks
        sheet.gestures.offer_first(self._ring_pressed)
        self.notes.listed.connect(marks.show)
        self.notes.listed.connect(lambda _: sheet.update())
        self.looks.print_wanted.connect(sight.show)
        self.looks.look_with(sheet.viewport, moments)

    def _ring_pressed(self, event: PointerEvent) -> bool:
        """Takes the note in hand whose ring was pressed; whether there was one."""
        number = self._marks.ring_at(event.at, event.view) if self._marks is not None else None
        if number is None:
            return False
        self.show_page(NOTES)
        self.notes.pick_row(number)
        return True

    def work(self, on: bool) -> None:
        """Whether it is the station that is looked at."""
        self.proofer.work(on)
        if self._marks is not None:
            self._marks.work(on)
        if not on and self.looks.print.current() != OFF:
            self.looks.print.show_chosen(OFF)
            self.looks.print_wanted.emit(OFF)

    def refresh(self) -> None:
        if self.isVisible():
            super().refresh()

    def showEvent(self, event: object) -> None:
        self.refresh()
