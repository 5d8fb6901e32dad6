"""A full board in the real window: opening, memory, frames of turning, enlarging and moving, changes."""

import json
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

import numpy as np

from benchmarks.big_job import big_job
from benchmarks.idle import counted
from tests.virtual_display import virtual_display

OPEN_S, MEMORY_MB, FRAMES_A_S, CHANGE_MS = 1.5, 600, 30, 16


def main() -> None:
    with tempfile.TemporaryDirectory() as folder, virtual_display() as env:
        told, idle, thrown = counted(lambda: once(folder, env))
    opened = told["open"]
    mb = {key: opened[key] / 1e6 for key in ("before", "after")}
    print(f"  opened: first frame after {opened['first']:.2f} s (<= {OPEN_S}), whole after {opened['whole']:.2f} s;"
          f" memory {mb['after']:.0f} MB (<= {MEMORY_MB}), {mb['before']:.0f} MB before")  # fmt: skip
    for scale, ways in told["frames"].items():
        for way, spent in ways.items():
            p50, p95, worst = np.percentile(spent, (50, 95, 100)) * 1000.0
            print(f"  {way} at {scale} px/mm: frame p50 {p50:.1f}, p95 {p95:.1f}, worst {worst:.1f} ms:"
                  f" {1000.0 / p95:.0f} frames a second at p95 (>= {FRAMES_A_S})")  # fmt: skip
    for what, rows in told["changes"].items():
        stretch, total, whole = np.array(rows).T * 1000.0
        print(f"  line {what}: longest stretch on the window's thread p50 {np.median(stretch):.1f}, worst"
              f" {stretch.max():.1f} ms (<= {CHANGE_MS}); in all {np.median(total):.1f} ms; shown after"
              f" {np.median(whole):.0f} ms (medians)")  # fmt: skip
    print(f"    {idle.words()}; runs thrown away: {thrown}", flush=True)


def once(folder: str, env: dict[str, str]) -> dict[str, Any]:
    page = Path(folder) / "page.stride"
    shutil.copy(big_job(), page)
    page.with_name("small.stride").unlink(missing_ok=True)
    own = {**env, **{f"XDG_{kind}_HOME": folder for kind in ("CONFIG", "DATA", "STATE")}}
    command = [sys.executable, "-m", "benchmarks.board_window", str(page)]
    done = subprocess.run(command, env=own, check=True, capture_output=True, text=True)
    return dict(json.loads(done.stdout))
