"""read and trace from the command line: the promises of their JSON, one step of undo, and what cannot be read."""

import io
import json

import numpy as np
import pytest
from PIL import Image

from plain_stride import cli
from plain_stride.errors import StrideError
from plain_stride.job.job_files import opened
from plain_stride.job.pencil_reading import MOST_LINES, draft_changes, read_job, reading_from_json, reading_json
from plain_stride.job.shapes import Shapes
from plain_stride.pencils.scanner import SOFT, scan

CROSS = [np.array([[10.0, 10.0], [70.0, 40.0]]), np.array([[10.0, 40.0], [70.0, 10.0]])]


@pytest.fixture
def job(tmp_path):
    path, picture = tmp_path / "p.stride", tmp_path / "p.png"
    picture.write_bytes(scan(CROSS, (80.0, 50.0), 200.0, 1, SOFT))
    assert cli.main(["new", str(path), "--size", "120x90mm", "--dpi", "300", "--pencils", str(picture)]) == 0
    return path


def told(capsys, *arguments):
    capsys.readouterr()
    assert cli.main([str(a) for a in arguments]) == 0
    return capsys.readouterr().out


def test_read_tells_lines_where_they_lie_on_the_sheet(job, tmp_path, capsys):
    (tmp_path / "e.json").write_text(
        json.dumps({"changes": [{"change": "pencils", "sheet": "s1", "placed_mm": [20, 15, 80, 50]}]})
    )
    assert cli.main(["edit", str(job), str(tmp_path / "e.json")]) == 0
    data = json.loads(told(capsys, "read", job, "--json"))
    assert data["units"] == "mm" and 0.9 < data["ready"] <= 1.0 and data["sentence"]
    assert len(data["lines"]) == 2
    points = np.vstack([line["points"] for line in data["lines"]])
    assert points.min(axis=0) == pytest.approx((30, 25), abs=0.5) and points.max(axis=0) == pytest.approx(
        (90, 55), abs=0.5
    )
    assert all(0.0 <= line["confidence"] <= 1.0 and not line["closed"] for line in data["lines"])


def test_trace_lays_drafts_as_one_step_each_time_in_a_part_of_their_own(job, capsys):
    assert "2 draft lines" in told(capsys, "trace", job)
    assert "'Drafts 2'" in told(capsys, "trace", job)
    with opened(job) as (opened_job, store):
        assert [p.name for p in opened_job.parts()] == ["Drafts", "Drafts 2"]
        assert opened_job.history.undo_count() == 3 and len(opened_job.rows.lines) == 4
        shape = Shapes(opened_job, store)[opened_job.line_ids()[0]]
        assert shape.length == pytest.approx(67, abs=1.5)
        assert shape.widths.full[0] < 0.5 * shape.widths.full.max()
    assert cli.main(["undo", str(job), "2"]) == 0


def test_a_reading_survives_json(job):
    with opened(job) as (opened_job, _):
        reading = read_job(opened_job)
    again = reading_from_json(json.loads(json.dumps(reading_json(reading))))
    assert len(again.lines) == len(reading.lines) and again.sentence == reading.sentence


def test_more_lines_than_a_drawing_has_are_not_laid(job):
    with opened(job) as (opened_job, _):
        reading = read_job(opened_job)
        many = reading.lines * (MOST_LINES // 2 + 1)
        with pytest.raises(StrideError, match="hardly a drawing"):
            draft_changes(opened_job, many)


def test_nothing_to_read_is_told(job, tmp_path, capsys):
    bare = tmp_path / "bare.stride"
    cli.main(["new", str(bare), "--size", "50x50mm", "--dpi", "100"])
    for path, words in ((bare, "no pencils"), (job, "hidden")):
        if path is job:
            (tmp_path / "e.json").write_text(
                json.dumps({"changes": [{"change": "pencils", "sheet": "s1", "hidden": True}]})
            )
            cli.main(["edit", str(job), str(tmp_path / "e.json")])
        for command in ("read", "trace"):
            capsys.readouterr()
            assert cli.main([command, str(path)]) == 1
            assert words in capsys.readouterr().err
    with opened(job) as (opened_job, _):
        assert opened_job.line_ids() == []


@pytest.mark.parametrize("kind", ["blank", "black", "noise"])
def test_pictures_without_lines_are_refused_and_change_nothing(tmp_path, capsys, kind):
    rng = np.random.default_rng(2)
    pixels = {
        "blank": np.full((300, 300), 255),
        "black": np.zeros((300, 300)),
        "noise": rng.integers(0, 256, (300, 300)),
    }[kind]
    out = io.BytesIO()
    Image.fromarray(pixels.astype(np.uint8)).save(out, "PNG", dpi=(200, 200))
    path, picture = tmp_path / "p.stride", tmp_path / "p.png"
    picture.write_bytes(out.getvalue())
    assert cli.main(["new", str(path), "--size", "50x50mm", "--dpi", "100", "--pencils", str(picture)]) == 0
    assert cli.main(["trace", str(path)]) == 1
    said = capsys.readouterr().err
    assert "in this picture" in said or "not look like a drawing" in said
    with opened(path) as (job, _):
        assert job.history.undo_count() == 1
