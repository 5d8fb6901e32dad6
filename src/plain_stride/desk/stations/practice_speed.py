"""Practice, page Speed: the same curve slow, medium, fast, at 100, 150, 200 %, and which of it errs least."""

import numpy as np
from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Choice, Heading, Sentence
from plain_stride.desk.controls.course_view import CourseView
from plain_stride.desk.session.practising import Practising
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.mend_page import MendPage
from plain_stride.practice.drills import SAME_STROKE
from plain_stride.practice.experiments import SIZES, Experiment, experiment
from plain_stride.practice.speeds import LEAST_PULLS, SweetSpot

PACES = {"slow": 15.0, "medium": 40.0, "fast": 100.0}
"""mm/s on the tablet that are meant, about."""
SHOWN = 120
_SIZES = {f"{100.0 * size:.0f} %": size for size in SIZES}


class SpeedPage(MendPage):
    """scale_wanted: how much larger the practice sheet is to be shown; advice_wanted: the mm/s below which a shaky line
    is to be told slow; change_wanted: a named change of the job, with its arguments."""

    scale_wanted = Signal(float)
    advice_wanted = Signal(float)
    change_wanted = Signal(str, dict)

    def __init__(self, session: Session, practising: Practising) -> None:
        super().__init__(session)
        self._practising = practising
        self._tried = experiment([])
        self._what = Sentence("Pull the same curve a few times at each pace and size: what errs least is told.")
        self.pace = Choice(tuple(PACES), "medium", "Pace to try")
        self._how = Sentence("", colour="faint")
        self.sizes = Choice(tuple(_SIZES), "100 %", "Size of the sheet")
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
        return _SIZES[self.sizes.current()]

    def begin(self) -> None:
        """The curve that is tried is in hand."""
        if self._practising.drill.name != SAME_STROKE:
            self._practising.take(SAME_STROKE)

    def _choose_pace(self, pace: str) -> None:
        self.begin()
        self.refresh()

    def refresh(self) -> None:
        super().refresh()
        speed = PACES[self.pace.current()]
        length = self._practising.drill.target(0).length * self.enlarged
        self._how.say(f"About {speed:.0f} mm/s: {length / speed:.1f} s from end to end.")
        pulls = self._practising.tried()
        found = self._tried = experiment(pulls)
        speeds, errors = [k.measures.speed for k in pulls[-SHOWN:]], [k.measures.straying for k in pulls[-SHOWN:]]
        curve = band = None
        if found.spot is not None and speeds:
            along = np.linspace(min(speeds), max(speeds), 60)
            curve, band = np.column_stack([along, found.spot.error_at(along)]), (found.spot.low, found.spot.high)
        ends = f"{min(speeds):.0f} to {max(speeds):.0f} mm/s" if speeds else ""
        self._picture.show_values(speeds, errors, (ends, "straying, mm"), curve, band)
        self._found.say(_spot_words(found.spot, found.pulls))
        self._advise.setVisible(found.spot is not None)
        self._steady.setVisible(found.school is not None and found.school != self.session.nib.steadying.school)
        self._steady.setText(f"steady this nib: {SCHOOL_WORDS.get(found.school or '', '')}")
        self._steady.updateGeometry()
        self._sizes.say(_size_words(found))
        self._enlarge.setVisible(found.size is not None and found.size != self.session.job.page.enlarge)
        self._enlarge.setText(f"enlarge the board to {100.0 * (found.size or 1.0):.0f} %")
        self._enlarge.updateGeometry()
        self.fault.say(self._practising.fault)

    def _use_as_advice(self) -> None:
        if self._tried.spot is not None:
            self.advice_wanted.emit(round(self._tried.spot.low, 1))

    def _use_steadying(self) -> None:
        self.change_wanted.emit("nib", {"key": self.session.now.nib, "school": self._tried.school})
        self.refresh()

    def _use_size(self) -> None:
        self.change_wanted.emit("board", {"enlarge": self._tried.size})
        self.refresh()


SCHOOL_WORDS = {"after": "after the pull", "live": "while pulling"}


def _size_words(found: Experiment) -> str:
    if found.size is None:
        return "Five pulls at two sizes tell at which the line errs least in print."
    told = ", ".join(f"{100.0 * size:.0f} % {error:.2f} mm" for size, error in found.in_print.items())
    return f"Straying in print: {told}."


def _spot_words(spot: SweetSpot | None, count: int) -> str:
    if spot is None:
        return (f"{count} of {LEAST_PULLS} pulls; slow and fast must differ by a factor of two." if count < LEAST_PULLS
                else "Your speeds were too alike: pull some slower and some faster.")  # fmt: skip
    where = "" if spot.inside else " That lies at the edge of what you tried."
    return (f"You err least at **{spot.speed:.0f} mm/s** ({spot.low:.0f} to {spot.high:.0f}): straying"
            f" **{spot.error:.2f} mm**.{where}")  # fmt: skip
