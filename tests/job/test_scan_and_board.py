"""The board made as large as a scan, and a scan as large as the board: each undone in one step."""

import numpy as np
import pytest

from plain_stride import cli
from plain_stride.job.board_facts import edges_of
from plain_stride.job.changes import make, make_all
from plain_stride.job.job_files import opened
from plain_stride.job.scan_and_board import board_as_scan, scan_as_board
from plain_stride.job.shapes import Shapes
from plain_stride.pencils.placing import UNIT
from plain_stride.pencils.scanner import SOFT, scan

LINE = [np.array([[10.0, 10.0], [50.0, 30.0]])]


@pytest.fixture
def placed(open_job):
    """A scan of 60 x 40 mm at a place of its own."""
    data = scan(LINE, (60.0, 40.0), 150.0, 1, SOFT)
    key = open_job.do("pencils-add", data=data, name="rough")
    open_job.do("pencils", sheet=key, placed_mm=[7.0, 9.0, 60.0, 40.0])
    return open_job, str(key)


def reach(row):
    left, top, right, bottom = row.placing.crop or (0.0, 0.0, 1.0, 1.0)
    places = row.placing.to_sheet(UNIT * (right - left, bottom - top) + (left, top))
    return [*places.min(axis=0), *places.max(axis=0)]


@pytest.mark.parametrize(("how", "size"), [({}, (60.0, 40.0)), ({"turn": 90.0}, (40.0, 60.0)),
                                           ({"crop": [0.25, 0.0, 0.75, 0.5]}, (30.0, 20.0))])  # fmt: skip
def test_the_board_takes_the_size_of_what_is_kept_of_a_scan(placed, how, size):
    job, key = placed
    if how:
        job.do("pencils", sheet=key, **how)
    steps = len(job.job.history.steps)
    make_all(job.job, job.shapes, board_as_scan(key, job.job.rows.pencils[key]), "board")
    assert job.job.page.size_mm == pytest.approx(size, abs=0.01) and len(job.job.history.steps) == steps + 1
    assert reach(job.job.rows.pencils[key]) == pytest.approx([0.0, 0.0, *size], abs=0.01)
    assert edges_of(job.job).bleed == 0.0


@pytest.mark.parametrize("how", [{}, {"turn": 90.0}, {"turn": 10.0}, {"crop": [0.1, 0.2, 0.6, 0.9]}])
def test_a_scan_is_made_as_large_as_the_board_holds(placed, how):
    job, key = placed
    if how:
        job.do("pencils", sheet=key, **how)
    before = job.job.rows.pencils[key]
    make_all(job.job, job.shapes, scan_as_board(key, before, job.job.page), "pencils")
    row, (w, h) = job.job.rows.pencils[key], job.job.page.size_mm
    x0, y0, x1, y1 = reach(row)
    assert min(x0, y0) >= -0.01 and x1 <= w + 0.01 and y1 <= h + 0.01
    assert x1 - x0 == pytest.approx(w, abs=0.02) or y1 - y0 == pytest.approx(h, abs=0.02)
    assert (x0 + x1) / 2 == pytest.approx(w / 2, abs=0.02) and (y0 + y1) / 2 == pytest.approx(h / 2, abs=0.02)
    assert row.w_mm / row.h_mm == pytest.approx(before.w_mm / before.h_mm, rel=1e-3) and row.turn == before.turn


def test_a_job_is_made_in_pixels(tmp_path, capsys):
    path = tmp_path / "px.stride"
    assert cli.main(["new", str(path), "--size", "2000x1500px", "--dpi", "300"]) == 0
    with opened(path) as (job, _):
        assert job.page.pixels == (2000, 1500)
    for size in ("0x10px", "1000000x1000000px"):
        assert cli.main(["new", str(tmp_path / "bad.stride"), "--size", size, "--dpi", "300"]) == 1
        assert "is not possible" in capsys.readouterr().err and not (tmp_path / "bad.stride").exists()


def test_a_scan_larger_than_any_board_is_refused_and_nothing_changed(placed):
    job, key = placed
    job.do("pencils", sheet=key, placed_mm=[0, 0, 6000, 4000])
    before = job.job.page
    with pytest.raises(Exception, match="is not possible"):
        make_all(job.job, Shapes(job.job), board_as_scan(key, job.job.rows.pencils[key]), "board")
    assert job.job.page == before
    assert make(job.job, job.shapes, "pencils", {"sheet": key, "placed_mm": [0, 0, 60, 40]}).commit is not None
