"""The reading of the pencils beside the window: asked for, kept as long as it is true, held against the ink."""

import base64
from collections.abc import Sequence
from typing import Any

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from plain_stride.desk.session.session import Session
from plain_stride.errors import StrideError
from plain_stride.hand.follow import Guides
from plain_stride.job.art import drafts_of
from plain_stride.job.errands import ReadMiddle, ReadPencils
from plain_stride.job.history import RowChange
from plain_stride.job.own_pressure import own_widths
from plain_stride.job.pencil_reading import draft_changes, lines_from_json, reading_from_json, sure_lines
from plain_stride.job.pencil_records import PencilRecord
from plain_stride.job.pencils_and_ink import coverage_of, lost_places_from_json
from plain_stride.job.serving import Answered, Failed, Progressed, Reply
from plain_stride.pencils.coverage import Coverage
from plain_stride.pencils.lost import LostPlace
from plain_stride.pencils.read.reading import Reading, ReadLine
from plain_stride.texts import counted

LINES, BARE, LOST = "lines", "bare", "lost"
"""What may be shown over the sheet: what was read, what has no ink yet, what the ink lost."""
UNDER_MM = 4.0
"""How near the pen a pencil line must lie to be meant."""


MOVED, AGED = "moved", "aged"
"""What became of the pencils while they were being read."""


class PencilReader(QObject):
    """reading: the newest one, None before there is any; first: lines that are there before it; stale: pencils were
    added or cleaned since. lost, marks: of the newest reading; unfinished: places without ink are left out of lost.
    shown: what lies over the sheet, '' for nothing. changed: any of it is another now; progressed: the share that is
    read, None when it is over."""

    changed = Signal()
    progressed = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.reading: Reading | None = None
        self.first: list[ReadLine] = []
        self.stale, self._since = False, ""
        self.lost: list[LostPlace] = []
        self.unfinished = False
        self.lost_map: tuple[QImage, tuple[float, float], float] | None = None
        self.marks: list[np.ndarray] = []
        self.shown = ""
        self.fault = ""
        self._coverage: tuple[int, Reading, Coverage] | None = None
        session.changed.connect(self._job_changed)
        self._worker, self._number, self._first_number = session.document.errands, 0, 0

    @property
    def running(self) -> bool:
        return self._number > 0

    def _forget(self) -> None:
        self.reading, self.shown, self.fault, self.stale = None, "", "", False
        self.lost, self.lost_map, self.marks = [], None, []
        self._session.know_inked(None)
        self._session.strokes.know(Guides())
        self.changed.emit()

    def _job_changed(self, rows: tuple[RowChange, ...]) -> None:
        """What was read of pencils that lie otherwise now is no longer true of them; new ones make it old. What is
        being read right now is no better off."""
        moved = any(row.table == "pencils" and _lies_otherwise(row) for row in rows)
        if moved:
            self._since = MOVED
            if self.reading is not None:
                self._forget()
        elif any(row.table in ("passes", "areas", "frames") or (row.table == "pencils" and _looks_otherwise(row))
                 for row in rows):  # fmt: skip
            self._since = self._since or AGED
            if self.reading is not None:
                self.stale = True
                self.changed.emit()

    def read(self, middle: tuple[float, float] | None = None) -> None:
        """Has the pencils read by another process, as the file has them. middle: of the view, mm: what lies there comes
        first, to be seen while the whole is read."""
        self.fault = ""
        try:
            self._session.saving.save_all()
        except StrideError as fault:
            self._ended(str(fault), {})
            return
        self._since = ""
        if middle is not None and self.reading is None:
            self._first_number = self._worker.ask(ReadMiddle(self._session.job.path, middle), self._told_first)
        self._number = self._worker.ask(ReadPencils(self._session.job.path, with_map=True), self._told)
        self.changed.emit()

    def stop(self) -> None:
        for number in (self._first_number, self._number):
            self._worker.stop(number)

    def show(self, what: str) -> None:
        """Shows LINES, BARE or LOST over the sheet, or nothing."""
        self.shown = what if self.reading is not None else ""
        self.changed.emit()

    def _told_first(self, reply: Reply) -> None:
        if isinstance(reply, Answered) and self.running and not self._since:
            self.first = lines_from_json(reply.value)
            self.changed.emit()

    def _told(self, reply: Reply) -> None:
        if isinstance(reply, Progressed):
            self.progressed.emit(reply.share)
            return
        self._number = 0
        if isinstance(reply, Failed):
            self._ended("stopped: nothing was changed" if reply.stopped else reply.words, {})
        else:
            self._ended("", reply.value)

    def _ended(self, fault: str, told: dict[str, Any]) -> None:
        self.progressed.emit(None)
        self.first = []
        if not fault and self._since == MOVED:
            fault = "the pencils were moved while they were read: read them again"
        if not fault:
            self._take(told)
        self.fault = fault
        self.shown = LINES if self.reading is not None and not fault else ""
        self.changed.emit()

    def _take(self, told: dict[str, Any]) -> None:
        reading = reading_from_json(told)
        marks = [*(np.array(mark["outline"], float) for mark in told["x_marks"]), *reading.patches]
        lost = told.get("lost", {"places": [], "unfinished": False})
        self.unfinished = bool(lost["unfinished"])
        places = lost_places_from_json(lost)
        image = QImage.fromData(base64.b64decode(lost["map"])) if "map" in lost else None
        self.lost_map = (image, (lost["origin"][0], lost["origin"][1]), lost["per_mm"]) if image is not None else None
        self.reading, self.stale, self.marks, self.lost = reading, self._since == AGED, marks, places
        lines = [np.vstack([line.points, line.points[:1]]) if line.closed else line.points for line in reading.lines]
        self._session.strokes.know(Guides(lines))

    # Against the ink

    def coverage(self) -> Coverage | None:
        """What of the pencils has ink now; worked out once for a state of the job."""
        if self.reading is None:
            return None
        job = self._session.job
        if self._coverage is None or self._coverage[:2] != (job.version, self.reading):
            self._coverage = (job.version, self.reading, coverage_of(job, self._session.shapes, self.reading))
            self._session.know_inked(self._coverage[2].inked)
        return self._coverage[2]

    # Drafts

    def lay_drafts(self, lines: Sequence[ReadLine], own: bool = False) -> None:
        """Lays read lines as drafts in a part of their own, in one step; own: as wide as the hand's pulls swell."""
        try:
            widths = own_widths(self._session.job, self._session.nib) if own else None
            wanted = draft_changes(self._session.job, lines, widths)
        except StrideError as fault:
            self._session.said.emit(f"{fault}.", True)
            return
        if self._session.make_several(wanted, "draft lines") is not None:
            n = len(wanted) - 1
            self._session.said.emit(
                f"**{counted(n, 'draft line')}** {'lies' if n == 1 else 'lie'} in part"
                f" **{wanted[0][1]['name']}**, pale: take them or refuse them. They are one step of undo.",
                False,
            )

    def sure(self, confidence: float) -> list[ReadLine]:
        return sure_lines(self.reading, confidence) if self.reading is not None else []

    def inside(self, loop: np.ndarray, confidence: float) -> list[ReadLine]:
        """Read lines of which more than half lies in a loop (n, 2) mm."""
        import shapely

        area = shapely.make_valid(shapely.Polygon(loop))
        shapely.prepare(area)
        return [line for line in self.sure(confidence)
                if np.mean(shapely.contains_xy(area, line.points[:, 0], line.points[:, 1])) > 0.5]  # fmt: skip

    def under(self, at: np.ndarray, reach: float = UNDER_MM) -> ReadLine | None:
        """The read line nearest to a place in mm, within reach."""
        every = self.sure(0.0)
        far = [float(np.hypot(*(line.points - at).T).min()) for line in every]
        return every[int(np.argmin(far))] if far and min(far) <= reach else None

    def drafts(self, only: Sequence[str] = ()) -> list[str]:
        """Drafts that are neither taken nor refused; of these alone, if any are given."""
        every = drafts_of(self._session.job)
        return [key for key in every if key in set(only)] if only else every


def _lies_otherwise(change: RowChange) -> bool:
    """Whether a scan lies elsewhere, or is another. Sheets of the inker's own passes come on top of what was read."""
    before, after = change.before, change.after
    if any(isinstance(row, PencilRecord) and row.places_passes for row in change.rows):
        return False
    return before is None or after is None or before.lies != after.lies


def _looks_otherwise(change: RowChange) -> bool:
    before, after = change.before, change.after
    return before is None or after is None or (before.hidden, before.clean) != (after.hidden, after.clean)
