"""What was done in all jobs of a folder, summed up once for each state of each: a cache, safe to delete.

A job is looked at again when its file is another (size and time); a year of jobs is then a few rows.
"""

import json
import sqlite3
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing, contextmanager
from datetime import datetime
from pathlib import Path
from typing import Any

from plain_stride.errors import StrideError
from plain_stride.job.diary import log_json
from plain_stride.job.job_files import opened
from plain_stride.job.serving import StoppedError
from plain_stride.job.worked import worked
from plain_stride.order.pauses import PAUSE_S

VERSION = 2
_TABLES = (
    "CREATE TABLE jobs (path TEXT PRIMARY KEY, stamp TEXT NOT NULL, told TEXT NOT NULL)",
    "CREATE TABLE sittings (path TEXT NOT NULL, n INTEGER NOT NULL, begun REAL NOT NULL, told TEXT NOT NULL,"
    " PRIMARY KEY (path, n))",
    "CREATE INDEX by_time ON sittings (begun)",
)


class Ledger:
    """An open ledger."""

    def __init__(self, db: sqlite3.Connection, pause: float) -> None:
        self._db, self._pause = db, pause

    def look_at(self, paths: Sequence[Path], progress: Callable[[float], bool] = lambda share: True) -> list[str]:
        """Sums up jobs that are others than when they were last looked at; gives sentences of those that cannot be
        opened. Raises StoppedError where progress says so: what was summed up is kept."""
        faults = []
        for n, path in enumerate(paths, 1):
            try:
                self._look(path)
            except StrideError as fault:
                faults.append(f"{path.name}: {fault}")
            if not progress(n / len(paths)):
                raise StoppedError("stopped: no log was written")
        return faults

    def _look(self, path: Path) -> None:
        key, stamp = str(path.resolve()), _stamp(path, self._pause)
        row = self._db.execute("SELECT stamp FROM jobs WHERE path = ?", [key]).fetchone()
        if row is not None and row[0] == stamp:
            return
        with opened(path) as (job, _):
            told = log_json(job, worked(job, self._pause))
        self.keep(key, stamp, told)

    def keep(self, key: str, stamp: str, told: dict[str, Any]) -> None:
        """Keeps what a job comes to, in place of what was kept of it."""
        sittings = told["sittings"]
        whole = {name: value for name, value in told.items() if name != "sittings"}
        with self._db:
            for table in ("jobs", "sittings"):
                self._db.execute(f"DELETE FROM {table} WHERE path = ?", [key])
            self._db.execute("INSERT INTO jobs VALUES (?, ?, ?)", (key, stamp, json.dumps(whole)))
            self._db.executemany(
                "INSERT INTO sittings VALUES (?, ?, ?, ?)",
                [(key, n, _epoch(one["begun"]), json.dumps(one)) for n, one in enumerate(sittings)],
            )

    def between(self, begin: datetime, end: datetime, paths: Sequence[Path] = ()) -> list[dict[str, Any]]:
        """Sittings that began in a stretch of time, in order, each with its job's name; of some jobs where these are
        named."""
        rows = self._db.execute("SELECT path, told FROM sittings WHERE begun >= ? AND begun < ? ORDER BY begun",
                                [begin.timestamp(), end.timestamp()])  # fmt: skip
        wanted = {str(path.resolve()) for path in paths}
        return [{"job": Path(path).stem, **json.loads(told)} for path, told in rows if not wanted or path in wanted]

    def jobs(self, paths: Sequence[Path]) -> list[dict[str, Any]]:
        """What each job comes to, without its sittings."""
        out = []
        for path in paths:
            row = self._db.execute("SELECT told FROM jobs WHERE path = ?", [str(path.resolve())]).fetchone()
            if row is not None:
                out.append(json.loads(row[0]))
        return out


@contextmanager
def ledger(path: Path, pause: float = PAUSE_S) -> Iterator[Ledger]:
    """The ledger of a file, made anew where it is damaged or of another version: all of it can be worked out again.
    pause: seconds that do not count as work. Raises StrideError where it cannot be written."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with closing(_usable(path)) as db:
            yield Ledger(db, pause)
    except (OSError, sqlite3.Error) as fault:
        raise StrideError(f"the ledger of jobs cannot be kept ({fault}): the jobs are untouched") from None


def _usable(path: Path) -> sqlite3.Connection:
    for _ in range(2):
        db = sqlite3.connect(path, timeout=5.0)
        try:
            if db.execute("PRAGMA user_version").fetchone()[0] == VERSION:
                return db
            if not db.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]:
                with db:
                    db.execute("BEGIN")
                    for sql in (*_TABLES, f"PRAGMA user_version = {VERSION}"):
                        db.execute(sql)
                return db
        except sqlite3.DatabaseError:
            pass
        db.close()
        path.unlink(missing_ok=True)
    raise sqlite3.DatabaseError("its place cannot be used")


def _stamp(path: Path, pause: float) -> str:
    """What sums of a job depend on: its file, what counts as a pause, and the zone that its days are told in."""
    try:
        facts = path.stat()
    except OSError as fault:
        raise StrideError(f"it cannot be read: {fault.strerror}") from None
    return f"{facts.st_size} {facts.st_mtime_ns} {pause:g} {datetime.now().astimezone().tzname()}"


def _epoch(told: str) -> float:
    return datetime.fromisoformat(told).timestamp()
