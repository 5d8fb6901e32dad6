"""The board turned to the hand in the real window: learned, shown, turned, turned back, remembered."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import Qt

from plain_stride.hand.follow import Guides
from plain_stride.hand.pull import Pull, View
from plain_stride.hand.simulated import HANDS, pulled
from tests.desk.test_pulling_again import page
from tests.desk.test_window import said
from tests.targets import flowing

KEY = Qt.Key
PENCIL = np.linspace([20.0, 40.0], [100.0, 40.0], 50)


def with_pulls(window, n=60):
    """Pulls of a hand that is steadiest straight up, along lines that were read."""
    hand = replace(HANDS["average"], best_direction=0.0, strain=0.4)
    lines = [flowing(k) for k in range(n)]
    for k, line in enumerate(lines):
        pull = Pull(pulled(line, hand, "normal", k), view=View(1.0, 0.0, False, (10.0, 10.0)))
        assert window.session.make("pull", pull=pull, part="Ink", role="outer") is not None
    window.session.strokes.know(Guides([PENCIL, *lines]))


def test_t_turns_the_pencil_line_under_the_pen_and_turns_it_back(window):
    with_pulls(window)
    window.main_window.desk.turning.learn()
    window.wait_until(lambda: window.main_window.desk.turning.liking.axis is not None)
    window.session.strokes.know(Guides([PENCIL]))
    before = window.sheet.view
    window.hover((60, 41))
    window.tap(KEY.Key_T)
    window.wait_until(lambda: window.sheet.view != before)
    liking = window.main_window.desk.turning.liking
    way = np.diff(window.sheet.view.to_glass(PENCIL[[0, -1]]), axis=0)[0]
    now = np.degrees(np.arctan2(way[0], -way[1]))
    assert abs((now - liking.axis + 90) % 180 - 90) < 0.01
    assert abs((liking.axis + 90) % 180 - 90) < 15
    assert "steadiest way" in said(window)
    window.tap(KEY.Key_T)
    assert window.sheet.view == before and said(window) == "The board lies as it did."


def test_t_held_shows_the_way_and_the_page_tells_of_it(window):
    with_pulls(window)
    window.hover((60, 60))
    hand = page(window, "Hand")
    window.hold(KEY.Key_T)
    window.wait_until(lambda: window.main_window.desk.turning.liking.axis is not None)
    window.settle()
    axis = np.radians(window.main_window.desk.turning.liking.axis)
    at = np.array(window.sheet.view.to_board(window.sheet.viewport.pointer))
    along = at + np.array([np.sin(axis), -np.cos(axis)]) * 8.0
    shown = window.ink_at(along)
    window.let_go(KEY.Key_T)
    assert shown > 60 and window.ink_at(along) < 30
    assert "Steadiest along" in hand._liking.text() and "pulls" in said(window)


def test_what_was_learned_is_known_in_the_next_job(window, window_on, job_path):
    with_pulls(window)
    window.main_window.desk.turning.learn()
    window.wait_until(lambda: window.main_window.desk.turning.liking.axis is not None)
    axis = window.main_window.desk.turning.liking.axis
    window.main_window.close()
    assert window_on(job_path).main_window.desk.turning.liking.axis == axis


def test_without_pencils_or_pulls_the_key_says_what_is_missing(window):
    before = window.sheet.view
    window.hover((60, 60))
    window.tap(KEY.Key_T)
    assert "pulls along pencils" in said(window) and window.sheet.view == before


def test_a_pull_remembers_where_on_the_glass_the_board_lay(window):
    key = window.pull((20, 30), (60, 30))
    view = window.session.job.pull(window.lines()[key].pull).view
    corner = window.sheet.mapToGlobal(window.px((0, 0))) / window.sheet.viewport.glass_px_per_mm
    assert view.origin == pytest.approx((corner.x(), corner.y()))


def test_a_long_pencil_line_is_marked_where_it_is_best_divided(window):
    """160 mm on the tablet at 2 mm for one: two sections within a sweep of 120."""
    viewport = window.sheet.viewport
    viewport.set_view(viewport.view.enlarged(2.0 / viewport.glass(), viewport.about()))
    window.session.strokes.know(Guides([PENCIL]))
    window.hover((45, 40.5))
    window.hold(KEY.Key_T)
    window.settle()
    assert "2 sections" in said(window) and "160 mm" in said(window)
    (cut,) = window.main_window.desk.turning._cuts
    assert cut.mean(axis=0) == pytest.approx([60, 40], abs=1.0)
    assert window.ink_at((60, 40.8)) > 60
    window.let_go(KEY.Key_T)
    assert window.ink_at((60, 40.8)) < 30 and not window.main_window.desk.turning._cuts


def test_an_end_beside_its_pencils_is_told(window):
    window.session.strokes.know(Guides([PENCIL]))
    hand = page(window, "Hand")
    window.pull((20, 40), (60, 40), (98, 41.6))
    assert "misses the pencils" in hand._line.text()
    window.pull((20, 40), (60, 40.2), (98, 40.1))
    assert "misses the pencils" not in hand._line.text()
