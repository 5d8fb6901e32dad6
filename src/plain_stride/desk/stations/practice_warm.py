"""Practice, page Warm up: three to six minutes for today's page and this hand."""

from PySide6.QtCore import QTimer

from plain_stride.desk.cautions import CAUTION
from plain_stride.desk.controls.controls import Heading, Sentence
from plain_stride.desk.session.practising import Practising
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.mend_page import MendPage
from plain_stride.job.page_asks import page_asks
from plain_stride.practice.warm_up import PageFacts

TICK_MS = 5000


class WarmPage(MendPage):
    """It begins and ends by a press, and never by itself begins."""

    def __init__(self, session: Session, practising: Practising) -> None:
        super().__init__(session)
        self._practising = practising
        self._what, self._now, self._next = Sentence(), Sentence(), Sentence()
        self._begin = self.verb("warm up", self._start, of_lines=False)
        self._stop = self.verb("leave it", practising.stop_warming, of_lines=False)
        self.add(Heading("Warm up"), self._what, self._begin, self._stop, self._now, self._next, self.fault,
                 Sentence(CAUTION, colour="faint"))  # fmt: skip
        self._timer = QTimer(self)
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self.refresh)

    def refresh(self) -> None:
        super().refresh()
        warm = self._practising.warm
        page = self.facts()
        read = bool(self.session.strokes.guides.lines)
        seen = "by its pencils" if read else "by its ink" if page.pencils else "nothing is on it yet"
        self._what.say(
            f"Three to six minutes of drills for this page ({seen}) and for what went worst lately. It ends when your"
            " shake has settled, and may be left at any time."
        )
        self._begin.setVisible(warm is None)
        self._stop.setVisible(warm is not None)
        self._now.say(f"**{self._practising.drill.name.capitalize()}**, {self._practising.warm_left} more:"
                      f" {self._practising.drill.words}" if warm is not None else self._practising.said)  # fmt: skip
        share = self._practising.warm_share()
        self._next.say("" if warm is None else f"{share:.0%} of the first three minutes." if share < 1.0 else
                       "Until your shake has settled, six minutes at most.")  # fmt: skip
        self.fault.say(self._practising.fault)
        (self._timer.start if warm is not None and self.isVisible() else self._timer.stop)()

    def facts(self) -> PageFacts:
        """Of the pencils of this job as they were read; of its ink where nobody has read them."""
        return page_asks(self.session.job, self.session.shapes, self.session.strokes.guides.lines)

    def _start(self) -> None:
        self._practising.warm_up(self.facts())
