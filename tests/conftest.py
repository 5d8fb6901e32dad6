"""Every test has folders of its own for settings, data and logs, and no display."""

import fcntl
import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from pathlib import Path

import numpy as np
import pytest
from hypothesis import settings

from plain_stride.board.page import Page
from plain_stride.compiled.ready import cache_folder, is_warm, load_if_compiled
from plain_stride.demo.job import make_demo
from plain_stride.hand.pull import Pull
from plain_stride.job.changes import make
from plain_stride.job.job import Job
from plain_stride.job.job_files import load, new_job
from plain_stride.job.opening import open_store
from plain_stride.job.records import RECORDS
from plain_stride.job.shapes import Shapes
from plain_stride.job.store import Store

# Speed is measured in benchmarks: a busy machine fails no property.
settings.register_profile("ours", deadline=None)
settings.load_profile("ours")

# The loops that the set-up compiled serve the tests as they serve the window (their twins: core/test_compiled.py).
LOOPS = cache_folder() if is_warm() else None
load_if_compiled()


@pytest.fixture(autouse=True)
def own_folders(tmp_path_factory, monkeypatch):
    home = tmp_path_factory.mktemp("home")
    monkeypatch.setenv("HOME", str(home))
    for name in ("CONFIG", "DATA", "STATE", "CACHE"):
        monkeypatch.setenv(f"XDG_{name}_HOME", str(home / name.lower()))
    if LOOPS is not None:
        cache_folder().parent.mkdir(parents=True)
        cache_folder().symlink_to(LOOPS)


class OpenJob:
    """A job with its file open for writing; `do` makes a change and writes it."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.store: Store = open_store(path, write=True)
        self.job: Job = load(self.store)
        self.shapes = Shapes(self.job, self.store)

    def do(self, change: str, /, **arguments):
        made = make(self.job, self.shapes, change, arguments)
        if made.commit is not None:
            self.store.commit(made.commit)
        return made.results[0]

    def pull(self, *points, part="Lines", role="inner", pressure=0.5, seconds=1.0, n=160, **more):
        return self.do("pull", pull=Pull(samples_along(points, seconds, n, pressure)), part=part, role=role, **more)

    def undo(self):
        commit = self.job.undo()
        if commit is not None:
            self.store.commit(commit)

    def redo(self):
        commit = self.job.redo()
        if commit is not None:
            self.store.commit(commit)

    def again(self) -> "OpenJob":
        """Closed and opened anew, as after a restart."""
        self.store.close()
        self.__init__(self.path)  # type: ignore[misc]
        return self


def samples_along(points, seconds=1.0, n=160, pressure=0.5) -> np.ndarray:
    """Samples (n, 5) of a minimum-jerk movement along a polyline."""
    p = np.asarray(points, float)
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
    u = np.linspace(0.0, 1.0, n)
    at = s[-1] * u**3 * (10 - 15 * u + 6 * u * u)
    xy = np.column_stack([np.interp(at, s, p[:, k]) for k in (0, 1)])
    return np.column_stack([xy, np.full(n, pressure), u * seconds, np.full(n, np.nan)])


@pytest.fixture(scope="session")
def drawn_demo(tmp_path_factory) -> Path:
    """The demo, drawn once for all tests, however many processes run them: to be copied, or read."""
    base = tmp_path_factory.getbasetemp()
    path = (base.parent if "PYTEST_XDIST_WORKER" in os.environ else base) / "the demo" / "Lock keeper.stride"
    path.parent.mkdir(exist_ok=True)
    with open(path.with_suffix(".lock"), "w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not path.exists():
            make_demo(path)
    return path


@pytest.fixture
def job_path(tmp_path) -> Path:
    path = tmp_path / "board.stride"
    new_job(path, Page((120.0, 90.0), 300.0))
    return path


@pytest.fixture
def open_job(job_path):
    opened = OpenJob(job_path)
    yield opened
    opened.store.close()


def plain_rows(job):
    """All rows of a job that change as plain data."""
    return {table: {key: row.plain() for key, row in job.rows.of(table).items()} for table in RECORDS}
