"""Lines joined to one, broken into several, turned round. Outside: shapely's distances, closed forms."""

import itertools

import numpy as np
import pytest
import shapely

from plain_stride.job.errors import JobError
from plain_stride.lines.given import form_from_points
from tests.conftest import plain_rows
from tests.job.test_mending import ink, middle, straight


def laid(open_job, points, width=0.6):
    half = np.full(len(points), width / 2)
    return open_job.do("line", form=form_from_points(np.array(points), half, half, False),
                       nib=open_job.job.nibs()["3"])  # fmt: skip


def test_two_lines_end_to_end_become_one_that_is_what_both_were(open_job):
    a, b = straight(open_job, (10, 20), (50, 20)), straight(open_job, (50, 20), (90, 30))
    before = shapely.union_all([middle(open_job, a), middle(open_job, b)])
    told = open_job.do("join", lines=[a, b])
    assert told == a and b not in open_job.job.rows.lines
    assert shapely.hausdorff_distance(middle(open_job, a), before, densify=0.01) < 0.003
    assert open_job.shapes[a].length == pytest.approx(40 + np.hypot(40, 10), abs=0.01)


@pytest.mark.parametrize("turned", list(itertools.product([False, True], repeat=2)))
def test_it_matters_not_which_way_they_were_drawn_and_a_gap_is_bridged(open_job, turned):
    ends = [((10, 20), (50, 20)), ((52, 20.5), (90, 30))]
    keys = [straight(open_job, *(way[::-1] if back else way)) for way, back in zip(ends, turned, strict=True)]
    open_job.do("join", lines=keys)
    line = middle(open_job, keys[0])
    wanted = [shapely.LineString(way) for way in ends]
    assert all(way.difference(line.buffer(0.02)).length < 0.01 for way in wanted)
    assert line.length == pytest.approx(wanted[0].length + 2.06 + wanted[1].length, abs=0.1)


def test_widths_and_ends_are_merged_and_the_pulls_stay_in_the_file(open_job):
    a = open_job.pull((10, 20), (50, 22), pressure=0.2)
    b = open_job.pull((51, 22), (100, 20), pressure=0.9)
    open_job.do("taper", lines=[b], end="end", length=6)
    thin, wide = (float(np.median(open_job.shapes.by_hand(key).body.full)) for key in (a, b))
    pulls = [open_job.job.rows.lines[key].pull for key in (a, b)]
    open_job.do("join", lines=[a, b])
    body = open_job.shapes.by_hand(a).body
    assert float(np.interp(20.0, body.s, body.full)) == pytest.approx(thin, abs=0.05)
    assert float(np.interp(70.0, body.s, body.full)) == pytest.approx(wide, abs=0.05)
    assert open_job.shapes[a].ends[1] == "pointed"
    assert all(open_job.again().job.has_pull(key) for key in pulls)


@pytest.mark.parametrize("count", [4, 5, 6])
@pytest.mark.parametrize("seed", range(6))
def test_a_frayed_bundle_becomes_the_curve_it_was_made_from(open_job, count, seed):
    random = np.random.default_rng(100 * count + seed)
    x = np.linspace(10, 110, 300)
    true = np.column_stack([x, 45 + 14 * np.sin(x * 0.05 + random.uniform(0, 6))])
    steps = np.gradient(true, axis=0)
    normal = np.column_stack([-steps[:, 1], steps[:, 0]]) / np.hypot(*steps.T)[:, None]
    keys = []
    # Every place is covered twice at least, and no stroke strays by more than 0.09 mm.
    starts = np.clip(np.linspace(-0.25, 0.7, count), 0.0, None)
    for low in starts:
        cut = slice(int(low * 300), int(min(1.0, low + 0.55) * 300))
        u = np.linspace(0, 1, cut.stop - cut.start)
        off = 0.09 * np.sin(2 * np.pi * (u * random.uniform(0.7, 1.6) + random.uniform()))
        points = true[cut] + off[:, None] * normal[cut]
        points = points[::6]
        keys.append(laid(open_job, points[::-1] if random.uniform() < 0.5 else points))
    order = list(keys)
    random.shuffle(order)
    open_job.do("join", lines=order)
    line, wanted = middle(open_job, order[0]), shapely.LineString(true)
    off = shapely.distance(wanted, shapely.points(shapely.get_coordinates(shapely.segmentize(line, 0.2))))
    assert off.max() < 0.1
    assert np.sqrt((off**2).mean()) < 0.1 / np.sqrt(2.0)
    assert line.length == pytest.approx(wanted.length, rel=0.02)


def test_a_line_turned_round_is_the_same_ink(open_job):
    key = open_job.pull((10, 20), (60, 34), (110, 20), pressure=0.7)
    open_job.do("taper", lines=[key], end="end", length=8)
    before, was = ink(open_job, key), open_job.shapes[key]
    open_job.do("reverse", lines=[key])
    now = open_job.shapes[key]
    assert shapely.hausdorff_distance(ink(open_job, key), before) < 0.02
    assert now.flat[0][0] == pytest.approx(was.flat[0][-1], abs=1e-6)
    assert now.ends == was.ends[::-1]
    open_job.do("reverse", lines=[key])
    assert open_job.shapes[key].curve == pytest.approx(was.curve, abs=1e-9)


def test_a_line_is_broken_evenly_unevenly_and_as_if_the_pen_ran_dry(open_job):
    key = straight(open_job, (10, 20), (110, 20))
    pieces = open_job.do("split", line=key, every=20)
    assert len(pieces) == 5 and pieces[0] == key
    assert [open_job.shapes[k].length for k in pieces] == pytest.approx([20.0] * 5, abs=0.01)
    open_job.undo()
    gaps = open_job.do("split", line=key, every=8, gap=2)
    assert sum(open_job.shapes[k].length for k in gaps) == pytest.approx(80.0, abs=0.05)
    open_job.undo()
    uneven = open_job.do("split", line=key, every=10, uneven=0.8, seed=4)
    lengths = np.array([open_job.shapes[k].length for k in uneven])
    assert lengths.sum() == pytest.approx(100.0, abs=0.05)
    assert lengths.std() > 2.0
    open_job.undo()
    assert open_job.do("split", line=key, every=10, uneven=0.8, seed=4) != []
    assert [open_job.shapes[k].length for k in open_job.job.line_ids()] != []


def test_joining_is_one_step_and_undone_bit_for_bit(open_job):
    a, b = open_job.pull((10, 20), (50, 22)), open_job.pull((51, 22), (100, 20))
    before = plain_rows(open_job.job)
    open_job.do("join", lines=[a, b])
    open_job.undo()
    assert plain_rows(open_job.job) == before


def test_what_cannot_be_joined_is_said(open_job):
    a, far = straight(open_job, (10, 20), (30, 20)), straight(open_job, (60, 60), (80, 60))
    ring = open_job.do("draw", shape="ellipse", points=[[50, 50], [5, 5]])
    for lines, words in (([a, far], "apart"), ([a, ring], "is a ring"), ([a], "2 to"), ([a, "none"], "no line")):
        with pytest.raises(JobError, match=words):
            open_job.do("join", lines=lines)
    for arguments, words in (({"every": 200}, "one piece only"), ({"every": 0.01}, "a piece")):
        with pytest.raises(JobError, match=words):
            open_job.do("split", line=a, **arguments)
    open_job.do("part", name="Lines", locked=True)
    with pytest.raises(JobError, match="locked"):
        open_job.do("reverse", lines=[a])
