"""The window once for real: on an X server, through the xcb platform plugin, its pixels read back from the screen."""

import json
import subprocess
import sys

from plain_stride.board.page import Page
from plain_stride.job.job_files import new_job
from tests.virtual_display import virtual_display


def test_the_window_works_on_a_real_display(tmp_path):
    new_job(tmp_path / "x.stride", Page((120.0, 90.0), 300.0))
    with virtual_display() as env:
        done = subprocess.run(
            [sys.executable, "-m", "tests.desk.real_window", str(tmp_path / "x.stride")],
            env=env, capture_output=True, text=True, timeout=90,
        )  # fmt: skip
    assert done.returncode == 0, done.stderr
    seen = json.loads(done.stdout)
    assert seen["platform"] == "xcb"
    assert (seen["lines"], seen["after undo"]) == (2, 1)
    assert seen["ink"] < 60
