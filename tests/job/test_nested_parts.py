"""Parts inside parts, one deep."""

import pytest

from plain_stride.job.errors import JobError
from plain_stride.job.reports import info
from tests.conftest import plain_rows


@pytest.fixture
def figure(open_job):
    """Body and Head side by side, Eye inside Head; a line in each."""
    for name, tier in (("Body", "near"), ("Head", "near"), ("Eye", "middle"), ("Hills", "far")):
        open_job.do("part", name=name, tier=tier)
        open_job.keys = [*getattr(open_job, "keys", []), open_job.pull((10, 20), (60, 30), part=name)]
    open_job.do("part", name="Eye", inside="Head")
    return open_job


def names(open_job):
    return [part.name for part in open_job.job.parts()]


def told(open_job):
    return {part["name"]: part for part in info(open_job.job)["parts"]}


def test_what_is_inside_stands_right_in_front_of_its_part_and_in_its_tier(figure):
    assert names(figure) == ["Body", "Eye", "Head", "Hills"]
    assert told(figure)["Eye"]["inside"] == "Head" and told(figure)["Head"]["inside"] is None
    assert told(figure)["Eye"]["tier"] == "near"
    figure.do("part", name="Head", order=1)
    assert names(figure) == ["Eye", "Head", "Body", "Hills"]
    figure.do("part", name="Body", order=2)
    assert names(figure) == ["Eye", "Head", "Body", "Hills"]


def test_it_goes_along_where_its_part_changes_tier_is_locked_or_hidden(figure):
    figure.do("part", name="Head", tier="far", locked=True)
    assert names(figure) == ["Body", "Eye", "Head", "Hills"]
    assert told(figure)["Eye"]["tier"] == "far" and told(figure)["Eye"]["locked"]
    figure.do("part", name="Head", hidden=True)
    assert told(figure)["Eye"]["hidden"]
    # By itself as well.
    figure.do("part", name="Eye", hidden=False)
    assert not told(figure)["Eye"]["hidden"] and told(figure)["Head"]["hidden"]


def test_those_inside_one_part_have_an_order_of_their_own(figure):
    figure.do("part", name="Mouth")
    figure.do("part", name="Mouth", inside="Head")
    assert names(figure) == ["Body", "Eye", "Mouth", "Head", "Hills"]
    figure.do("part", name="Mouth", order=1)
    assert names(figure) == ["Body", "Mouth", "Eye", "Head", "Hills"]


def test_it_is_taken_out_again_and_left_where_its_part_is_taken_away(figure):
    before = plain_rows(figure.job)
    figure.do("part", name="Eye", inside="")
    assert told(figure)["Eye"]["inside"] is None
    figure.undo()
    assert plain_rows(figure.job) == before
    figure.do("part-delete", name="Head")
    assert told(figure)["Eye"]["inside"] is None and told(figure)["Eye"]["lines"] == 1
    figure.undo()
    assert plain_rows(figure.job) == before
    figure.do("part-merge", name="Head", into="Body")
    assert told(figure)["Eye"]["inside"] is None


@pytest.mark.parametrize(
    ("name", "arguments", "said"),
    [
        ("Head", {"inside": "Head"}, "inside itself"),
        ("Body", {"inside": "Eye"}, "one deep"),
        ("Head", {"inside": "Body"}, "one deep"),
        ("Body", {"inside": "Nobody"}, "no part 'Nobody'"),
        ("Eye", {"tier": "far"}, "take it out"),
    ],
)
def test_what_cannot_be_put_inside_is_said_and_nothing_has_happened(figure, name, arguments, said):
    before = plain_rows(figure.job)
    with pytest.raises(JobError, match=said):
        figure.do("part", name=name, **arguments)
    assert plain_rows(figure.job) == before


def test_a_part_is_tidied_with_those_inside_it(figure):
    eye = figure.pull((20, 55), (59.3, 55), part="Eye")
    figure.pull((60, 10), (60, 70), part="Body")
    assert figure.do("tidy", part="Head", gap=1.0, overshoot=0.0) == [eye]
