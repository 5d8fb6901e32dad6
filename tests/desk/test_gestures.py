"""Gestures by themselves: no window is shown, plain events go in, named changes come out."""

import itertools

import numpy as np
import pytest
from PySide6.QtCore import QPointF, QSize

from plain_stride.board.page import Page
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.compositor import Compositor
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.gestures import HELD, Gestures
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.tools.drawing import BoxTool
from plain_stride.desk.sheet.viewport import Viewport
from plain_stride.job.job_files import new_job


class Sheet:
    """Gestures over a session, driven in mm of the sheet."""

    def __init__(self, session):
        self.session = session
        self.viewport = Viewport(session)
        self.compositor = Compositor(session, self.viewport)
        self.repainted = []
        context = SheetContext(session, self.viewport, self.compositor, self.repainted.append)
        self.gestures, self.said = Gestures(context), []
        self.viewport.resize(QSize(900, 600))
        session.said.connect(lambda words, fault: self.said.append(words))

    def at(self, mm, **more):
        view = self.viewport.view
        at = QPointF(*view.to_glass(np.array([mm], float))[0])
        return PointerEvent(at, view, **{"pressure": 0.5, "device": "pen", **more})

    def drag(self, *places, **more):
        self.gestures.down(self.at(places[0], **more))
        for a, b in itertools.pairwise(places):
            for k in range(1, 21):
                self.gestures.move(self.at(np.array(a) + (np.array(b) - a) * k / 20, stamp=k * 0.01, **more))
        self.gestures.up(self.at(places[-1], **more))

    def pull(self, *places):
        before = set(self.session.job.rows.lines)
        self.drag(*places)
        self.session.settle()
        return (set(self.session.job.rows.lines) - before).pop()

    def steps(self):
        return len(self.session.job.history.steps)


@pytest.fixture
def sheet(qapp, tmp_path):
    path = tmp_path / "gestures.stride"
    new_job(path, Page((120.0, 90.0), 300.0))
    session = Session(path)
    yield Sheet(session)
    session.close()


def test_a_drag_is_a_pull(sheet):
    line = sheet.pull((10, 20), (110, 20))
    shape = sheet.session.shapes[line]
    assert shape.length == pytest.approx(100.0, abs=0.5)
    assert sheet.gestures.pull.live is None and sheet.session.now.last_line == line


def test_a_pull_that_may_not_begin_is_refused_in_a_sentence(sheet):
    sheet.session.make("part", name=sheet.session.now.part, locked=True)
    sheet.drag((10, 20), (110, 20))
    sheet.session.settle()
    assert not sheet.session.job.rows.lines and "is locked" in sheet.said[-1]


def test_the_board_does_not_move_under_the_pen(sheet):
    view = sheet.viewport.view
    sheet.gestures.down(sheet.at((10, 20)))
    sheet.viewport.set_view(view.enlarged(2.0, QPointF(0, 0)))
    assert sheet.viewport.view == view
    sheet.gestures.up(sheet.at((30, 20)))
    sheet.viewport.set_view(view.enlarged(2.0, QPointF(0, 0)))
    assert sheet.viewport.view != view


@pytest.mark.parametrize(("what", "heavier"), [("swell", True), ("shave", False)])
def test_a_swell_is_shown_without_being_made_and_made_once(sheet, what, heavier):
    line = sheet.pull((10, 45), (110, 45))
    before, steps = sheet.session.shapes[line].widths.full.max(), sheet.steps()
    row, version = sheet.session.job.rows.lines[line], sheet.session.job.version
    sheet.viewport.point(sheet.at((60, 45)).at)
    sheet.gestures.begin_hold(what)
    for y in (42, 38, 34):
        sheet.gestures.move(sheet.at((60, y)))
    assert sheet.session.job.rows.lines[line] is row
    assert sheet.session.job.version == version and sheet.steps() == steps
    sheet.gestures.end_hold()
    after = sheet.session.shapes[line].widths.at(np.array([50.0]))
    assert (sum(float(v[0]) for v in after) > before) == heavier and sheet.steps() == steps + 1


def test_what_was_shown_of_a_swell_is_what_is_made(sheet):
    line = sheet.pull((10, 45), (110, 45))
    sheet.viewport.point(sheet.at((60, 45)).at)
    sheet.gestures.begin_hold("swell")
    sheet.gestures.move(sheet.at((60, 40)))
    shown = sheet.gestures._holding._seen.shapes[line]
    sheet.gestures.end_hold()
    assert np.allclose(sheet.session.shapes[line].widths.full, shown.widths.full, atol=1e-9)


def test_a_trim_is_shown_and_nothing_taken(sheet):
    line = sheet.pull((10, 20), (100, 20))
    sheet.pull((70, 5), (70, 60))
    steps = sheet.steps()
    sheet.viewport.point(sheet.at((90, 20)).at)
    sheet.gestures.begin_hold("trim")
    shown = sheet.gestures._holding.shown
    assert shown[:, 0].min() == pytest.approx(70.0, abs=0.2) and shown[:, 0].max() == pytest.approx(100.0, abs=0.5)
    sheet.gestures.end_hold()
    assert sheet.steps() == steps and line in sheet.session.job.rows.lines


def test_a_nudge_moves_the_line_by_what_the_pen_moved(sheet):
    line = sheet.pull((10, 20), (60, 20))
    before = sheet.session.shapes[line].flat[0]
    sheet.gestures.begin_hold("nudge")
    sheet.drag((30, 20), (35, 32))
    sheet.gestures.end_hold()
    moved = sheet.session.shapes[line].flat[0]
    assert np.allclose(moved - before, (5.0, 12.0), atol=0.02)
    assert sheet.session.chosen == [line]


def test_a_held_nudge_that_was_not_used_chooses(sheet):
    line = sheet.pull((10, 20), (60, 20))
    sheet.viewport.point(sheet.at((30, 20)).at)
    sheet.gestures.begin_hold("nudge")
    sheet.gestures.end_hold()
    assert sheet.session.chosen == [line]


def test_a_loop_chooses_what_lies_inside(sheet):
    inside, outside = sheet.pull((30, 30), (50, 30)), sheet.pull((10, 80), (110, 80))
    sheet.gestures.begin_hold("nudge")
    sheet.drag((20, 20), (60, 20), (60, 40), (20, 40))
    sheet.gestures.end_hold()
    assert sheet.session.chosen == [inside] and outside not in sheet.session.chosen
    assert "1 line" in sheet.said[-1]


def test_choosing_finds_the_line_however_many_there_are_and_what_has_changed_since(sheet):
    lines = [sheet.pull((10, y), (110, y)) for y in (20, 40, 60)]
    under = sheet.gestures.context.ink_under
    assert [under(sheet.at((60, y)).at) for y in (20, 40, 60, 75)] == [*lines, ""]
    sheet.session.make("move", lines=[lines[0]], by=[0, 55])
    sheet.session.make("delete", lines=[lines[1]])
    assert [under(sheet.at((60, y)).at) for y in (20, 40, 60, 75)] == ["", "", lines[2], lines[0]]
    sheet.session.timeline.undo()
    assert under(sheet.at((60, 40)).at) == lines[1]
    sheet.session.make("part", name=sheet.session.now.part, hidden=True)
    assert under(sheet.at((60, 60)).at) == ""


@pytest.mark.parametrize("what", ["move", "turn", "enlarge"])
def test_the_board_follows_a_held_drag_and_inks_nothing(sheet, what):
    view = sheet.viewport.view
    sheet.viewport.point(sheet.at((60, 45)).at)
    sheet.gestures.begin_hold(what)
    start = sheet.at((60, 45)).at
    sheet.gestures.move(PointerEvent(start + QPointF(40, -60), view))
    sheet.gestures.end_hold()
    now = sheet.viewport.view
    assert now != view and not sheet.session.job.rows.lines
    if what == "move":
        assert now.to_board(start + QPointF(40, -60)) == pytest.approx((60, 45), abs=1e-6)
    if what == "enlarge":
        assert now.scale == pytest.approx(view.scale * 2.0**0.5)


def test_a_tool_takes_the_drag_and_puts_itself_away(sheet):
    boxes = []
    sheet.gestures.take_tool(BoxTool("a box", lambda *box: boxes.append(box)))
    sheet.drag((20, 30), (50, 60))
    assert boxes[0] == pytest.approx((20, 30, 50, 60)) and sheet.gestures.tool is None
    assert not sheet.session.job.rows.lines


@pytest.mark.parametrize(("how", "left"), [("trim", 2), ("cut", 3), ("whole", 1)])
def test_a_touch_of_the_other_end_takes_away_what_was_asked(sheet, how, left):
    sheet.pull((10, 20), (100, 20))
    sheet.pull((70, 5), (70, 60))
    sheet.gestures.rubbing.use(how)
    sheet.gestures.other_down(sheet.gestures.rubbing, sheet.at((90, 20)))
    sheet.gestures.other_up(sheet.at((90, 20)))
    assert len(sheet.session.job.rows.lines) == left


def test_every_held_gesture_may_end_before_it_began(sheet):
    for what in HELD:
        sheet.gestures.begin_hold(what)
        sheet.gestures.end_hold()
    assert not sheet.gestures.held and not sheet.session.job.rows.lines


def test_a_key_is_let_go_in_the_middle_of_a_drag(sheet):
    line = sheet.pull((10, 20), (60, 20))
    sheet.gestures.begin_hold("nudge")
    sheet.gestures.down(sheet.at((30, 20)))
    sheet.gestures.move(sheet.at((30, 30)))
    sheet.gestures.end_hold()
    sheet.gestures.up(sheet.at((30, 30)))
    assert sheet.session.shapes[line].flat[0][0, 1] == pytest.approx(30.0, abs=0.1)
