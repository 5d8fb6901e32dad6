"""Practice, page Speed: the same curve slow, medium, fast, at 100, 150, 200 %, and which of it errs least."""

import numpy as np
from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Choice, Heading, Sentence
from plain_stride.desk.controls.course_view import CourseView
from plain_stride.desk.session.practising import Practising
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.mend_page import MendPage
from plain_stride.hand.advice import Thresholds
from plain_stride.practice.estimates import amplitude
from plain_stride.practice.hand_book import Kept
from plain_stride.practice.speeds import LEAST_PULLS, SweetSpot, sweet_spot

STROKE = "the same stroke"
PACES = {"slow": 15.0, "medium": 40.0, "fast": 100.0}
"""mm/s on the tablet that are meant, about."""
SIZES = {"100 %": 1.0, "150 %": 1.5, "200 %": 2.0}
SAME = 0.06
"""Pulls at a size are those within this share of it."""


class SpeedPage(MendPage):
    """scale_wanted: how much larger the practice sheet is to be shown; advice_wanted: the mm/s below which a shaky line
    is to be told slow; change_wanted: a named change of the job, with its arguments."""

    scale_wanted = Signal(float)
    advice_wanted = Signal(float)
    change_wanted = Signal(str, dict)

    def __init__(self, session: Session, practising: Practising) -> None:
        super().__init__(session)
        self._practising = practising
        self._what = Sentence("Pull the same curve a few times at each pace and size: what errs least is told.")
        self.pace = Choice(tuple(PACES), "medium", "Pace to try")
        self._how = Sentence("", colour="faint")
        self.sizes = Choice(tuple(SIZES), "100 %", "Size of the sheet")
        self._picture = CourseView("Error over speed")
        self._found, self._sizes = Sentence(), Sentence()
        self._advise = self.verb("be told when a line is slower than that", self._use_as_advice, of_lines=False)
        self._enlarge = self.verb("enlarge the board so", self._use_size, of_lines=False)
        self._steady = self.verb("steady this nib so", self._use_steadying, of_lines=False)
        self.add(Heading("Speed and size"), self._what, self.pace, self._how, self.sizes, self._picture, self._found,
                 self._advise, self._steady, self._sizes, self._enlarge, self.fault)  # fmt: skip
        self.sizes.chosen.connect(lambda _: self.scale_wanted.emit(self.enlarged))
        self.pace.chosen.connect(self._choose_pace)

    @property
    def enlarged(self) -> float:
        return SIZES[self.sizes.current()]

    def begin(self) -> None:
        """The curve that is tried is in hand."""
        if self._practising.drill.name != STROKE:
            self._practising.take(STROKE)

    def _choose_pace(self, pace: str) -> None:
        self.begin()
        self.refresh()

    def refresh(self) -> None:
        super().refresh()
        speed = PACES[self.pace.current()]
        length = self._practising.drill.target(0).length * self.enlarged
        self._how.say(f"About {speed:.0f} mm/s: {length / speed:.1f} s from end to end.")
        pulls = [k for k in self._practising.every_pull() if k.drill == STROKE]
        speeds, errors = [k.measures.speed for k in pulls], [k.measures.straying for k in pulls]
        spot = sweet_spot(speeds, errors)
        curve = None
        if spot is not None:
            along = np.linspace(min(speeds), max(speeds), 60)
            curve = np.column_stack([along, spot.error_at(along)])
        band = (spot.low, spot.high) if spot is not None else None
        self._picture.show_values(speeds[-120:], errors[-120:], ("mm/s", "straying, mm"), curve, band)
        self._found.say(_spot_words(spot, len(pulls)))
        self._advise.setVisible(spot is not None)
        school = school_for(pulls)
        self._steady.setVisible(school is not None and school != self.session.nib.steadying.school)
        self._steady.setText(f"steady this nib: {SCHOOL_WORDS.get(school or '', '')}")
        self._steady.updateGeometry()
        best = best_size(pulls)
        self._sizes.say(_size_words(best, pulls))
        self._enlarge.setVisible(best is not None and best != self.session.job.page.enlarge)
        if best is not None:
            self._enlarge.setText(f"enlarge the board to {best:.0%}".replace("%", " %"))
            self._enlarge.updateGeometry()
        self.fault.say(self._practising.fault)

    def _use_as_advice(self) -> None:
        pulls = [k for k in self._practising.every_pull() if k.drill == STROKE]
        spot = sweet_spot([k.measures.speed for k in pulls], [k.measures.straying for k in pulls])
        if spot is not None:
            self.advice_wanted.emit(round(spot.low, 1))

    def _use_steadying(self) -> None:
        school = school_for([k for k in self._practising.every_pull() if k.drill == STROKE])
        if school is not None:
            self.change_wanted.emit("nib", {"key": self.session.now.nib, "school": school})
            self.refresh()

    def _use_size(self) -> None:
        best = best_size([k for k in self._practising.every_pull() if k.drill == STROKE])
        if best is not None:
            self.change_wanted.emit("board", {"enlarge": best})
            self.refresh()


SHAKY = Thresholds().shake * float(np.sqrt(2.0))
"""The amplitude from which a hand counts as shaky: its RMS to the side is the threshold of the advice."""
SCHOOL_WORDS = {"after": "after the pull", "live": "while pulling"}


def school_for(pulls: list[Kept]) -> str | None:
    """The steadying that a hand wants: after the pull where it shakes, else live; None where too few pulls tell."""
    if len(pulls) < LEAST_PULLS:
        return None
    return "after" if amplitude([k.measures.shake for k in pulls]).value > SHAKY else "live"


def best_size(pulls: list[Kept]) -> float | None:
    """The size at which the line errs least in print, where two were tried five times at least."""
    error = {size: amplitude([k.measures.straying for k in some]).value / size for size in SIZES.values()
             if len(some := [k for k in pulls if abs(k.scale / size - 1.0) < SAME]) >= 5}  # fmt: skip
    return min(error, key=lambda size: error[size]) if len(error) > 1 else None


def _size_words(best: float | None, pulls: list[Kept]) -> str:
    if best is None:
        return "Five pulls at two sizes tell at which the line errs least in print."
    told = []
    for word, size in SIZES.items():
        some = [k.measures.straying for k in pulls if abs(k.scale / size - 1.0) < SAME]
        if some:
            told.append(f"{word} {amplitude(some).value / size:.2f} mm")
    return f"Straying in print: {', '.join(told)}."


def _spot_words(spot: SweetSpot | None, count: int) -> str:
    if spot is None:
        return (f"{count} of {LEAST_PULLS} pulls; slow and fast must differ by a factor of two." if count < LEAST_PULLS
                else "Your speeds were too alike: pull some slower and some faster.")  # fmt: skip
    where = "" if spot.inside else " That lies at the edge of what you tried."
    return (f"You err least at **{spot.speed:.0f} mm/s** ({spot.low:.0f} to {spot.high:.0f}): straying"
            f" **{spot.error:.2f} mm**.{where}")  # fmt: skip
