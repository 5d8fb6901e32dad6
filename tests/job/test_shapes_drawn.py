"""Shapes drawn, repeated, mirrored, cut, straightened as named changes; one undo back to the hand's own."""

import numpy as np
import pytest

from plain_stride.errors import StrideError


def test_shapes_are_drawn_as_lines_with_a_nib_and_a_taper(open_job):
    straight = open_job.do("draw", shape="straight", points=[[10, 10], [60, 10], [60, 40]], pressure=0.5)
    assert open_job.shapes[straight].length == pytest.approx(80.0, abs=0.01)
    assert open_job.shapes[straight].widths.full == pytest.approx(0.6, abs=0.01)
    bow = open_job.do("draw", shape="bow", points=[[10, 60], [50, 60], [30, 50]], taper=True)
    full = open_job.shapes[bow].widths.full
    assert full[0] < 0.3 * full.max()
    ring = open_job.do("draw", shape="ellipse", points=[[60, 60], [70, 65]], nib="7", turn=30.0)
    assert open_job.shapes[ring].closed and open_job.shapes[ring].widths.full == pytest.approx(0.5, abs=1e-6)


def test_parallels_mirrors_and_turns_keep_widths(open_job):
    key = open_job.pull((20, 30), (60, 34), pressure=0.8)
    series = open_job.do("beside", line=key, gap=2.0, count=3)
    assert len(series) == 3
    assert open_job.shapes[series[2]].flat[0][:, 1].mean() == pytest.approx(32 - 6, abs=0.3)
    (twin,) = open_job.do("mirror", lines=[key], axis=[[60, 0], [60, 90]])
    assert open_job.shapes[twin].curve[0, 0] == pytest.approx([100, 30], abs=0.3)
    assert open_job.shapes[twin].widths.full.max() == pytest.approx(open_job.shapes[key].widths.full.max(), abs=0.02)
    others = open_job.do("around", lines=[key], centre=[60, 45], count=4)
    assert len(others) == 3 and open_job.shapes[others[1]].curve[0, 0] == pytest.approx([100, 60], abs=0.3)


def test_what_was_pulled_is_straightened_and_one_undo_brings_the_hand_back(open_job):
    key = open_job.pull((10, 20), (40, 24), (90, 20))
    before = open_job.job.rows.lines[key]
    open_job.do("reshape", lines=[key], shape="straight")
    points = open_job.shapes[key].flat[0]
    assert points[:, 1] == pytest.approx(20.0, abs=0.05)
    assert open_job.job.rows.lines[key].pull == before.pull
    open_job.undo()
    assert open_job.job.rows.lines[key] == before
    t = np.linspace(0.0, 2 * np.pi, 30)
    ring = open_job.pull(*np.column_stack([60 + 15 * np.cos(t), 45 + 15.4 * np.sin(t)]))
    open_job.do("reshape", lines=[ring], shape="round")
    assert open_job.shapes[ring].closed
    assert np.hypot(*(open_job.shapes[ring].flat[0] - (60, 45)).T) == pytest.approx(15.2, abs=0.2)


def test_a_cut_leaves_both_halves_lines(open_job):
    key = open_job.pull((10, 20), (90, 20))
    one, two = open_job.do("cut", line=key, at=[40, 21])
    assert one == key
    assert open_job.shapes[one].length == pytest.approx(30, abs=0.4)
    assert open_job.shapes[two].length == pytest.approx(50, abs=0.4)
    ring = open_job.do("draw", shape="ellipse", points=[[60, 60], [70, 70]])
    assert open_job.do("cut", line=ring, at=[70, 60]) == [ring]
    assert not open_job.shapes[ring].closed
    assert open_job.shapes[ring].length == pytest.approx(2 * np.pi * 10, abs=0.1)


@pytest.mark.parametrize(
    ("change", "arguments"),
    [
        ("draw", {"shape": "star", "points": [[0, 0], [1, 1]]}),
        ("draw", {"shape": "bow", "points": [[0, 0], [1, 1]]}),
        ("draw", {"shape": "ellipse", "points": [[0, 0], [0, 0]]}),
        ("draw", {"shape": "straight", "points": "here"}),
        ("beside", {"line": "l1", "gap": 0.0}),
        ("beside", {"line": "l9", "gap": 1.0}),
        ("mirror", {"lines": ["l1"], "axis": [[0, 0], [0, 0]]}),
        ("around", {"lines": ["l1"], "centre": [0, 0], "count": 1}),
        ("reshape", {"lines": ["l1"], "shape": "square"}),
        ("reshape", {"lines": ["l1"], "shape": "round"}),
        ("cut", {"line": "l1", "at": [50, 80]}),
        ("follow", {"lines": ["l1"], "share": 0.5}),
        ("follow", {"lines": ["l1"], "share": 2.0}),
        ("nib", {"key": "3", "response": [[0, 1], [1, 0]]}),
    ],
)
def test_nonsense_is_refused(open_job, change, arguments):
    key = open_job.pull((10, 20), (90, 20))
    if "l1" in str(arguments):
        arguments = eval(str(arguments).replace("l1", key))
    rows = dict(open_job.job.rows.lines)
    with pytest.raises(StrideError):
        open_job.do(change, **arguments)
    assert open_job.job.rows.lines == rows
