"""The window: one job at a time on its desk; opening, naming and closing it."""

import gc
from collections.abc import Callable
from datetime import date
from pathlib import Path

import numpy as np
from PySide6.QtCore import QByteArray, QEvent, Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QShowEvent
from PySide6.QtWidgets import QApplication, QVBoxLayout, QWidget

from plain_stride.board.page import Page
from plain_stride.desk.actions.job_actions import WindowVerbs
from plain_stride.desk.application import Application
from plain_stride.desk.cautions import Cautions
from plain_stride.desk.controls.file_dialogs import PICTURES, ask_file
from plain_stride.desk.job_desk import Desk
from plain_stride.desk.job_pictures import keep_picture
from plain_stride.desk.library import back_up
from plain_stride.desk.look.style import style_sheet
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.opening_sheet import Beginnings, OpeningSheet
from plain_stride.desk.preferences import Preferences
from plain_stride.desk.session.drops import can_drop, drop
from plain_stride.desk.session.session import Session
from plain_stride.desk.settings import Settings, documents_folder
from plain_stride.desk.walk import Walk
from plain_stride.desk.workers.owned import owned
from plain_stride.errors import StrideError
from plain_stride.hand.load import load_of
from plain_stride.job.commit import Commit
from plain_stride.job.errors import JobError
from plain_stride.job.job_files import new_job
from plain_stride.job.kept import PullRow
from plain_stride.job.names import checked_name
from plain_stride.job.scan_and_board import board_as_scan
from plain_stride.job.whole_files import free, give_name

NEW_SIZE_MM, NEW_DPI = (210.0, 297.0), 600.0
BACK_UP_MS = 4000
OWN_PULLS = ("pull", "again", "redraw")
"""What steps are called that the pen makes."""


class MainWindow(QWidget):
    """One window with one open job. made_anew: it is to be closed and opened again, with another text size."""

    made_anew = Signal()

    def __init__(self, path: Path, settings: Settings) -> None:
        super().__init__()
        self.settings, self.preferences = settings, Preferences(settings)
        self.setWindowTitle("Plain Stride")
        self.setMinimumSize(1024, 700)
        # Before there is anything in the window: each widget is then styled once.
        self._style()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._verbs = WindowVerbs(
            self.open_job, self.new_job, self.rename, self.use_text_scale, self.close, self.fill_screen,
            self.show_opening, self.walk_over_demo,
        )  # fmt: skip
        self.walk = owned(self, Walk())
        self.walk.said.connect(self._show_step)
        self.walk.ended.connect(self._walk_ended)
        self.cautions = owned(self, Cautions(self.preferences.cautions))
        self.cautions.due.connect(lambda words: self.say(words, False))
        self.preferences.changed.connect(lambda: self.cautions.use(self.preferences.cautions))
        self.desk = self._desk_of(Session(path))
        self.setAcceptDrops(True)
        THEME.changed.connect(self._paint_ground)
        if isinstance(app := QApplication.instance(), Application):
            app.pen_away.connect(lambda: self.desk.sheet.reader.pen_gone())
        self._restore_place()
        self.desk.sheet.setFocus()
        QTimer.singleShot(BACK_UP_MS, self, self._back_up)

    @property
    def session(self) -> Session:
        """The open job."""
        return self.desk.session

    def say(self, words: str, fault: bool) -> None:
        """A sentence in the place of sentences."""
        self.desk.message.tell(words, fault)

    def _desk_of(self, session: Session) -> Desk:
        desk = Desk(session, self.preferences, self._verbs)
        session.saving.moved.connect(self._show_name)
        desk.sheet.gestures.pull.under_way.connect(lambda down: self.cautions.pulled())
        session.document.committed.connect(self._note_load)
        desk.apart.practised.connect(self._practised)
        desk.apart.open_wanted.connect(lambda path: QTimer.singleShot(0, self, lambda: self.open_job(path)))
        self._column.addWidget(desk)
        self.walk.leave()
        desk.happened.connect(self.walk.happened)
        self.settings.remember(session.job.path)
        self.setWindowTitle(f"{session.job.name} – Plain Stride")
        return desk

    def _note_load(self, commit: Commit) -> None:
        """What a pull that was made here asked of the hand; those of an import were another's."""
        if commit.step is not None and commit.step.words in OWN_PULLS:
            for row in commit.kept:
                if isinstance(row, PullRow):
                    self.cautions.loaded(load_of(row.made().samples))

    def _practised(self, samples: np.ndarray) -> None:
        self.cautions.pulled()
        self.cautions.loaded(load_of(samples))

    def _show_name(self) -> None:
        self.setWindowTitle(f"{self.session.job.name} – Plain Stride")

    # Jobs

    def open_job(self, path: Path) -> bool:
        """Closes the job, all saved, and shows another. On an error the job stays open and the reason is said."""
        self.desk.end_work()
        if not self._all_saved():
            return False
        try:
            session = Session(path)
        except StrideError as fault:
            self.say(str(fault), True)
            return False
        old, station = self.desk, self.desk.station()
        self._keep_picture()
        self._column.removeWidget(old)
        self.desk = self._desk_of(session)
        self.desk.show_station(station)
        self.desk.keys.attach(self.windowHandle())
        old.destroyed.connect(lambda: QTimer.singleShot(0, _collect))
        old.hide()
        self.desk.show()
        old.close_down()
        old.deleteLater()
        self.desk.sheet.setFocus()
        return True

    def new_job(self) -> None:
        """A new job starts at once under a dated name in the documents folder."""
        folder = documents_folder()
        base = f"{date.today():%Y-%m-%d} board"
        names = (base if n == 1 else f"{base} {n}" for n in range(1, 10_000))
        path = next(p for name in names if not (p := folder / f"{name}.stride").exists())
        try:
            new_job(path, Page(NEW_SIZE_MM, NEW_DPI))
        except StrideError as fault:
            self.say(str(fault), True)
            return
        if self.open_job(path):
            self.desk.show_station("Board")
            self.say(f"A new board, saved as **{path.name}**. Set its size, then place your pencils.", False)

    def begin_from_scan(self, path: Path) -> None:
        """A new board of a scan's size, with the scan on it, ready to be pulled on."""
        self.new_job()
        self.desk.place_scan(path)
        session = self.session
        for key, row in session.job.pencils():
            session.make_several(board_as_scan(key, row), "board")
            self.desk.show_station("Pull")
            w, h = session.job.page.size_mm
            self.say(f"The board has the scan's size, **{w:g} × {h:g} mm**. Pull your first line.", False)

    def show_opening(self) -> None:
        """The opening sheet over the window."""
        from plain_stride.demo.job import examples

        self._keep_picture()
        begin = Beginnings(self.new_job, self._ask_scan, self._ask_job, self.open_job, examples(),
                           lambda: self.settings.put("opening", 0))  # fmt: skip
        OpeningSheet(self, self.session.job.name, self.settings.recent(), begin)

    def _ask_scan(self) -> None:
        path = ask_file(self, "A board from a scan", Path.home(), PICTURES)
        if path is not None:
            self.begin_from_scan(path)

    def _ask_job(self) -> None:
        path = self.desk.dialogs.ask_open()
        if path is not None:
            self.open_job(path)

    def walk_over_demo(self) -> None:
        """Opens the demo where another job is open, and begins the walk."""
        from plain_stride.demo.job import demo_path, ensure_demo

        path = demo_path()
        if self.session.job.path.resolve() != path.resolve() and not self.open_job(ensure_demo(path)):
            return
        self.desk.show_station("Pull")
        self.walk.begin()

    def offer_walk(self) -> None:
        """Once, to who opens the demo for the first time."""
        if not self.settings.get("walked"):
            words = "This is the demo, half inked. A walk of eight short steps shows the bench."
            self.desk.message.stand(words, "begin the walk", self.walk_over_demo)

    def _show_step(self, words: str, verb: str, run: Callable[[], object]) -> None:
        self.desk.message.stand(words, verb, run)

    def _walk_ended(self, whole: bool) -> None:
        self.settings.put("walked", 1)
        self.desk.message.stand("", "", lambda: None)
        if whole:
            self.say("That was the walk. The job is yours to draw in; **F1** shows all keys.", False)

    def _keep_picture(self) -> None:
        """The ink as it is now, for the opening sheet."""
        keep_picture(self.session.job.path, self.desk.arms.picture())

    def rename(self, name: str) -> None:
        """Gives the job's file another name in its folder and goes on with it."""
        if self.session.read_only:
            self.say(f"{self.session.read_only}. Rename it where it is being written.", True)
            return
        old = self.session.job.path
        new = old.parent / f"{name}.stride"
        try:
            if "/" in checked_name(name, "a job's name"):
                raise JobError("a job's name holds no /")
            free(new)
        except StrideError as fault:
            self.say(f"'{name}' cannot be its name: {fault}. The job keeps the one it has.", True)
            return
        if not self._all_saved():
            return
        self.session.close()
        try:
            give_name(old, new)
            old.unlink(missing_ok=True)
        except OSError as fault:
            self.say(f"The job keeps its name: {fault.strerror}.", True)
            new = old
        self.open_job(new)

    def _all_saved(self) -> bool:
        """Whether the open job may be let go: all of it is in a file, or the inker lets the rest go."""
        saving, dialogs = self.session.saving, self.desk.dialogs
        while changes := saving.unsaved():
            answer = dialogs.ask_unsaved(changes, saving.why_unsaved)
            if answer == "go":
                return True
            if answer == "stay":
                return False
            path = dialogs.ask_elsewhere() if answer == "elsewhere" else None
            if path is not None:
                try:
                    saving.save_as(path)
                except StrideError as fault:
                    self.say(f"{fault}. What you drew is still here.", True)
        return True

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if can_drop(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        drop(self.session, event.mimeData(), self.open_job, self.desk.place_scan)
        event.acceptProposedAction()

    # The window's own

    def use_text_scale(self, scale: float) -> None:
        """Another text size: the window is made anew with it."""
        self.settings.put("text_scale", scale)
        self.made_anew.emit()

    def fill_screen(self) -> None:
        """The window takes the whole screen, or its own room again."""
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    def _style(self) -> None:
        self.setStyleSheet(style_sheet())
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFont(THEME.font())

    def _paint_ground(self) -> None:
        self._style()
        self.update()

    def _back_up(self) -> None:
        try:
            back_up("nibs")
        except OSError as fault:
            self.say(f"The library could not be copied today ({fault.strerror}): the sets themselves are safe.", True)

    def _restore_place(self) -> None:
        kept = self.settings.get("place")
        if not (isinstance(kept, QByteArray) and self.restoreGeometry(kept)):
            self.resize(1280, 800)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.desk.keys.attach(self.windowHandle())

    def changeEvent(self, event: QEvent) -> None:
        """A window that is no longer the one in use lets every key go."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            self.desk.keys.let_all_go()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.settings.put("place", self.saveGeometry())
        self.desk.end_work()
        if not self._all_saved():
            event.ignore()
            return
        self._keep_picture()
        self.desk.close_down()
        super().closeEvent(event)


def _collect() -> None:
    """What a board held was frozen against the collector's rounds: one that has gone is let go."""
    gc.unfreeze()
    gc.collect()
    gc.freeze()
