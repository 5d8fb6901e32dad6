"""What parts hide: in the job, in every export, in a file of an older schema; marks and what may be forgotten."""

import gzip
import json
import shutil
import sqlite3
from pathlib import Path

import numpy as np
import pytest
import shapely

from plain_stride import cli
from plain_stride.finish.svg import svg_text
from plain_stride.job.art import art_of
from plain_stride.job.covers import Covers
from plain_stride.job.errors import JobError
from plain_stride.job.job_files import opened
from plain_stride.job.opening import open_store
from plain_stride.job.reports import lines as lines_report
from plain_stride.job.schema import SCHEMA_VERSION
from plain_stride.job.shapes import Shapes
from plain_stride.render.export import png_of

OLD = Path(__file__).parent / "old"
BOX = [(40, 20), (80, 20), (80, 70), (40, 70), (40, 20.2)]


@pytest.fixture
def boxed(open_job):
    """A near box of outer lines, and a far line that runs through behind it."""
    open_job.do("part", name="Box", tier="near")
    open_job.box = open_job.pull(*BOX, part="Box", role="outer", seconds=4.0, n=800)
    open_job.far = open_job.pull((10, 45), (110, 45), part="Hill")
    open_job.do("part", name="Hill", tier="far")
    open_job.do("cover", name="Box", on=True)
    return open_job


def darkness(job, shapes, at):
    """0..255 of the exported picture at a place in mm."""
    import io

    from PIL import Image

    picture = np.asarray(Image.open(io.BytesIO(png_of(art_of(job, shapes), False, False))).convert("L"))
    scale = job.page.dpi / 25.4
    return 255 - int(picture[round(at[1] * scale), round(at[0] * scale)])


def test_what_lies_behind_is_hidden_in_pixels_and_told_in_figures(boxed):
    assert darkness(boxed.job, boxed.shapes, (60, 45)) == 0
    assert darkness(boxed.job, boxed.shapes, (20, 45)) > 200
    told = {line["id"]: line for line in lines_report(boxed.job, boxed.shapes)["lines"]}
    assert np.allclose(told[boxed.far]["hidden"], [(30, 70)], atol=0.2)
    assert told[boxed.box]["hidden"] == []
    assert told[boxed.far]["report"]["length"] >= 100  # nothing was cut


@pytest.mark.parametrize(
    "change",
    [{"on": False}, {"shape": [[[1, 1], [5, 1], [5, 5]]]}],
)
def test_a_cover_that_is_off_or_elsewhere_hides_nothing(boxed, change):
    boxed.do("cover", name="Box", **change)
    assert darkness(boxed.job, boxed.shapes, (60, 45)) > 200
    boxed.undo()
    assert darkness(boxed.job, boxed.shapes, (60, 45)) == 0


def test_hidden_parts_hide_nothing_and_order_decides(boxed):
    boxed.do("part", name="Box", hidden=True)
    assert darkness(boxed.job, boxed.shapes, (60, 45)) > 200
    boxed.do("part", name="Box", hidden=False)
    boxed.do("part", name="Hill", tier="near", order=1)
    assert darkness(boxed.job, boxed.shapes, (60, 45)) > 200


def test_a_gap_takes_more(boxed):
    before = Covers(boxed.job, boxed.shapes).hidden(*part_and_shape(boxed))
    boxed.do("cover", name="Box", gap=2.0)
    after = Covers(boxed.job, boxed.shapes).hidden(*part_and_shape(boxed))
    half = boxed.shapes[boxed.box].widths.full.mean() / 2
    assert before[0][0] - after[0][0] == pytest.approx(2.0 + half, abs=0.15)


def part_and_shape(job):
    return job.job.rows.lines[job.far].part, job.shapes[job.far]


def test_the_svg_clips_and_paints_nothing_white(boxed):
    """An independent renderer (resvg) shows the same pixels; without the clip the line is whole."""
    import io

    import resvg_py
    from PIL import Image

    text = svg_text(art_of(boxed.job, boxed.shapes))
    assert "clip-path=" in text and "#fff" not in text.split("<g", 1)[1]
    scale = boxed.job.page.dpi / 25.4

    def dark(svg, at):
        data = bytes(resvg_py.svg_to_bytes(svg_string=svg, dpi=int(boxed.job.page.dpi), background="white"))
        return 255 - np.asarray(Image.open(io.BytesIO(data)).convert("L"))[round(at[1] * scale), round(at[0] * scale)]

    assert dark(text, (60, 45)) == 0 and dark(text, (20, 45)) > 200
    import re

    assert dark(re.sub(r' clip-path="[^"]*"', "", text), (60, 45)) > 200


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        ({"name": "Nobody"}, "no part"),
        ({"name": "Box", "gap": -1}, "a gap goes from"),
        ({"name": "Box", "on": 1}, "true or false"),
        ({"name": "Box", "shape": [[[0, 0], [1, 1]]]}, "three places"),
        ({"name": "Box", "shape": [[[0, 0], [1, 1], [2, 2]]]}, "goes round nothing"),
        ({"name": "Box", "shape": "somewhere"}, "list of outlines"),
        ({"name": "Box", "shape": [[[0, 0], [1, float("nan")], [2, 2]]]}, "a number"),
    ],
)
def test_bad_covers_are_refused(boxed, arguments, words):
    with pytest.raises(JobError, match=words):
        boxed.do("cover", **arguments)


def test_covers_are_worked_out_again_only_when_their_lines_change(boxed):
    covers = Covers(boxed.job, boxed.shapes)
    first = covers.now()
    boxed.pull((10, 80), (50, 80), part="Hill")
    assert list(covers.now().values()) == list(first.values())
    boxed.do("delete", lines=[boxed.box])
    assert covers.now() == {}


# Older files


def old_file(tmp_path):
    path = tmp_path / "schema-1.stride"
    path.write_bytes(gzip.decompress((OLD / "schema-1.stride.gz").read_bytes()))
    return path


def test_a_file_of_the_first_schema_is_read_without_being_touched(tmp_path):
    path = old_file(tmp_path)
    before = path.read_bytes()
    with opened(path) as (job, _):
        assert [part.cover for part in job.parts()] == [False, False]
        assert job.history.undo_count() == 3
    assert path.read_bytes() == before


def test_it_is_brought_up_to_date_on_a_copy_and_undoes_to_the_empty_job(tmp_path):
    path = old_file(tmp_path)
    before = path.read_bytes()
    with opened(path, write=True) as (job, store):
        kept = tmp_path / "schema-1 schema 1.stride"
        assert kept.read_bytes() == before
        while commit := job.undo():
            store.commit(commit)
        for _ in range(3):
            store.commit(job.redo())
    with opened(path) as (job, store):
        assert store.schema == SCHEMA_VERSION and [part.name for part in job.parts()] == ["Gate", "Wall"]
        assert len(Shapes(job, store).visible()) == 2
    assert sqlite3.connect(path).execute("PRAGMA integrity_check").fetchone() == ("ok",)


def test_bringing_up_to_date_that_fails_leaves_the_old_file(tmp_path, monkeypatch):
    path = old_file(tmp_path)
    before = path.read_bytes()

    def no_room(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(shutil, "copy2", no_room)
    with pytest.raises(JobError, match="stays as it was"):
        open_store(path, write=True)
    assert path.read_bytes() == before
    assert sorted(p.name for p in tmp_path.iterdir()) == ["schema-1.stride"]


# Marks, and forgetting


def test_what_came_before_a_mark_is_forgotten_with_what_nothing_needs(open_job, capsys):
    gone = open_job.pull((10, 10), (100, 10))
    open_job.do("delete", lines=[gone])
    kept = open_job.pull((10, 20), (100, 20))
    path, before = open_job.path, open_job.job.rows
    open_job.store.close()
    assert cli.main(["history", str(path), "--mark", "Half way"]) == 0
    with opened(path) as (job, _):
        assert len(job.blobs.known("pulls")) == 2
    with opened(path, write=True) as (job, store):
        from plain_stride.job.changes import make

        store.commit(make(job, Shapes(job), "part", {"name": "Later"}).commit)
    assert cli.main(["history", str(path), "--forget", "Half way"]) == 0
    told = json.loads(capsys.readouterr().out.splitlines()[-1])
    assert told["undo"] == 1 and told["marks"] == [{"name": "Half way", "step": 0}]
    with opened(path, write=True) as (job, store):
        assert len(job.blobs.known("pulls")) == 1 and list(job.rows.lines) == [kept]
        store.commit(job.undo())
        assert job.rows.lines == before.lines and job.undo() is None
        store.commit(job.redo())
        assert job.part_named("Later") is not None


def test_a_mark_that_is_not_behind_the_job_forgets_nothing(open_job):
    open_job.pull((10, 10), (100, 10))
    open_job.store.mark("There", open_job.job.history.set_mark("There"))
    open_job.undo()
    open_job.pull((10, 30), (100, 30))
    for name, words in (("There", "go there first"), ("Nowhere", "no mark 'Nowhere'; there are: There")):
        with pytest.raises(JobError, match=words):
            open_job.job.history.may_forget(name)
    assert len(open_job.job.history.steps) == 2
    with pytest.raises(JobError, match="1 to 200"):
        open_job.job.history.set_mark(" ")


def test_a_covers_edge_is_a_line_that_is_bent_and_becomes_the_cover_again(open_job):
    ring = open_job.do("draw", shape="ellipse", points=[[50, 40], [70, 55]], part="Moon", role="outer")
    open_job.do("cover", name="Moon", on=True)
    (edge,) = open_job.do("cover-edges", name="Moon")
    open_job.do("push", lines=[edge], path=[[70, 40], [76, 40]], reach=12)
    open_job.do("cover-of", name="Moon", lines=[edge])
    now = Covers(open_job.job, open_job.shapes).of(open_job.job.part_named("Moon").id)
    assert now.area.contains(shapely.Point(74, 40))
    inside = shapely.Polygon(open_job.shapes[edge].flat[0])
    assert now.area.symmetric_difference(inside).area < 0.5
    open_line = open_job.pull((0, 0), (20, 0))
    for arguments, words in (({"name": "Moon", "lines": [open_line]}, "no closed line"),):
        with pytest.raises(JobError, match=words):
            open_job.do("cover-of", **arguments)
    with pytest.raises(JobError, match="no cover"):
        open_job.do("cover-edges", name="Lines")
    assert ring in open_job.job.rows.lines
