"""Kills processes that pull lines, at random moments: python -m tests.bad_days.killing FOLDER WINDOWS BARE SEED.

Each run is a fork of this process, which has everything imported: some with the real window and real pen events, some
with the change and its commit alone. What a run announced as saved comes through a pipe. Prints JSON: one list of
[announced, kept, undone to nothing] for each run.
"""

import itertools
import json
import os
import signal
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from plain_stride.board.page import Page
from plain_stride.desk.main_window import MainWindow
from plain_stride.desk.player import PenPlayer, on_glass
from plain_stride.desk.settings import Settings
from plain_stride.desk.start import application
from plain_stride.hand.pull import Pull
from plain_stride.job.changes import make
from plain_stride.job.job_files import new_job, opened
from plain_stride.job.shapes import Shapes
from tests.conftest import samples_along

Tell = Callable[[object], None]


def wave(n: int) -> np.ndarray:
    y = 4 + (n * 7) % 80
    return samples_along([(8, y), (60, y + 6), (112, y)], 0.05, 60)


def window(path: Path, tell: Tell) -> None:
    application()
    main_window = MainWindow(path, Settings())
    main_window.resize(1100, 720)
    main_window.show()
    QTest.qWaitForWindowExposed(main_window)
    writer, lines = main_window.session.document.writer, main_window.session.job.rows.lines
    writer.saved.connect(lambda waiting: tell(sorted(lines)) if not waiting else None)
    for n in itertools.count():
        rows = on_glass(wave(n), main_window.desk.sheet.view.to_glass)
        PenPlayer(main_window.desk.sheet).play(rows, by_clock=True, between=QApplication.processEvents)
        time.sleep(0.002)


def bare(path: Path, tell: Tell) -> None:
    with opened(path, write=True) as (job, store):
        shapes, nib = Shapes(job), job.nibs()["3"]
        for n in itertools.count():
            store.commit(make(job, shapes, "pull", {"pull": Pull(wave(n), nib)}).commit)
            tell(sorted(job.rows.lines))


def killed(work: Callable[[Path, Tell], None], path: Path, heard: int, share: float) -> list[str]:
    """Lets work begin in a child and kills it after some announcements; gives what was announced last.

    It is killed a share (0..1) of the time that the last one took after it was heard: a share, as a commit takes 2 ms
    on one disk and 80 on another.
    """
    new_job(path, Page((120.0, 90.0), 300.0))
    out, into = os.pipe()
    child = os.fork()
    if not child:
        os.close(out)
        with os.fdopen(into, "w") as pipe:
            work(path, lambda said: print(json.dumps(said), file=pipe, flush=True))
        os._exit(0)
    os.close(into)
    with os.fdopen(out) as pipe:
        said, before, now = "", time.monotonic(), time.monotonic()
        for _ in range(heard):
            said += pipe.readline()
            before, now = now, time.monotonic()
        time.sleep(share * (now - before))
        os.kill(child, signal.SIGKILL)
        said = (said + pipe.read()).splitlines()
    os.waitpid(child, 0)
    whole = [line for line in said if line.endswith("]")]
    return json.loads(whole[-1])


def looked_into(path: Path, announced: list[str]) -> tuple[int, int, bool]:
    with opened(path, write=True) as (job, store):
        kept = len(set(announced) & set(job.rows.lines))
        while commit := job.undo():
            store.commit(commit)
    with opened(path) as (job, _):
        return len(announced), kept, not job.rows.lines


def main() -> None:
    folder, windows, bares, seed = Path(sys.argv[1]), *map(int, sys.argv[2:])
    rng = np.random.default_rng(seed)
    told = []
    for n, work in enumerate([window] * windows + [bare] * bares):
        path = folder / f"k{n}.stride"
        told.append(looked_into(path, killed(work, path, int(rng.integers(1, 6)), float(rng.uniform()))))
        path.unlink()
    print(json.dumps(told))


if __name__ == "__main__":
    main()
