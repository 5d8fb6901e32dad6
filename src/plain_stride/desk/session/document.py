"""The open job: its file, its shapes, and the changes that are made to it."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from plain_stride.desk.workers.errands import errand_worker
from plain_stride.desk.workers.laying import Laying
from plain_stride.desk.workers.owned import owned
from plain_stride.desk.workers.update_scheduler import UpdateScheduler
from plain_stride.desk.workers.writer_thread import WriterThread
from plain_stride.errors import StrideError
from plain_stride.form.bridges import BRIDGE_MM
from plain_stride.job.changes import Made, make, make_all
from plain_stride.job.commit import Commit, now
from plain_stride.job.covers import Covers
from plain_stride.job.errors import JobError
from plain_stride.job.history import RowChange
from plain_stride.job.job_files import open_job
from plain_stride.job.laying_out import sheets_of
from plain_stride.job.records import PartRecord
from plain_stride.job.sent import Sent
from plain_stride.job.shapes import Shapes


class Document(QObject):
    """read_only: why the job may not be changed, '' where it may.

    Signals: changed (rows that changed), said (a sentence, and whether it is a fault), committed (a commit, as it goes
    to the writer), put (there is more to be saved, or less). `updates` has the facts beside the sheet shown anew, a
    moment after changes.
    """

    changed = Signal(object)
    said = Signal(str, bool)
    put = Signal()
    committed = Signal(object)

    def __init__(self, path: Path) -> None:
        """Opens a job; for reading alone where it cannot be written. Raises JobError."""
        super().__init__()
        self.read_only, self._kept_off = "", ""
        try:
            self.job, store = open_job(path, write=True)
        except JobError as fault:
            self.job, store = open_job(path, write=False)
            self.read_only = str(fault)
        self.shapes = Shapes(self.job, store)
        self.covers = Covers(self.job, self.shapes)
        for _, row in self.job.pencils():
            if row.image is not None:
                self.job.image(str(row.image))
        self.writer = owned(self, WriterThread(store))
        self.updates, self.errands = owned(self, UpdateScheduler()), owned(self, errand_worker())
        self.laying = owned(self, Laying(self.errands))
        self._settle: Callable[[], None] = lambda: None

    def settled_by(self, settle: Callable[[], None]) -> None:
        """`settle` finishes what is under way, before anything else is done to the job."""
        self._settle = settle

    def settle(self) -> None:
        """Whatever comes next stands on all that was pulled."""
        self._settle()

    def make(self, change: str, arguments: dict[str, Any]) -> Made | None:
        """Makes a named change; None, with the reason said, when it cannot be made."""
        self.settle()
        return self.made(lambda: make(self.job, self.shapes, change, arguments))

    def make_several(self, wanted: list[tuple[str, dict[str, Any]]], words: str) -> Made | None:
        """Makes several changes as one step."""
        self.settle()
        return self.made(lambda: make_all(self.job, self.shapes, wanted, words))

    def note_delivered(self, name: str, step: int, manifest: dict[str, Any]) -> None:
        """Keeps that a delivery was made of the job as it was at a step; undo does not take it back."""
        self.job.sent.append(Sent(name, now(), step, manifest))
        if not self.read_only:
            self.writer.run(lambda store: store.add_delivered(name, step, manifest))

    def lay_import(self, wanted: list[tuple[str, dict[str, Any]]], words: str) -> Made | None:
        """Makes the changes of an import as one step; its lines are worked out beside the window first."""
        if not self.writable():
            return None
        self.settle()
        changes, sheets = sheets_of(self.job, wanted)
        try:
            lines = self.laying.worked(sheets)
        except StrideError as fault:
            self.said.emit(f"{fault}. The job is as it was.", True)
            return None
        self.settle()
        self.shapes.expect_all(zip((sheet.source for sheet in sheets), lines, strict=True))
        try:
            return self.made(lambda: make_all(self.job, self.shapes, changes, words))
        finally:
            self.shapes.expect_all(())

    def made(self, work: Callable[[], Made], tell: bool = True) -> Made | None:
        """Does what makes a change and has it written; tell: says at once to all that look on that it was made."""
        if not self.writable():
            return None
        try:
            made = work()
        except StrideError as fault:
            self.said.emit(str(fault), True)
            return None
        if made.commit is not None:
            self._write(replace(made.commit, fits=self.shapes.fresh_fits()))
            if tell:
                self.put.emit()
                self.tell(made.commit.rows)
        return made

    def moved(self, commit: Commit) -> None:
        """The job has gone to another step: shown, and written."""
        self.changed.emit(commit.rows)
        self.updates.wake()
        self._write(commit)
        self.put.emit()

    def _write(self, commit: Commit) -> None:
        self.writer.put(commit)
        self.committed.emit(commit)

    def tell(self, rows: tuple[RowChange, ...]) -> None:
        """Tells all that look on what a change changed."""
        self.changed.emit(rows)
        self.updates.wake()
        self._tell_cover(rows)

    def writable(self) -> bool:
        """Whether the job may be changed; says why where it may not."""
        if self.read_only:
            self.said.emit(f"{self.read_only}.", True)
        elif self._kept_off:
            self.said.emit(self._kept_off, False)
        return not self.read_only and not self._kept_off

    def keep_off(self, words: str) -> None:
        """Nothing is changed while the board is not seen, and these words say so; '' when it is seen again."""
        self._kept_off = words

    def close(self) -> None:
        """Writes what waits and lets the file go."""
        self.updates.close()
        self.errands.close()
        self.writer.close()

    def _tell_cover(self, rows: tuple[RowChange, ...]) -> None:
        """Says why a cover that was put on hides nothing."""
        for change in rows:
            after = change.after
            if isinstance(after, PartRecord) and after.cover and not after.hidden and self.covers.of(change.id) is None:
                self.said.emit(
                    f"The outer lines of **{after.name}** enclose nothing yet, gaps up to {BRIDGE_MM:g} mm bridged:"
                    " close them, or draw its edge.",
                    False,
                )
