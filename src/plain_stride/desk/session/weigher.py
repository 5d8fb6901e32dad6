"""The plan's profiles, worked out beside the window: lines are inked at once as they were or as their role says, and
weighed a moment later, all that lies round them taken into account."""

from collections.abc import Iterable

from PySide6.QtCore import QObject, QTimer

from plain_stride.desk.session.document import Document
from plain_stride.desk.session.drawing_link import DrawingLink
from plain_stride.job.history import RowChange
from plain_stride.job.weighing import Changes, Generation, plan_counts
from plain_stride.job.weight_questions import LampsTried, ProfilesNow
from plain_stride.lines.recipe import PlanProfile
from plain_stride.weight.lamps import Lamp

FEW_LINES = 20
"""A job of so many lines is weighed here: a frame or two after a change, 0.2 s at the very first."""


class Weigher(QObject):
    """Asks after every change, once the pen is up, while some share of a plan is laid that looks round."""

    def __init__(self, document: Document, drawing: DrawingLink) -> None:
        super().__init__()
        self._document, self._drawing = document, drawing
        self._weighing = document.shapes.weighing
        self._known: Generation = (0, 0)
        self._asked, self._tries = -1, False
        self._weighing.leave_to_worker()
        document.updates.add(self._ask)
        # A job opens at once, its lines as their roles say, and is weighed a moment later.
        QTimer.singleShot(0, self, self._ask)

    @property
    def settled(self) -> bool:
        """Whether lines are as the plan wants them, the job being as it is."""
        return self._asked == self._document.job.version or not self._acts()

    def _acts(self) -> bool:
        return plan_counts(self._document.job) and not self._document.job.plan.is_even

    def _ask(self) -> None:
        version = self._document.job.version
        if version == self._asked or not self._acts():
            return
        self._drawing.ask(ProfilesNow(self._known), lambda told: self._take(told, version), FEW_LINES)

    def try_lamps(self, lamps: tuple[Lamp, ...]) -> None:
        """Shows the drawing as other lamps would have it, for the moment; what is asked while one is under way waits
        for the next call."""
        if not self._tries and self._acts():
            self._tries = True
            self._drawing.ask(LampsTried(lamps), self._show_tried, FEW_LINES)

    def end_trying(self) -> None:
        """Shows it as the plan has it."""
        self._tries = False
        self._show(self._weighing.show({}))

    def _show_tried(self, profiles: dict[str, PlanProfile]) -> None:
        if self._tries:
            self._tries = False
            self._show(self._weighing.show(profiles))

    def _take(self, told: Changes, version: int) -> None:
        self._known, self._asked = told.generation, version
        self._weighing.take(told.profiles, told.sides)
        # What was shown for the moment stays until what the plan wants now is there.
        over = [] if self._tries else self._weighing.show({})
        self._show({*told.profiles, *over})

    def _show(self, lines: Iterable[str]) -> None:
        rows = self._document.job.rows.lines
        changed = tuple(RowChange("lines", key, rows[key], rows[key]) for key in lines if key in rows)
        if changed:
            self._document.changed.emit(changed)
            self._document.updates.wake()
