"""A plan with light and heavier bends, in a job."""

import json

import numpy as np
import pytest

from plain_stride.cli import main
from plain_stride.job.errors import JobError
from plain_stride.lines.given import form_from_points
from tests.conftest import plain_rows


def full_at(open_job, key, s):
    return float(np.sum(open_job.shapes[key].body.at(np.array([s]))))


@pytest.fixture
def disc(open_job):
    return open_job.do("draw", shape="ellipse", points=[[60, 45], [85, 70]], nib="7", role="outer")


def test_the_underside_is_heavier_and_the_hand_comes_back(open_job, disc):
    before = plain_rows(open_job.job)
    shape = open_job.shapes[disc]
    low, high = (float(shape.flat[1][k]) for k in (shape.flat[0][:, 1].argmax(), shape.flat[0][:, 1].argmin()))
    hand = full_at(open_job, disc, low)
    open_job.do("plan", share=100, light=90)
    assert full_at(open_job, disc, low) > 1.4 * full_at(open_job, disc, high)
    middle = open_job.shapes[disc].flat[0]
    assert np.array_equal(middle, shape.flat[0])
    open_job.do("plan", share=0)
    assert full_at(open_job, disc, low) == pytest.approx(hand, abs=1e-9)
    open_job.do("plan", light="none")
    for _ in range(3):
        open_job.undo()
    assert plain_rows(open_job.job) == before


def test_it_goes_along_where_a_line_is_turned(open_job, disc):
    stroke = open_job.pull(*((20 + 5 * k, 30 + 12 * np.sin(k * 0.35)) for k in range(10)), role="outer")
    open_job.do("plan", share=100, light=90, bends=True)
    length = open_job.shapes[stroke].length
    wide = [full_at(open_job, stroke, s) for s in np.linspace(2, length - 2, 20)]
    open_job.do("affine", lines=[stroke], matrix=[-1, 0, 0, -1, 90, 80])
    other = [full_at(open_job, stroke, s) for s in np.linspace(2, length - 2, 20)]
    # What was below lies above now.
    assert np.corrcoef(wide, other)[0, 1] < 0.0


def test_light_that_is_none_is_said(open_job):
    for wrong in ("bright", 900, [3]):
        with pytest.raises(JobError, match="light"):
            open_job.do("plan", light=wrong)


def test_the_command_line_lays_light(open_job, disc, capsys):
    open_job.store.close()
    assert main(["weigh", str(open_job.path), "--light", "90", "--json"]) in (0, None)
    told = json.loads(capsys.readouterr().out)
    assert told["share"] == 100 and told["roles"]["outer"] > 0


def test_the_sides_that_a_hand_gave_stay_under_light(open_job):
    points = np.array([(20 + 20 * np.cos(a), 60 - 20 * np.sin(a)) for a in np.linspace(0.2, 2.9, 40)])
    form = form_from_points(points, np.full(40, 0.45), np.full(40, 0.05), False)
    line = open_job.do("line", form=form, nib=open_job.job.nibs()["3"], role="outer")
    open_job.do("plan", share=100, light=90)
    left, right = open_job.shapes[line].body.at(np.linspace(8, 40, 9))
    assert left / (left + right) == pytest.approx(np.full(9, 0.9), abs=0.01)
