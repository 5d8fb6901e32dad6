"""The file that keeps a job: an SQLite database, one transaction for each change, one writer at a time."""

import os
import sqlite3
from collections.abc import Callable, Iterable
from contextlib import closing, suppress
from pathlib import Path
from typing import Any, TypeVar

from plain_stride.job.checking import (
    MOST_FIT,
    MOST_FITS,
    json_of,
    past_record,
    record_of,
)
from plain_stride.job.commit import Commit, Forgetting, Whole, now
from plain_stride.job.connecting import Stat, facts_of, identity_of, reading, writing
from plain_stride.job.creating import create_store, write_commit
from plain_stride.job.errors import JobError, OverwrittenError, job_error
from plain_stride.job.history import RowChange, Step
from plain_stride.job.kept import KEPT_ROWS, checked_rows
from plain_stride.job.records import RECORDS, written_json
from plain_stride.job.whole_files import free, give_name, part_beside, put_in_place, why
from plain_stride.job.writer_lock import WriterLock

T = TypeVar("T")


class Store:
    """An open job file. Made by `opening.open_store`; usable from one thread at a time.

    Between commits its write-ahead log is folded into the file as soon as `rest` is called, so that a file that takes
    its place never finds another's log beside it.
    """

    def __init__(
        self, path: Path, db: sqlite3.Connection, lock: WriterLock | None, schema: int, before: Stat | None
    ) -> None:
        """before: what is known of a file that is read without its log, from before it was read."""
        self.path, self.schema = path, schema
        self._db, self._lock, self._still = db, lock, before is not None
        self._file, self._left = identity_of(path), before or facts_of(path)

    @property
    def writable(self) -> bool:
        """Whether it was opened for writing."""
        return self._lock is not None

    def settled(self) -> bool:
        """Whether all that was read belongs together: a file that is read without its log was not written meanwhile.
        Where it was, what is read from now on is; then all is to be read anew."""
        if not self._still or self._left == facts_of(self.path):
            return True
        self._db.close()
        self._db, self._still = reading(self.path), False
        self._db.execute("BEGIN")
        return False

    def rows(self, table: str) -> dict[str, Any]:
        """All rows of a changing table by id, as records. Raises DamagedError."""
        columns = RECORDS[table].columns()
        found = self._read(f"SELECT id, {', '.join(columns)} FROM {table} ORDER BY rowid")
        out = {}
        for key, *values in found:
            row = {
                name: json_of(v) if how.kind == "json" and v is not None else v
                for (name, how), v in zip(columns.items(), values, strict=True)
            }
            out[key] = record_of(table, key, row)
        return out

    def kept_rows(self, table: str) -> dict[str, Any]:
        """All rows of a table that never changes, by id. Raises DamagedError."""
        return checked_rows(table, self._read(f"SELECT {', '.join(KEPT_ROWS[table].names())} FROM {table}"))

    def image_bytes(self, key: str) -> bytes:
        """The bytes of a scan as they came. Raises JobError."""
        found = self._read("SELECT bytes FROM images WHERE id = ?", [key])
        if not self.settled():
            found = self._read("SELECT bytes FROM images WHERE id = ?", [key])
        if not found or not isinstance(found[0][0], bytes):
            raise JobError(f"{self.path.name} is damaged (a scan is missing): it was not touched; open a copy of it")
        return found[0][0]

    def image_keys(self) -> list[str]:
        """Keys of all scans."""
        return [str(row[0]) for row in self._read("SELECT id FROM images")]

    def state(self) -> dict[str, str]:
        """What is kept beside rows: head and next among it."""
        return dict(self._read("SELECT key, value FROM state"))

    def fits(self, version: int) -> list[tuple[Any, ...]]:
        """Kept results that can be used; none where they are more than any job keeps: they are a cache."""
        sizes = "COALESCE(SUM(LENGTH(curve) + LENGTH(track)), 0)"
        if self._read(f"SELECT {sizes} FROM fits WHERE version = ?", [version])[0][0] > MOST_FITS:
            return []
        return self._read(
            "SELECT pull, school, leeway, curve, track, figures FROM fits WHERE version = ?"
            " AND typeof(curve) = 'blob' AND typeof(track) = 'blob' AND typeof(figures) = 'blob'"
            " AND LENGTH(curve) BETWEEN 64 AND ? AND LENGTH(curve) % 64 = 0"
            " AND LENGTH(track) BETWEEN 48 AND ? AND LENGTH(track) % 24 = 0 AND LENGTH(figures) = 24",
            [version, MOST_FIT, MOST_FIT],
        )

    def steps(self) -> dict[int, Step]:
        """The history. Raises DamagedError."""
        rows: dict[int, list[RowChange]] = {}
        for step, table, row, before, after in self._read(
            "SELECT step, tbl, row, before, after FROM step_rows ORDER BY step, seq"
        ):
            change = RowChange(table, row, past_record(table, row, before), past_record(table, row, after))
            rows.setdefault(step, []).append(change)
        found = self._read("SELECT id, parent, name, words, args, made FROM steps")
        return {r[0]: Step(r[0], r[1], r[2], r[3], r[4], r[5], tuple(rows.get(r[0], ()))) for r in found}

    def commit(self, what: Commit) -> bool:
        """Puts a change on disk; returns when it is durable. Raises JobError, with nothing written.

        When the file has been deleted, moved or replaced meanwhile, the job is first put back whole: under its name,
        or, where that is taken now, under another beside it, which `path` then tells. Gives whether that was so.
        Raises OverwrittenError where another program has written into it: then only memory holds this job.
        """
        self._may_write()
        gone = identity_of(self.path) != self._file
        if gone:
            self._put_back()
        elif facts_of(self.path) != self._left:
            raise OverwrittenError(
                f"another program has written into {self.path.name} while it was open: nothing was written to it"
            )

        def write() -> None:
            with self._db:
                self._db.execute("BEGIN IMMEDIATE")
                write_commit(self._db, what)

        try:
            self._guarded(write)
        finally:
            self._left = facts_of(self.path)
        return gone

    def rest(self) -> None:
        """Folds the write-ahead log into the file, where it is still this job's. Never raises."""
        if self.writable and identity_of(self.path) == self._file and facts_of(self.path) == self._left:
            with suppress(sqlite3.Error):
                self._db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            self._left = facts_of(self.path)

    def _may_write(self) -> None:
        if not self.writable:
            raise JobError(f"{self.path.name} is open for reading only: nothing was written")

    def save_copy(self, to: Path) -> None:
        """A complete copy of the job under another name, by SQLite's own backup. Refuses to overwrite."""
        free(to)
        put_in_place(to, self._back_up)

    def _back_up(self, part: Path) -> None:
        with closing(sqlite3.connect(part)) as copy:
            self._db.backup(copy)

    def pack(self) -> None:
        """Gives back the room that deleted and replaced rows took; nothing of the job or its history changes."""

        def write() -> None:
            self._db.execute("VACUUM")
            self._db.execute("PRAGMA wal_checkpoint(TRUNCATE)")

        self._may_write()
        self._guarded(write)
        self._left = facts_of(self.path)

    def marks(self) -> dict[str, int]:
        """Steps by the names of their marks, in the order in which they were set."""
        return dict(self._read("SELECT name, step FROM marks ORDER BY rowid"))

    def mark(self, name: str, step: int) -> None:
        """Gives a moment of the history a name; a name that is there moves to it."""
        self._changed([("INSERT OR REPLACE INTO marks VALUES (?, ?, ?)", [(name, step, now())])])

    def delivered(self) -> list[tuple[str, str, int, str]]:
        """(name, made, step, manifest as JSON) of all deliveries that were made, in their order."""
        rows = self._read("SELECT name, made, step, manifest FROM delivered ORDER BY id")
        return [(name, made, step, text) for name, made, step, text in rows]

    def add_delivered(self, name: str, step: int, manifest: dict[str, Any]) -> None:
        """Notes a delivery that was made. It is no part of the history."""
        row = (now(), name, step, written_json(manifest))
        self._changed([("INSERT INTO delivered (made, name, step, manifest) VALUES (?, ?, ?, ?)", [row])])

    def forget(self, forgetting: Forgetting) -> None:
        """Takes away steps of the history, and what nothing that is left needs: the history begins at a later one. One
        transaction; it cannot be taken back. Raises JobError, nothing forgotten, for a damaged file."""
        if self._read("PRAGMA quick_check(1)")[0][0] != "ok":
            raise JobError(f"{self.path.name} is damaged: it was not touched; open a copy of it")
        first = (str(forgetting.first),)
        numbers: list[tuple[object, ...]] = [(n,) for n in forgetting.steps]
        work: list[tuple[str, list[tuple[object, ...]]]] = [
            ("DELETE FROM step_rows WHERE step = ?", numbers),
            ("DELETE FROM marks WHERE name = ?", [(name,) for name in forgetting.marks]),
            ("DELETE FROM steps WHERE id = ?", numbers),
            ("UPDATE steps SET parent = 0 WHERE parent = ?", [first]),
            ("UPDATE marks SET step = 0 WHERE step = ?", [first]),
            ("UPDATE state SET value = '0' WHERE key = 'head' AND value = ?", [first]),
        ]
        work += [(f"DELETE FROM {table} WHERE id = ?", [(key,) for key in keys])
                 for table, keys in forgetting.kept.items()]  # fmt: skip
        work.append(("DELETE FROM fits WHERE pull NOT IN (SELECT id FROM pulls)", [()]))
        self._changed(work)

    def _changed(self, statements: list[tuple[str, list[tuple[object, ...]]]]) -> None:
        self._may_write()

        def write() -> None:
            with self._db:
                self._db.execute("BEGIN IMMEDIATE")
                for statement, values in statements:
                    self._db.executemany(statement, values)

        self._guarded(write)
        self._left = facts_of(self.path)

    def sizes(self) -> tuple[int, int]:
        """(bytes of the file, bytes of it that the history takes)."""
        pages, size = (self._read(f"PRAGMA {name}")[0][0] for name in ("page_count", "page_size"))
        history = self._read(
            "SELECT COALESCE(SUM(COALESCE(LENGTH(before), 0) + COALESCE(LENGTH(after), 0)), 0) FROM step_rows"
        )
        return pages * size, int(history[0][0])

    def _put_back(self) -> None:
        """Writes the job whole beside where it lay, and goes on there. The old file's log is folded into it and gone
        before another file can have its name."""
        with part_beside(self.path) as part:
            try:
                part.unlink()
                self._back_up(part)
                to = beside(self.path) if os.path.lexists(self.path) else self.path
                lock = WriterLock.take(to) if to != self.path else self._lock
                self._db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
                give_name(part, to)
            except sqlite3.Error as fault:
                raise job_error(self.path, fault) from None
            except OSError as fault:
                raise JobError(f"{self.path.name} cannot be written there: {why(fault)}") from None
        self._go_on(to, lock)

    def go_on_as(self, path: Path, whole: Whole) -> None:
        """Writes all of a job to a new file and goes on there: for a job that only memory holds any more. Raises
        JobError; then all stays as it was."""
        create_store(path, whole)
        self._go_on(path, WriterLock.take(path))

    def _go_on(self, path: Path, lock: WriterLock | None) -> None:
        with suppress(sqlite3.Error):
            self._db.close()
        if lock is not self._lock and self._lock is not None:
            self._lock.release()
        self.path, self._lock = path, lock
        self._db = writing(path)
        self._file, self._left = identity_of(path), facts_of(path)

    def close(self) -> None:
        """Folds the write-ahead log into the file and lets go of the lock."""
        self.rest()
        with suppress(sqlite3.Error):
            self._db.close()
        if self._lock is not None:
            self._lock.release()
            self._lock = None

    def _read(self, sql: str, values: Iterable[object] = ()) -> list[tuple[Any, ...]]:
        return self._guarded(lambda: self._db.execute(sql, list(values)).fetchall())

    def _guarded(self, work: Callable[[], T]) -> T:
        try:
            return work()
        except (sqlite3.Error, OverflowError, UnicodeError) as fault:
            raise job_error(self.path, fault) from None


def beside(path: Path) -> Path:
    """A free name beside a job whose own is taken."""
    names = (path.with_stem(f"{path.stem[:200]} kept {n}") for n in range(1, 10_000))
    return next(p for p in names if not os.path.lexists(p))
