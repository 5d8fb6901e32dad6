"""Lines that are made from others, copies that keep their recipe, straight and round over the pull, the fifth schema.

Outside: Shapely measures distances; turned and mirrored places by complex numbers.
"""

import contextlib
import gzip
import sqlite3
from pathlib import Path

import numpy as np
import pytest
import shapely

from plain_stride.job.changes import make
from plain_stride.job.errors import JobError
from plain_stride.job.job_files import opened
from plain_stride.job.reports import lines
from plain_stride.job.shapes import Shapes
from plain_stride.lines.edits import Span

OLD = Path(__file__).parent / "old"


def line_of(opened_job, key):
    return shapely.LineString(opened_job.shapes[key].flat[0])


@pytest.fixture
def series(open_job):
    open_job.source = open_job.pull((20, 40), (60, 46), (100, 40), pressure=0.6)
    open_job.members = open_job.do("beside", line=open_job.source, gap=2.0, count=3)
    return open_job


def assert_apart(series, gap):
    for n, key in enumerate(series.members, 1):
        source, beside = line_of(series, series.source), line_of(series, key)
        # The ends of a pull hook and shake: a parallel of its middle is what is looked at.
        places = shapely.points(
            [beside.interpolate(share, normalized=True).coords[0] for share in np.linspace(0.1, 0.9, 30)]
        )
        assert shapely.distance(source, places) == pytest.approx(np.full(30, gap * n), abs=0.03)


def test_a_series_goes_along_with_its_line(series):
    assert_apart(series, 2.0)
    before = [series.shapes[key] for key in series.members]
    series.do("move", lines=[series.source], by=[0, 10])
    assert_apart(series, 2.0)
    assert all(series.shapes[key] is not old for key, old in zip(series.members, before, strict=True))
    series.do("steady", lines=[series.source], school="off")
    assert_apart(series, 2.0)
    series.undo()
    series.undo()
    for key, old in zip(series.members, before, strict=True):
        assert series.shapes[key].flat[0] == pytest.approx(old.flat[0], abs=1e-9)
    again = series.again()
    assert again.shapes[series.members[1]].flat[0] == pytest.approx(before[1].flat[0], abs=1e-6)


def test_another_gap_keeps_what_was_done_to_a_member(series):
    first = series.members[0]
    series.do("swell", line=first, factor=1.5)
    wide = float(np.median(series.shapes[first].widths.full))
    series.do("family", line=first, gap=3.0)
    assert_apart(series, 3.0)
    assert np.median(series.shapes[first].widths.full) == pytest.approx(wide, rel=0.02)
    assert wide == pytest.approx(1.5 * np.median(series.shapes[series.members[1]].widths.full), rel=0.02)
    with pytest.raises(JobError, match="takes a gap"):
        series.do("family", line=first, centre=[0, 0])
    with pytest.raises(JobError, match="no line of a family"):
        series.do("family", line=series.source, gap=1.0)


def test_a_swell_of_the_line_is_seen_in_its_series_where_it_is(series):
    series.do("swell", line=series.source, factor=2.0, **{"from": 30, "to": 50})
    for key in series.members:
        left, right = series.shapes[key].widths.at(np.array([20.0, 40.0, 65.0]))
        assert (left + right)[1] == pytest.approx(2.0 * (left + right)[0], rel=0.1)
        assert (left + right)[2] == pytest.approx((left + right)[0], rel=0.1)


def test_released_lines_stay_where_they_are_with_what_was_done_to_them(series):
    first = series.members[0]
    series.do("swell", line=first, factor=1.5, **{"from": 30, "to": 50})
    before = series.shapes[first]
    series.do("release", lines=[first])
    after = series.shapes[first]
    assert shapely.hausdorff_distance(shapely.LineString(before.flat[0]), shapely.LineString(after.flat[0])) < 0.01
    at = np.linspace(0, 70, 30)
    assert sum(after.widths.at(at)) == pytest.approx(sum(before.widths.at(at)), abs=0.01)
    series.do("move", lines=[series.source], by=[0, 20])
    assert series.shapes[first] is after and series.job.rows.lines[first].family is None


def test_a_series_outlives_its_line(series):
    before = [series.shapes[key].flat[0] for key in series.members]
    series.do("delete", lines=[series.source])
    for key, points in zip(series.members, before, strict=True):
        assert shapely.hausdorff_distance(line_of(series, key), shapely.LineString(points)) < 0.01
    assert not series.job.rows.families
    series.undo()
    assert len(series.job.rows.families) == 1 and series.job.rows.lines[series.members[0]].family
    series.do("part-delete", name="Lines")
    assert not series.job.rows.lines and not series.job.rows.families


def test_turned_lines_go_along(open_job):
    key = open_job.pull((60, 15), (90, 20))
    turned = open_job.do("around", lines=[key], centre=[60, 45], count=4)
    open_job.do("move", lines=[key], by=[0, 4])
    middle = 60 + 45j
    for n, member in enumerate(turned, 1):
        # Clockwise on a sheet whose y points down is the positive turn of the complex plane.
        at = open_job.shapes[key].flat[0] @ np.array([1, 1j])
        wanted = middle + (at - middle) * np.exp(0.5j * np.pi * n)
        assert shapely.hausdorff_distance(
            shapely.LineString(np.column_stack([wanted.real, wanted.imag])), line_of(open_job, member)
        ) < 0.01  # fmt: skip
    open_job.do("family", line=turned[0], centre=[50, 45])
    assert open_job.shapes[turned[1]].flat[0][0][0] == pytest.approx(100 - open_job.shapes[key].flat[0][0][0], abs=0.02)


def test_a_series_of_a_ring_is_rings(open_job):
    ring = open_job.do("draw", shape="ellipse", points=[[60, 45], [75, 60]])
    for gap, radius in ((3.0, 15.0), (-3.0, 15.0)):
        (beside,) = open_job.do("beside", line=ring, gap=gap)
        shape = open_job.shapes[beside]
        assert shape.closed
        away = np.hypot(*(shape.flat[0] - (60, 45)).T)
        assert abs(away - radius) == pytest.approx(np.full(len(away), 3.0), abs=0.03)


def test_copies_of_a_member_are_lines_of_their_own(series):
    (copy,) = series.do("duplicate", lines=[series.members[0]], by=[0, 30])
    row = series.job.rows.lines[copy]
    assert row.family is None and row.form is not None
    assert line_of(series, copy).bounds[1] == pytest.approx(line_of(series, series.members[0]).bounds[1] + 30, abs=0.02)
    assert series.again().job.rows.lines[copy] == row


def test_a_mirrored_copy_keeps_its_pull_and_turns_its_sides_round(open_job):
    key = open_job.pull((20, 30), (60, 36), pressure=0.8)
    open_job.do("swell", line=key, factor=1.6, side="left")
    (twin,) = open_job.do("mirror", lines=[key], axis=[[70, 0], [70, 90]])
    a, b = open_job.job.rows.lines[key], open_job.job.rows.lines[twin]
    assert b.pull == a.pull and b.edits[0].side == "right"
    one, two = open_job.shapes[key], open_job.shapes[twin]
    assert two.flat[0] == pytest.approx(one.flat[0] * (-1, 1) + (140, 0), abs=1e-9)
    assert two.widths.left == pytest.approx(one.widths.right) and two.widths.right == pytest.approx(one.widths.left)
    open_job.do("steady", lines=[twin], school="off")
    assert open_job.shapes[twin].flat[0][0] == pytest.approx([120, 30], abs=0.1)


@pytest.mark.parametrize("shape", ["straight", "round"])
def test_a_shaped_line_keeps_trims_moves_and_widths_where_they_were(open_job, shape):
    key = open_job.pull((10, 20), (60, 32), (110, 20), pressure=0.6)
    cross = open_job.pull((40, 5), (40, 60))
    open_job.do("trim", line=key, at=[12, 21])
    open_job.do("delete", lines=[cross])
    open_job.do("move", lines=[key], by=[3, 4])
    before = open_job.shapes[key]
    open_job.do("swell", line=key, factor=1.5, **{"from": 20, "to": 40})
    open_job.do("reshape", lines=[key], shape=shape)
    after, row = open_job.shapes[key], open_job.job.rows.lines[key]
    assert row.pull is not None and isinstance(row.span, Span) and row.fixed is not None
    assert after.flat[0][0] == pytest.approx(before.flat[0][0], abs=0.4)
    share = np.array([0.1, 30 / before.length, 0.9])
    full = sum(after.widths.at(share * after.length))
    assert full[1] == pytest.approx(1.5 * full[0], rel=0.1) and full[2] == pytest.approx(full[0], rel=0.1)
    told = next(one for one in lines(open_job.job, open_job.shapes)["lines"] if one["id"] == key)
    assert told["report"]["tremor_removed"] is not None
    open_job.do("take", line=key, take=1)
    again = open_job.again()
    assert again.shapes[key].flat[0] == pytest.approx(open_job.shapes[key].flat[0], abs=1e-6)


def test_stages_that_nothing_touched_are_not_worked_out_again(open_job):
    key = open_job.pull((10, 20), (60, 24), (110, 20))
    one = open_job.shapes.worked(key)
    open_job.do("plan", share=50)
    two = open_job.shapes.worked(key)
    assert two.path is one.path and two.hand is one.hand and two.mixed is not one.mixed
    open_job.do("swell", line=key, factor=1.2)
    three = open_job.shapes.worked(key)
    assert three.mixed is two.mixed and three.body is not two.body
    open_job.do("part", name="Lines", locked=True)
    assert open_job.shapes.worked(key) is three
    assert open_job.shapes.by_hand(key).hand is one.hand


def test_a_file_of_the_fifth_schema_is_brought_up_to_date(tmp_path):
    path = tmp_path / "schema-5.stride"
    path.write_bytes(gzip.decompress((OLD / "schema-5.stride.gz").read_bytes()))
    with opened(path) as (job, store):
        seen = {key: Shapes(job, store)[key].flat[0] for key in job.rows.lines}
    with opened(path, write=True) as (job, store):
        shapes = Shapes(job, store)
        (first,) = (key for key, row in job.rows.lines.items() if row.edits)
        row = job.rows.lines[first]
        assert (row.matrix.e, row.matrix.f) == (5.0, -2.5) and row.edits[0].factor == 1.5
        assert shapes[first].flat[0][0] == pytest.approx([15, 17.5], abs=0.3)
        (black,) = job.rows.blacks
        assert shapes.black(black).box == pytest.approx((13, 63, 23, 73))
        assert all(np.array_equal(shapes[key].flat[0], points) for key, points in seen.items())
        count = job.history.undo_count()
        while commit := job.undo():
            store.commit(commit)
        assert not job.rows.lines and not job.rows.blacks
        store.commit(job.redone(count))
    with opened(path) as (job, store):
        shapes = Shapes(job, store)
        assert all(shapes[key].flat[0] == pytest.approx(points) for key, points in seen.items())
        assert not store._read("PRAGMA foreign_key_check")


def test_a_file_of_the_sixth_schema_is_brought_up_to_date(tmp_path):
    path = tmp_path / "schema-6.stride"
    path.write_bytes(gzip.decompress((OLD / "schema-6.stride.gz").read_bytes()))
    with opened(path) as (job, store):
        seen = {key: Shapes(job, store)[key].flat[0] for key in job.rows.lines}
        assert len(seen) == 6
    with opened(path, write=True) as (job, store):
        shapes = Shapes(job, store)
        assert all(np.array_equal(shapes[key].flat[0], points) for key, points in seen.items())
        store.commit(make(job, shapes, "symmetric", {"lines": [next(iter(seen))], "kind": "mirrored", "count": 1,
                                                     "centre": [50, 40], "angle": 90.0}).commit)  # fmt: skip
    with opened(path) as (job, store):
        assert {row.angle for row in job.rows.families.values()} == {0.0, 90.0}


def test_a_file_of_the_seventh_schema_is_brought_up_to_date(tmp_path):
    path = tmp_path / "schema-7.stride"
    path.write_bytes(gzip.decompress((OLD / "schema-7.stride.gz").read_bytes()))
    with opened(path) as (job, store):
        seen = {key: Shapes(job, store)[key].flat[0] for key in job.rows.lines}
        assert len(seen) == 3
    with opened(path, write=True) as (job, store):
        shapes = Shapes(job, store)
        assert all(np.array_equal(shapes[key].flat[0], points) for key, points in seen.items())
        a, b = list(seen)[:2]
        at = seen[b][-1].tolist()
        store.commit(make(job, shapes, "bend", {"line": a, "at": seen[a][-1].tolist(),
                                                "by": (seen[b][-1] - seen[a][-1]).tolist(), "reach": 20}).commit)  # fmt: skip
        store.commit(make(job, shapes, "hold", {"lines": [a, b], "at": at}).commit)
    with opened(path) as (job, store):
        assert len(job.rows.holds) == 1


def test_a_file_of_the_eighth_schema_is_brought_up_to_date(tmp_path):
    path = tmp_path / "schema-8.stride"
    path.write_bytes(gzip.decompress((OLD / "schema-8.stride.gz").read_bytes()))
    with opened(path) as (job, store):
        seen = {key: Shapes(job, store)[key].flat[0] for key in job.rows.lines}
        assert len(seen) == 3 and len(job.rows.holds) == 1
    with opened(path, write=True) as (job, store):
        shapes = Shapes(job, store)
        assert all(np.array_equal(shapes[key].flat[0], points) for key, points in seen.items())
        store.commit(make(job, shapes, "part", {"name": "Eye", "inside": "Head"}).commit)
    with opened(path) as (job, store):
        inside = {row.name: row.inside for row in job.rows.parts.values()}
        assert inside == {"Head": None, "Eye": job.part_named("Head").id}


def lies(points, others):
    """How far two lines (n, 2) lie apart at most, either way round, by an independent library."""
    import shapely

    return shapely.hausdorff_distance(shapely.LineString(points), shapely.LineString(others))


@pytest.mark.parametrize("angle", [0.0, 90.0, 30.0])
def test_a_line_is_mirrored_about_one_axis_or_two_and_its_copies_go_along(open_job, angle):
    key = open_job.pull((10, 20), (40, 22), (45, 50))
    copies = open_job.do("symmetric", lines=[key], kind="mirrored", count=2, centre=[50, 45], angle=angle)
    assert len(copies) == 3
    for _ in range(2):
        points = open_job.shapes[key].flat[0] - [50, 45]
        a = np.radians(angle)
        along, over = np.array([np.sin(a), -np.cos(a)]), np.array([np.cos(a), np.sin(a)])
        u, v = points @ along, points @ over
        # Closed form: over the axis what lies along it stays and what lies across changes its sign.
        wanted = [np.outer(u, along) - np.outer(v, over), np.outer(v, over) - np.outer(u, along), -points]
        for copy, places in zip(copies, wanted, strict=True):
            assert lies(open_job.shapes[copy].flat[0], places + [50, 45]) < 1e-3
        open_job.do("move", lines=[key], by=[3, -2])
    open_job.do("swell", line=key, factor=2.0, side="left")
    at = np.linspace(10.0, 40.0, 30)
    own, mirrored, turned = (open_job.shapes[k].widths.at(at) for k in (key, copies[0], copies[2]))
    assert own[0].mean() > 1.5 * own[1].mean()
    assert mirrored[0] == pytest.approx(own[1], rel=0.02) and turned[0] == pytest.approx(own[0], rel=0.02)


def test_a_pull_and_a_drawn_shape_are_copied_in_one_step(open_job):
    by = {"kind": "turned", "count": 5, "centre": [60, 45]}
    open_job.do("draw", shape="straight", points=[[20, 20], [30, 30]], symmetry=by)
    assert len(open_job.job.rows.lines) == 5
    commit = open_job.job.undo()
    assert not open_job.job.rows.lines
    open_job.store.commit(commit)
    open_job.do("draw", shape="straight", points=[[20, 20], [30, 30]], symmetry={**by, "kind": "mirrored", "count": 2})
    assert len(open_job.job.rows.lines) == 4


@pytest.mark.parametrize(
    "by",
    [
        {},
        {"kind": "spiral", "count": 2, "centre": [1, 1]},
        {"kind": "mirrored", "count": 3, "centre": [1, 1]},
        {"kind": "turned", "count": 1, "centre": [1, 1]},
        {"kind": "turned", "count": 61, "centre": [1, 1]},
        {"kind": "turned", "count": 3, "centre": [1]},
        {"kind": "turned", "count": 3, "centre": [1, 1], "angle": float("nan")},
        {"kind": "turned", "count": 3, "centre": [1, 1], "colour": "red"},
    ],
)
def test_a_symmetry_that_there_is_not_is_refused_whole(open_job, by):
    with pytest.raises(JobError):
        open_job.do("draw", shape="straight", points=[[20, 20], [30, 30]], symmetry=by)
    assert not open_job.job.rows.lines


@pytest.mark.parametrize(
    "damage",
    [
        "UPDATE families SET source = 'none'",
        "DELETE FROM families",
        "UPDATE families SET source = (SELECT id FROM lines WHERE family IS NOT NULL LIMIT 1)",
        "UPDATE families SET kind = 'spiral'",
        "UPDATE lines SET matrix = '[1, 0, 0, 0, 0, 0]'",
        "UPDATE lines SET edits = '[[\"melt\", 1, 2]]'",
    ],
)
def test_families_that_cannot_be_are_damage(series, damage):
    series.store.close()
    with contextlib.closing(sqlite3.connect(series.path)) as db, db:
        db.execute(damage)
    with pytest.raises(JobError, match="damaged"), opened(series.path):
        pass


def test_what_a_series_could_not_go_along_with_is_refused(open_job):
    """Once the line was changed and its series failed when it was painted."""
    ring = open_job.do("draw", shape="ellipse", points=[[60, 45], [75, 60]])
    (inner,) = open_job.do("beside", line=ring, gap=-10.0)
    if open_job.shapes[inner].length > open_job.shapes[ring].length:
        (inner,) = open_job.do("beside", line=ring, gap=10.0)
    gap = open_job.job.rows.families[open_job.job.rows.lines[inner].family].gap
    before, rows = open_job.shapes[inner], open_job.job.rows.copied()
    with pytest.raises(JobError, match="cannot go along"):
        open_job.do("family", line=inner, gap=2.0 * gap)
    with pytest.raises(JobError, match="would lie on the line"):
        open_job.do("family", line=inner, gap=0.01)
    assert open_job.job.rows == rows and open_job.shapes[inner].flat[0] == pytest.approx(before.flat[0])
