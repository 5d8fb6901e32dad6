"""Shapes dragged, the pen's other end, off-board pulls, the mirror, a word about breaks: in the real window."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtTest import QTest

from plain_stride.desk.cautions import Cautions
from plain_stride.desk.player import PenPlayer
from tests.desk.test_window import press, said, type_into

KEY = Qt.Key


def shapes(window):
    window.main_window.desk.show_station("Pull")
    window.main_window.desk.stations["Pull"].show_page("Shape")
    window.settle()


def touch(window, mm):
    at = window.px(mm)
    eraser = PenPlayer(window.sheet, eraser=True)
    for kind in (QEvent.Type.TabletPress, QEvent.Type.TabletRelease):
        eraser.send(kind, np.array([at.x(), at.y(), 0.5, 0.0, 30.0]))
    window.settle()


def test_straights_chain_and_a_bow_is_pulled_by_its_middle(window):
    shapes(window)
    press(window, "straights…")
    window.pull((10, 10), (60, 10))
    window.mouse_pull((60.3, 10.2), (60, 40))
    one, two = window.lines()
    assert window.session.shapes[one].curve[-1, 3] == pytest.approx(window.session.shapes[two].curve[0, 0], abs=1e-3)
    press(window, "a bow…")
    window.pull((20, 60), (80, 60))
    assert len(window.lines()) == 2
    window.pull((50, 60), (50, 50))
    bow = list(window.lines())[-1]
    assert window.session.shapes[bow].flat[0][:, 1].min() == pytest.approx(50, abs=0.6)
    window.tap(KEY.Key_Escape)
    assert window.session.job.rows.lines[window.pull((10, 80), (60, 80))].pull


def test_circles_and_ellipses_three_ways(window):
    shapes(window)
    for verb, drag, size in (
        ("ellipse from its middle…", ((50, 40), (70, 50)), (40, 20)),
        ("by its box…", ((10, 10), (40, 30)), (30, 20)),
        ("circle from its middle…", ((50, 40), (60, 40)), (20, 20)),
        ("by a diameter…", ((20, 60), (50, 60)), (30, 30)),
    ):
        press(window, verb)
        window.mouse_pull(*drag)
        shape = window.session.shapes[list(window.lines())[-1]]
        assert shape.closed
        assert np.ptp(shape.flat[0], axis=0) == pytest.approx(size, abs=0.6)


def test_parallels_mirror_and_turn_from_the_line_in_hand(window):
    key = window.pull((20, 30), (60, 34))
    shapes(window)
    type_into(window, "How many", "2")
    press(window, "beside the line in hand")
    assert len(window.lines()) == 3
    window.session.choose([key])
    window.settle()
    press(window, "mirror it about an axis…")
    window.pull((60, 10), (60, 80))
    assert len(window.lines()) == 4
    press(window, "turn it round a place…")
    at = window.px((60, 45)).toPoint()
    QTest.mouseClick(window.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
    assert len(window.lines()) == 9
    type_into(window, "How many", "some")
    press(window, "beside the line in hand")
    page = window.main_window.desk.stations["Pull"].page("Shape")
    assert "no whole number" in page._fault.accessibleName()


def test_a_pull_is_made_straight_and_comes_back_in_one_undo(window):
    key = window.pull((20, 30), (60, 36), (100, 30))
    shapes(window)
    press(window, "straight")
    assert window.session.shapes[key].flat[0][:, 1] == pytest.approx(30, abs=0.3)
    window.session.timeline.undo()
    assert window.lines()[key].pull
    window.session.make("part", name="Lines", locked=True)
    press(window, "straights…")
    window.pull((10, 10), (60, 10))
    assert "locked" in said(window) and len(window.lines()) == 1


def test_the_pens_other_end_cuts_or_takes_the_line(window):
    key = window.pull((20, 30), (100, 30))
    window.main_window.preferences.use_rub("cut")
    touch(window, (60, 30))
    assert len(window.lines()) == 2
    window.main_window.preferences.use_rub("whole")
    touch(window, (40, 30))
    assert key not in window.lines() and len(window.lines()) == 1
    assert window.main_window.settings.get("rub") == "whole"


def test_a_pull_off_the_board_is_said_and_not_hindered(window):
    window.sheet.viewport.set_view(window.sheet.view.moved(150, 0))
    assert window.pull((-8, 30), (40, 30)) is not None
    assert "off the board" in said(window)


def test_mirrored_top_to_bottom(window):
    before = window.sheet.view
    window.hover((60, 45))
    window.tap(KEY.Key_J)
    up, down = window.px((60, 20)), window.px((60, 70))
    assert up.y() > down.y()
    assert window.px((20, 45)).x() < window.px((100, 45)).x()
    window.tap(KEY.Key_J)
    assert window.sheet.view.turn == pytest.approx(before.turn, abs=1e-6)
    assert window.sheet.view.mirror == before.mirror


def test_a_word_about_breaks_comes_once_and_can_be_switched_off():
    told = []
    cautions = Cautions(3)
    cautions.due.connect(told.append)
    for _ in range(4):
        cautions.pulled()
        cautions.tick()
    assert len(told) == 1 and "3 minutes" in told[0] and "doctor" in told[0]
    for _ in range(20):
        cautions.tick()
    assert len(told) == 1
    off = Cautions(0)
    off.due.connect(told.append)
    for _ in range(200):
        off.pulled()
        off.tick()
    assert len(told) == 1
