"""What a hand likes is found from its pulls beside known lines, and the board is laid for it."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plain_stride.hand.liking import (
    LEAST_PULLS,
    Liking,
    beside,
    board_for,
    liking_of,
    on_glass,
    stretch_within,
)
from plain_stride.hand.pull import Pull, View
from plain_stride.hand.simulated import HANDS, pulled
from tests.targets import flowing

AVERAGE = HANDS["average"]


def as_read(line: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """A line as a reading knows it: to 0.1 mm, its error changing every 2 mm."""
    way = np.gradient(line, axis=0)
    side = np.column_stack([-way[:, 1], way[:, 0]]) / np.hypot(*way.T)[:, None]
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.arange(0.0, s[-1] + 2.0, 2.0)
    return line + side * np.interp(s, at, rng.normal(0.0, 0.1, len(at)))[:, None]


def found(trial: int, hand, n: int = 60, view: View | None = None) -> Liking:
    rng, view = np.random.default_rng(trial), view or View()
    pulls = []
    for k in range(n):
        line = flowing(1000 * trial + k)
        pulls.append(beside(Pull(pulled(line, hand, "normal", [trial, k]), view=view), as_read(line, rng)))
    return liking_of([pull for pull in pulls if pull is not None])


def apart(a: float, b: float) -> float:
    return abs((a - b + 90.0) % 180.0 - 90.0)


def test_the_steadiest_axis_is_found_after_sixty_pulls():
    """Of hands that wander a fifth less along their axis and a fifth more across it; 14 of 15 within 15 degrees."""
    axes = np.random.default_rng(1).uniform(0.0, 180.0, 15)
    likings = [found(k, replace(AVERAGE, best_direction=axis, strain=0.2)) for k, axis in enumerate(axes)]
    near = [liking.axis is not None and apart(liking.axis, axis) <= 15.0
            for liking, axis in zip(likings, axes, strict=True)]  # fmt: skip
    assert sum(near) >= 13
    assert np.median([liking.strain for liking in likings]) == pytest.approx(1.5, abs=0.25)


def test_a_hand_without_a_favourite_is_seldom_given_one():
    likings = [found(k, replace(AVERAGE, strain=0.0)) for k in range(12)]
    assert sum(liking.axis is not None for liking in likings) <= 4
    assert all(liking.strain == 1.0 or liking.strain < 1.5 for liking in likings)


def test_the_axis_is_the_tablets_however_the_board_lies():
    """The hand's axis is 60 degrees on the sheet: with the board mirrored and turned by 30 it is -60 + 30."""
    hand = replace(AVERAGE, best_direction=60.0, strain=0.4)
    assert apart(found(3, hand).axis, 60.0) < 12.0
    assert apart(found(3, hand, view=View(1.0, 30.0, True)).axis, -30.0) < 12.0


def test_the_reach_is_found_where_pulls_leave_it():
    hand = replace(AVERAGE, best_direction=30.0, reach=50.0, strain=0.2)
    rng, pulls, short = np.random.default_rng(0), [], []
    for k in range(60):
        a, long = rng.uniform(0, 2 * math.pi), rng.uniform(60, 260)
        line = np.linspace(0, 1, 100)[:, None] * long * np.array([math.cos(a), math.sin(a)]) + 60.0
        pulls.append(beside(Pull(pulled(line, hand, "normal", [0, k])), line))
        short.append(beside(Pull(pulled(line[:20], hand, "normal", [1, k])), line))
    assert liking_of([p for p in pulls if p]).reach == pytest.approx(50.0, abs=10.0)
    assert liking_of([p for p in short if p]).reach is None


def test_the_place_is_the_middle_of_the_steadier_half():
    line = np.array([[0.0, 0.0], [60.0, 0.0]])
    pulls = []
    for k in range(40):
        calm = k % 2 == 0
        view = View(1.0, 0.0, False, (100.0, 50.0) if calm else (300.0, 200.0))
        pulls.append(beside(Pull(pulled(line, HANDS["calm" if calm else "shaky"], "normal", k), view=view), line))
    assert liking_of(pulls).place == pytest.approx((130.0, 50.0), abs=1.0)


def test_few_pulls_tell_nothing_and_pulls_elsewhere_are_left_out():
    line = flowing(1)
    one = beside(Pull(pulled(line, AVERAGE, "normal", 1)), line)
    assert liking_of([one] * (LEAST_PULLS - 1)) == Liking(LEAST_PULLS - 1)
    assert beside(Pull(pulled(line, AVERAGE, "normal", 1)), line + 20.0) is None
    assert beside(Pull(np.array([[0, 0, 0.5, 0, 0], [1, 0, 0.5, 0.01, 0.0]])), line) is None


@given(st.floats(-180, 180), st.booleans(), st.floats(0, 179), st.floats(0, 360), st.floats(5, 80))
@settings(max_examples=60)
def test_the_board_is_laid_so_that_the_line_runs_along_the_axis(turn, mirror, axis, a, long):
    line = np.linspace(-0.5, 0.5, 9)[:, None] * long * np.array([math.sin(math.radians(a)), -math.cos(math.radians(a))])
    view = View(2.0, turn, mirror)
    lay = board_for(line, view, Liking(60, axis, 1.0, reach=50.0))
    way = on_glass(line[-1:] - line[:1], lay)[0]
    assert apart(math.degrees(math.atan2(way[0], -way[1])), axis) < 1e-6
    assert apart(lay.turn, turn) <= 90.0 + 1e-9 and abs((lay.turn - turn + 180) % 360 - 180) <= 90.0 + 1e-6
    half = long / 2.0 * lay.scale
    assert lay.scale == 2.0 or half <= 50.0 * 0.95 + 1e-6 or lay.scale == 1.0
    assert 1.0 <= lay.scale <= 4.0


def test_of_a_long_line_the_stretch_about_the_pen_counts():
    line = np.array([[0.0, 0.0], [100.0, 0.0], [100.0, 100.0]])
    stretch = stretch_within(line, np.array([102.0, 50.0]), 20.0)
    assert stretch[[0, -1]] == pytest.approx(np.array([[100.0, 30.0], [100.0, 70.0]]))
    assert stretch_within(line, np.array([5.0, -3.0]), 20.0)[[0, -1]] == pytest.approx(
        np.array([[0.0, 0.0], [25.0, 0.0]])
    )
