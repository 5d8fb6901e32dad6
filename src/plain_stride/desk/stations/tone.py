"""Tone: greys made of lines, blacks, halos, and what repeats."""

from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.sheet_view import SheetView
from plain_stride.desk.sheet.tone_sight import ToneSight
from plain_stride.desk.stations.base import PagedNotes
from plain_stride.desk.stations.mend_page import Make
from plain_stride.desk.stations.tone_black import BlackPage
from plain_stride.desk.stations.tone_hatch import HatchPage
from plain_stride.texts import counted

HATCH, BLACKS = "Hatch", "Blacks"


class ToneNotes(PagedNotes):
    name, key = "Tone", "T"

    def __init__(self, session: Session) -> None:
        self.hatch, self.blacks = HatchPage(session), BlackPage(session)
        super().__init__(session, {HATCH: self.hatch, BLACKS: self.blacks})

    def fact(self) -> str:
        n = len(self.session.job.rows.tones)
        return counted(n, "tone") if n else "none yet"

    def tools(self) -> dict[str, Make]:
        """What makes each of its tools, by what it is called."""
        return {**self.hatch.tools(), **self.blacks.tools()}

    def show_on(self, sheet: SheetView) -> None:
        """Shows on a sheet what is tried."""
        sight = ToneSight(sheet.context)
        sheet.overlay.add(sight.paint)
        self.hatch.seen.connect(lambda told: sight.let_go() if told is None else sight.show(*told))

    def refresh(self) -> None:
        if self.isVisible():
            super().refresh()

    def showEvent(self, event: object) -> None:
        self.refresh()
