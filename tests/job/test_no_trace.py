"""A step that fails leaves no trace: no row, no id given twice, nothing worked out under an id that went; nor does what
the history has forgotten."""

import json

import numpy as np
import pytest

from plain_stride import cli
from plain_stride.hand.pull import Pull
from plain_stride.job import shape_changes
from plain_stride.job.bundle import bundle_of
from plain_stride.job.changes import make_all
from plain_stride.job.errors import JobError
from plain_stride.job.job_files import opened
from plain_stride.lines.given import form_from_points
from tests.conftest import plain_rows, samples_along


def straight(y: float, n: int = 3):
    half = np.full(n, 0.2)
    return form_from_points(np.column_stack([np.linspace(10, 90, n), np.full(n, y)]), half, half, False)


def test_a_pull_after_a_failed_import_lies_where_it_was_pulled(open_job):
    """Once it lay where the import's line lay: both had the same id, and the shape was kept under it."""
    nib = open_job.job.nibs()["3"]
    wanted = [("pull", {"pull": Pull(samples_along([(10, 80), (110, 80)])), "part": "Lines"}),
              ("line", {"form": straight(70), "nib": nib, "part": "Lines", "tier": "far"})]  # fmt: skip
    with pytest.raises(JobError):
        make_all(open_job.job, open_job.shapes, wanted)
    key = open_job.pull((10, 20), (110, 20))
    assert np.abs(open_job.shapes[key].flat[0][:, 1] - 20).max() < 0.1
    assert len(open_job.shapes.fresh_fits()) == 1
    again = open_job.again()
    assert np.abs(again.shapes[key].flat[0][:, 1] - 20).max() < 0.1


def test_forms_of_a_reshape_that_failed_half_way_are_no_ones(open_job, monkeypatch):
    """It fails on the second of two lines; the next one made straight is itself, not the first."""
    a, b = open_job.pull((10, 10), (60, 14), (110, 10)), open_job.pull((10, 40), (60, 44), (110, 40))
    made, calls = shape_changes.SHAPES["round"], []

    def failing(points):
        calls.append(1)
        if len(calls) == 2:
            raise JobError("cut off")
        return made(points)

    monkeypatch.setitem(shape_changes.SHAPES, "round", failing)
    with pytest.raises(JobError, match="cut off"):
        open_job.do("reshape", lines=[a, b], shape="round")
    open_job.do("reshape", lines=[b], shape="straight")
    assert np.abs(open_job.shapes[b].flat[0][:, 1] - 40).max() < 0.5
    assert open_job.job.fixed_path(open_job.job.rows.lines[b].fixed).curve[0, 0, 1] == pytest.approx(40, abs=0.5)


@pytest.mark.parametrize("fails_at", [1, 2, 3])
def test_ids_are_never_used_twice_whatever_fails(open_job, fails_at):
    given: list[str] = []
    for _ in range(4):
        wanted = [("line", {"form": straight(10.0 * k), "nib": open_job.job.nibs()["3"]}) for k in range(1, 4)]
        wanted.insert(fails_at, ("delete", {"lines": ["nobody"]}))
        with pytest.raises(JobError):
            make_all(open_job.job, open_job.shapes, wanted)
        given.append(open_job.do("line", form=straight(50), nib=open_job.job.nibs()["3"]))
    forms = [open_job.job.rows.lines[key].form for key in given]
    assert len(set(given)) == len(set(forms)) == 4
    assert open_job.job.blobs.known("forms") == forms
    assert {key for _, key in open_job.job.blobs._made} <= {*forms}


def test_an_id_of_another_way_is_not_free_again(open_job, tmp_path):
    open_job.do("line", form=straight(10), nib=open_job.job.nibs()["3"], id="rail")
    open_job.undo()
    assert open_job.do("line", form=straight(20), nib=open_job.job.nibs()["3"], id="rail") != "rail"
    again = open_job.again()
    assert again.do("line", form=straight(30), nib=again.job.nibs()["3"], id="rail") != "rail"


def test_what_is_pasted_after_its_pull_was_forgotten_is_stored(open_job):
    """Copy, delete, mark, forget, paste: the file once lacked the pull, and could not be opened."""
    key = open_job.pull((10, 20), (110, 20))
    bundle = bundle_of(open_job.shapes, [key])
    open_job.do("delete", lines=[key])
    open_job.store.mark("now", open_job.job.history.set_mark("now"))
    forgetting = open_job.job.forgetting("now")
    assert forgetting.kept["pulls"]
    open_job.store.forget(forgetting)
    open_job.job.forget(forgetting)
    (pasted,) = open_job.do("paste", bundle=bundle)
    again = open_job.again()
    assert np.abs(again.shapes[pasted].flat[0][:, 1] - 20).max() < 0.1


def test_forgetting_keeps_in_the_file_what_it_keeps_in_memory(open_job):
    for y in (10, 20, 30):
        open_job.pull((10, y), (110, y))
    open_job.do("delete", lines=[open_job.job.line_ids()[0]])
    open_job.store.mark("now", open_job.job.history.set_mark("now"))
    kept = open_job.pull((10, 60), (110, 60))
    what = open_job.job.forgetting("now")
    open_job.store.forget(what)
    open_job.job.forget(what)
    memory = (
        json.dumps(plain_rows(open_job.job), sort_keys=True),
        sorted(open_job.job.blobs.keys()),
        sorted(open_job.job.history.steps),
    )
    with opened(open_job.path) as (job, _):
        assert (
            json.dumps(plain_rows(job), sort_keys=True),
            sorted(job.blobs.keys()),
            sorted(job.history.steps),
        ) == memory
        assert kept in job.rows.lines


def test_several_steps_back_are_one_commit(open_job, monkeypatch):
    """`undo 5` on a file that cannot be written leaves all five, or none."""
    for y in (10, 20, 30, 40, 50):
        open_job.pull((10, y), (110, y))
    path = open_job.path
    open_job.store.close()
    from plain_stride.job import store

    calls = []
    real = store.write_commit
    monkeypatch.setattr(store, "write_commit", lambda db, what: (calls.append(1), real(db, what)))
    assert cli.main(["undo", str(path), "5"]) == 0
    assert len(calls) == 1
    with opened(path) as (job, _):
        assert job.history.head == 0 and not job.rows.lines and job.history.redo_count() == 5
    assert cli.main(["redo", str(path), "3"]) == 0
    assert len(calls) == 2
    with opened(path) as (job, _):
        assert len(job.rows.lines) == 3


def test_what_cannot_be_told_is_not_laid(open_job, monkeypatch, capsys):
    open_job.pull((10, 10), (110, 10))
    path = open_job.path
    open_job.store.close()
    from plain_stride.job import reports

    monkeypatch.setattr(reports, "weigh", lambda *_: 1 / 0)
    assert cli.main(["weigh", str(path), "--json"]) == 1
    assert "as it was" in capsys.readouterr().err
    with opened(path) as (job, _):
        assert job.plan.share == 0.0 and job.history.undo_count() == 1


def test_a_new_job_whose_pencils_fail_is_not_there(tmp_path, capsys, monkeypatch):
    from plain_stride.job import pencil_changes

    scan = tmp_path / "scan.png"
    from PIL import Image

    Image.new("L", (40, 30), 255).save(scan)
    monkeypatch.setattr(pencil_changes, "placed", lambda *_: 1 / 0)
    command = ["new", str(tmp_path / "x.stride"), "--size", "60x40mm", "--dpi", "150", "--pencils", str(scan)]
    assert cli.main(command) == 1
    assert [p.name for p in tmp_path.iterdir()] == ["scan.png"]


def test_counting_steps_is_linear(open_job):
    """At 3,000 steps each look at the menu once took .7 s: every step was looked at for every step."""
    steps = {}
    for number in range(1, 3001):
        open_job.job.history._children.setdefault(number - 1, []).append(number)
        steps[number] = type("S", (), {"id": number, "parent": number - 1, "rows": ()})()
    looks = []

    class Counting(dict):
        def __getitem__(self, key):
            looks.append(key)
            return super().__getitem__(key)

    open_job.job.history.steps = Counting(steps)
    assert open_job.job.history.redo_count() == 3000
    assert len(looks) <= 3001
