"""The window: stride line, gauge, sheet, strip and the notes of the station in hand."""

import gc
import itertools
import math
from collections.abc import Callable
from datetime import date
from pathlib import Path

from PySide6.QtCore import QByteArray, QEvent, QMimeData, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QAction,
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QGuiApplication,
    QKeySequence,
    QPainter,
    QShowEvent,
)
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMenu,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from plain_stride.board.page import Page
from plain_stride.desk.actions.job_menu import job_menu
from plain_stride.desk.actions.key_uses import key_uses
from plain_stride.desk.actions.line_menu import line_menu
from plain_stride.desk.application import Application
from plain_stride.desk.cautions import DEFAULT_MINUTES, Cautions
from plain_stride.desk.controls.controls import HairLine, Sentence
from plain_stride.desk.dialogs.advice_sheet import keep_thresholds, kept_thresholds
from plain_stride.desk.dialogs.dialogs import Dialogs
from plain_stride.desk.keys.key_hand import KeyHand
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.library import back_up
from plain_stride.desk.look.style import style_sheet
from plain_stride.desk.look.theme import TEXT_SCALES, THEME, desktop_variant
from plain_stride.desk.margins.arms_length import ArmsLength
from plain_stride.desk.margins.gauge import Gauge
from plain_stride.desk.margins.hold_spots import HoldSpots
from plain_stride.desk.margins.parts_list import PartsList
from plain_stride.desk.margins.stride_line import StrideLine
from plain_stride.desk.margins.strip import Strip
from plain_stride.desk.session.clipboard import copy_chosen, cut_chosen, duplicate_chosen, paste
from plain_stride.desk.session.drops import can_drop, drop
from plain_stride.desk.session.session import Session
from plain_stride.desk.settings import Settings, documents_folder
from plain_stride.desk.sheet.events import RUBS
from plain_stride.desk.sheet.sheet import SheetView
from plain_stride.desk.sheet.tools.base import SheetTool
from plain_stride.desk.sheet.turning import TurnToHand
from plain_stride.desk.sheet.view import BoardView
from plain_stride.desk.stations.base import Notes
from plain_stride.desk.stations.board import BoardNotes
from plain_stride.desk.stations.hand_over import HandOverNotes
from plain_stride.desk.stations.pencils import PencilsNotes
from plain_stride.desk.stations.pull import PullNotes
from plain_stride.desk.stations.weigh import WeighNotes
from plain_stride.errors import StrideError
from plain_stride.hand.advice import Thresholds
from plain_stride.job.board_facts import frame_under, frames_of
from plain_stride.job.errors import JobError
from plain_stride.job.job import new_job
from plain_stride.job.names import checked_name
from plain_stride.job.whole_files import free, give_name

NOTES_WIDTH = 288
NEW_SIZE_MM, NEW_DPI = (210.0, 297.0), 600.0
PLAIN_DPI = 96.0
SAID_MS = 9000
BACK_UP_MS = 4000
STATIONS: tuple[type[Notes], ...] = (BoardNotes, PencilsNotes, PullNotes, WeighNotes, HandOverNotes)
WITH_PARTS = ("Pull", "Weigh", "Hand over")


class MainWindow(QWidget):
    """One window with one open job. made_anew: it is to be closed and opened again, with another text size."""

    made_anew = Signal()

    def __init__(self, path: Path, settings: Settings) -> None:
        super().__init__()
        self.settings = settings
        self.setWindowTitle("Plain Stride")
        self.setMinimumSize(1024, 700)
        THEME.text_scale = min(max(settings.number("text_scale", 1.0), TEXT_SCALES[0]), TEXT_SCALES[-1])
        THEME.use(str(settings.get("variant") or desktop_variant()))
        KEYS.load(settings)
        self._focus_chain: list[QWidget] = []
        self._before_print: tuple[BoardView, bool] | None = None
        self._before_frame: BoardView | None = None
        self._faulty = False
        # Before there is anything in the window: each widget is then styled once.
        self._style()
        self.session = Session(path)
        self.sheet = SheetView(self.session)
        self.sheet.glass_px_per_mm = self._screen_px_per_mm()
        self.gauge = Gauge(self.session)
        self.gauge.px_per_mm = self.sheet.glass_px_per_mm
        self.strip = Strip(self.session)
        stations: list[Notes] = [cls(self.session) for cls in STATIONS]
        self.stations = {notes.name: notes for notes in stations}
        self.stride = StrideLine([(notes.name, notes.key) for notes in stations])
        self.parts = PartsList(self.session)
        self.arms = ArmsLength(self.session, self.sheet.layer, self.sheet.glass_px_per_mm)
        self.sheet.pulling.connect(self.arms.hold)
        self.sheet.pulling.connect(lambda down: self.session.updates.hold(down))
        self.message = Sentence()
        self.dialogs = Dialogs(self)
        self.turning = TurnToHand(self.session, self.sheet, settings)
        self._lay_out()
        self.uses = key_uses(self)
        self.keys = KeyHand(self, self.uses, KEYS)
        self.spots = HoldSpots(self.sheet, self.keys, KEYS.left_handed)
        self.spots.setVisible(bool(int(settings.number("hold_spots", 0))))
        self.sheet.resized.connect(lambda: self.spots.place(self.sheet.size()))
        self.setAcceptDrops(True)
        self.sheet.on_first_move = self.keys.begin_hold
        self.keys.by_pen = str(settings.get("pen_button", self.keys.by_pen))
        self.sheet.on_pen_button = self.keys.pen_button
        rub = str(settings.get("rub", RUBS[0]))
        self.sheet.rub_how = rub if rub in RUBS else RUBS[0]
        self.cautions = Cautions(int(settings.number("cautions", DEFAULT_MINUTES)))
        self.cautions.due.connect(lambda words: self.say(words, False))
        self.sheet.pulling.connect(lambda down: self.cautions.pulled())
        if isinstance(app := QApplication.instance(), Application):
            app.pen_away.connect(self.sheet.finish_pull)
        self._board().screen_wanted.connect(self.sheet.print_size)
        self._board().screen_measured.connect(self.measure_screen)
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.setInterval(SAID_MS)
        self._quiet.timeout.connect(lambda: self.message.say(""))
        for notes in self.stations.values():
            notes.tool_wanted.connect(self._use_tool)
        self.stride.chosen.connect(self.show_station)
        self.stride.menu_wanted.connect(self._open_menu)
        self.sheet.menu_wanted.connect(self._open_line_menu)
        self._hand_over().progress = self.stride.show_progress
        pencils = self.pencils()
        pencils.progress = self.stride.show_progress
        pencils.place_wanted.connect(self.sheet.look_at)
        pencils.reader.changed.connect(self.sheet.update)
        self.sheet.pulling.connect(pencils.reader.rest)
        self.sheet.over = self._paint_over
        self._pull().know_hand(self.turning)
        self.sheet.tool_changed.connect(pencils.tool_changed)
        THEME.changed.connect(self._paint_ground)
        self._add_shortcuts()
        self._join(self.session)
        self.show_station("Pull")
        self._restore_place()
        if not self.spots.isHidden():
            self._place_spots()
        self.sheet.setFocus()
        QTimer.singleShot(BACK_UP_MS, self, self._back_up)

    # Layout

    def _lay_out(self) -> None:
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.stride)
        self._top_line = HairLine()
        whole.addWidget(self._top_line)
        self._rows = (QHBoxLayout(), QHBoxLayout())
        body, middle = self._rows
        body.setSpacing(0)
        whole.addLayout(body, 1)
        left = QVBoxLayout()
        left.setSpacing(0)
        middle.setSpacing(0)
        middle.addWidget(self.gauge)
        middle.addWidget(self.sheet, 1)
        left.addLayout(middle, 1)
        self._strip_line = HairLine()
        left.addWidget(self._strip_line)
        left.addWidget(self.strip)
        body.addLayout(left, 1)
        self.notes = self._notes_panel()
        body.addWidget(self.notes)
        self._show_hand()

    def _back_up(self) -> None:
        try:
            back_up("nibs")
        except OSError as fault:
            self.say(f"The library could not be copied today ({fault.strerror}): the sets themselves are safe.", True)

    def _show_hand(self) -> None:
        """Gauge and notes change sides for a left-handed inker."""
        ways = QHBoxLayout.Direction
        for row in self._rows:
            row.setDirection(ways.RightToLeft if KEYS.left_handed else ways.LeftToRight)

    def _notes_panel(self) -> QWidget:
        panel = QWidget()
        panel.setObjectName("notes")
        panel.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        panel.setFixedWidth(THEME.px(NOTES_WIDTH))
        column = QVBoxLayout(panel)
        column.setContentsMargins(THEME.px(18), THEME.px(6), THEME.px(10), 0)
        column.setSpacing(0)
        column.addWidget(self.message)
        inner = QWidget()
        inner.setObjectName("notesInner")
        inside = QVBoxLayout(inner)
        inside.setContentsMargins(0, 0, THEME.px(8), 0)
        inside.setSpacing(THEME.px(2))
        for notes in self.stations.values():
            inside.addWidget(notes)
        inside.addWidget(self.parts)
        inside.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidget(inner)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._scroll = scroll
        column.addWidget(scroll, 1)
        column.addWidget(HairLine())
        column.addWidget(self.arms)
        return panel

    def _style(self) -> None:
        self.setStyleSheet(style_sheet())
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFont(THEME.font())

    def _paint_ground(self) -> None:
        self._style()
        self.update()

    # The job

    def _join(self, session: Session) -> None:
        session.updates.add(self._show_facts)
        session.updates.add(self._refresh_notes)
        session.updates.add(self._order_focus)
        session.said.connect(self.say)
        session.document.laying.progressed.connect(self.stride.show_progress)
        session.changed.connect(lambda _: self._cause_gone())
        session.saving.waiting.connect(self._show_saving)
        session.take(unsteadied=frozenset(str(self.settings.get("unsteadied", "")).split()))
        session.state.changed.connect(lambda *_: self._remember_hand())
        session.take(thresholds=kept_thresholds(self.settings))
        session.document.writer.failed.connect(self.stride.show_unsaved)
        self.stride.show_job(session.job.name)
        self._show_saving(0)
        self.setWindowTitle(f"{session.job.name} – Plain Stride")
        self.settings.remember(session.job.path)
        if session.read_only:
            self.say(f"{session.read_only}. It is shown for reading only.", True)
        elif words := session.job.apart_words():
            self.say(f"{words}.", True)
        self._refresh()

    def open_job(self, path: Path) -> bool:
        """Closes the job, all saved, and shows another. On an error the job stays open and the reason is said."""
        self.sheet.end_pull()
        self.keys.let_all_go()
        if not self._all_saved():
            return False
        try:
            session = Session(path)
        except StrideError as fault:
            self.say(str(fault), True)
            return False
        self.dialogs.close_history()
        old, self.session = self.session, session
        for join in (w.set_session for w in (self.gauge, self.strip, self.parts, self.sheet)):
            join(session)
        for notes in self.stations.values():
            notes.set_session(session)
        self.arms.set_session(session, self.sheet.layer)
        self.turning.set_session(session)
        self._before_print = self._before_frame = None
        self.message.say("")
        self._join(session)
        old.close()
        del old
        # What a board held was frozen against the collector's rounds; this one has gone.
        gc.unfreeze()
        gc.collect()
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
            self.show_station("Board")
            self.say(f"A new board, saved as **{path.name}**. Set its size, then place your pencils.", False)

    def _all_saved(self) -> bool:
        """Whether the open job may be let go: all of it is in a file, or the inker lets the rest go."""
        while changes := self.session.saving.unsaved():
            answer = self.dialogs.ask_unsaved(changes, self.session.saving.why_unsaved)
            if answer == "go":
                return True
            if answer == "stay":
                return False
            path = self.dialogs.ask_elsewhere() if answer == "elsewhere" else None
            if path is not None:
                try:
                    self.session.saving.save_as(path)
                except StrideError as fault:
                    self.say(f"{fault}. What you drew is still here.", True)
        return True

    def _show_saving(self, waiting: int) -> None:
        if self.session.document.writer.stuck:
            self.stride.show_unsaved()
        else:
            self.stride.show_saving(waiting, bool(self.session.read_only))

    def _refresh(self) -> None:
        self._show_facts()
        self._refresh_notes()
        self._order_focus()

    def _order_focus(self) -> None:
        """Tab goes from the stride line to the notes, the sheet, the strip, the gauge."""
        chain = [w for region in (self.stride, self.notes) for w in region.findChildren(QWidget)
                 if w.focusPolicy() & Qt.FocusPolicy.TabFocus]  # fmt: skip
        chain += [self.sheet, self.strip, self.gauge]
        if chain != self._focus_chain:
            self._focus_chain = chain
            for a, b in itertools.pairwise(chain):
                self.setTabOrder(a, b)

    def _show_facts(self) -> None:
        for notes in self.stations.values():
            self.stride.show_fact(notes.name, notes.fact())

    def _refresh_notes(self) -> None:
        self._current().refresh()

    # Stations, messages, folding

    def _current(self) -> Notes:
        return next(n for n in self.stations.values() if not n.isHidden())

    def show_station(self, name: str) -> None:
        """Shows a station's notes. What the pen can do stays the same."""
        for notes in self.stations.values():
            notes.setVisible(notes.name == name)
        self.parts.setVisible(name in WITH_PARTS)
        self.stride.show_station(name)
        if self.margins_shown():
            self._show_strip(self._strip_wanted())
        self._scroll.verticalScrollBar().setValue(0)
        self._refresh()

    def station(self) -> str:
        return self._current().name

    def next_station(self, step: int) -> None:
        names = list(self.stations)
        at = names.index(self._current().name) + step
        if 0 <= at < len(names):
            self.show_station(names[at])

    def say(self, words: str, fault: bool) -> None:
        """A sentence at the head of the notes; one that is no fault goes by itself."""
        self.message.say(words, "red" if fault else "text")
        self._faulty = fault
        if fault:
            self._quiet.stop()
        else:
            self._quiet.start()

    def _cause_gone(self) -> None:
        """A fault that was said is past once something could be changed again."""
        if self._faulty and not self.session.document.writer.stuck:
            self.message.say("")
            self._faulty = False

    def fold_strip(self) -> None:
        """Folds the strip away, or shows it; each station remembers."""
        shown = self.strip.isHidden()
        self._show_strip(shown)
        self.settings.put(f"strip {self._current().name}", int(shown))

    def _show_strip(self, shown: bool) -> None:
        self.strip.setVisible(shown)
        self._strip_line.setVisible(shown)

    def _strip_wanted(self) -> bool:
        return bool(int(self.settings.number(f"strip {self._current().name}", 1)))

    def enlarge_strip(self, on: bool) -> None:
        """The strip large, whether it was folded or not, or as it was."""
        self.strip.enlarge(on)
        self._show_strip(on or self._strip_wanted())

    def print_shown(self) -> bool:
        return self._before_print is not None

    def show_print(self, on: bool) -> None:
        """The ink alone at true print size, or the board as it was."""
        sheet = self.sheet
        if on and self._before_print is None:
            self._before_print = (sheet.view, sheet.layer.pencils_off)
            sheet.layer.pencils_off = True
            sheet.show_print_size()
            sheet.redraw()
        elif not on and self._before_print is not None:
            (view, pencils_off), self._before_print = self._before_print, None
            sheet.layer.pencils_off = pencils_off
            sheet.set_view(view.resized(QRectF(sheet.rect()).size()))
            sheet.redraw()

    def frame_shown(self) -> bool:
        return self._before_frame is not None

    def show_frame(self, on: bool) -> None:
        """The frame under the pen, or the first one, up to fill the view; or the board as it was."""
        sheet = self.sheet
        if on and self._before_frame is None:
            frames = frames_of(self.session.job)
            if not frames:
                self.say("The sheet has no frames: draw them at Board, page Frames.", False)
                return
            at = sheet.view.to_board(sheet.about())
            frame = frames[frame_under(self.session.job, *at) or next(iter(frames))]
            self._before_frame = sheet.view
            sheet.show_box(frame.box)
        elif not on and self._before_frame is not None:
            before, self._before_frame = self._before_frame, None
            sheet.set_view(before.resized(QRectF(sheet.rect()).size()))

    def show_margins(self, shown: bool) -> None:
        """All margins away, or back."""
        for widget in (self.stride, self.gauge, self.notes, self._top_line):
            widget.setVisible(shown)
        self._show_strip(shown and self._strip_wanted())

    def margins_shown(self) -> bool:
        return not self.notes.isHidden()

    # Menu and shortcuts

    def _add_shortcuts(self) -> None:
        keys: list[tuple[list[str], Callable[[], object]]] = [
            (["Ctrl+Z"], lambda: self.session.timeline.undo()),
            (["Ctrl+Shift+Z", "Ctrl+Y"], lambda: self.session.timeline.redo()),
            (["Ctrl+N"], self.new_job),
            (["Ctrl+O"], self.dialogs.ask_open),
            (["Ctrl+S"], self._say_saved),
            (["Ctrl+Shift+S"], self.dialogs.ask_copy),
            (["Ctrl+Q"], self.close),
            (["F1"], self.dialogs.show_keys),
            (["PgUp"], lambda: self.next_station(-1)),
            (["PgDown"], lambda: self.next_station(1)),
            (["Esc"], self._give_up),
            (["Del"], self.delete_chosen),
            (["Ctrl+C"], lambda: copy_chosen(self.session)),
            (["Ctrl+X"], lambda: cut_chosen(self.session)),
            (["Ctrl+V"], self.paste),
            (["Ctrl+D"], lambda: duplicate_chosen(self.session)),
            (["Ctrl+A"], self.choose_all),
            (["Ctrl+H"], self.dialogs.show_history),
        ]
        for shortcuts, work in keys:
            action = QAction(self)
            action.setShortcuts([QKeySequence(key) for key in shortcuts])
            action.triggered.connect(lambda _=False, w=work: w())
            self.addAction(action)

    def job_menu(self) -> QMenu:
        return job_menu(self)

    def use_pen_button(self, key: str) -> None:
        """Lets the pen's own button stand for a key."""
        self.keys.by_pen = key
        self.settings.put("pen_button", key)

    def use_rub(self, how: str) -> None:
        """What a touch of the pen's other end does."""
        self.sheet.rub_how = how
        self.settings.put("rub", how)

    def _remember_hand(self) -> None:
        roles = " ".join(sorted(self.session.now.unsteadied))
        if roles != str(self.settings.get("unsteadied", "")):
            self.settings.put("unsteadied", roles)

    def use_thresholds(self, at: Thresholds) -> None:
        """Advice on pulls is given from other figures on."""
        self.session.take(thresholds=at)
        keep_thresholds(self.settings, at)
        self.session.updates.wake()

    def use_cautions(self, minutes: int) -> None:
        """How often a word about breaks is said, 0 for never."""
        self.cautions.minutes = minutes
        self.settings.put("cautions", minutes)

    def use_variant(self, variant: str) -> None:
        THEME.use(variant)
        self.settings.put("variant", variant)

    def _open_line_menu(self, at: QPointF | None) -> None:
        place = at if at is not None else QPointF(self.sheet.rect().center())
        menu = line_menu(self, self.session, lambda: self.sheet.trim_under(place))
        menu.popup(self.sheet.mapToGlobal(place.toPoint()))

    def _open_menu(self) -> None:
        self.job_menu().exec(self.stride.menu.mapToGlobal(self.stride.menu.rect().bottomLeft()))

    def _say_saved(self) -> None:
        self.say(f"Lines are saved as the pen lifts: **{self.stride.saved_words()}**.", False)

    def save_copy(self, path: Path) -> None:
        """Writes a complete copy, after all that waits to be saved."""
        self.session.settle()
        self.session.document.writer.run(lambda store: store.save_copy(path))
        self.say(f"A copy is being saved as **{path.name}**.", False)

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

    def keys_changed(self) -> None:
        KEYS.store(self.settings)
        self.keys.let_all_go()
        self._refresh_notes()

    # Hands and lines

    def toggle_hand(self) -> None:
        """Keys and margins change sides."""
        KEYS.left_handed = not KEYS.left_handed
        self.keys_changed()
        self._show_hand()
        self.spots.show_side(KEYS.left_handed)
        self._place_spots()

    def _place_spots(self) -> None:
        """The spots beside the gauge; a board that is fitted leaves them room."""
        self.spots.place(self.sheet.size())
        wide = 0 if self.spots.isHidden() else self.spots.width()
        self.sheet.kept_left, self.sheet.kept_right = (0, wide) if KEYS.left_handed else (wide, 0)
        self.sheet.fit()

    def toggle_spots(self) -> None:
        self.spots.setVisible(self.spots.isHidden())
        self._place_spots()
        self.settings.put("hold_spots", int(not self.spots.isHidden()))

    def paste(self) -> None:
        data = QGuiApplication.clipboard().mimeData()
        paste(self.session, data if data is not None else QMimeData())

    def choose_all(self) -> None:
        shown, job = self.session.shown_parts(), self.session.job
        rows = job.inked_rows()
        self.session.choose([key for key in job.ink_ids() if rows[key].part in shown])

    def use_text_scale(self, scale: float) -> None:
        """Another text size: the window is made anew with it."""
        self.settings.put("text_scale", scale)
        self.made_anew.emit()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if can_drop(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        drop(self.session, event.mimeData(), self.open_job, self._place_scan)
        event.acceptProposedAction()

    def _place_scan(self, path: Path) -> None:
        self.show_station("Pencils")
        self.pencils().place_scan(path)

    def pencils(self) -> PencilsNotes:
        notes = self.stations["Pencils"]
        assert isinstance(notes, PencilsNotes)
        return notes

    def _pull(self) -> PullNotes:
        notes = self.stations["Pull"]
        assert isinstance(notes, PullNotes)
        return notes

    def _paint_over(self, painter: QPainter, view: BoardView) -> None:
        self.pencils().overlay.paint(painter, view)
        self.turning.paint(painter, view)

    def _use_tool(self, tool: SheetTool | None) -> None:
        if tool is None:
            self.sheet.put_tool_away()
        else:
            self.sheet.take_tool(tool)

    def _give_up(self) -> None:
        """What was begun and not done is left; else nothing is chosen any more."""
        self.keys.let_all_go()
        if self.session.document.laying.stop():
            return
        if self.sheet.key_pen.give_up():
            self.say("The points were dropped: no line was pulled.", False)
        elif self.session.now.again:
            self.session.arm_again()
        elif self.sheet.put_tool_away():
            self.say("Put away: the pen pulls lines again.", False)
        elif self.print_shown():
            self.show_print(False)
        elif self.session.now.cover_of:
            self.session.take(cover_of="")
            self.say("No cover is drawn: the next pull is a line again.", False)
        else:
            self.session.choose([])

    def delete_chosen(self) -> None:
        if self.session.chosen:
            self.session.make("delete", lines=list(self.session.chosen))

    def measure_screen(self, measured_mm: float) -> None:
        """100 mm of the sheet's ruler, at 100 %, measured so much on the glass: from now on 100 % is true."""
        glass = self.sheet.glass_px_per_mm * 100.0 / measured_mm
        self.settings.put("glass_px_per_mm", glass)
        self.sheet.glass_px_per_mm = self.gauge.px_per_mm = glass
        self.arms.set_glass(glass)
        self.sheet.print_size()
        self.say("100 % is now the true size on this screen.", False)

    def _board(self) -> BoardNotes:
        notes = self.stations["Board"]
        assert isinstance(notes, BoardNotes)
        return notes

    def _hand_over(self) -> HandOverNotes:
        notes = self.stations["Hand over"]
        assert isinstance(notes, HandOverNotes)
        return notes

    # The window's own

    def _screen_px_per_mm(self) -> float:
        kept = self.settings.number("glass_px_per_mm", 0.0)
        if kept > 0:
            return kept
        screen = QGuiApplication.primaryScreen()
        dpi = screen.physicalDotsPerInch() if screen is not None else PLAIN_DPI
        return (dpi if math.isfinite(dpi) and 60 <= dpi <= 400 else PLAIN_DPI) / 25.4

    def _restore_place(self) -> None:
        kept = self.settings.get("place")
        if not (isinstance(kept, QByteArray) and self.restoreGeometry(kept)):
            self.resize(1280, 800)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.keys.attach()

    def changeEvent(self, event: QEvent) -> None:
        """A window that is no longer the one in use lets every key go."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            self.keys.let_all_go()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.settings.put("place", self.saveGeometry())
        self.sheet.end_pull()
        if not self._all_saved():
            event.ignore()
            return
        self.dialogs.close_history()
        self._hand_over().close_down()
        self.pencils().close_down()
        self.turning.close()
        self.session.close()
        super().closeEvent(event)
