"""Meetings found, held together, and kept closed whatever is done. Outside: shapely, closed forms of what was
constructed."""

import contextlib
import itertools
from collections import Counter

import numpy as np
import pytest
import shapely

from plain_stride.form.meetings import meetings_of
from plain_stride.job.drawn import JobDrawing
from plain_stride.job.errors import JobError
from plain_stride.job.holding import end_of
from tests.conftest import plain_rows
from tests.job.test_mending import ink, middle, straight


def found(open_job):
    drawing = JobDrawing(open_job.job, open_job.shapes).now()
    contacts = [c for every in drawing.contacts.values() for c in every]
    return meetings_of(contacts, {key: line.path.arc.length for key, line in drawing.lines.items()})


def open_by(open_job):
    """How far each held meeting is open, mm, by shapely: an end to an end, or to the other's middle."""
    out = []
    for hold in open_job.job.rows.holds.values():
        end = shapely.Point(end_of(open_job.shapes[hold.line], hold.line_end))
        other = open_job.shapes[hold.other]
        to = shapely.Point(end_of(other, hold.other_end)) if hold.other_end else middle(open_job, hold.other)
        out.append(end.distance(to))
    return out


def at_angle(place, degrees, mm):
    a = np.radians(degrees)
    return tuple(np.asarray(place) + mm * np.array([np.cos(a), np.sin(a)]))


# Found


def build(open_job, kind, place, random):
    """Lines that meet at a place as one kind, with gaps and overlaps of up to 0.2 mm."""
    a = random.uniform(0, 360)
    near = tuple(np.asarray(place) + random.uniform(-0.1, 0.1, 2))
    if kind == "corner":
        turn = random.uniform(50, 150) * random.choice([-1, 1])
        return [(at_angle(place, a, 9), place), (near, at_angle(near, a + 180 - turn, 9))]
    if kind == "run-on":
        turn = random.uniform(-25, 25)
        return [(at_angle(place, a, 9), place), (near, at_angle(near, a + 180 + turn, 9))]
    if kind == "tee":
        return [(at_angle(place, a, 8), at_angle(place, a + 180, 8)),
                (near, at_angle(near, a + random.uniform(40, 140), 9))]  # fmt: skip
    if kind == "wye":
        b, c = random.uniform(70, 140), random.uniform(-140, -70)
        return [(place, at_angle(place, a, 9)), (near, at_angle(near, a + b, 9)), (at_angle(place, a + c, 9), place)]
    b = random.uniform(40, 140)
    return [
        (at_angle(place, a, 7), at_angle(place, a + 180, 8)),
        (at_angle(place, a + b, 8), at_angle(place, a + b + 180, 7)),
    ]


def test_of_five_hundred_meetings_98_of_a_hundred_are_of_the_right_kind(open_job):
    random = np.random.default_rng(16)
    wanted = {}
    for n in range(500):
        kind = ("corner", "run-on", "tee", "wye", "crossing")[n % 5]
        place = (30.0 * (n % 25), 30.0 * (n // 25))
        keys = [straight(open_job, a, b, nib="3") for a, b in build(open_job, kind, place, random)]
        wanted[tuple(sorted(keys))] = kind
    told = Counter()
    for meeting in found(open_job):
        told[wanted.get(tuple(sorted(set(meeting.lines)))) == meeting.kind] += 1
    assert told[True] >= 490
    assert told[False] <= 10


def test_meetings_are_told_in_one_order_whatever_the_order_of_contacts(open_job):
    random = np.random.default_rng(3)
    for n in range(6):
        for a, b in build(open_job, ("corner", "wye", "tee")[n % 3], (30.0 * n, 40.0), random):
            straight(open_job, a, b, nib="3")
    drawing = JobDrawing(open_job.job, open_job.shapes).now()
    contacts = [c for every in drawing.contacts.values() for c in every]
    lengths = {key: line.path.arc.length for key, line in drawing.lines.items()}
    first = meetings_of(contacts, lengths)
    for _ in range(4):
        random.shuffle(contacts)
        assert meetings_of(contacts, lengths) == first


# Held


def corner(open_job):
    a, b = straight(open_job, (10, 20), (50, 20), nib="3"), straight(open_job, (50.6, 20.4), (60, 60), nib="3")
    return a, b, open_job.do("hold", lines=[a, b], at=[50.3, 20.2])


def test_ends_that_are_held_come_together_half_way_and_their_ink_closes(open_job):
    a, b, _ = corner(open_job)
    assert end_of(open_job.shapes[a], "end") == pytest.approx([50.3, 20.2], abs=1e-3)
    assert end_of(open_job.shapes[b], "start") == pytest.approx([50.3, 20.2], abs=1e-3)
    assert ink(open_job, a).intersection(ink(open_job, b)).area > 0.02
    # The rest stays: the far ends are where they were.
    assert end_of(open_job.shapes[a], "start") == pytest.approx([10, 20], abs=1e-6)
    assert end_of(open_job.shapes[b], "end") == pytest.approx([60, 60], abs=1e-6)


@pytest.mark.parametrize("mover", [0, 1])
def test_an_end_goes_along_with_its_partner(open_job, mover):
    keys = corner(open_job)[:2]
    open_job.do("move", lines=[keys[mover]], by=[3.0, -4.0])
    assert max(open_by(open_job)) < 3e-3
    kept = "start" if mover == 1 else "end"
    assert end_of(open_job.shapes[keys[1 - mover]], kept) == pytest.approx([10, 20] if mover else [60, 60], abs=1e-6)


def test_both_moved_together_nothing_bends(open_job):
    a, b, _ = corner(open_job)
    before = [open_job.job.rows.lines[k].bends for k in (a, b)]
    open_job.do("affine", lines=[a, b], matrix=[0, 1, -1, 0, 90, 3])
    assert [open_job.job.rows.lines[k].bends for k in (a, b)] == before


def test_out_and_back_both_are_what_they_were(open_job):
    a, b, _ = corner(open_job)
    before = [middle(open_job, k) for k in (a, b)]
    open_job.do("bend", line=a, at=[50.3, 20.2], by=[2, 5], reach=12)
    assert max(open_by(open_job)) < 3e-3
    open_job.do("bend", line=a, at=[52.3, 25.2], by=[-2, -5], reach=12)
    for key, line in zip((a, b), before, strict=True):
        assert shapely.hausdorff_distance(middle(open_job, key), line) < 0.005


def tee(open_job, sink=0.5):
    bar = straight(open_job, (10, 40), (90, 40), nib="7")
    stem = straight(open_job, (50, 10), (50, 39.0), nib="3")
    return bar, stem, open_job.do("hold", lines=[bar, stem], at=[50, 39.5], sink=sink)


@pytest.mark.parametrize("sink", [0.2, 0.5, 0.9])
def test_a_stem_goes_as_deep_into_the_line_as_it_is_to(open_job, sink):
    bar, stem, _ = tee(open_job, sink)
    shape = open_job.shapes[bar]
    half = float(shape.body.at(np.array([shape.length / 2]))[0][0])
    assert end_of(open_job.shapes[stem], "end") == pytest.approx([50, 40 - half + 2 * half * sink], abs=0.01)


def test_a_stem_follows_its_line_and_slides_along_it(open_job):
    bar, stem, key = tee(open_job)
    open_job.do("bend", line=bar, at=[50, 40], by=[0, 6], reach=25)
    assert end_of(open_job.shapes[stem], "end") == pytest.approx([50, 46], abs=0.02)
    open_job.do("bend", line=bar, at=[50, 46], by=[0, -6], reach=25)
    open_job.do("move", lines=[stem], by=[12.0, 5.0])
    assert end_of(open_job.shapes[stem], "end") == pytest.approx([62, 40], abs=0.02)
    assert open_job.job.rows.holds[key].other_at == pytest.approx(52, abs=0.1)
    open_job.do("move", lines=[bar], by=[0.0, 2.0])
    assert end_of(open_job.shapes[stem], "end") == pytest.approx([62, 42], abs=0.02)


def test_lines_that_run_on_share_their_width_without_pinch_or_bump(open_job):
    a = open_job.pull((10, 20), (50, 22), pressure=0.25)
    b = open_job.pull((50.4, 22), (100, 20), pressure=0.9)
    open_job.do("hold", lines=[a, b], at=[50.2, 22])
    at = end_of(open_job.shapes[a], "end")
    both = ink(open_job, a).union(ink(open_job, b))
    bodies = [open_job.shapes[k].body for k in (a, b)]
    far = [float(np.interp(12.0, bodies[1].s, bodies[1].full)),
           float(np.interp(bodies[0].s[-1] - 12.0, bodies[0].s, bodies[0].full))]  # fmt: skip
    for off in np.linspace(-8, 8, 81):
        across = shapely.LineString([(at[0] + off, 0), (at[0] + off, 60)])
        assert 0.9 * min(far) <= both.intersection(across).length <= 1.1 * max(far)
    ends = [open_job.shapes[a].body.full[-1], open_job.shapes[b].body.full[0]]
    assert ends[0] == pytest.approx(ends[1], rel=0.02)


@pytest.mark.parametrize("placed", [None, [0.8, 0.3, 0.3, -0.8, 5.0, 90.0]])
def test_lines_that_run_on_share_their_direction_and_stay_where_they_meet(open_job, placed):
    a = open_job.pull((10, 20), (30, 20), (50, 25))
    b = open_job.pull((50.2, 25), (80, 26), (100, 40))
    if placed:
        open_job.do("affine", lines=[a], matrix=[1, 0, 0, 1, -5, 3])
        open_job.do("affine", lines=[a, b], matrix=placed)
        open_job.do("affine", lines=[a], matrix=[1, 0, 0, 1, 0.5, 0.5])
    at = (end_of(open_job.shapes[a], "end") + end_of(open_job.shapes[b], "start")) / 2
    kept = {key: open_job.shapes[key].arc.point(np.linspace(0, 6, 30) if key == a else
            open_job.shapes[key].length - np.linspace(0, 6, 30)) for key in (a, b)}  # fmt: skip
    open_job.do("hold", lines=[a, b], at=at.tolist(), within=20)
    one, other = open_job.shapes[a], open_job.shapes[b]
    assert end_of(one, "end") == pytest.approx(end_of(other, "start"), abs=1e-3)
    ways = [one.arc.direction(np.array([one.length]))[0], other.arc.direction(np.array([0.0]))[0]]
    assert np.degrees(np.arccos(np.clip(ways[0] @ ways[1], -1, 1))) < 0.2
    # It goes along where one of them is bent, and what lies farther off stays.
    open_job.do("bend", line=a, at=end_of(one, "end").tolist(), by=[0.0, 2.0], reach=10)
    one, other = open_job.shapes[a], open_job.shapes[b]
    ways = [one.arc.direction(np.array([one.length]))[0], other.arc.direction(np.array([0.0]))[0]]
    assert np.degrees(np.arccos(np.clip(ways[0] @ ways[1], -1, 1))) < 0.5
    if not placed:
        assert (
            shapely.LineString(kept[a]).hausdorff_distance(shapely.LineString(one.arc.point(np.linspace(0, 6, 30))))
            < 0.01
        )


def test_what_a_trim_took_of_a_line_that_runs_on_comes_back_as_it_was(open_job):
    arc = [(30 + 25 * np.sin(a), 60 - 25 * np.cos(a)) for a in np.linspace(0, 2.2, 12)]
    bow = open_job.pull(*arc, n=400, seconds=2.0)
    s = open_job.shapes[bow].length
    open_job.do("mend-ends", mends=[[bow, "end", -0.5 * s]])
    at, way = open_job.shapes[bow].flat[0][-1], np.array([np.cos(np.radians(10)), np.sin(np.radians(10))])
    last = np.diff(open_job.shapes[bow].flat[0][-2:], axis=0)[0]
    way = np.array([[way[0], -way[1]], [way[1], way[0]]]) @ last / np.hypot(*last)
    after = straight(open_job, tuple(at + 0.2 * way), tuple(at + 20 * way))
    open_job.do("hold", lines=[bow, after], at=at.tolist())
    open_job.do("hold", lines=[bow, after], at=at.tolist(), off=True)
    open_job.do("mend-ends", mends=[[bow, "end", 0.5 * s - 0.5]])
    back = open_job.shapes[bow].flat[0]
    tail = back[-60:]
    turn = np.diff(np.unwrap(np.arctan2(*np.diff(tail, axis=0).T[::-1])))
    # As bent as it was: a radius of 25 mm, over what lies beyond the place where it was cut.
    length = np.hypot(*np.diff(tail, axis=0).T).sum()
    assert abs(turn.sum()) / length == pytest.approx(1 / 25, rel=0.15)


def test_an_opened_ring_keeps_its_way_where_a_line_runs_on_into_it(open_job):
    ring = open_job.do("draw", shape="ellipse", points=[[50, 45], [70, 60]])
    straight(open_job, (5, 45), (95, 45))
    open_job.do("trim", line=ring, at=[50, 30])
    shape = open_job.shapes[ring]
    assert not shape.closed
    end, way = end_of(shape, "end"), shape.arc.direction(np.array([shape.length]))[0]
    after = straight(open_job, tuple(end + 0.3 * way), tuple(end + 20 * way))
    before = middle(open_job, ring)
    open_job.do("hold", lines=[ring, after], at=end.tolist())
    assert shapely.hausdorff_distance(middle(open_job, ring), before) < 0.5


def test_a_locked_partner_refuses_the_change_and_nothing_has_happened(open_job):
    a, b, _ = corner(open_job)
    open_job.do("set", lines=[b], part="Other")
    open_job.do("part", name="Other", locked=True)
    before = plain_rows(open_job.job)
    with pytest.raises(JobError, match=f"'{b}' is held .* 'Other' is locked"):
        open_job.do("move", lines=[a], by=[0, 3])
    assert plain_rows(open_job.job) == before
    # What does not move the end goes on.
    open_job.do("bend", line=a, at=[25, 20], by=[0, 2], reach=5)


def test_loosed_lines_go_their_own_ways(open_job):
    a, b, key = corner(open_job)
    assert open_job.do("hold", lines=[b, a], at=[50.3, 20.2], off=True) == key
    before = middle(open_job, b)
    open_job.do("move", lines=[a], by=[0, 3])
    assert shapely.hausdorff_distance(middle(open_job, b), before) == 0.0
    with pytest.raises(JobError, match="not held together there"):
        open_job.do("hold", lines=[a, b], at=[50.3, 20.2], off=True)


def test_what_is_cut_joined_turned_round_or_deleted_keeps_its_holds_or_looses_them(open_job):
    bar, stem, key = tee(open_job)
    halves = open_job.do("cut", line=bar, at=[30, 40])
    assert open_job.job.rows.holds[key].other == halves[1]
    open_job.do("move", lines=[halves[1]], by=[0, 3])
    assert max(open_by(open_job)) < 3e-3
    open_job.undo()
    open_job.do("join", lines=halves)
    assert max(open_by(open_job)) < 3e-3
    open_job.do("reverse", lines=[stem])
    assert open_job.job.rows.holds[key].line_end == "start"
    assert max(open_by(open_job)) < 3e-3
    open_job.do("delete", lines=[halves[0]])
    assert not open_job.job.rows.holds
    open_job.undo()
    assert key in open_job.job.rows.holds
    assert key in open_job.again().job.rows.holds


def test_two_hundred_held_meetings_in_rings_and_chains_survive_whatever_is_done(open_job):
    """Rings of four, a chain of tees hanging from each: leeway, take, bend, share, move; closed in ink without caps."""
    holds, rings = 0, []
    for n in range(20):
        x, y = 30.0 * (n % 5), 40.0 * (n // 5)
        square = [(x, y), (x + 18, y), (x + 18, y + 18), (x, y + 18)]
        sides = [open_job.pull(square[k], square[(k + 1) % 4], pressure=0.4, n=60) for k in range(4)]
        for k in range(4):
            open_job.do("hold", lines=[sides[k], sides[(k + 1) % 4]], at=list(square[(k + 1) % 4]))
            holds += 1
        bar = sides[2]
        for k in range(3):
            a, b = ((x + 9 + k, y + 18 + 4 * k), (x + 9 + k, y + 22 + 4 * k + 3)) if k % 2 == 0 else (
                (x + 9 + k - 1, y + 20 + 4 * k - 3), (x + 18 + k, y + 20 + 4 * k - 3))  # fmt: skip
            stem = open_job.pull(a, b, pressure=0.3, n=50)
            open_job.do("hold", lines=[bar, stem], at=list(a), within=6.0)
            bar, holds = stem, holds + 1
        for k in range(3):
            stem = open_job.pull((x + 3 + 5 * k, y), (x + 4 + 5 * k, y + 9), pressure=0.3, n=50)
            open_job.do("hold", lines=[sides[0], stem], at=[x + 3 + 5 * k, y])
            holds += 1
        rings.append((sides, stem))
    assert holds == len(open_job.job.rows.holds) == 200
    random = np.random.default_rng(5)
    for k, (sides, stem) in enumerate(rings):
        open_job.do("steady", lines=sides, leeway=float(random.uniform(0.05, 0.6)), school="after")
        line = sides[k % 4]
        at = open_job.shapes[line].arc.point(np.array([random.uniform(0, open_job.shapes[line].length)]))[0]
        open_job.do("bend", line=line, at=at.tolist(), by=random.uniform(-2, 2, 2).tolist(), reach=6)
        open_job.do("move", lines=[sides[(k + 1) % 4]], by=random.uniform(-1, 1, 2).tolist())
        open_job.do("move", lines=[stem], by=random.uniform(-1, 1, 2).tolist())
    open_job.do("plan", share=60)
    assert len(open_job.job.rows.holds) == 200
    assert max(open_by(open_job)) < 0.01
    for hold in open_job.job.rows.holds.values():
        assert ink(open_job, hold.line).intersection(ink(open_job, hold.other)).area > 0.005


def test_a_line_is_not_held_to_itself_or_where_nothing_ends(open_job):
    a, b = straight(open_job, (10, 20), (90, 20)), straight(open_job, (50, 0), (50, 60))
    for lines, at, words in (([a, a], [50, 20], "two different"), ([a, b], [50, 20], "neither"),
                             ([a, "none"], [10, 20], "no line"), ([a, b], [10, 20], "from the end")):  # fmt: skip
        with pytest.raises(JobError, match=words):
            open_job.do("hold", lines=lines, at=at)
    ring = open_job.do("draw", shape="ellipse", points=[[30, 60], [40, 70]])
    stem = straight(open_job, (30, 40), (30, 49.5))
    open_job.do("hold", lines=[ring, stem], at=[30, 50])
    open_job.do("move", lines=[ring], by=[0, 3])
    assert max(open_by(open_job)) < 3e-3


def edited(open_job, random, keys):
    """One random edit of a random line; one that is refused changes nothing."""
    line = str(random.choice(keys))
    shape = open_job.shapes[line]
    at = shape.arc.point(np.array([random.uniform(0, shape.length)]))[0].tolist()
    by = random.uniform(-1.5, 1.5, 2).tolist()
    made = [
        ("bend", {"line": line, "at": at, "by": by, "reach": float(random.uniform(2, 12))}),
        ("move", {"lines": [line], "by": by}),
        ("swell", {"line": line, "factor": float(random.uniform(0.8, 1.25))}),
        ("width", {"line": line, "at": at, "mm": float(random.uniform(0.3, 0.9))}),
        ("steady", {"lines": [line], "leeway": float(random.uniform(0.02, 0.5))}),
        ("extend", {"line": line, "end": str(random.choice(["start", "end"])), "to": float(random.uniform(0.1, 1.0))}),
        ("plan", {"share": float(random.uniform(0, 100))}),
        ("set", {"lines": [line], "role": str(random.choice(["outer", "inner"]))}),
        ("node", {"line": line, "what": "insert", "at": at}),
        ("as-pulled", {"lines": [line]}),
    ]
    change, arguments = made[int(random.integers(len(made)))]
    with contextlib.suppress(JobError):
        open_job.do(change, **arguments)


EDITS = 150
"""A thousand take two minutes, and hold as well."""


def test_after_many_random_edits_all_is_closed_and_as_many_undos_give_back_the_rows(open_job):
    random = np.random.default_rng(1000)
    keys, corners = [], [(10 + 20 * k, 20 + 30 * (k % 2)) for k in range(6)]
    for a, b in itertools.pairwise(corners):
        keys.append(open_job.pull(a, b, n=50))
    for k in range(4):
        open_job.do("hold", lines=keys[k : k + 2], at=list(corners[k + 1]))
    for k in range(3):
        (x, y), (u, v) = corners[k], corners[k + 1]
        stem = open_job.pull(((x + u) / 2, (y + v) / 2), ((x + u) / 2 + 6, (y + v) / 2 - 15), n=50)
        open_job.do("hold", lines=[keys[k], stem], at=[(x + u) / 2, (y + v) / 2])
        keys.append(stem)
    before, first = plain_rows(open_job.job), open_job.job.history.undo_count()
    while (steps := open_job.job.history.undo_count() - first) < EDITS:
        edited(open_job, random, keys)
        if steps % 50 == 0:
            assert max(open_by(open_job)) < 0.01
    assert len(open_job.job.rows.holds) == 7
    for _ in range(steps):
        open_job.undo()
    assert plain_rows(open_job.job) == before


# Corners in ink


@pytest.mark.parametrize("degrees", [20, 28, 35, 60, 90, 120, 160])
@pytest.mark.parametrize("corner", ["round", "mitred"])
@pytest.mark.parametrize("turn", [1, -1])
def test_a_closed_corner_is_what_shapely_makes_of_both_strokes(open_job, degrees, corner, turn):
    place = np.array([50.0, 45.0])
    a = straight(open_job, (20, 45), (50, 45))
    b = straight(open_job, (50, 45), at_angle(place, 180 + turn * degrees, 30))
    for key in (a, b):
        open_job.do("even-widths", lines=[key])
    open_job.do("plan", share=0)
    open_job.do("hold", lines=[a, b], at=place.tolist(), corner=corner)
    width = float(open_job.shapes[a].body.full[0])
    both = shapely.union_all([ink(open_job, a), ink(open_job, b)])
    far = end_of(open_job.shapes[b], "end")
    path = shapely.LineString([(20, 45), (50, 45), far])
    limited = corner == "round" or 1 / np.sin(np.radians(degrees) / 2) > 4.0
    join = "round" if limited else "mitre"
    wanted = path.buffer(width / 2, quad_segs=64, join_style=join, mitre_limit=4.0, cap_style="round")
    near = shapely.box(40, 30, 58, 60)
    off = shapely.hausdorff_distance(both.intersection(near).boundary, wanted.intersection(near).boundary)
    assert off < 0.01


def test_crossed_lines_go_on_past_each_other_and_a_corner_follows_its_lines(open_job):
    a, b, key = corner(open_job)
    before = ink(open_job, a).union(ink(open_job, b))
    open_job.do("hold", lines=[a, b], at=[50.3, 20.2], corner="crossed")
    crossed = ink(open_job, a).union(ink(open_job, b))
    assert crossed.bounds[2] > before.bounds[2] + 0.2 or crossed.bounds[1] < before.bounds[1] - 0.2
    assert set(open_job.job.rows.holds) == {key}
    open_job.do("hold", lines=[a, b], at=[50.3, 20.2], corner="mitred")
    tip = max(shapely.get_coordinates(ink(open_job, a)), key=lambda p: p[0])
    open_job.do("move", lines=[b], by=[3.0, 0.0])
    moved = max(shapely.get_coordinates(ink(open_job, a)), key=lambda p: p[0])
    assert moved[0] - tip[0] == pytest.approx(3.0, abs=0.1)
    assert open_job.again().job.rows.holds[key].corner == "mitred"
    with pytest.raises(JobError, match="a corner is"):
        open_job.do("hold", lines=[a, b], at=[53.3, 20.2], corner="blunt")
