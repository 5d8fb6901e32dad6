"""Pen sample, stamped in another process at 200 Hz by the wall clock, to the flush of the first frame with its ink; and
pen lifted to line durable on disk."""

import json
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np

from benchmarks.big_job import big_job
from benchmarks.idle import counted
from plain_stride.demo.job import make_demo
from tests.virtual_display import virtual_display

SECONDS = 15.0
P95_MS, BUSY_P95_MS, WORST_MS, HELD_MS = 8.0, 12.0, 30.0, 5.0
SCALES = (5, 15, 60)


def main() -> None:
    with tempfile.TemporaryDirectory() as folder, virtual_display() as env:
        job = Path(folder) / "demo.stride"
        make_demo(job)
        report("demo board, fitted, 1280x800", lambda: window_run(job, env, folder), P95_MS)
        report("demo board while the window has its pencils read again and again",
               lambda: window_run(job, env, folder, "--reading"), BUSY_P95_MS)  # fmt: skip
        page = Path(folder) / "page.stride"
        for scale in SCALES:  # each on a fresh copy
            shutil.copy(big_job(), page)
            report(f"5,000 lines, {scale} px/mm", lambda s=scale: window_run(page, env, folder, str(s)), P95_MS)
        report("5,000 lines, 5 px/mm, view rendered anew all the time",
               lambda: window_run(page, env, folder, "5", "--anew"), P95_MS)  # fmt: skip
        with busy_core():
            report("5,000 lines, 5 px/mm, one core busy", lambda: window_run(page, env, folder, "5"), BUSY_P95_MS)


@contextmanager
def busy_core() -> Iterator[None]:
    """A process that keeps one core busy."""
    process = subprocess.Popen([sys.executable, "-c", "while True: pass"])
    try:
        yield
    finally:
        process.kill()
        process.wait()


def window_run(job: Path, env: dict[str, str], folder: str, *more: str) -> dict[str, Any]:
    """One run on the job as it is then; folder: where the window keeps its settings."""
    own = {**env, **{f"XDG_{kind}_HOME": folder for kind in ("CONFIG", "DATA", "STATE")}}
    command = [sys.executable, "-m", "benchmarks.pen_window", str(job), str(SECONDS), *more]
    done = subprocess.run(command, env=own, check=True, capture_output=True, text=True)
    return dict(json.loads(done.stdout))


def report(name: str, work: Callable[[], dict[str, Any]], most_ms: float) -> None:
    """Prints a run's latencies beside how late the machine itself was."""
    result, idle, thrown = counted(work)
    late, stamps = np.array(result["late"]) * 1000.0, np.array(result["stamps"])
    calm = idle.calm(stamps)
    print(f"  {name}: {len(late):,} samples; {_three(late[calm])} ms (p95 <= {most_ms:g}, worst <= {WORST_MS:g});"
          f" {(~calm).sum()} samples near a late idle tick apart: {_three(late[~calm])}")  # fmt: skip
    held, durable, told = (np.array(result[key]) * 1000.0 for key in ("held", "durable", "told"))
    calm = idle.calm(np.array(result["lifts"]))
    print(f"    {len(held)} lifts: window's thread held {_three(held)} ms"
          f" (p95 <= {HELD_MS:g}), on calm ticks {_three(held[calm])}; durable after {_three(durable)} ms,"
          f" told after {_three(told)} ms")  # fmt: skip
    print(f"    sent {result['sent']:,}, stored {result['stored']:,}; CPU {result['cpu'] * 1000:.2f} ms a sample;"
          f" {idle.words()}; runs thrown away: {thrown}", flush=True)  # fmt: skip


def _three(ms: np.ndarray) -> str:
    if not len(ms):
        return "none"
    p50, p95, worst = np.percentile(ms, (50, 95, 100))
    return f"p50 {p50:.1f}, p95 {p95:.1f}, worst {worst:.1f}"
