"""All that lies on the desk for one open job: stride line, gauge, sheet, strip, the notes of the station in hand. It
is made anew for every job, so that nothing of the one before survives."""

import itertools
from functools import partial
from pathlib import Path
from typing import TypeVar

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QMenu, QVBoxLayout, QWidget

from plain_stride.desk.actions.board_actions import board_actions, kept, view_actions
from plain_stride.desk.actions.job_actions import JobActions, WindowVerbs
from plain_stride.desk.actions.line_actions import (
    clipboard_actions,
    line_actions,
    lines_menu,
    nib_actions,
    steadying_actions,
)
from plain_stride.desk.actions.line_menu import line_entries
from plain_stride.desk.actions.preference_actions import hands_entries, look_entries
from plain_stride.desk.actions.rail_actions import rail_actions
from plain_stride.desk.actions.symmetry_actions import symmetry_actions, symmetry_entries
from plain_stride.desk.actions.tool_actions import tool_actions, tool_entries
from plain_stride.desk.apart import Apart
from plain_stride.desk.controls.controls import HairLine
from plain_stride.desk.controls.hints import HINTS
from plain_stride.desk.dialogs.advice_sheet import AdviceSheet
from plain_stride.desk.dialogs.dialogs import Dialogs
from plain_stride.desk.dialogs.key_sheet import KeySheet
from plain_stride.desk.explaining import Explainer
from plain_stride.desk.giving_up import give_up
from plain_stride.desk.keys.action import Action, Actions, Entry, Submenu, fill
from plain_stride.desk.keys.key_hand import KeyHand
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.margins.arms_length import ArmsLength
from plain_stride.desk.margins.gauge import Gauge
from plain_stride.desk.margins.hold_spots import HoldSpots
from plain_stride.desk.margins.in_hand import InHand
from plain_stride.desk.margins.notes_panel import NotesPanel
from plain_stride.desk.margins.parts_list import PartsList
from plain_stride.desk.margins.said_line import SaidLine, SaidPlace
from plain_stride.desk.margins.stride_line import StrideLine
from plain_stride.desk.margins.strip import Strip
from plain_stride.desk.preferences import Preferences
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.verbs import part_before
from plain_stride.desk.sheet.again_marks import AgainMarks
from plain_stride.desk.sheet.astray import AstrayPulls
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.gestures.trimming import rub
from plain_stride.desk.sheet.hold_marks import HoldMarks
from plain_stride.desk.sheet.moments import Moments
from plain_stride.desk.sheet.rail_in_hand import RailInHand
from plain_stride.desk.sheet.reference_cards import ReferenceCards
from plain_stride.desk.sheet.seen_edit import SeenEdit
from plain_stride.desk.sheet.sheet_view import SheetView
from plain_stride.desk.sheet.symmetry_in_hand import SymmetryInHand
from plain_stride.desk.sheet.turning import TurnToHand
from plain_stride.desk.sheet.weight_marks import BANDS, NOTHING, ROLE_MARKS, WeightMarks, band_words
from plain_stride.desk.shown_margins import Margins
from plain_stride.desk.stations.base import Notes
from plain_stride.desk.stations.board import BoardNotes
from plain_stride.desk.stations.hand_over import HandOverNotes
from plain_stride.desk.stations.log import LogNotes
from plain_stride.desk.stations.mend import MendNotes
from plain_stride.desk.stations.pencils import PencilsNotes
from plain_stride.desk.stations.practice import PracticeNotes
from plain_stride.desk.stations.proof import ProofNotes
from plain_stride.desk.stations.pull import PullNotes
from plain_stride.desk.stations.tone import ToneNotes
from plain_stride.desk.stations.weigh import LINES, PLAN, SEE, WeighNotes
from plain_stride.desk.workers.owned import owned
from plain_stride.job.commit import Commit

STATIONS: tuple[type[Notes], ...] = (BoardNotes, PencilsNotes, PullNotes, MendNotes, WeighNotes, ToneNotes,
                                     ProofNotes, HandOverNotes, PracticeNotes, LogNotes)  # fmt: skip
APART = (PracticeNotes.name, LogNotes.name)
N = TypeVar("N", bound=Notes)


class Desk(QWidget):
    """The parts of the window by their names; `all_actions` is all that can be done in it. happened: something was done
    with it, in the words of `walk.Walk`."""

    happened = Signal(str)

    def __init__(self, session: Session, preferences: Preferences, verbs: WindowVerbs) -> None:
        super().__init__()
        self.session, self.preferences, self._verbs = owned(self, session), preferences, verbs
        self._focus_chain: list[QWidget] = []
        glass = preferences.glass_px_per_mm
        self.sheet = SheetView(session, glass)
        self.gauge, self.strip = Gauge(session, glass), Strip(session)
        self.stations: dict[str, Notes] = {station.name: station(session) for station in STATIONS}
        self.stride = StrideLine([(notes.name, notes.key) for notes in self.stations.values()], APART)
        self.apart = owned(self, Apart(session, self.sheet, self._notes(PracticeNotes), self._notes(LogNotes),
                                       preferences))  # fmt: skip
        self.parts = PartsList(session)
        self._said_place = SaidPlace()
        self.message = SaidLine(self._said_place, self)
        self.arms = ArmsLength(session, self.sheet.layer, glass)
        self.turning = owned(self, TurnToHand(self.sheet.context, preferences.settings))
        self._symmetry, self._rails = SymmetryInHand(session), RailInHand(session)
        self.references = ReferenceCards(session, self.sheet)
        self._holds, self._weight = HoldMarks(session), WeightMarks(session)
        self.moments, self._astray = Moments(self.sheet.context), AstrayPulls(self.sheet.context)
        self.dialogs = Dialogs(self, session, self.sheet.layer)
        self.in_hand = InHand(session, self.sheet.gestures.word, self._tools,
                              lambda: symmetry_entries(self._symmetry, self.sheet.gestures))  # fmt: skip
        self.notes = NotesPanel(self.in_hand, self.stations.values(), self.parts, self.arms)
        self._job_actions = JobActions(session, self.dialogs, preferences.settings, verbs, self.moments)
        self._clipboard = clipboard_actions(session)
        self._views = view_actions(self.sheet.context, self.sheet.gestures, verbs.fill_screen)
        self._reading_near = Action(words="What was read, round the pen at Pull", run=preferences.toggle_reading_near,
                                    checked=lambda: preferences.reading_near)  # fmt: skip
        self.explainer = Explainer(self, lambda words: self.message.tell(words, False))
        self._explain = Action(words="What is this? Then press it", shortcuts=("Ctrl+F1",), run=self.explainer.ask)
        self.in_hand.explain_wanted.connect(self.explainer.ask)
        self._show_keys = Action(words="Keys", shortcuts=("F1",), run=self.show_keys)
        self.all_actions = self._actions()
        self.all_actions.install(self)
        self.keys = owned(self, KeyHand(self.all_actions.by_key, KEYS))
        self.spots = HoldSpots(self.sheet, self.keys, KEYS.left_handed)
        self._lay_out()
        self._join_session()
        self._join_sheet()
        self._join_stations()
        self._apply_preferences()
        preferences.changed.connect(self._apply_preferences)
        self.show_station("Pull")

    def _actions(self) -> Actions:
        sheet, session, moments = self.sheet, self.session, self.moments
        return Actions([
            *board_actions(sheet.viewport, sheet.gestures, moments, self.turning),
            *line_actions(session, sheet.gestures, moments),
            *nib_actions(session),
            *steadying_actions(session),
            *tool_actions(sheet.gestures),
            *symmetry_actions(self._symmetry),
            *rail_actions(self._rails),
            *self._job_actions.all,
            *self._clipboard,
            self._show_keys,
            self._explain,
            Action(words="explains what is under the pointer", shortcuts=("Shift+F1",),
                   run=self.explainer.explain_under_pointer),
            *self._views,
            *self._notes(ProofNotes).key_actions(), *self._notes(HandOverNotes).key_actions(),
            kept("L", "what the ink lost of the pencils, over the ink alone", self._show_lost, moments.ink_alone),
            Action(key="V", held="the strip, large", tapped="strip folded, or back",
                   run=lambda: self.margins.fold_strip(), hold=lambda: self.margins.enlarge_strip(True),
                   let_go=lambda: self.margins.enlarge_strip(False)),
            Action(key="B", held="all margins away", tapped="keep it so, or back",
                   run=lambda: self.margins.show(not self.margins.shown()), hold=lambda: self.margins.show(False),
                   let_go=lambda: self.margins.show(True)),
            Action(key="P", held="all parts, to take one", tapped="the part that was in hand before",
                   run=lambda: part_before(session), hold=lambda: self.show_parts(True),
                   let_go=lambda: self.show_parts(False)),
            Action(key="/", tapped="what the sentence under the sheet offers", run=self.message.take_offer),
            Action(words="the station before", shortcuts=("PgUp",), run=lambda: self.next_station(-1)),
            Action(words="the station after", shortcuts=("PgDown",), run=lambda: self.next_station(1)),
            Action(words="what is saved, and since when", shortcuts=("Ctrl+S",), run=self._say_saved),
            Action(words="gives up what is under way, else nothing is chosen any more", shortcuts=("Esc",),
                   run=self.give_up),
        ])  # fmt: skip

    # Layout

    def _lay_out(self) -> None:
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        self._top_line, self._strip_line = HairLine(), HairLine()
        whole.addWidget(self.stride)
        whole.addWidget(self._top_line)
        body, left, middle = QHBoxLayout(), QVBoxLayout(), QHBoxLayout()
        self._rows = (body, middle)
        for layout in (body, left, middle):
            layout.setSpacing(0)
        middle.addWidget(self.gauge)
        middle.addWidget(self.sheet, 1)
        middle.addWidget(self.apart.sheet, 1)
        left.addLayout(middle, 1)
        left.addWidget(self._said_place)
        left.addWidget(self._strip_line)
        left.addWidget(self.strip)
        body.addLayout(left, 1)
        body.addWidget(self.notes)
        whole.addLayout(body, 1)
        others = (self.notes, self.stride, self.gauge, self._said_place, self._top_line)
        self.margins = Margins(self.strip, self._strip_line, others, self.preferences, self.station)

    def _join_session(self) -> None:
        session = self.session
        marked = partial(self._weight.look, self.sheet.update)
        for work in (self._show_facts, self._refresh_notes, marked, self._order_focus):
            session.updates.add(work)
        session.said.connect(self.message.tell)
        session.offered.connect(self.message.offer)
        session.document.laying.progressed.connect(self.stride.show_progress)
        # As a change is made, not as it is shown: what went wrong in between is not past.
        session.document.committed.connect(lambda commit: self._cause_gone())
        session.saving.waiting.connect(self._show_saving)
        session.saving.moved.connect(lambda: self.stride.show_job(session.job.name))
        session.document.writer.failed.connect(lambda words: self.stride.show_unsaved())
        session.document.committed.connect(self._note_done)
        self.keys.used.connect(HINTS.done)
        self.keys.used.connect(lambda key: self.happened.emit(f"key {key}"))
        session.state.changed.connect(
            lambda before, now: self.happened.emit("part") if before.part != now.part else None
        )
        session.take(unsteadied=self.preferences.unsteadied)
        session.state.changed.connect(self.preferences.state_changed)
        session.state.changed.connect(lambda before, now: HINTS.done("choose") if now.chosen > before.chosen else None)
        self.stride.show_job(session.job.name)
        self._show_saving(0)
        if session.read_only:
            self.message.tell(f"{session.read_only}. It is shown for reading only.", True)
        elif words := session.job.apart_words():
            self.message.tell(f"{words}.", True)

    def _join_sheet(self) -> None:
        sheet, gestures = self.sheet, self.sheet.gestures
        resting = (self.session.updates.hold, self.session.document.errands.rest, self.session.drawing.rest)
        for hold in (*resting, self.arms.hold, self.turning.hold):
            gestures.pull.under_way.connect(hold)
        gestures.moved.connect(self.keys.begin_hold)
        gestures.menu_wanted.connect(self._open_line_menu)
        gestures.tool_changed.connect(self.pencils().tool_changed)
        for changed in (gestures.tool_changed, self.keys.changed):
            changed.connect(self.in_hand.refresh)
        gestures.tool_changed.connect(lambda: self.message.rest_on(gestures.tool.words if gestures.tool else ""))
        self.in_hand.parts_wanted.connect(lambda: self.show_parts(not self.notes.parts_shown()))
        sheet.reader.pen_button.connect(self.keys.pen_button)
        sheet.resized.connect(lambda: self.spots.place(sheet.size()))
        sheet.resized.connect(lambda: self.references.place(sheet.size()))
        seen = SeenEdit(sheet.context)
        self.strip.edit_with(seen)
        marks = AgainMarks(self.session)
        self._notes(MendNotes).again.picked.connect(marks.take)
        sheet.overlay.add(marks.paint, seen.paint, self._holds.paint, self.pencils().overlay.paint, self._weight.paint)
        sheet.overlay.add(self.turning.paint, self._symmetry.paint, self._rails.paint)
        self._notes(ToneNotes).show_on(sheet)
        self._notes(ProofNotes).show_on(sheet, self.moments)
        self._notes(HandOverNotes).show_on(sheet)

    def _join_stations(self) -> None:
        for notes in self.stations.values():
            notes.tool_wanted.connect(self._use_tool)
        board, pencils = self._notes(BoardNotes), self.pencils()
        board.screen_wanted.connect(self.sheet.viewport.print_size)
        board.screen_measured.connect(self.measure_screen)
        pencils.place_wanted.connect(self.sheet.viewport.look_at)
        weigh = self._notes(WeighNotes)
        proof = self._notes(ProofNotes)
        proof.hold_against(pencils.reader)
        self.apart.plan_by(pencils.reader)
        self.apart.compare_by(self.dialogs.show_compare)
        proof.proofer.changed.connect(self._show_facts)
        for notes in (self._notes(MendNotes), weigh, proof, self._notes(HandOverNotes)):
            notes.place_wanted.connect(self.sheet.viewport.look_at)
        weigh.page_shown.connect(lambda page: self._show_weight())
        weigh.see.mapped.connect(lambda on: self._show_weight())
        weigh.see.overdone.connect(lambda times: self._show_weight())
        for shown in (self.sheet.update, self._show_facts):
            pencils.reader.changed.connect(shown)
        for progressed in (pencils.reader.progressed, self._notes(HandOverNotes).progressed,
                           self._notes(LogNotes).progressed, proof.remarks.progressed,
                           self.dialogs.printing.progressed, proof.out.progressed):  # fmt: skip
            progressed.connect(self.stride.show_progress)
        self._notes(PullNotes).know_hand(self.turning)
        self.stride.chosen.connect(self.show_station)
        self.stride.menu_wanted.connect(self._open_menu)

    def _apply_preferences(self) -> None:
        """What was set takes effect."""
        preferences = self.preferences
        self.keys.use_pen_button(preferences.pen_button)
        self.sheet.gestures.rubbing.use(preferences.rub)
        self.session.take(thresholds=preferences.thresholds)
        ways = QHBoxLayout.Direction
        for row in self._rows:
            row.setDirection(ways.RightToLeft if KEYS.left_handed else ways.LeftToRight)
        self.spots.show_side(KEYS.left_handed)
        self.spots.setVisible(preferences.spots)
        self._place_spots()
        self._show_reading()
        self._refresh_notes()

    def _show_reading(self) -> None:
        """What was read lies over the sheet at Pencils; at Pull round the pen, if wanted."""
        near = self.preferences.reading_near and self.station() == PullNotes.name
        self.pencils().overlay.work(self.station() == PencilsNotes.name)
        self._holds.work(self.station() == MendNotes.name)
        for watched in (self._notes(ProofNotes), self._notes(HandOverNotes)):
            watched.work(self.station() == watched.name)
        self._show_weight()
        self.pencils().overlay.show_near((lambda: self.sheet.viewport.pointer) if near else None)
        self.sheet.show_near(near)

    def _place_spots(self) -> None:
        """The spots beside the gauge; a board that is fitted leaves them room."""
        self.spots.place(self.sheet.size())
        wide = self.spots.width() if self.preferences.spots else 0
        self.sheet.viewport.keep_free(*((0, wide) if KEYS.left_handed else (wide, 0)))

    def _order_focus(self) -> None:
        """Tab goes from the stride line to the notes that are shown, the sheet, the strip, the gauge."""
        regions = (self.stride, self.in_hand, self._current(), self.parts, self.arms)
        chain = [w for region in regions for w in region.findChildren(QWidget)
                 if w.focusPolicy() & Qt.FocusPolicy.TabFocus]  # fmt: skip
        chain += [self.sheet, self.apart.sheet, self.strip, self.gauge]
        if chain != self._focus_chain:
            self._focus_chain = chain
            for a, b in itertools.pairwise(chain):
                self.setTabOrder(a, b)

    # Stations

    def _notes(self, kind: type[N]) -> N:
        """The notes of a station."""
        return next(notes for notes in self.stations.values() if isinstance(notes, kind))

    def pencils(self) -> PencilsNotes:
        return self._notes(PencilsNotes)

    def hand_over(self) -> HandOverNotes:
        return self._notes(HandOverNotes)

    def _current(self) -> Notes:
        return next(n for n in self.stations.values() if not n.isHidden())

    def station(self) -> str:
        return self._current().name

    def show_station(self, name: str) -> None:
        """Shows a station's notes. A tool of the station before is put away; all else that the pen can do stays."""
        if name != self.stride.shown():
            self.sheet.gestures.station_left()
        for notes in self.stations.values():
            notes.setVisible(notes.name == name)
        self._show_reading()
        self.apart.station_shown(name)
        self.show_parts(False)
        self.stride.show_station(name)
        self.margins.station_shown()
        self.notes.fold.show_top()
        self.happened.emit(f"station {name}")
        self._show_facts()
        self._refresh_notes()
        self._order_focus()

    def _show_weight(self) -> None:
        """What of the weight is shown on the sheet and on the strip: at Weigh, by its page."""
        weigh, here = self._notes(WeighNotes), self.station() == WeighNotes.name
        page = weigh.shown_page() if here else ""
        marks = ROLE_MARKS if page == LINES else BANDS if page == SEE and weigh.see.shows_map else NOTHING
        self._weight.show(here, marks)
        self.strip.show_bands(page in (PLAN, LINES))
        self.moments.overdo(weigh.see.times if page == SEE else 1.0)
        weigh.see.say_bands(band_words(self.session.job.page.dpi) if marks == BANDS else "")
        self._weight.look(self.sheet.update)
        self.sheet.update()

    def show_parts(self, shown: bool) -> None:
        """All parts in the place of the notes, or the notes again."""
        self.notes.show_parts(shown)
        self._order_focus()

    def next_station(self, step: int) -> None:
        names = list(self.stations)
        at = names.index(self.station()) + step
        if 0 <= at < len(names):
            self.show_station(names[at])

    def place_scan(self, path: Path) -> None:
        """Places a scan from a file."""
        self.show_station("Pencils")
        self.pencils().place_scan(path)

    def _show_facts(self) -> None:
        for notes in self.stations.values():
            self.stride.show_fact(notes.name, notes.fact())

    def _refresh_notes(self) -> None:
        self._current().refresh()

    def _tools(self) -> list[Entry]:
        """What a drag could do."""
        tools = {**self._notes(PullNotes).shapes.tools(), **self._notes(MendNotes).tools(),
                 "lamps": self._notes(WeighNotes).plan.lamp_tool, **self._notes(WeighNotes).lines.tools(),
                 **self._notes(ToneNotes).tools(), **self._notes(ProofNotes).tools(),
                 **self._notes(HandOverNotes).tools(), **self._notes(LogNotes).tools()}  # fmt: skip
        return tool_entries(self.sheet.gestures, self._rails, tools, self._use_tool)

    def _use_tool(self, tool: SheetTool | None) -> None:
        if tool is None:
            self.sheet.gestures.put_tool_away()
        else:
            self.sheet.gestures.take_tool(tool)

    # What is said

    def _note_done(self, commit: Commit) -> None:
        """What was done twice needs no explaining any more."""
        if commit.step is not None:
            HINTS.done(commit.step.name)
            self.happened.emit(f"made {commit.step.name}")

    def _cause_gone(self) -> None:
        """A fault that was said is past once something could be changed again."""
        if not self.session.document.writer.stuck:
            self.message.cause_gone()

    def _show_saving(self, waiting: int) -> None:
        if self.session.document.writer.stuck:
            self.stride.show_unsaved()
        else:
            self.stride.show_saving(waiting, bool(self.session.read_only))

    def _say_saved(self) -> None:
        self.message.tell(f"Lines are saved as the pen lifts: **{self.stride.saved_words()}**.", False)

    def _show_lost(self, on: bool) -> None:
        self.pencils().show_lost(on)
        self.moments.show_ink_alone(on)

    def measure_screen(self, measured_mm: float) -> None:
        """100 mm of the sheet's ruler, at 100 %, measured so much on the glass: from now on 100 % is true."""
        glass = self.sheet.viewport.glass_px_per_mm * 100.0 / measured_mm
        self.preferences.measure_glass(glass)
        self.sheet.viewport.measured(glass)
        self.gauge.use_glass(glass)
        self.arms.set_glass(glass)
        self.apart.measured(glass)
        self.sheet.viewport.print_size()
        self.message.tell("100 % is now the true size on this screen.", False)

    # Menus and dialogs

    def job_menu(self) -> QMenu:
        """The menu of the job as things stand now."""
        jobs = self._job_actions
        return fill(QMenu(self), [
            *jobs.files(),
            Submenu("Lines", lambda: lines_menu(self._clipboard)),
            None,
            Submenu("View", lambda: [*self._views, None, self._reading_near]),
            Submenu("Look", lambda: look_entries(self.preferences, self._verbs.grow)),
            Submenu("Hands", lambda: hands_entries(self.preferences, self.all_actions, self._ask_advice)),
            self._show_keys,
            self._explain,
            *jobs.last(),
        ])  # fmt: skip

    def _open_menu(self) -> None:
        self.job_menu().exec(self.stride.menu.mapToGlobal(self.stride.menu.rect().bottomLeft()))

    def _open_line_menu(self, at: QPointF) -> None:
        menu = fill(QMenu(self), line_entries(self.session, lambda: rub(self.sheet.context, "trim", at)))
        menu.popup(self.sheet.mapToGlobal(at.toPoint()))

    def show_keys(self) -> None:
        KeySheet(self, self.all_actions, KEYS, self.keys_changed).exec()

    def keys_changed(self) -> None:
        self.keys.let_all_go()
        self.preferences.keep_keys()

    def _ask_advice(self) -> None:
        AdviceSheet(self, self.session.now.thresholds, self.preferences.use_thresholds).exec()

    def give_up(self) -> None:
        """What was begun and not done is left; else nothing is chosen any more."""
        self.keys.let_all_go()
        give_up(self.session, self.sheet, self.moments, lambda words: self.message.tell(words, False),
                [self.apart.sheet.give_up, self.session.document.laying.stop, self.explainer.leave,
                 self.dialogs.printing.stop])  # fmt: skip

    # The end

    def end_work(self) -> None:
        """Nothing is under way any more: no pull, no held key."""
        self.sheet.gestures.end_pull()
        self.keys.let_all_go()

    def close_down(self) -> None:
        """Lets go of all that works beside it, and of the job."""
        self.dialogs.close()
        self.turning.close()
        self.keys.detach()
        self.session.close()
