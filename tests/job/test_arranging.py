"""Lines lined up, spaced, repeated along a line, put in perspective. Outside: closed forms, shapely, and the projective
map that scikit-image or hand calculation would give: cross-ratios stay."""

import numpy as np
import pytest
import shapely

from plain_stride.job.errors import JobError
from tests.job.test_mending import middle, straight


def boxes(open_job, keys):
    return np.array([open_job.shapes[key].box for key in keys])


@pytest.fixture
def three(open_job):
    return [straight(open_job, (10, 20), (20, 21)), straight(open_job, (33, 50), (50, 44)),
            straight(open_job, (80, 70), (86, 77))]  # fmt: skip


@pytest.mark.parametrize("side", ["left", "middle", "right", "top", "centre", "bottom"])
def test_lines_are_lined_up(open_job, three, side):
    before = boxes(open_job, three)
    open_job.do("align", lines=three, side=side)
    after, k = boxes(open_job, three), 0 if side in ("left", "middle", "right") else 1
    low, high = before[:, k].min(), before[:, k + 2].max()
    told = {"left": after[:, k], "top": after[:, k], "right": after[:, k + 2], "bottom": after[:, k + 2]}
    wanted = {"left": low, "top": low, "right": high, "bottom": high}
    at = told.get(side, (after[:, k] + after[:, k + 2]) / 2)
    assert at == pytest.approx(np.full(3, wanted.get(side, (low + high) / 2)), abs=1e-6)
    assert after[:, 1 - k] == pytest.approx(before[:, 1 - k], abs=1e-9)


@pytest.mark.parametrize("way", ["across", "down"])
def test_gaps_between_them_become_alike(open_job, three, way):
    before, k = boxes(open_job, three), ["across", "down"].index(way)
    open_job.do("space", lines=three[::-1], way=way)
    after = boxes(open_job, three)
    gaps = after[1:, k] - after[:-1, k + 2]
    assert gaps[0] == pytest.approx(gaps[1], abs=1e-6)
    assert after[[0, 2]] == pytest.approx(before[[0, 2]], abs=1e-9)


def test_copies_lie_evenly_along_a_line_turned_as_it_goes(open_job):
    guide = open_job.do("draw", shape="bow", points=[[20, 60], [100, 60], [60, 20]])
    link = straight(open_job, (10, 10), (16, 10))
    copies = open_job.do("repeat", lines=[link], along=guide, count=7)
    line = middle(open_job, guide)
    middles = [middle(open_job, key).interpolate(0.5, normalized=True) for key in copies]
    assert max(line.distance(at) for at in middles) < 0.01
    along = np.array([line.project(at) for at in middles])
    assert np.diff(along) == pytest.approx(np.full(6, line.length / 6), abs=0.02)
    for key, at in zip(copies, along, strict=True):
        a, b = (np.array(line.interpolate(s).coords[0]) for s in (max(at - 0.5, 0), min(at + 0.5, line.length)))
        ends = open_job.shapes[key].flat[0][[0, -1]]
        way, own = (b - a) / np.hypot(*(b - a)), (ends[1] - ends[0]) / np.hypot(*(ends[1] - ends[0]))
        assert way @ own > 0.999
    # They are lines of their own: each can be taken away.
    open_job.do("delete", lines=copies[:3])
    assert len(open_job.job.rows.lines) == 6


def test_a_perspective_takes_corners_where_they_are_to_go_and_keeps_straights_and_cross_ratios(open_job):
    frame = [straight(open_job, a, b) for a, b in (((10, 10), (90, 10)), ((90, 10), (90, 70)), ((10, 10), (10, 70)))]
    rule = straight(open_job, (10, 40), (90, 40))
    marks = [straight(open_job, (x, 30), (x, 50)) for x in (20, 40, 60, 80)]
    wanted = [[20, 20], [80, 10], [85, 75], [15, 60]]
    open_job.do("perspective", lines=[*frame, rule, *marks], corners=wanted)
    assert open_job.shapes[frame[0]].flat[0][[0, -1]] == pytest.approx(np.array(wanted[:2]), abs=0.01)
    assert open_job.shapes[frame[1]].flat[0][-1] == pytest.approx(np.array(wanted[2]), abs=0.01)
    line = middle(open_job, rule)
    assert line.length == pytest.approx(np.hypot(*np.subtract(line.coords[-1], line.coords[0])), abs=0.01)
    at = [line.project(line.intersection(middle(open_job, key))) for key in marks]
    ratio = (at[2] - at[0]) * (at[3] - at[1]) / ((at[2] - at[1]) * (at[3] - at[0]))
    assert ratio == pytest.approx(40 * 40 / (20 * 60), abs=0.01)


def test_what_cannot_be_arranged_is_said(open_job, three):
    square = [[10, 10], [90, 10], [90, 70], [10, 70]]
    for name, arguments, words in (
        ("align", {"lines": three, "side": "north"}, "lined up by"),
        ("space", {"lines": three[:2], "way": "across"}, "three or more"),
        ("space", {"lines": three, "way": "round"}, "spaced across or down"),
        ("repeat", {"lines": three, "along": three[0], "count": 3}, "one of themselves"),
        ("repeat", {"lines": three[:1], "along": "none", "count": 3}, "no line"),
        ("perspective", {"lines": three, "corners": square[:3]}, "four"),
        ("perspective", {"lines": three, "corners": [square[0], square[2], square[1], square[3]]}, "go round an area"),
        ("perspective", {"lines": three, "corners": [[49.9, 10], [50.1, 10], [90, 70], [10, 70]]}, "horizon"),
    ):
        with pytest.raises(JobError, match=words):
            open_job.do(name, **arguments)
    assert shapely.LineString(open_job.shapes[three[0]].flat[0]).length > 0


@pytest.mark.parametrize("kind", ["chain", "rings", "rope", "braid"])
def test_a_motif_lies_along_its_line_and_tucks_behind_itself(open_job, kind):
    guide = open_job.do("draw", shape="bow", points=[[15, 60], [105, 60], [60, 30]])
    ids = open_job.do("motif", along=guide, kind=kind, size=6, width=0.5)
    assert len(ids) > 4 and guide in open_job.job.rows.lines
    line = middle(open_job, guide)
    places = np.vstack([open_job.shapes[key].flat[0] for key in ids])
    away = shapely.distance(line, shapely.points(places))
    assert 2.5 < away.max() < 4.2
    # Strands never cross: where one would, the one behind is cut, with white on both sides.
    middles = [middle(open_job, key) for key in ids]
    if kind != "rope":
        tree = shapely.STRtree(middles)
        a, b = tree.query(middles, predicate="intersects")
        assert not [(i, j) for i, j in zip(a, b, strict=True) if i < j]
        ink = [shapely.Polygon(open_job.shapes[key].rings[0]) for key in ids]
        gaps = [ink[i].distance(ink[j]) for i, j in zip(*tree.query(middles, "dwithin", 1.0), strict=True) if i < j]
        assert min(gaps) > 0.1
    open_job.undo()
    assert list(open_job.job.rows.lines) == [guide]


def test_a_motif_that_has_no_room_is_said(open_job):
    short = straight(open_job, (10, 10), (14, 10))
    for arguments, words in (({"kind": "chain", "size": 6}, "too short"), ({"kind": "lace", "size": 6}, "a motif is"),
                             ({"kind": "braid", "size": 0.1}, "a size")):  # fmt: skip
        with pytest.raises(JobError, match=words):
            open_job.do("motif", along=short, **arguments)
