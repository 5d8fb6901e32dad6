"""Roles found from the drawing, where nobody gave them."""

import numpy as np
import pytest

from plain_stride.job.errors import JobError
from plain_stride.lines.given import form_from_points
from tests.conftest import plain_rows


def given(open_job, points, role=None, part="Body"):
    points = np.array(points, float)
    half = np.full(len(points), 0.2)
    more = {"role": role} if role else {}
    form = form_from_points(points, half, half, False)
    return open_job.do("line", form=form, nib=open_job.job.nibs()["3"], part=part, **more)


@pytest.fixture
def body(open_job):
    """A square with a gap of 2 mm, a stroke across, one within; the last has a role that was given."""
    open_job.edges = [given(open_job, [(10, 10), (90, 10)]), given(open_job, [(90, 10), (90, 70)]),
                      given(open_job, [(90, 70), (10, 70)]), given(open_job, [(10, 70), (10, 12)])]  # fmt: skip
    open_job.across = given(open_job, [(10, 40), (90, 40)])
    open_job.hand = given(open_job, [(30, 20), (60, 30)], role="texture")
    return open_job


def roles(open_job):
    return {key: (row.role, row.roles[0].by) for key, row in open_job.job.rows.lines.items()}


def test_outer_and_inner_are_found_and_what_the_hand_gave_stays(body):
    assert set(body.do("find-roles")) == set(body.edges)
    now = roles(body)
    assert all(now[key] == ("outer", "found") for key in body.edges)
    assert now[body.across] == ("inner", "found") and now[body.hand] == ("texture", "hand")
    assert body.do("find-roles", part="Body") == []


def test_it_is_one_step_and_taken_back(body):
    before = plain_rows(body.job)
    body.do("find-roles")
    body.undo()
    assert plain_rows(body.job) == before


def test_locked_parts_and_parts_that_enclose_nothing_stay(body):
    given(body, [(10, 80), (90, 82)], part="Ground")
    body.do("part", name="Body", locked=True)
    assert body.do("find-roles") == []
    with pytest.raises(JobError, match="locked"):
        body.do("find-roles", part="Body")
    with pytest.raises(JobError, match="no part"):
        body.do("find-roles", part="Moon")


@pytest.mark.parametrize("wrong", [3, [["l2"]], [["nothing", "outer"]]])
def test_what_cannot_be_laid_is_said(body, wrong):
    with pytest.raises(JobError):
        body.do("roles-found", roles=wrong)
