"""Tone, page By hand: where the next stroke goes, and how even the last ones are."""

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent

from plain_stride.desk.controls.controls import Choice, Heading, Sentence
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.mend_page import MendPage, field_with
from plain_stride.desk.stations.tone_words import length_of
from plain_stride.errors import StrideError
from plain_stride.job.tone_questions import StrokesMeasured
from plain_stride.texts import counted
from plain_stride.tone.measured import Evenness
from plain_stride.tone.next_strokes import belongs, next_courses

NONE, ONE, EIGHT = OFFERS = ("nothing", "the next", "the next 8")
COUNTS = {NONE: 0, ONE: 1, EIGHT: 8}
AS_LAST, MOST_RUN, LEAST_MEASURED, ALONE_WIDTHS = "as the last two", 80, 3, 3.0


class HandPage(MendPage):
    """courses: where the next strokes would go, (n, 2) mm each."""

    courses = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._says, self._offer_says = Sentence(), Sentence("", colour="faint")
        self._offer = Choice(OFFERS, ONE, "How many of the next strokes are offered")
        self._pitch = field_with("Pitch", AS_LAST)
        self._pitch.entry.setFixedWidth(self._pitch.entry.width() + 30)
        self._take = self.verb("take them", self._take_next, of_lines=False)
        self._shown: tuple[int, tuple[str, ...]] = (-1, ())
        self._offered: tuple[int, tuple[str, ...], int] = (-1, (), 0)
        self.add(self.fault, Heading("How even they are"), self._says, Heading("The next stroke"))
        self.add_verbs(Sentence("offer"), self._offer)
        self.add(self._pitch, self._offer_says)
        self.add_verbs(self._take)
        self._offer.chosen.connect(lambda word: self.refresh())
        self._pitch.typed.connect(lambda text: self.refresh())

    def refresh(self) -> None:
        if not self.isVisible():
            return
        run = self._run()
        self._measure(run)
        courses = self._next(run)
        self._take.setEnabled(bool(courses))
        self.courses.emit(courses)
        if courses:
            many = counted(len(courses), "stroke")
            self._offer_says.say(f"**{KEYS.shown('/')}** takes {many}; or pull them to the marks.")
            now = (self.session.job.version, tuple(run[:2]), len(courses))
            if now != self._offered:
                self._offered = now
                self.session.offered.emit(f"The next {many} would lie so.", "take them", self._take_next)
        else:
            self._offer_says.say("Pull a stroke, then one beside it: the next ones are shown, with marks to aim at."
                                 if COUNTS[self._offer.current()] else "")  # fmt: skip

    def hideEvent(self, event: QHideEvent) -> None:
        self.courses.emit([])

    def _run(self) -> list[str]:
        """The strokes that were pulled last and belong together, the newest first; those that are chosen, else."""
        chosen = self.session.chosen_lines()
        if len(chosen) >= LEAST_MEASURED:
            return chosen
        rows, out = self.session.job.rows.lines, list[str]()
        for key in reversed(list(rows)):
            if rows[key].tone is not None or rows[key].draft:
                continue
            if out and not (rows[key].part == rows[out[0]].part and belongs(self._middle(out[-1]), self._middle(key))):
                break
            out.append(key)
            if len(out) == MOST_RUN:
                break
        return out

    def _middle(self, key: str) -> np.ndarray:
        return self.session.shapes[key].flat[0]

    def _next(self, run: list[str]) -> list[np.ndarray]:
        """Where the next strokes would go."""
        count = COUNTS[self._offer.current()]
        self.fault.say("")
        if not run or not count or len(self.session.chosen_lines()) >= LEAST_MEASURED:
            return []
        try:
            before = self._middle(run[1]) if len(run) > 1 else None
            return next_courses(self._middle(run[0]), before, count, self._pitch_of(run))
        except StrideError as fault:
            self.fault.say(str(fault))
            return []

    def _take_next(self) -> None:
        run = self._run()
        courses = self._next(run)
        if courses:
            before = run[1] if len(run) > 1 else None
            self.session.make("go-on", line=run[0], count=len(courses), before=before, pitch=self._pitch_of(run))

    def _pitch_of(self, run: list[str]) -> float | None:
        """mm: what is typed; of one stroke alone so many of its widths; None for as far as the last two lie. Raises
        MeasureError."""
        if self._pitch.entry.text().strip() != AS_LAST:
            return length_of(self._pitch)
        return None if len(run) > 1 else ALONE_WIDTHS * float(self.session.shapes[run[0]].body.full.max())

    def _measure(self, run: list[str]) -> None:
        now = (self.session.job.version, tuple(run))
        if len(run) < LEAST_MEASURED:
            self._says.say("Three strokes beside each other, or more, are measured as they come.")
        elif now != self._shown:
            self.session.drawing.ask(StrokesMeasured(tuple(run)), self._show_measured)
        self._shown = now

    def _show_measured(self, told: Evenness) -> None:
        if told.pairs:
            self._says.say(f"**{told.pairs + 1}** strokes: pitch **{told.pitch:.2f} mm**, uneven by"
                           f" **{told.cv_pitch:.0%}**, widths **{told.width:.2f} mm**, uneven by"
                           f" **{told.cv_width:.0%}**.")  # fmt: skip
