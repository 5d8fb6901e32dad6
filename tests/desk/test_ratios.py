"""Screens of 1.25, 1.5 and 2 device pixels: the sheet is painted in the screen's own pixels, and shown as it is."""

import json
import os
import subprocess
import sys

import pytest

from plain_stride.board.page import Page
from plain_stride.job.job_files import new_job


@pytest.mark.parametrize("ratio", [1.0, 1.25, 1.5, 2.0])
def test_the_sheet_is_shown_pixel_for_pixel(tmp_path, ratio):
    new_job(tmp_path / "x.stride", Page((120.0, 90.0), 300.0))
    done = subprocess.run(
        [sys.executable, "-m", "tests.desk.scaled_window", str(tmp_path / "x.stride")],
        env={**os.environ, "QT_SCALE_FACTOR": str(ratio)}, capture_output=True, text=True, timeout=90,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    seen = json.loads(done.stdout)
    assert seen["ratio"] == ratio and seen["lines"] == 3
    assert seen["pixels"] == pytest.approx([ratio, ratio], abs=0.003)
    assert seen["mended"] <= 2
    assert seen["shown otherwise"] < 0.002
    assert seen["ink"] > 1500 * ratio
