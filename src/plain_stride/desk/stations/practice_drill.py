"""Practice, page Drill: which drill, what to do, what the last pull came to, and how that stands against the others."""

import math

from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Choice, Heading, Sentence
from plain_stride.desk.controls.course_view import CourseView
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.practising import Practising
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.practice_sheet import SHOWN_PULLS, TARGET
from plain_stride.desk.stations.mend_page import MendPage
from plain_stride.practice.drills import HATCH_PITCH_MM, PITCH_MM
from plain_stride.practice.estimates import amplitude
from plain_stride.practice.figures import NAMES, judged_by, pitch_evenness
from plain_stride.practice.hand_book import Kept
from plain_stride.texts import counted

SHOWN_PULLS_LAST = 40
PITCHES = {"parallel lines": PITCH_MM, "hatching": HATCH_PITCH_MM}


class DrillPage(MendPage):
    """shows: what the practice sheet is to show."""

    shows = Signal(str)

    def __init__(self, session: Session, practising: Practising) -> None:
        super().__init__(session)
        self._practising = practising
        self._list = PlaceList("Drills", 8)
        self._what, self._count = Sentence(), Sentence("", colour="faint")
        self._last, self._against = Sentence(), Sentence()
        self._course = CourseView("From pull to pull")
        self.sight = Choice((TARGET, SHOWN_PULLS), TARGET, "What the practice sheet shows")
        self.add(self._list, self._what, self._count, self._last, self._against, self._course, self.fault,
                 Heading("On the sheet"), self.sight)  # fmt: skip
        self._back = self.verb("take the last pull back", practising.take_back, of_lines=False)
        self.add(self._back)
        self._worst = self.verb("lines of this job that went worst", self._use_worst, of_lines=False)
        self.add(self._worst)
        self._list.picked.connect(lambda n: practising.take(practising.names[n]))
        self.sight.chosen.connect(self.shows)

    def refresh(self) -> None:
        super().refresh()
        now = self._practising
        names = now.names
        self._list.show_rows(names, names.index(now.drill.name))
        self._what.say(now.drill.words)
        n = now.number
        self._count.say(f"Pull {n + 1} comes next." if n else "Pull along the pale line: it begins at the dot.")
        if now.fault:
            self.fault.say(now.fault)
        else:
            self.fault.say("")
        self._back.setVisible(now.last is not None)
        pulls = now.pulls()
        self._last.say(_last_words(now.last) if now.last is not None else "")
        self._against.say(_against_words(pulls, now))
        scores = [k.score for k in pulls[-SHOWN_PULLS_LAST:]]
        judged = NAMES[judged_by(now.drill.name)]
        self._course.show_values(range(len(scores)), scores, ("the last pulls", f"{judged}, mm"))

    def _use_worst(self) -> None:
        from plain_stride.job.worst_lines import worst_lines

        curves = worst_lines(self.session.job, self.session.shapes)
        if not curves:
            self.fault.say("No pulled lines are in this job yet: pull some, then practise the worst of them.")
            return
        self._practising.use_own(curves)


def _last_words(kept: Kept) -> str:
    """What a pull came to."""
    m = kept.measures
    size = f"{m.width:.2f} mm" if m.width is not None else None
    width = f" Width off by **{size}**." if size else f" Width uneven by **{m.width_cv:.0%}**."
    return (f"Wander **{m.wander:.2f} mm**, shake **{m.shake:.2f} mm** at {m.hz:.0f} Hz; the end missed by"
            f" **{m.end:.2f} mm**, at **{m.speed:.0f} mm/s**.{width}")  # fmt: skip


def _against_words(pulls: list[Kept], now: Practising) -> str:
    """How the last ten stand against the best."""
    if len(pulls) < 2:
        return ""
    last, best = amplitude([k.score for k in pulls[-10:]]), min(k.score for k in pulls)
    words = (
        f"Of {counted(len(pulls), 'pull')} the best came to **{best:.2f} mm**; the last ten to **{last.value:.2f} mm**"
    )
    if last.low is not None and last.high is not None:
        words += f" ({last.low:.2f} to {last.high:.2f})"
    pitch = PITCHES.get(now.drill.name)
    if pitch is not None and len(pulls) > 2:
        even = pitch_evenness(pulls, pitch)
        words += "" if math.isnan(even) else f"; pitch uneven by **{even:.0%}**"
    return f"{words}."
