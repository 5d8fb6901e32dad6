"""Blacks, lines moved whole, copies, ways that were left: in the job and in its file."""

import gzip
import json
import sqlite3
from pathlib import Path

import numpy as np
import pytest

from plain_stride import cli
from plain_stride.job.art import art_of_some
from plain_stride.job.bundle import bundle_of, bundle_text
from plain_stride.job.errors import JobError
from plain_stride.job.job_files import opened
from plain_stride.job.reports import lines as lines_report
from plain_stride.job.shapes import Shapes
from plain_stride.lines.black import black_of_rings
from tests.conftest import OpenJob

OLD = Path(__file__).parent / "old"
SQUARE = np.array([(10, 10), (30, 10), (30, 30), (10, 30)], float)


@pytest.fixture
def drawn(open_job):
    open_job.do("part", name="Coat", tier="near")
    open_job.line = open_job.pull((10, 20), (60, 40), (100, 20), part="Coat", role="outer")
    open_job.black = open_job.do("black", black=black_of_rings([SQUARE]), part="Coat")
    return open_job


def rows(job):
    return job.rows.copied()


# Blacks and moves


def test_a_black_lies_among_the_lines_of_its_part(drawn):
    over = drawn.pull((0, 50), (90, 50), part="Coat")
    assert drawn.job.ink_ids() == [drawn.line, drawn.black, over]
    assert drawn.job.line_ids() == [drawn.line, over]
    again = drawn.again()
    assert again.job.ink_ids() == [drawn.line, drawn.black, over]
    assert again.shapes.black(drawn.black).box == pytest.approx((10, 10, 30, 30))
    told = lines_report(again.job, again.shapes)["blacks"]
    assert [(b["id"], b["part"]) for b in told] == [(drawn.black, "Coat")] and len(told[0]["outlines"][0]) >= 4


def test_lines_move_whole_and_keep_their_recipe(drawn):
    before = drawn.shapes[drawn.line].curve.copy()
    width = drawn.shapes[drawn.line].widths.full.max()
    drawn.do("move", lines=[drawn.line, drawn.black], by=[3.0, -2.0])
    assert np.allclose(drawn.shapes[drawn.line].curve, before + (3.0, -2.0))
    assert drawn.shapes.black(drawn.black).box == pytest.approx((13, 8, 33, 28))
    drawn.do("steady", lines=[drawn.line], school="off")
    drawn.do("move", lines=[drawn.line], by=[-3.0, 2.0])
    drawn.do("steady", lines=[drawn.line], school="after")
    assert np.allclose(drawn.shapes[drawn.line].curve, before)
    assert drawn.shapes[drawn.line].widths.full.max() == pytest.approx(width)
    assert drawn.job.rows.lines[drawn.line].matrix is None


def test_a_trim_of_a_moved_line_is_where_it_is_seen(drawn):
    drawn.pull((50, 0), (50, 80), part="Coat")
    drawn.do("move", lines=[drawn.line], by=[0.0, 10.0])
    x, y = drawn.shapes[drawn.line].arc.point(np.array([5.0]))[0]
    drawn.do("trim", line=drawn.line, at=[float(x), float(y)])
    assert drawn.shapes[drawn.line].flat[0][:, 0].min() == pytest.approx(50, abs=0.05)


def test_copies_share_the_pull_and_undo_as_one_step(drawn):
    before = rows(drawn.job)
    new = drawn.do("duplicate", lines=[drawn.line, drawn.black], by=[5.0, 0.0])
    assert drawn.job.rows.lines[new[0]].pull == drawn.job.rows.lines[drawn.line].pull
    assert drawn.shapes.black(new[1]).box == pytest.approx((15, 10, 35, 30))
    drawn.undo()
    assert rows(drawn.job) == before


def test_a_bundle_goes_to_another_job_with_all_it_is_made_of(drawn, tmp_path):
    bundle = json.loads(bundle_text(drawn.shapes, [drawn.line, drawn.black]))
    path = tmp_path / "other.stride"
    cli.main(["new", str(path), "--size", "120x90mm", "--dpi", "300"])
    other = OpenJob(path)
    new = other.do("paste", bundle=bundle)
    assert np.allclose(other.shapes[new[0]].curve, drawn.shapes[drawn.line].curve)
    assert [(p.name, p.tier) for p in other.job.parts()] == [("Coat", "near")]
    other.do("steady", lines=[new[0]], school="off")  # its pull came with it
    assert other.again().job.ink_ids() == new
    other.store.close()


@pytest.mark.parametrize(
    "harm",
    [
        lambda b: b.pop("rows"),
        lambda b: b.update(version=99),
        lambda b: b["blobs"]["pulls"].clear(),
        lambda b: next(iter(b["blobs"]["pulls"].values())).update(samples="!"),
        lambda b: b["rows"].append(["steps", {}]),
        lambda b: b["parts"].clear(),
    ],
)
def test_damaged_bundles_are_refused_and_change_nothing(drawn, harm):
    before = rows(drawn.job)
    bundle = bundle_of(drawn.shapes, [drawn.line])
    harm(bundle)
    with pytest.raises(JobError):
        drawn.do("paste", bundle=bundle)
    assert rows(drawn.job) == before


def test_locked_parts_keep_their_blacks(drawn):
    drawn.do("part", name="Coat", locked=True)
    for change, arguments in (("delete", {}), ("move", {"by": [1, 1]}), ("duplicate", {}), ("set", {"part": "Lines"})):
        with pytest.raises(JobError, match="locked"):
            drawn.do(change, lines=[drawn.black], **arguments)


def test_some_ink_alone_is_whole(drawn):
    drawn.do("part", name="Front", tier="near", order=1)
    drawn.do("cover", name="Front", on=True, shape=[[[0, 0], [200, 0], [200, 200], [0, 200]]])
    art = art_of_some(drawn.job, drawn.shapes, [drawn.black])
    assert [len(part.lines) for part in art.parts] == [1] and art.parts[0].lines[0].covers == ()


def test_export_and_import_keep_blacks(drawn, tmp_path):
    drawn.store.close()
    for kind in ("svg", "json"):
        out, path = tmp_path / f"out.{kind}", tmp_path / f"{kind}.stride"
        assert cli.main(["export", str(drawn.path), str(out)]) == 0
        cli.main(["new", str(path), "--size", "120x90mm", "--dpi", "300"])
        assert cli.main(["import", str(path), str(out)]) == 0
        with opened(path) as (job, store):
            assert len(job.rows.lines) == len(job.rows.blacks) == 1
            assert Shapes(job, store).black(next(iter(job.rows.blacks))).box == pytest.approx(
                (10, 10, 30, 30), abs=0.01
            )
    drawn.__init__(drawn.path)


# Ways


def test_a_way_not_taken_can_be_gone_back_to(drawn):
    first = drawn.job.history.head
    left = drawn.pull((10, 60), (60, 60))
    old_way, then = drawn.job.history.head, rows(drawn.job)
    drawn.undo()
    other = drawn.pull((10, 80), (60, 80))
    assert left not in drawn.job.rows.lines
    drawn.store.commit(drawn.job.go_to(old_way))
    assert rows(drawn.job) == then and other not in drawn.job.rows.lines
    again = drawn.again()
    assert again.job.history.head == old_way and rows(again.job) == then
    again.store.commit(again.job.go_to(0))
    assert again.job.ink_ids() == [] and again.job.go_to(0) is None
    again.store.commit(again.job.go_to(first))
    assert again.job.ink_ids() == [drawn.line, drawn.black]
    with pytest.raises(JobError, match="no step"):
        again.job.go_to(999)


def test_a_mark_is_gone_to_from_the_command_line(drawn, capsys):
    drawn.store.close()
    path = str(drawn.path)
    assert cli.main(["history", path, "--mark", "Both"]) == 0
    assert cli.main(["undo", path, "2"]) == 0
    assert cli.main(["history", path, "--go", "Both"]) == 0
    with opened(drawn.path) as (job, _):
        assert job.ink_ids() == [drawn.line, drawn.black]
    assert cli.main(["history", path, "--go", "Nowhere"]) == 1
    assert "there are: Both" in capsys.readouterr().err
    drawn.__init__(drawn.path)


def test_a_state_is_looked_at_without_touching_the_job(drawn):
    marked = drawn.job.history.head
    shape = drawn.shapes[drawn.line]
    drawn.do("swell", line=drawn.line, factor=2.0)
    drawn.do("plan", share=100.0)
    before = rows(drawn.job)
    then = drawn.job.as_at(marked)
    shapes = drawn.shapes.of_state(then)
    assert np.allclose(shapes[drawn.line].widths.full, shape.widths.full)
    assert drawn.shapes.of_state(then)[drawn.line] is shapes[drawn.line]  # worked out once
    assert rows(drawn.job) == before and drawn.job.history.head != marked
    assert then.history.undo_count() == drawn.job.history.undo_count() - 2


def test_every_state_is_what_undo_would_come_to(drawn):
    drawn.do("move", lines=[drawn.line], by=[1.0, 1.0])
    drawn.do("delete", lines=[drawn.black])
    states = {}
    while drawn.job.history.head:
        states[drawn.job.history.head] = rows(drawn.job)
        drawn.undo()
    for step, wanted in states.items():
        assert rows(drawn.job.as_at(step)) == wanted


def test_a_file_of_the_second_schema_is_brought_up_to_date(tmp_path):
    path = tmp_path / "schema-2.stride"
    path.write_bytes(gzip.decompress((OLD / "schema-2.stride.gz").read_bytes()))
    before = path.read_bytes()
    with opened(path) as (job, store):
        assert len(Shapes(job, store).visible()) == 2 and job.history.marks
    assert path.read_bytes() == before
    with opened(path, write=True) as (job, store):
        assert (tmp_path / "schema-2 schema 2.stride").read_bytes() == before
        shapes = Shapes(job, store)
        from plain_stride.job.changes import make

        store.commit(make(job, shapes, "move", {"lines": [job.line_ids()[0]], "by": [1, 1]}).commit)
        while commit := job.undo():
            store.commit(commit)
        assert job.ink_ids() == []
    assert sqlite3.connect(path).execute("PRAGMA integrity_check").fetchone() == ("ok",)


def test_forgetting_takes_outlines_that_nothing_needs(drawn):
    drawn.do("delete", lines=[drawn.black])
    step = drawn.job.history.set_mark("Without")
    drawn.store.mark("Without", step)
    count = "SELECT count(*) FROM outlines"
    db = sqlite3.connect(drawn.path)
    assert db.execute(count).fetchone() == (1,)
    drawn.store.forget(drawn.job.forgetting("Without"))
    assert db.execute(count).fetchone() == (0,)
    db.close()
