"""A stretch of a line drawn anew. Outside: shapely's distances, differences of direction and width at the joints."""

import numpy as np
import pytest
import shapely
from shapely.ops import substring

from plain_stride.job.errors import JobError
from tests.conftest import samples_along
from tests.job.test_mending import middle


def wave(open_job):
    return open_job.pull(*((10 + 5 * k, 40 + 8 * np.sin(k * 0.5)) for k in range(20)), pressure=0.5)


def new_stretch(line, first, last, up=6.0, pressure=0.5):
    """Samples that leave a line at a share of its length, go round, and come back."""
    a, b = (np.array(line.interpolate(share, normalized=True).coords[0]) for share in (first, last))
    return samples_along([a, (a + b) / 2 + [0, up], b], pressure=pressure)[:, :4].tolist()


def steps_at(open_job, key, places):
    """(the largest step of direction in degrees over 0.3 mm, of width in mm over 0.1 mm, near places on a line)."""
    shape = open_job.shapes[key]
    line, out = middle(open_job, key), []
    for place in places:
        s = line.project(shapely.Point(place))
        at = np.linspace(max(s - 1.0, 0), min(s + 1.0, shape.length), 400)
        d = shape.arc.direction(at)
        turn = np.degrees(np.abs(np.arctan2(d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0], (d[:-1] * d[1:]).sum(axis=1))))
        left, right = shape.body.at(at)
        out.append((turn.max(), np.abs(np.diff(left + right)).max()))
    return tuple(max(column) for column in zip(*out, strict=True))


@pytest.mark.parametrize("made", ["pulled", "shaped", "moved"])
@pytest.mark.parametrize("back", [False, True])
def test_a_pull_that_leaves_a_line_and_comes_back_replaces_what_lies_between(open_job, made, back):
    key = wave(open_job)
    if made == "shaped":
        open_job.do("simplify", line=key, tolerance=0.05)
    if made == "moved":
        open_job.do("affine", lines=[key], matrix=[0.8, 0.2, -0.2, 0.8, 5, 5])
    open_job.do("swell", line=key, factor=1.5, **{"from": 70.0, "to": 90.0})
    before, shape = middle(open_job, key), open_job.shapes[key]
    samples = new_stretch(before, 0.3, 0.55)
    joints = [samples[0][:2], samples[-1][:2]]
    if back:
        samples = [[*row[:3], samples[-1][3] - row[3]] for row in samples[::-1]]
    open_job.do("redraw", line=key, samples=samples)
    after = middle(open_job, key)
    assert after.distance(shapely.Point(np.mean(joints, axis=0) + [0, 6])) < 1.2
    # What was not drawn anew stays: within 0.01 mm where the line is frozen, else as far as steadying looks.
    near = 0.01 if made == "shaped" else 0.15
    for low, high in ((0.0, 0.25), (0.62, 1.0)):
        kept = substring(before, low, high, normalized=True)
        assert shapely.distance(after, shapely.points(shapely.get_coordinates(kept))).max() < near
    turn, width = steps_at(open_job, key, joints)
    assert turn < 2.0
    assert width < 0.01
    # The swell is where it was.
    now = open_job.shapes[key]
    wide = [s.length - s.body.s[s.body.full > 0.97 * s.body.full.max()].mean() for s in (shape, now)]
    assert wide[0] == pytest.approx(wide[1], abs=0.6)


def test_the_stretch_is_pressed_as_it_was_pulled_and_both_takes_stay(open_job):
    key = wave(open_job)
    first = open_job.job.rows.lines[key].pull
    open_job.do("redraw", line=key, samples=new_stretch(middle(open_job, key), 0.3, 0.6, pressure=0.95))
    shape = open_job.shapes[key]
    thin, thick = (float(np.interp(share * shape.length, shape.body.s, shape.body.full)) for share in (0.1, 0.47))
    assert thick > thin * 1.3
    assert open_job.job.rows.lines[key].tried[0] == first
    open_job.do("take", line=key, take=1)
    assert open_job.job.rows.lines[key].pull == first


def test_a_bad_stretch_is_said(open_job):
    key = wave(open_job)
    ring = open_job.do("draw", shape="ellipse", points=[[50, 50], [70, 60]])
    for line, samples, words in (
        (key, [[10, 40, 0.5, 0], [10, 40, 0.5, 1]], "nothing lies between"),
        (key, [[10, 90, 0.5, 0], [50, 90, 0.5, 1]], "point at the line"),
        (key, [], "at least one sample"),
        (key, None, "rows of numbers"),
        (ring, [[70, 50, 0.5, 0], [30, 50, 0.5, 1]], "is a ring"),
    ):
        with pytest.raises(JobError, match=words):
            open_job.do("redraw", line=line, samples=samples)
