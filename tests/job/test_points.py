"""A line's own points: simplified, moved, made, taken away; stretches straightened and smoothed. Outside: shapely's
distances, fontTools' lengths and splits of Bézier curves."""

import numpy as np
import pytest
import shapely
from fontTools.misc.bezierTools import calcCubicArcLength, splitCubicAtT

from plain_stride.job.errors import JobError
from plain_stride.lines import nodes
from plain_stride.lines.curve import Arc, circle, flatten, straight
from tests.job.test_mending import middle


def own_curve(open_job, key):
    return open_job.shapes[key].curve


def wave(open_job):
    return open_job.pull(*((10 + 5 * k, 40 + 12 * np.sin(k * 0.7)) for k in range(20)))


@pytest.mark.parametrize("tolerance", [0.06, 0.2, 0.5])
def test_a_simplified_line_has_fewer_points_and_stays_within_the_tolerance(open_job, tolerance):
    key = wave(open_job)
    before, count = middle(open_job, key), len(own_curve(open_job, key))
    told = open_job.do("simplify", line=key, tolerance=tolerance)
    after = middle(open_job, key)
    off = shapely.hausdorff_distance(before, after, densify=0.001)
    assert off <= tolerance + 0.003
    assert told["moved"] == pytest.approx(off, abs=0.003)
    assert told["after"] == len(own_curve(open_job, key)) < count == told["before"]


def test_simplified_as_pulled_again_is_the_pull(open_job):
    key = wave(open_job)
    before = middle(open_job, key)
    open_job.do("simplify", line=key, tolerance=0.3)
    open_job.do("as-pulled", lines=[key])
    assert shapely.hausdorff_distance(middle(open_job, key), before) == 0.0


def test_what_a_moved_point_does_not_touch_stays_and_its_widths_and_trims_with_it(open_job):
    key = wave(open_job)
    open_job.do("simplify", line=key, tolerance=0.05)
    open_job.do("width", line=key, at=[100, 40 + 12 * np.sin(18 * 0.7)], mm=2.0)
    before = open_job.shapes[key]
    x, y = nodes.nodes_of(before.curve, False)[2]
    open_job.do("node", line=key, what="move", node=2, by=[0.0, 3.0])
    after = open_job.shapes[key]
    assert middle(open_job, key).distance(shapely.Point(x, y + 3.0)) < 0.001
    far = np.linspace(0.0, before.length * 0.5, 40)
    assert after.arc.point(after.length - far) == pytest.approx(before.arc.point(before.length - far), abs=0.01)
    widest = [s.length - s.body.s[int(s.body.full.argmax())] for s in (before, after)]
    assert widest[0] == pytest.approx(widest[1], abs=0.25)
    assert after.body.full.max() > 1.8


def test_a_point_more_leaves_the_line_where_it_is_and_one_less_is_fitted(open_job):
    key = wave(open_job)
    open_job.do("simplify", line=key, tolerance=0.05)
    before, count = middle(open_job, key), len(own_curve(open_job, key))
    place = before.interpolate(0.43, normalized=True)
    open_job.do("node", line=key, what="insert", at=[place.x, place.y])
    assert len(own_curve(open_job, key)) == count + 1
    assert shapely.hausdorff_distance(middle(open_job, key), before) < 0.003
    new = nodes.nodes_of(own_curve(open_job, key), False)
    k = int(np.hypot(*(new - [place.x, place.y]).T).argmin())
    assert np.hypot(*(new[k] - [place.x, place.y])) < 0.01
    open_job.do("node", line=key, what="delete", node=k)
    assert len(own_curve(open_job, key)) == count
    assert shapely.hausdorff_distance(middle(open_job, key), before, densify=0.01) < 0.01


def test_a_new_point_splits_a_piece_as_fonttools_does():
    curve = circle(np.zeros(2), 20.0)[:1]
    length = calcCubicArcLength(*map(tuple, curve[0]))
    assert Arc(curve).length == pytest.approx(length, rel=1e-3)
    _, u = Arc(curve).locate(np.array([length * 0.3]))
    halves = splitCubicAtT(*map(tuple, curve[0]), float(u[0]))
    assert nodes.with_node(curve, length * 0.3) == pytest.approx(np.array(halves), abs=1e-9)


def test_handles_of_a_smooth_point_turn_together_and_those_of_a_corner_do_not(open_job):
    key = wave(open_job)
    open_job.do("simplify", line=key, tolerance=0.05)
    curve = own_curve(open_job, key)
    assert nodes.is_smooth(curve, 2, False)
    open_job.do("node", line=key, what="after", node=2, by=[1.0, 2.0])
    turned = own_curve(open_job, key)
    assert nodes.is_smooth(turned, 2, False)
    assert np.hypot(*(turned[1, 2] - turned[1, 3])) == pytest.approx(np.hypot(*(curve[1, 2] - curve[1, 3])), abs=1e-6)
    open_job.do("node", line=key, what="corner", node=2)
    assert not nodes.is_smooth(own_curve(open_job, key), 2, False)
    open_job.do("node", line=key, what="before", node=2, by=[0.0, 2.0])
    assert own_curve(open_job, key)[2] == pytest.approx(nodes.made_corner(turned, 2, False)[2], abs=1e-9)
    open_job.do("node", line=key, what="smooth", node=2)
    assert nodes.is_smooth(own_curve(open_job, key), 2, False)


def test_a_piece_is_drawn_to_where_it_was_taken(open_job):
    key = wave(open_job)
    open_job.do("simplify", line=key, tolerance=0.05)
    curve = own_curve(open_job, key)
    s = Arc(curve).at_piece_ends()
    x, y = Arc(curve).point(np.array([(s[1] + s[2]) / 2]))[0]
    open_job.do("node", line=key, what="piece", at=[x, y], by=[2.0, -1.0])
    assert middle(open_job, key).distance(shapely.Point(x + 2.0, y - 1.0)) < 0.01
    assert nodes.nodes_of(own_curve(open_job, key), False) == pytest.approx(nodes.nodes_of(curve, False), abs=1e-9)


def test_a_ring_keeps_its_points_and_goes_round(open_job):
    key = open_job.do("draw", shape="ellipse", points=[[50, 50], [20, 12]])
    open_job.do("simplify", line=key, tolerance=0.05)
    curve = own_curve(open_job, key)
    n = nodes.count_of(curve, True)
    assert n == len(curve) <= 8
    open_job.do("node", line=key, what="move", node=0, by=[3.0, 0.0])
    assert open_job.shapes[key].closed
    assert nodes.is_smooth(own_curve(open_job, key), 0, True)
    open_job.do("node", line=key, what="delete", node=0)
    assert len(own_curve(open_job, key)) == n - 1
    ring = own_curve(open_job, key)
    assert ring[0, 0] == pytest.approx(ring[-1, 3], abs=1e-9)


def test_a_stretch_is_made_straight_and_the_rest_stays(open_job):
    key = wave(open_job)
    before = open_job.shapes[key]
    a, b = before.length * 0.3, before.length * 0.5
    open_job.do("straighten", line=key, **{"from": a, "to": b})
    ends = before.arc.point(np.array([a, b]))
    on = shapely.line_merge(shapely.intersection(middle(open_job, key), shapely.LineString(ends).buffer(0.005)))
    assert on.length >= np.hypot(*(ends[1] - ends[0])) - 0.1
    after = open_job.shapes[key]
    assert after.arc.point(np.linspace(0, a, 30)) == pytest.approx(before.arc.point(np.linspace(0, a, 30)), abs=0.01)


@pytest.mark.parametrize("leeway", [0.05, 0.3])
def test_a_smoothed_stretch_moves_by_no_more_than_its_leeway_and_bends_less(open_job, leeway):
    rough = [(10 + k, 40 + 8 * np.sin(k * 0.08) + 0.3 * (-1) ** k) for k in range(90)]
    key = open_job.pull(*rough)
    open_job.do("steady", lines=[key], school="off")
    before = open_job.shapes[key]
    a, b = before.length * 0.25, before.length * 0.75
    open_job.do("smooth", line=key, leeway=leeway, **{"from": a, "to": b})
    after = open_job.shapes[key]
    off = shapely.hausdorff_distance(middle(open_job, key), shapely.LineString(before.flat[0]), densify=0.01)
    assert off <= leeway + 0.01

    def turning(shape):
        d = np.diff(flatten(shape.curve, 0.001), axis=0)
        return np.abs(np.diff(np.unwrap(np.arctan2(d[:, 1], d[:, 0])))).sum()

    assert turning(after) < turning(before)


def test_bad_points_are_said(open_job):
    key = wave(open_job)
    for arguments, words in (
        ({"what": "move", "node": 900, "by": [1, 1]}, "there is no point 900"),
        ({"what": "twist", "node": 0}, "a point is edited by"),
        ({"what": "smooth", "node": 0}, "an end of a line has one side"),
        ({"what": "before", "node": 0, "by": [1, 0]}, "one handle only"),
        ({"what": "insert", "at": [500, 500]}, "point at the line"),
    ):
        with pytest.raises(JobError, match=words):
            open_job.do("node", line=key, **arguments)
    with pytest.raises(JobError, match="a tolerance"):
        open_job.do("simplify", line=key, tolerance=0)
    with pytest.raises(JobError, match="smaller to a larger"):
        open_job.do("straighten", line=key, **{"from": 9, "to": 3})


def test_kinks_that_lie_next_to_each_other_stay_when_a_line_is_refitted():
    corners = np.array([[0, 0], [5.0, 0.05], [5.14, 0.5], [5.2, -0.6]])
    curve = straight(corners)
    new, off = nodes.simplified(curve, 0.05)
    assert off <= 0.05
    assert np.abs(new[-1, 3] - corners[-1]).max() < 1e-9
