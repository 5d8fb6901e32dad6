"""The named changes and their history. Undo is checked bit for bit against what was there before."""

import contextlib
import copy
import json
import random
import re
from pathlib import Path

import numpy as np
import pytest

from plain_stride.job import reports
from plain_stride.job.changes import CHANGES, argument_names, make_all
from plain_stride.job.errors import JobError
from plain_stride.job.reading import NOT_FOR_EDITS
from plain_stride.lines.curve import circle
from plain_stride.lines.given import form_of_width
from tests.conftest import plain_rows

DOCS = Path(__file__).parents[2] / "docs"


def state_of(opened) -> str:
    return json.dumps(plain_rows(opened.job), sort_keys=True)


@pytest.fixture
def crossed(open_job):
    """A level line from x 10 to 100 crossed by two uprights at 30 and 70."""
    for key, points in {"level": [(10, 20), (100, 20)], "a": [(30, 5), (30, 60)], "b": [(70, 5), (70, 60)]}.items():
        open_job.pull(*points, id=key, part="frame")
    return open_job


def xs(opened, key):
    return opened.shapes[key].flat[0][:, 0]


def test_trimming_an_end_takes_it_to_the_nearest_crossing(crossed):
    assert crossed.do("trim", line="level", at=[95, 20]) == ["level"]
    assert xs(crossed, "level").max() == pytest.approx(70.0, abs=0.02)
    assert xs(crossed, "level").min() == pytest.approx(10.0, abs=0.1)


def test_trimming_the_middle_leaves_two_lines(crossed):
    left, right = crossed.do("trim", line="level", at=[50, 20.4])
    assert left == "level"
    assert xs(crossed, left).max() == pytest.approx(30.0, abs=0.02)
    assert xs(crossed, right).min() == pytest.approx(70.0, abs=0.02)
    assert crossed.job.rows.lines[right].pull == crossed.job.rows.lines[left].pull


def test_trims_stay_where_they_were_under_new_steadying(crossed):
    crossed.do("trim", line="level", at=[95, 20])
    crossed.do("steady", lines=["level"], school="off")
    assert xs(crossed, "level").max() == pytest.approx(70.0, abs=0.05)


def test_trimming_twice_keeps_cutting(crossed):
    crossed.do("trim", line="level", at=[95, 20])
    crossed.do("trim", line="level", at=[60, 20])
    assert xs(crossed, "level").max() == pytest.approx(30.0, abs=0.02)


def test_hidden_lines_do_not_cut(crossed):
    crossed.do("set", lines=["b"], part="other")
    crossed.do("part", name="other", hidden=True)
    crossed.do("trim", line="level", at=[95, 20])
    assert xs(crossed, "level").max() == pytest.approx(30.0, abs=0.02)


def test_a_line_that_nothing_crosses_is_not_trimmed(open_job):
    key = open_job.pull((10, 80), (50, 80))
    with pytest.raises(JobError, match="nothing crosses"):
        open_job.do("trim", line=key, at=[30, 80])


def test_a_trim_far_from_its_line_is_refused(crossed):
    with pytest.raises(JobError, match="mm from line"):
        crossed.do("trim", line="level", at=[50, 60])


def test_a_closed_line_opens_where_it_is_trimmed(open_job):
    nib = open_job.job.nibs()["3"]
    open_job.do("line", form=form_of_width(circle((50, 45), 20), True, 0.5), nib=nib, id="ring")
    open_job.pull((50, 45), (90, 45), id="east")
    open_job.pull((50, 45), (50, 5), id="north")
    assert open_job.do("trim", line="ring", at=[64.1, 30.9]) == ["ring"]
    shape = open_job.shapes["ring"]
    assert not shape.closed
    assert shape.length == pytest.approx(0.75 * 2 * np.pi * 20, abs=0.1)
    assert shape.widths.full == pytest.approx(0.5)


def test_a_swell_acts_between_its_ends(crossed):
    before = crossed.shapes["level"].widths
    crossed.do("swell", line="level", factor=1.5, **{"from": 30.0, "to": 50.0})
    after = crossed.shapes["level"].widths
    at = np.array([20.0, 40.0, 60.0])
    ratio = np.interp(at, after.s, after.full) / np.interp(at, before.s, before.full)
    assert ratio == pytest.approx([1.0, 1.5, 1.0], abs=1e-6)


def test_a_swell_of_the_whole_line_reaches_its_ends(crossed):
    before = crossed.shapes["a"].body.full
    crossed.do("swell", line="a", factor=1.25)
    assert crossed.shapes["a"].body.full == pytest.approx(1.25 * before)


def test_roles_parts_ends_and_nibs_are_set(crossed):
    crossed.do("set", lines=["a", "b"], role="detail", ends=["flat", "round"], nib="6", part="posts")
    row = crossed.job.rows.lines["a"]
    assert crossed.shapes["a"].ends == ("flat", "round")
    assert row.role == "detail"
    assert crossed.job.rows.parts[row.part].name == "posts"
    assert np.median(crossed.shapes["a"].widths.full) == pytest.approx(0.25)


def test_a_nib_changed_later_changes_only_pulls_to_come(crossed):
    before = crossed.shapes["a"].widths.full.max()
    crossed.do("nib", key="3", heaviest=3.0)
    assert crossed.shapes["a"].widths.full.max() == before
    assert crossed.job.nibs()["3"].heaviest == 3.0


def test_the_plan_is_a_layer_that_lifts_off(crossed):
    crossed.do("set", lines=["level"], role="outer")
    hand = crossed.shapes["level"].widths.full.copy()
    crossed.do("plan", share=100)
    assert np.median(crossed.shapes["level"].widths.full) == pytest.approx(0.35 * 2**0.5)
    crossed.do("part", name="frame", tier="near")
    assert np.median(crossed.shapes["level"].widths.full) == pytest.approx(0.7)
    assert reports.weigh(crossed.job, crossed.shapes)["roles"]["outer"] == pytest.approx(0.7, abs=0.01)
    crossed.do("plan", share=0)
    assert crossed.shapes["level"].widths.full == pytest.approx(hand)


def test_order_one_is_nearest_and_drawn_last(open_job):
    for n, name in enumerate(("sky", "tree", "bird")):
        open_job.pull((10, 10 + n), (50, 10 + n), part=name, id=name)
    open_job.do("part", name="bird", order=1)
    open_job.do("part", name="sky", tier="far")
    assert [p.name for p in open_job.job.parts()] == ["bird", "tree", "sky"]
    assert open_job.job.line_ids() == ["sky", "tree", "bird"]
    open_job.do("part", name="sky", order=1)  # a far part cannot stand before middle ones
    assert [p.name for p in open_job.job.parts()] == ["bird", "tree", "sky"]


def test_locked_parts_are_left_alone(crossed):
    crossed.do("part", name="frame", locked=True)
    for name, arguments in {
        "delete": {"lines": ["a"]},
        "trim": {"line": "a", "at": [30, 10]},
        "swell": {"line": "a", "factor": 2},
        "set": {"lines": ["a"], "role": "inner"},
        "part-delete": {"name": "frame"},
    }.items():
        with pytest.raises(JobError, match="locked"):
            crossed.do(name, **arguments)
    with pytest.raises(JobError, match="locked"):
        crossed.pull((0, 0), (5, 5), part="frame")


def test_all_or_nothing(crossed):
    before, steps = state_of(crossed), len(crossed.job.history.steps)
    wanted = [("delete", {"lines": ["a"]}), ("set", {"lines": ["b"], "role": "sideways"})]
    with pytest.raises(Exception, match="sideways"):
        make_all(crossed.job, crossed.shapes, wanted)
    assert state_of(crossed) == before
    assert len(crossed.job.history.steps) == steps


def test_a_change_that_changes_nothing_is_no_step(crossed):
    steps = len(crossed.job.history.steps)
    crossed.do("part", name="frame", tier="middle")
    assert len(crossed.job.history.steps) == steps


BAD = [
    ("no-such-change", {}),
    ("delete", {}),
    ("delete", {"lines": []}),
    ("delete", {"lines": ["nobody"]}),
    ("delete", {"lines": "a"}),
    ("trim", {"line": "a", "at": [1]}),
    ("trim", {"line": "a", "at": [1, "x"]}),
    ("trim", {"line": None, "at": [1, 2]}),
    ("swell", {"line": "a", "factor": 0}),
    ("swell", {"line": "a", "factor": float("nan")}),
    ("swell", {"line": "a", "factor": True}),
    ("swell", {"line": "a", "factor": 2, "side": "top"}),
    ("swell", {"line": "a", "factor": 2, "from": 9, "to": 3}),
    ("swell", {"line": "a", "factor": 2, "colour": "red"}),
    ("set", {"lines": ["a"], "ends": "frayed"}),
    ("set", {"lines": ["a"], "ends": ["round"]}),
    ("set", {"lines": ["a"], "nib": "77"}),
    ("set", {"lines": ["a"], "part": ""}),
    ("part", {"name": "frame", "tier": "up"}),
    ("part", {"name": "frame", "order": 0}),
    ("part", {"name": "frame", "locked": 1}),
    ("part", {"name": "frame", "ink": "red"}),
    ("part-delete", {"name": "nowhere"}),
    ("board", {"width_mm": -1}),
    ("board", {"dpi": 0}),
    ("pencils", {"sheet": "s9"}),
    ("nib", {"key": "3", "lightest": 9}),
    ("nib", {"key": "3", "ends": "frayed"}),
    ("plan", {"share": 101}),
    ("steady", {"lines": ["a"], "school": "soft"}),
    ("steady", {"lines": ["a"], "leeway": -1}),
]


@pytest.mark.parametrize(("name", "arguments"), BAD, ids=lambda v: v if isinstance(v, str) else "")
def test_wrong_arguments_change_nothing(crossed, name, arguments):
    before = state_of(crossed)
    with pytest.raises(Exception) as fault:  # noqa: PT011 - the class is checked below
        crossed.do(name, **arguments)
    assert "\n" not in str(fault.value)
    assert type(fault.value).__module__.startswith("plain_stride")
    assert state_of(crossed) == before


def random_change(opened, rng: random.Random):
    lines = list(opened.job.rows.lines)
    parts = [p.name for p in opened.job.parts()] or ["Lines"]
    if not lines or rng.random() < 0.35:
        points = [(rng.uniform(0, 120), rng.uniform(0, 90)) for _ in range(3)]
        opened.pull(*points, part=rng.choice([*parts, f"part {rng.randint(1, 6)}"]), n=40)
        return
    key = rng.choice(lines)
    name, arguments = rng.choice(
        [
            ("delete", {"lines": [key]}),
            ("swell", {"line": key, "factor": rng.uniform(0.5, 2)}),
            ("set", {"lines": [key], "role": rng.choice(["outer", "detail"]), "ends": rng.choice(["round", "flat"])}),
            ("set", {"lines": [key], "part": rng.choice(parts)}),
            ("steady", {"lines": [key], "school": rng.choice(["off", "after"])}),
            ("part", {"name": rng.choice(parts), "tier": rng.choice(["near", "far"]), "order": rng.randint(1, 5)}),
            ("part", {"name": rng.choice(parts), "hidden": rng.random() < 0.3}),
            ("plan", {"share": rng.choice([0, 40, 100])}),
            ("board", {"dpi": rng.choice([300, 450, 600])}),
            ("trim", {"line": key, "at": opened.shapes[key].flat[0][0].tolist()}),
        ]
    )
    with contextlib.suppress(JobError):
        opened.do(name, **arguments)


def test_a_hundred_random_changes_are_undone_and_redone_bit_for_bit(open_job):
    rng = random.Random(11)
    seen = {0: copy.deepcopy(state_of(open_job))}
    for _ in range(100):
        random_change(open_job, rng)
        seen[open_job.job.history.head] = state_of(open_job)
    for _ in range(open_job.job.history.undo_count()):
        assert state_of(open_job) == seen[open_job.job.history.head]
        open_job.undo()
    assert state_of(open_job) == seen[0]
    open_job.again()
    assert state_of(open_job) == seen[0]
    while open_job.job.history.redo_count():
        open_job.redo()
        assert state_of(open_job) == seen[open_job.job.history.head]
    assert state_of(open_job.again()) == seen[open_job.job.history.head]


def test_a_way_not_taken_is_still_there(crossed):
    crossed.do("delete", lines=["a"])
    old_way = crossed.job.history.head
    crossed.undo()
    crossed.do("delete", lines=["b"])
    assert old_way in crossed.again().job.history.steps
    assert crossed.job.history.redo_count() == 0


def test_ids_come_back_free_and_are_never_mixed_up(open_job):
    first = open_job.pull((0, 0), (9, 9))
    open_job.undo()
    second = open_job.pull((0, 0), (8, 8))
    assert first != second
    assert open_job.pull((0, 0), (7, 7), id=second) != second


def test_every_change_is_in_the_docs_with_its_arguments():
    text = (DOCS / "changes.md").read_text()
    rows = dict(re.findall(r"^\| `([\w-]+)` \| (.*?) \|", text, re.MULTILINE))
    assert set(rows) == set(CHANGES) - set(NOT_FOR_EDITS)
    for name, row in rows.items():
        assert set(re.findall(r"`(\w+)", row)) == set(argument_names(name)), name


def test_other_takes_are_kept_as_long_as_their_line_is(open_job):
    from plain_stride.hand.pull import Pull
    from tests.conftest import samples_along

    key = open_job.pull((10, 10), (90, 10))
    for k in range(3):
        open_job.do("again", line=key, pull=Pull(samples_along([(10, 10), (90, 12 + k)], 1.0, 100, 0.5)))
    open_job.do("take", line=key, take=2)
    step = open_job.job.history.set_mark("now")
    open_job.store.mark("now", step)
    open_job.do("swell", line=key, factor=1.2)
    open_job.store.forget(open_job.job.forgetting("now"))
    takes = open_job.again().job.rows.lines[key].takes
    assert len(takes) == 4
    assert all(len(open_job.job.pull(take).samples) for take in takes)
    for wrong in (0, 5, "p99", True, None):
        with pytest.raises(JobError, match="takes"):
            open_job.do("take", line=key, take=wrong)


def test_swells_go_along_with_another_take(open_job):
    from plain_stride.hand.pull import Pull
    from tests.conftest import samples_along

    key = open_job.pull((10, 10), (90, 10), seconds=1.0)
    open_job.do("swell", line=key, factor=1.5, **{"from": 20.0, "to": 40.0})
    before = open_job.job.rows.lines[key].edits[0]
    open_job.do("again", line=key, pull=Pull(samples_along([(10, 10), (90, 12)], 2.0, 100, 0.5)))
    after = open_job.job.rows.lines[key].edits[0]
    assert (after.start, after.end) == pytest.approx((2 * before.start, 2 * before.end), rel=0.02)
