"""What stands apart from the working order: practice on a sheet of its own, and the log."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from plain_stride.desk.preferences import Preferences
from plain_stride.desk.session.pencil_reader import PencilReader
from plain_stride.desk.session.reminding import Reminder
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.practice_sheet import PracticeSheet
from plain_stride.desk.sheet.sheet_view import SheetView
from plain_stride.desk.stations.log import LogNotes
from plain_stride.desk.stations.practice import PracticeNotes
from plain_stride.desk.workers.owned import owned

KEPT_OFF = "At Practice nothing of the job is changed: go back to a station first."


class Apart(QObject):
    """sheet: of practice, shown in the place of the board. open_wanted: a job that is to be opened;
    practised: samples (n, 5) of a pull of practice."""

    open_wanted = Signal(object)
    practised = Signal(object)

    def __init__(
        self,
        session: Session,
        board: SheetView,
        practice: PracticeNotes,
        log: LogNotes,
        preferences: Preferences,
    ) -> None:
        super().__init__()
        self._session, self._board, self._practice, self._log = session, board, practice, log
        self._preferences, self._reminder = preferences, owned(self, Reminder(session))
        self.sheet = PracticeSheet(session, practice.practising, preferences.glass_px_per_mm)
        self.sheet.setVisible(False)
        practice.shows.connect(self.sheet.show_what)
        practice.scale.connect(self.sheet.enlarge)
        practice.speed.advice_wanted.connect(self._advise_speed)
        practice.speed.change_wanted.connect(self._change)
        practice.practising.measured.connect(self.practised)
        practice.practising.be(preferences.person)
        practice.practising.changed.connect(lambda: preferences.use_person(practice.practising.person))
        log.book.write_into(practice.practising)
        log.planner.count_pauses(preferences.pause)
        log.time.pause_typed.connect(self._count_pauses)
        log.place_wanted.connect(board.viewport.look_at)
        log.notes.pin_by(board.viewport.place)
        log.book.pin_by(board.viewport.place)
        log.book.open_wanted.connect(lambda path: self.open_wanted.emit(path))
        log.show_on(board)

    def plan_by(self, reader: PencilReader) -> None:
        """The pencils that the order of work is told by."""
        self._log.hold_against(reader)

    def compare_by(self, compare: Callable[[int], object]) -> None:
        """What shows a moment of the history beside the job as it is."""
        marks = self._session.job.history.marks
        self._log.compare_wanted.connect(lambda mark: compare(marks[mark]) if mark in marks else None)

    def station_shown(self, name: str) -> None:
        """Practice has a sheet of its own; everywhere else the board is there."""
        practising = name == PracticeNotes.name
        left = self.sheet.isVisible() and not practising
        for widget, on in ((self._board, not practising), (self.sheet, practising)):
            _show(widget, on)
        self._session.document.keep_off(KEPT_OFF if practising else "")
        if practising or left:
            (self.sheet if practising else self._board).setFocus()
        self._log.work(name == LogNotes.name)
        self._reminder.station_shown(name)

    def measured(self, glass_px_per_mm: float) -> None:
        """The screen's true size is known."""
        self.sheet.use_glass(glass_px_per_mm)

    def _count_pauses(self, longer: float) -> None:
        self._preferences.use_pause(longer)
        self._log.planner.count_pauses(longer)

    def _change(self, change: str, arguments: dict[str, Any]) -> None:
        """What was found is laid in the job, by a press that says so."""
        self._session.document.keep_off("")
        try:
            self._session.make(change, **arguments)
        finally:
            self._session.document.keep_off(KEPT_OFF)

    def _advise_speed(self, slow: float) -> None:
        self._preferences.use_thresholds(replace(self._preferences.thresholds, slow=slow))
        self._session.said.emit(f"From now on a shaky line below **{slow:.0f} mm/s** is told to be slow.", False)


def _show(widget: QWidget, on: bool) -> None:
    if widget.isHidden() == on:
        widget.setVisible(on)
