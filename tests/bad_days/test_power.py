"""The process or the machine goes down: nothing announced is lost, no file is found between two states."""

import itertools
import json
import os
import shutil
import struct
import subprocess
import sys

import numpy as np
import pytest

from plain_stride.job.job_files import opened
from plain_stride.job.opening import open_store
from tests.conftest import plain_rows

WINDOWS, BARE = 5, 95
"""Kills of the window, and of commands. Two hundred take a minute and a half, and hold as well."""


def test_100_kills_lose_nothing_that_was_announced(tmp_path):
    done = subprocess.run(
        [sys.executable, "-m", "tests.bad_days.killing", str(tmp_path), str(WINDOWS), str(BARE), "5"],
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"}, capture_output=True, text=True, timeout=800,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    assert len(told) == WINDOWS + BARE
    assert all(kept == announced and undone for announced, kept, undone in told)
    assert len({announced for announced, _, _ in told}) >= 5


# Commits cut off. A commit is written to the write-ahead log, and later from there to the file (SQLite's documentation,
# "The WAL File Format": a header of 32 bytes, then frames of 24 bytes and a page).


def state_of(path):
    with opened(path) as (job, _):
        return (
            json.dumps(plain_rows(job), sort_keys=True),
            job.history.head,
            len(job.history.steps),
            len(job.blobs.known("pulls")),
        )


def copied(base, log, to):
    for end in ("", "-wal", "-shm"):
        to.with_name(to.name + end).unlink(missing_ok=True)
    to.write_bytes(base)
    if log:
        to.with_name(to.name + "-wal").write_bytes(log)
    return to


@pytest.fixture
def commits(open_job, tmp_path):
    """(file, log) after each of several commits of different kinds, with the states that belong to them."""
    open_job.pull((10, 10), (100, 10))
    open_job.store.rest()
    open_job.store._db.execute("PRAGMA wal_autocheckpoint = 0")
    path, seen = open_job.path, []

    def note():
        base, log = path.read_bytes(), path.with_name(path.name + "-wal").read_bytes()
        seen.append((base, log, state_of(copied(base, log, tmp_path / "n.stride"))))

    note()
    key = open_job.pull((10, 20), (100, 30), n=400)
    note()
    open_job.do("swell", line=key, factor=1.5)
    note()
    open_job.undo()
    note()
    open_job.do("part", name="Lines", locked=True)
    note()
    return seen


def test_a_commit_cut_off_at_any_write_is_there_or_not(commits, tmp_path):
    """The log cut at every frame, in the middle of every frame and of its head, and with the rest of it as zeros."""
    cuts = 0
    for (_, before_log, before), (base, log, after) in itertools.pairwise(commits):
        page = struct.unpack(">I", log[8:12])[0]
        start = len(before_log)
        for at in [*range(max(start, 0), len(log) + 1, page + 24), *range(start + 12, len(log), page + 24),
                   *range(start + page // 2, len(log), page + 24)]:  # fmt: skip
            for rest in (b"", bytes(len(log) - at)):
                found = state_of(copied(base, log[:at] + rest, tmp_path / "cut.stride"))
                assert found in (before, after), at
                cuts += 1
    assert cuts > 100


def test_a_log_folded_in_half_way_is_finished_from_the_log(commits, tmp_path):
    """Any number of the log's pages already in the file, the next one torn: what the log says holds."""
    base, log, state = commits[-1]
    page = struct.unpack(">I", log[8:12])[0]
    frames = [log[k : k + page + 24] for k in range(32, len(log), page + 24)]
    file = bytearray(base)
    for frame in frames:
        at = (struct.unpack(">I", frame[:4])[0] - 1) * page
        file += bytes(max(0, at + page - len(file)))
        file[at : at + page // 2] = frame[24 : 24 + page // 2]
        assert state_of(copied(bytes(file), log, tmp_path / "half.stride")) == state
        file[at : at + page] = frame[24:]
    assert state_of(copied(bytes(file), b"", tmp_path / "half.stride")) == state


def test_a_job_that_is_brought_up_to_date_is_old_or_new_at_every_moment(tmp_path, monkeypatch):
    """Cut off before each of the calls that touch the disk."""
    from tests.job.test_job_covers import old_file

    calls = [(os, "fsync"), (shutil, "copy2"), (os, "replace")]
    for module, name in calls:
        path = old_file(tmp_path)

        def cut(*_, **__):
            raise OSError(5, "cut off")

        with monkeypatch.context() as patch:
            patch.setattr(module, name, cut)
            if name == "replace":
                patch.setattr("pathlib.Path.replace", cut)
            with pytest.raises(Exception, match="stays as it was"):
                open_store(path, write=True)
        with opened(path) as (job, _):
            assert len(job.rows.lines) == 2
        for other in tmp_path.iterdir():
            other.unlink()


def test_power_fails_while_a_job_goes_back_to_its_folder(open_job, monkeypatch):
    """The file was deleted; putting it back is cut off; the next commit puts it back whole."""
    open_job.pull((10, 10), (100, 10))
    open_job.path.unlink()
    with monkeypatch.context() as patch:
        patch.setattr(os, "link", lambda *_: (_ for _ in ()).throw(OSError(28, "No space left on device")))
        with pytest.raises(Exception, match="cannot be written"):
            open_job.pull((10, 20), (100, 20))
    assert not open_job.path.exists()
    open_job.store.commit(open_job.job.undo())
    with opened(open_job.path) as (job, _):
        assert np.isfinite(len(job.rows.lines)) and len(job.rows.lines) == 1
