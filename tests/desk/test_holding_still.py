"""A pen held still at the end of a pull: straight, round, ellipse, or the hand's own."""

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from plain_stride.desk.sheet.gestures.holding_still import FIRST_MS, NEXT_MS

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def pull_and_hold(window, places, ms, then=()):
    at = [window.px(p).toPoint() for p in places]
    QTest.mousePress(window.sheet, LEFT, NONE, at[0])
    for one in at:
        QTest.mouseMove(window.sheet, one, 6)
    QTest.qWait(ms)
    for p in then:
        QTest.mouseMove(window.sheet, window.px(p).toPoint(), 6)
    QTest.mouseRelease(window.sheet, LEFT, NONE, (window.px(then[-1]).toPoint() if len(then) else at[-1]))
    window.settle()
    (key,) = window.lines()
    return key


def bent():
    x = np.linspace(20.0, 90.0, 60)
    return np.column_stack([x, 40.0 + 1.2 * np.sin(x / 8.0)])


def off_straight(window, key):
    points = window.session.shapes[key].flat[0]
    way = points[-1] - points[0]
    return np.abs(way[0] * (points - points[0])[:, 1] - way[1] * (points - points[0])[:, 0]).max() / np.hypot(*way)


def test_a_lift_without_waiting_keeps_the_hands_own(window):
    key = pull_and_hold(window, bent(), 100)
    assert off_straight(window, key) > 0.6 and window.session.job.rows.lines[key].fixed is None


def test_held_still_it_becomes_straight_and_one_step_back_is_the_hand(window):
    key = pull_and_hold(window, bent(), FIRST_MS + 250)
    assert off_straight(window, key) < 0.01 and window.session.job.rows.lines[key].pull
    assert "one step back" in window.main_window.desk.message.accessibleName()
    window.tap(Qt.Key.Key_Z)
    assert off_straight(window, key) > 0.6


def test_held_on_the_next_shape_is_offered_and_moving_on_keeps_the_hand(window):
    pull = window.sheet.gestures.pull
    seen = []
    pull.still.changed.connect(lambda: seen.append(pull.still.shape))
    circle = [(60 + 20 * np.cos(t), 45 + 20 * np.sin(t)) for t in np.linspace(0, 6.2, 80)]
    key = pull_and_hold(window, circle, FIRST_MS + NEXT_MS + 400)
    assert seen[:2] == ["round", "ellipse"]
    assert window.session.shapes[key].closed
    window.tap(Qt.Key.Key_Z)
    window.tap(Qt.Key.Key_Z)
    moved_on = pull_and_hold(window, bent(), FIRST_MS + 250, then=[(95.0, 44.0), (100.0, 50.0)])
    assert window.session.job.rows.lines[moved_on].fixed is None


def test_a_tap_and_a_short_stroke_are_offered_nothing(window):
    key = pull_and_hold(window, [(20, 20), (21, 20)], FIRST_MS + 250)
    assert window.session.job.rows.lines[key].fixed is None


@pytest.mark.parametrize("locked", [True])
def test_what_cannot_be_pulled_offers_nothing(window, locked):
    window.session.make("part", name="Lines", locked=locked)
    at = window.px((20, 20)).toPoint()
    QTest.mousePress(window.sheet, LEFT, NONE, at)
    QTest.qWait(FIRST_MS + 200)
    QTest.mouseRelease(window.sheet, LEFT, NONE, at)
    assert not window.lines() and window.sheet.gestures.pull.still.shape == ""
