"""Straights and chains by clicks, ellipses that lie as the board is seen, lines and boxes that fill the view."""

import itertools

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

KEY = Qt.Key


def take(window, name):
    pull = window.main_window.desk.stations["Pull"]
    pull.tool_wanted.emit(pull.shapes.tools()[name]())


def click(window, *places):
    for place in places:
        QTest.mouseClick(window.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier,
                         window.px(place).toPoint())  # fmt: skip


def drag(window, a, b):
    left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    QTest.mousePress(window.sheet, left, none, window.px(a).toPoint())
    QTest.mouseMove(window.sheet, window.px(b).toPoint())
    QTest.mouseRelease(window.sheet, left, none, window.px(b).toPoint())
    window.settle()


def _near(points, place):
    """mm from a place to a chain of points."""
    a, step = points[:-1], np.diff(points, axis=0)
    u = np.clip(((place - a) * step).sum(axis=1) / np.maximum((step**2).sum(axis=1), 1e-12), 0.0, 1.0)
    return float(np.hypot(*(a + step * u[:, None] - place).T).min())


CORNERS = [(20.0, 20.0), (80.0, 20.0), (80.0, 60.0), (30.0, 70.0)]


@pytest.mark.parametrize("end", ["click", "enter"])
def test_clicks_lay_a_chain_that_is_one_line_with_its_corners(window, end):
    take(window, "straights")
    click(window, *CORNERS)
    assert not window.lines()
    if end == "click":
        click(window, CORNERS[-1])
    else:
        QTest.keyClick(window.sheet, KEY.Key_Return)
    (key,) = window.lines()
    points = window.session.shapes[key].flat[0]
    px = 1.0 / window.sheet.view.scale
    for corner in CORNERS:
        assert np.hypot(*(points - corner).T).min() < px
    # Straight between the corners: its length is that of the chain.
    length = sum(np.hypot(*np.subtract(a, b)) for a, b in itertools.pairwise(CORNERS))
    assert window.session.shapes[key].length == pytest.approx(length, abs=4 * px)
    window.tap(KEY.Key_Z)
    assert not window.lines()


def test_a_chain_is_taken_back_corner_by_corner_dropped_or_laid_with_its_station(window):
    take(window, "straights")
    click(window, *CORNERS)
    QTest.keyClick(window.sheet, KEY.Key_Backspace)
    QTest.keyClick(window.sheet, KEY.Key_Return)
    (key,) = window.lines()
    assert np.hypot(*(window.session.shapes[key].flat[0][-1] - CORNERS[2])) < 0.3
    click(window, (20, 80), (90, 80))
    window.tap(KEY.Key_Escape)
    assert len(window.lines()) == 1 and "dropped" in window.main_window.desk.message.accessibleName()
    assert window.sheet.gestures.word() == "straights"
    click(window, (20, 80), (90, 80))
    window.main_window.desk.show_station("Weigh")
    assert len(window.lines()) == 2


def test_a_chain_of_five_hundred_clicks_is_laid_and_the_next_one_begins(window):
    take(window, "straights")
    places = [(10 + 100 * (k % 25) / 24, 10 + 70 * (k // 25) / 20) for k in range(500)]
    click(window, *places)
    (key,) = window.lines()
    points, px = window.session.shapes[key].flat[0], 1.0 / window.sheet.view.scale
    assert all(_near(points, place) < px for place in places)
    click(window, (20, 85), (60, 85))
    QTest.keyClick(window.sheet, KEY.Key_Return)
    assert len(window.lines()) == 2


def test_a_locked_part_refuses_a_chain_and_says_why(window):
    window.pull((10, 10), (60, 10))
    window.session.make("part", name="Lines", locked=True)
    take(window, "straights")
    click(window, *CORNERS, CORNERS[-1])
    assert len(window.lines()) == 1 and "is locked" in window.main_window.desk.message.accessibleName()


@pytest.mark.parametrize("mirror", [False, True])
@pytest.mark.parametrize("turn", [0.0, 30.0, -75.0])
def test_an_ellipse_lies_as_the_board_is_seen(window, turn, mirror):
    view = window.sheet.view.turned(turn, window.px((60, 45)))
    window.sheet.viewport.set_view(view)
    if mirror:
        window.sheet.viewport.mirror()
    take(window, "ellipse from its middle")
    middle = window.px((60, 45)).toPoint()
    left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    QTest.mousePress(window.sheet, left, none, middle)
    to = middle + type(middle)(120, 50)
    QTest.mouseMove(window.sheet, to)
    QTest.mouseRelease(window.sheet, left, none, to)
    window.settle()
    (key,) = window.lines()
    glass = window.sheet.view.to_glass(window.session.shapes[key].flat[0]) - [middle.x(), middle.y()]
    # Level and plumb on the glass, half its box wide and high: the equation of an ellipse (closed form).
    assert np.allclose((glass[:, 0] / 120.0) ** 2 + (glass[:, 1] / 50.0) ** 2, 1.0, atol=0.02)


def test_a_line_and_a_box_fill_the_view(window):
    key = window.pull((20, 20), (30, 24))
    QTest.keyClick(window.main_window.windowHandle(), KEY.Key_2, Qt.KeyboardModifier.ControlModifier)
    points = window.sheet.view.to_glass(window.session.shapes[key].flat[0])
    w, h = window.sheet.view.size
    assert np.ptp(points[:, 0]) > 0.7 * w and (points >= 0).all() and (points <= [w, h]).all()
    QTest.keyClick(window.main_window.windowHandle(), KEY.Key_0, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(window.main_window.windowHandle(), KEY.Key_3, Qt.KeyboardModifier.ControlModifier)
    drag(window, (40, 30), (80, 50))
    corners = window.sheet.view.to_glass(np.array([[40.0, 30.0], [80.0, 50.0]]))
    assert (corners >= 0).all() and (corners <= [w, h]).all() and np.ptp(corners[:, 0]) > 0.7 * w
    assert window.sheet.gestures.tool is None
