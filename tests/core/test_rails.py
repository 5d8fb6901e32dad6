"""Rails: pulls led along straights, curves, fans, parallels and perspectives, against closed forms."""

import numpy as np
import pytest

from plain_stride.hand.nib import Nib, Steadying
from plain_stride.hand.pull import Pull, View
from plain_stride.hand.rails import (
    CurveRail,
    FanRail,
    ParallelRail,
    PerspectiveRail,
    RailError,
    StraightRail,
    chain,
    led,
)
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.lines.centre import Following, centreline_of
from plain_stride.lines.curve import flatten

NIB = Nib("3", 0.2, 1.0)


def line_along(rail, target, hand="shaky"):
    """The finished middle (n, 2) of a shaky pull that was led along a rail, and its pull."""
    pull = Pull(pulled(np.array(target, float), HANDS[hand], "normal", 3), NIB, View(), "simulated")
    along = rail.line_for(pull.samples[:, :2])
    return flatten(centreline_of(pull, Steadying(), Following(1.0, along, True)).curve, 0.001), pull


def off(points, a, way):
    """mm beside a straight through a place."""
    way = np.asarray(way, float) / np.hypot(*way)
    return np.abs((points - a) @ np.array([-way[1], way[0]]))


def test_a_shaky_pull_is_exactly_straight_along_a_straight_and_keeps_its_own_samples():
    rail = StraightRail((10.0, 10.0), (90.0, 40.0))
    points, pull = line_along(rail, [[12, 14], [80, 33]])
    assert off(points, [10, 10], [80, 30]).max() < 0.005
    assert off(pull.samples[:, :2], [10, 10], [80, 30]).max() > 0.5
    # As far along as the hand began and ended.
    foot = led(pull.samples[[0, -1], :2], rail.line_for(pull.samples[:, :2]))
    assert points[[0, -1]] == pytest.approx(foot, abs=1.0)


def test_along_a_circle_every_place_is_its_radius_away():
    t = np.linspace(0.0, 2.0 * np.pi, 400, endpoint=False)
    rail = chain(np.column_stack([50 + 20 * np.cos(t), 50 + 20 * np.sin(t)]), True)
    arc = np.linspace(0.2, 2.4, 30)
    points, _ = line_along(rail, np.column_stack([50 + 21 * np.cos(arc), 50 + 21 * np.sin(arc)]))
    assert np.hypot(*(points - 50.0).T) == pytest.approx(np.full(len(points), 20.0), abs=0.01)


def test_a_fan_runs_to_its_point_and_parallels_go_their_way():
    points, pull = line_along(FanRail((120.0, 20.0)), [[20, 60], [70, 42]])
    start = pull.samples[0, :2]
    assert off(points, start, np.array([120.0, 20.0]) - start).max() < 0.005
    points, pull = line_along(ParallelRail(30.0), [[20, 60], [45, 18]])
    assert off(points, pull.samples[0, :2], [np.sin(np.pi / 6), -np.cos(np.pi / 6)]).max() < 0.005


@pytest.mark.parametrize(
    ("vanish", "target", "way"),
    [
        ([(150, 40)], [[20, 80], [60, 68]], [130, -40]),
        ([(150, 40)], [[20, 80], [60, 81]], [1, 0]),
        ([(150, 40)], [[20, 80], [21, 30]], [0, 1]),
        ([(150, 40), (-60, 40)], [[50, 80], [20, 70]], [-110, -40]),
        ([(150, 40), (-60, 40)], [[50, 80], [51, 30]], [0, 1]),
        ([(150, 40), (-60, 40), (45, 300)], [[50, 80], [49, 120]], [-5, 220]),
    ],
)
def test_a_perspective_takes_the_way_that_the_pull_begins_with(vanish, target, way):
    rail = PerspectiveRail(tuple(vanish))
    assert rail.line_for(np.array([target[0], np.add(target[0], [0.3, 0.0])], float)) is None
    points, pull = line_along(rail, target, "average")
    start = pull.samples[0, :2]
    wanted = (
        way
        if abs(way[0]) <= 1 and abs(way[1]) <= 1
        else np.array(min(vanish, key=lambda p: _turn(p, start, way))) - start
    )
    assert off(points, start, wanted).max() < 0.005


def _turn(place, start, way):
    to = np.array(place) - start
    return 1.0 - abs(to @ np.array(way)) / np.hypot(*to) / np.hypot(*way)


def test_what_is_no_rail_is_refused():
    for make in (lambda: StraightRail((1, 1), (1, 1.1)), lambda: CurveRail(((1, 1),)), lambda: PerspectiveRail(())):
        with pytest.raises(RailError):
            make()
    assert FanRail((5.0, 5.0)).line_for(np.array([[5.0, 5.0]])) is None
