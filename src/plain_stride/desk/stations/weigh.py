"""Weigh: line weight as a plan that is seen, argued with and checked."""

from PySide6.QtCore import QTimer, Signal

from plain_stride.desk.session.session import Session
from plain_stride.desk.session.weigher import FEW_LINES
from plain_stride.desk.stations.base import PagedNotes
from plain_stride.desk.stations.weigh_clash import ClashPage
from plain_stride.desk.stations.weigh_learn import LearnPage
from plain_stride.desk.stations.weigh_lines import WeighLinesPage
from plain_stride.desk.stations.weigh_plan import PlanPage
from plain_stride.desk.stations.weigh_range import RangePage
from plain_stride.desk.stations.weigh_see import SeePage
from plain_stride.job.weight_questions import Weights, WeightsNow
from plain_stride.texts import counted

MEASURE_MS = 200
PLAN, LINES, RANGE, CLASH, SEE, LEARN = "Plan", "Lines", "Range", "Clash", "See", "Learn"


class WeighNotes(PagedNotes):
    """What is measured waits until nothing changes for a moment, and is done beside the window where there are many
    lines. place_wanted: a place (mm) to be shown; page_shown: which page is looked at now."""

    place_wanted = Signal(float, float)
    page_shown = Signal(str)
    name, key = "Weigh", "W"

    def __init__(self, session: Session) -> None:
        self.plan, self.lines, self.range = PlanPage(session), WeighLinesPage(session), RangePage(session)
        self.clash, self.see, self.learn = ClashPage(session), SeePage(session), LearnPage(session)
        self._places = (-1, 0)
        self._later = QTimer()
        super().__init__(session, {PLAN: self.plan, LINES: self.lines, RANGE: self.range, CLASH: self.clash,
                                   SEE: self.see, LEARN: self.learn})  # fmt: skip
        self._later.setParent(self)
        self._later.setSingleShot(True)
        self._later.setInterval(MEASURE_MS)
        self._later.timeout.connect(lambda: self.session.drawing.ask(WeightsNow(), self._show, FEW_LINES))
        for page in (self.range, self.clash, self.learn):
            page.place_wanted.connect(self.place_wanted)

    def fact(self) -> str:
        share, (version, places) = self.session.job.plan.share, self._places
        if places and version == self.session.job.version:
            return counted(places, "place") + " to decide"
        return f"plan at {share * 100:.0f} %" if share else "the hand's own"

    def show_page(self, name: str) -> None:
        super().show_page(name)
        self.page_shown.emit(name)

    def refresh(self) -> None:
        if not self.isVisible():
            return
        super().refresh()
        self._later.start()

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _show(self, weights: Weights) -> None:
        self._places = (self.session.job.version, len(weights.clashes))
        self.range.show_weights(weights)
        self.clash.show_weights(weights)
