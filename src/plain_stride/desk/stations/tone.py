"""Tone: greys made of lines, blacks, halos, and what repeats."""

from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.sheet_view import SheetView
from plain_stride.desk.sheet.tone_sight import ToneSight
from plain_stride.desk.stations.base import PagedNotes
from plain_stride.desk.stations.mend_page import Make
from plain_stride.desk.stations.tone_black import BlackPage
from plain_stride.desk.stations.tone_hand import HandPage
from plain_stride.desk.stations.tone_hatch import HatchPage
from plain_stride.desk.stations.tone_light import LightPage
from plain_stride.desk.stations.tone_repeats import RepeatsPage
from plain_stride.texts import counted

HATCH, BY_HAND, BLACKS, LIGHT, REPEATS = "Hatch", "By hand", "Blacks", "Light", "Repeats"


class ToneNotes(PagedNotes):
    name, key = "Tone", "T"

    def __init__(self, session: Session) -> None:
        self.hatch, self.hand, self.blacks = HatchPage(session), HandPage(session), BlackPage(session)
        self.light, self.repeats = LightPage(session), RepeatsPage(session)
        super().__init__(session, {HATCH: self.hatch, BY_HAND: self.hand, BLACKS: self.blacks, LIGHT: self.light,
                                   REPEATS: self.repeats})  # fmt: skip

    def fact(self) -> str:
        n = len(self.session.job.rows.tones)
        return counted(n, "tone") if n else "none yet"

    def tools(self) -> dict[str, Make]:
        """What makes each of its tools, by what it is called."""
        return {**self.hatch.tools(), **self.blacks.tools(), **self.light.tools(), **self.repeats.tools()}

    def show_on(self, sheet: SheetView) -> None:
        """Shows on a sheet what is tried."""
        sight = ToneSight(sheet.context)
        sheet.overlay.add(sight.paint)
        self.hatch.seen.connect(lambda told: sight.let_go() if told is None else sight.show(*told))
        self.hand.courses.connect(sight.show_next)

    def refresh(self) -> None:
        if self.isVisible():
            super().refresh()

    def showEvent(self, event: object) -> None:
        self.refresh()
