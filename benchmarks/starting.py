"""From starting the program to the first painted window, on the demo job."""

import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from PySide6.QtCore import QEvent

from benchmarks.idle import counted
from plain_stride.demo.job import make_demo
from tests.virtual_display import virtual_display

MOST_S, RUNS = 1.0, 7


def main() -> None:
    with tempfile.TemporaryDirectory() as folder, virtual_display() as env:
        job = Path(folder) / "demo.stride"
        make_demo(job)
        once(job, env)
        spent, idle, thrown = counted(lambda: [once(job, env) for _ in range(RUNS)])
    print(f"  first painted window: median {np.median(spent):.2f} s, worst {max(spent):.2f} s (<= {MOST_S});"
          f" {idle.words()}; runs thrown away: {thrown}", flush=True)  # fmt: skip


def once(job: Path, env: dict[str, str]) -> float:
    """Seconds from the start of the process to the end of the first flush."""
    # As on a user's machine: the modules' bytecode is kept (a run before the ones that count writes it).
    env = {key: value for key, value in env.items() if key != "PYTHONDONTWRITEBYTECODE"}
    begun = time.perf_counter()
    done = subprocess.run(
        [sys.executable, "-m", "benchmarks.starting", str(job)], env=env, check=True, capture_output=True, text=True
    )
    return float(done.stdout) - begun


def _open(job: str) -> None:
    """Opens the job as `plain-stride open` does; tells when the first frame was out and ends."""
    from plain_stride import cli
    from plain_stride.desk.main_window import MainWindow

    first = MainWindow.event

    def watched(main_window: MainWindow, event: QEvent) -> bool:
        done = first(main_window, event)
        if event.type() == event.Type.UpdateRequest:
            print(time.perf_counter(), flush=True)
            main_window.close()
        return done

    MainWindow.event = watched  # type: ignore[method-assign]
    cli.main(["open", job])


if __name__ == "__main__":
    _open(sys.argv[1])
