"""The file that keeps a job: an SQLite database, one transaction for each change, one writer at a time."""

import fcntl
import json
import os
import shutil
import sqlite3
import struct
import tempfile
import urllib.parse
from collections.abc import Callable, Iterable, Iterator
from contextlib import closing, contextmanager, suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, TypeVar

from plain_stride.errors import StrideError
from plain_stride.job.schema import (
    ADDED,
    APPLICATION_ID,
    BLOBS,
    SCHEMA_VERSION,
    TABLES,
    UPDATES,
    Row,
    create_statements,
)

SUFFIX = ".stride"
T = TypeVar("T")


class JobError(StrideError):
    """A job that cannot be opened, written or changed as asked."""


@dataclass(frozen=True)
class RowChange:
    """One row before and after; None where it was not there."""

    table: str
    id: str
    before: Row | None
    after: Row | None


@dataclass(frozen=True)
class Step:
    """One step of history. parent: the step it was made on, 0 for the empty job."""

    id: int
    parent: int
    name: str
    words: str
    args: str
    made: str
    rows: tuple[RowChange, ...]


@dataclass(frozen=True)
class Commit:
    """What goes to disk in one transaction."""

    rows: tuple[RowChange, ...]
    state: dict[str, str]
    step: Step | None = None
    blobs: tuple[tuple[str, Row], ...] = ()
    fits: tuple[Row, ...] = field(default=())


def now() -> str:
    """The time as the file keeps it: UTC to the second."""
    return datetime.now(UTC).isoformat(timespec="seconds")


class Store:
    """An open job file. Made by `create_store` or `open_store`; usable from one thread at a time."""

    def __init__(self, path: Path, db: sqlite3.Connection, lock: Any, schema: int) -> None:
        self.path, self.schema = path, schema
        self._db, self._lock = db, lock
        self._file = _identity(path)

    @property
    def writable(self) -> bool:
        return self._lock is not None

    def rows(self, table: str) -> dict[str, Row]:
        """All rows of a changing table by id, JSON columns as objects."""
        columns = TABLES[table]
        found = self._read(f"SELECT id, {', '.join(columns)} FROM {table} ORDER BY rowid")
        return {
            r[0]: {
                c: (json.loads(v) if kind == "json" and v is not None else v)
                for (c, kind), v in zip(columns.items(), r[1:], strict=True)
            }
            for r in found
        }

    def blob_rows(self, table: str) -> dict[str, Row]:
        """All rows of a table that never changes, by id."""
        keys = [c.split()[0] for c in BLOBS[table].split(", ")]
        found = self._read(f"SELECT {', '.join(keys)} FROM {table}")
        return {r[0]: dict(zip(keys, r, strict=True)) for r in found}

    def image_bytes(self, key: str) -> bytes:
        """The bytes of a scan as they came."""
        return bytes(self._read("SELECT bytes FROM images WHERE id = ?", [key])[0][0])

    def state(self) -> dict[str, str]:
        return dict(self._read("SELECT key, value FROM state"))

    def fits(self, version: int) -> list[tuple[Any, ...]]:
        return self._read("SELECT pull, school, leeway, curve, track, figures FROM fits WHERE version = ?", [version])

    def steps(self) -> dict[int, Step]:
        rows: dict[int, list[RowChange]] = {}
        for step, table, row, before, after in self._read(
            "SELECT step, tbl, row, before, after FROM step_rows ORDER BY step, seq"
        ):
            change = RowChange(table, row, *(_from_json(table, v) for v in (before, after)))
            rows.setdefault(step, []).append(change)
        found = self._read("SELECT id, parent, name, words, args, made FROM steps")
        return {r[0]: Step(r[0], r[1], r[2], r[3], r[4], r[5], tuple(rows.get(r[0], ()))) for r in found}

    def commit(self, what: Commit) -> bool:
        """Puts a change on disk; returns when it is durable. Raises JobError, with nothing written.

        When the file has been deleted, moved or replaced meanwhile, the job is first put back whole: under its name,
        or, where that is taken now, under another beside it, which `path` then tells. Gives whether that was so.
        """
        if not self.writable:
            raise JobError(f"{self.path.name} is open for reading only: nothing was written")

        gone = _identity(self.path) != self._file
        if gone:
            self._put_back()

        def write() -> None:
            with self._db:
                self._db.execute("BEGIN IMMEDIATE")
                _write(self._db, what)

        self._guarded(write)
        return gone

    def save_copy(self, to: Path) -> None:
        """A complete copy of the job under another name, by SQLite's own backup. Refuses to overwrite."""
        _free(to)

        def write(part: Path) -> None:
            with sqlite3.connect(part) as copy:
                self._db.backup(copy)
            copy.close()

        _put_in_place(to, write)

    def pack(self) -> None:
        """Gives back the room that deleted and replaced rows took; nothing of the job or its history changes."""

        def write() -> None:
            self._db.execute("VACUUM")
            self._db.execute("PRAGMA wal_checkpoint(TRUNCATE)")

        self._guarded(write)

    def marks(self) -> dict[str, int]:
        """Steps by the names of their marks, in the order in which they were set."""
        return dict(self._read("SELECT name, step FROM marks ORDER BY rowid"))

    def mark(self, name: str, step: int) -> None:
        """Gives a moment of the history a name; a name that is there moves to it."""
        self._changed([("INSERT OR REPLACE INTO marks VALUES (?, ?, ?)", (name, step, now()))])

    def forget(self, step: int) -> None:
        """Takes away all steps that do not come after `step`, and what nothing that is left needs: the history begins
        there. One transaction; it cannot be taken back."""
        later = (
            "WITH RECURSIVE later(id) AS (SELECT id FROM steps WHERE parent = ?"
            " UNION SELECT steps.id FROM steps JOIN later ON steps.parent = later.id) SELECT id FROM later"
        )
        at = (step,)
        work: list[tuple[str, tuple[object, ...]]] = [
            (f"DELETE FROM step_rows WHERE step NOT IN ({later})", at),
            (f"DELETE FROM marks WHERE step <> ? AND step NOT IN ({later})", at * 2),
            (f"DELETE FROM steps WHERE id NOT IN ({later})", at),
            ("UPDATE steps SET parent = 0 WHERE parent = ?", at),
            ("UPDATE marks SET step = 0 WHERE step = ?", at),
            ("UPDATE state SET value = '0' WHERE key = 'head' AND value = ?", (str(step),)),
        ]
        for blobs, column, table in (
            ("pulls", "pull", "lines"),
            ("forms", "form", "lines"),
            ("images", "image", "pencils"),
            ("outlines", "outline", "blacks"),
        ):
            used = (
                f"SELECT {column} AS v FROM {table}"
                f" UNION SELECT json_extract(before, '$.{column}') FROM step_rows WHERE tbl = '{table}'"
                f" UNION SELECT json_extract(after, '$.{column}') FROM step_rows WHERE tbl = '{table}'"
            )
            if blobs == "pulls":
                # Other takes of a line are kept as long as it is.
                used += " UNION SELECT j.value FROM lines, json_each(lines.takes) AS j"
                for side in ("before", "after"):
                    used += f" UNION SELECT j.value FROM step_rows, json_each(json_extract({side}, '$.takes')) AS j"
            work.append((f"DELETE FROM {blobs} WHERE id NOT IN (SELECT v FROM ({used}) WHERE v IS NOT NULL)", ()))
        work.append(("DELETE FROM fits WHERE pull NOT IN (SELECT id FROM pulls)", ()))
        self._changed(work)

    def _changed(self, statements: list[tuple[str, tuple[object, ...]]]) -> None:
        if not self.writable:
            raise JobError(f"{self.path.name} is open for reading only: nothing was written")

        def write() -> None:
            with self._db:
                self._db.execute("BEGIN IMMEDIATE")
                for statement, values in statements:
                    self._db.execute(statement, values)

        self._guarded(write)

    def sizes(self) -> tuple[int, int]:
        """(bytes of the file, bytes of it that the history takes)."""
        pages, size = (self._read(f"PRAGMA {name}")[0][0] for name in ("page_count", "page_size"))
        history = self._read(
            "SELECT COALESCE(SUM(COALESCE(LENGTH(before), 0) + COALESCE(LENGTH(after), 0)), 0) FROM step_rows"
        )
        return pages * size, int(history[0][0])

    def _put_back(self) -> None:
        names = (self.path.with_stem(f"{self.path.stem} kept {n}") for n in range(1, 10_000))
        to = self.path if not self.path.exists() else next(p for p in names if not p.exists())
        self.save_copy(to)
        lock = self._lock if to == self.path else _locked(to)
        self._db.close()
        if to != self.path:
            _unlock(self.path, self._lock)
        self.path, self._lock = to, lock
        self._db = _connected(to, True)
        self._file = _identity(to)

    def close(self) -> None:
        """Folds the write-ahead log into the file and lets go of the lock."""
        try:
            if self.writable:
                self._db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        except sqlite3.Error:
            pass
        self._db.close()
        if self._lock is not None:
            _unlock(self.path, self._lock)
            self._lock = None

    def _read(self, sql: str, values: Iterable[object] = ()) -> list[tuple[Any, ...]]:
        return self._guarded(lambda: self._db.execute(sql, list(values)).fetchall())

    def _guarded(self, work: Callable[[], T]) -> T:
        try:
            return work()
        except sqlite3.Error as fault:
            raise _job_error(self.path, fault) from None


def _identity(path: Path) -> tuple[int, int] | None:
    """Which file lies under a name; None for none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


def create_store(path: Path, first: Commit) -> None:
    """Makes a job file with its first rows; it appears under its name only when it is whole. Raises JobError."""
    if path.suffix != SUFFIX:
        raise JobError(f"a job's name ends with {SUFFIX}: {path.name} does not")
    _free(path)

    def write(part: Path) -> None:
        db = sqlite3.connect(part)
        try:
            db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
            db.execute(f"PRAGMA user_version = {SCHEMA_VERSION}")
            with db:
                for statement in create_statements():
                    db.execute(statement)
                _write(db, first)
            db.execute("PRAGMA journal_mode = WAL")
        finally:
            db.close()

    _put_in_place(path, write)


def _free(path: Path) -> None:
    try:
        if not path.exists():
            return
    except OSError as fault:
        raise JobError(f"{path.name} cannot be written there: {fault.strerror}") from None
    raise JobError(f"{path.name} is there already and was not touched: choose another name")


def open_store(path: Path, write: bool) -> Store:
    """An existing job. Raises JobError for what is no whole job of ours, for a newer schema when writing, and, naming
    the holder, when another program is writing it. A file that cannot be used is never written to.

    One of an older schema is brought up to this one: on a copy that takes its place when it is whole, the old file
    staying beside it; in memory where it is only looked at."""
    schema = _checked_header(path)
    if write and schema > SCHEMA_VERSION:
        raise JobError(
            f"{path.name} was made by a newer Plain Stride (schema {schema}, this one knows {SCHEMA_VERSION}):"
            " it can be looked at here, not changed"
        )
    lock = _locked(path) if write else None
    try:
        if schema < SCHEMA_VERSION and write:
            _update_file(path)
        db = _connected(path, write)
        if schema < SCHEMA_VERSION and not write:
            db = _updated_in_memory(db)
        store = Store(path, db, lock, max(schema, SCHEMA_VERSION))
        store.state()
        return store
    except (sqlite3.Error, JobError) as fault:
        if lock is not None:
            _unlock(path, lock)
        raise (fault if isinstance(fault, JobError) else _job_error(path, fault)) from None


def _update_file(path: Path) -> None:
    """The file in this schema, by way of a copy; the old one stays beside it."""
    old = _connected(path, write=True)
    try:
        with _part_beside(path) as part:
            with closing(sqlite3.connect(part, isolation_level=None)) as new:
                old.backup(new)
                schema = _update(new)
                new.execute("PRAGMA journal_mode = WAL")
            with part.open("rb") as file:
                os.fsync(file.fileno())
            # The old file's own log is folded into it and gone before another file takes its name.
            old.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            old.close()
            kept = path.with_stem(f"{path.stem} schema {schema}")
            if not kept.exists():
                shutil.copy2(path, kept)
            part.replace(path)
    except OSError as fault:
        raise JobError(f"{path.name} cannot be brought up to date ({fault.strerror}): it stays as it was") from None
    finally:
        old.close()


def _updated_in_memory(db: sqlite3.Connection) -> sqlite3.Connection:
    new = sqlite3.connect(":memory:", check_same_thread=False, isolation_level=None)
    db.backup(new)
    db.close()
    _update(new)
    return new


def _update(db: sqlite3.Connection) -> int:
    """Brings an open file of an older schema to this one, in one transaction; gives the schema that it had."""
    with db:
        db.execute("BEGIN IMMEDIATE")
        before = int(db.execute("PRAGMA user_version").fetchone()[0])
        for schema in range(before, SCHEMA_VERSION):
            if schema not in UPDATES:
                raise JobError(f"a job of schema {schema} is not known: it was not touched")
            for statement in UPDATES[schema]:
                db.execute(statement)
        db.execute(f"PRAGMA user_version = {SCHEMA_VERSION}")
    return before


def _connected(path: Path, write: bool) -> sqlite3.Connection:
    where = "file:" + urllib.parse.quote(str(path.resolve()))
    if write:
        db = sqlite3.connect(f"{where}?mode=rw", uri=True, check_same_thread=False, isolation_level=None)
        db.execute("PRAGMA journal_mode = WAL")
        db.execute("PRAGMA synchronous = FULL")
        db.execute("PRAGMA foreign_keys = ON")
        return db
    still = not os.access(path.parent, os.W_OK) and not Path(f"{path}-wal").exists()
    mode = "mode=ro&immutable=1" if still else "mode=ro"
    return sqlite3.connect(f"{where}?{mode}", uri=True, check_same_thread=False, isolation_level=None)


def _write(db: sqlite3.Connection, what: Commit) -> None:
    for table, blob in what.blobs:
        marks = ", ".join("?" * len(blob))
        db.execute(f"INSERT OR IGNORE INTO {table} ({', '.join(blob)}) VALUES ({marks})", list(blob.values()))
    for change in what.rows:
        _write_row(db, change)
    if what.step is not None:
        s = what.step
        db.execute("INSERT INTO steps VALUES (?, ?, ?, ?, ?, ?)", (s.id, s.parent, s.name, s.words, s.args, s.made))
        db.executemany(
            "INSERT INTO step_rows VALUES (?, ?, ?, ?, ?, ?)",
            [(s.id, k, c.table, c.id, _as_json(c.before), _as_json(c.after)) for k, c in enumerate(s.rows)],
        )
    for fit in what.fits:
        marks = ", ".join("?" * len(fit))
        db.execute(f"INSERT OR REPLACE INTO fits ({', '.join(fit)}) VALUES ({marks})", list(fit.values()))
    db.executemany("INSERT OR REPLACE INTO state VALUES (?, ?)", list(what.state.items()))


def _write_row(db: sqlite3.Connection, change: RowChange) -> None:
    if change.after is None:
        db.execute(f"DELETE FROM {change.table} WHERE id = ?", (change.id,))
        return
    columns = TABLES[change.table]
    values = [
        json.dumps(change.after[c]) if kind == "json" and change.after[c] is not None else change.after[c]
        for c, kind in columns.items()
    ]
    sets = ", ".join(f"{c} = excluded.{c}" for c in columns)
    marks = ", ".join("?" * (len(columns) + 1))
    db.execute(
        f"INSERT INTO {change.table} (id, {', '.join(columns)}) VALUES ({marks}) ON CONFLICT (id) DO UPDATE SET {sets}",
        [change.id, *values],
    )


def _as_json(row: Row | None) -> str | None:
    return None if row is None else json.dumps(row)


def _from_json(table: str, text: str | None) -> Row | None:
    return None if text is None else {**ADDED.get(table, {}), **json.loads(text)}


def _checked_header(path: Path) -> int:
    """The schema of a job file, from its first bytes. Raises JobError for anything that is not a whole job."""
    try:
        with path.open("rb") as file:
            head = file.read(100)
            size = os.fstat(file.fileno()).st_size
    except FileNotFoundError:
        raise JobError(f"there is no job {path}") from None
    except OSError as fault:
        raise JobError(f"{path.name} cannot be read: {fault.strerror}") from None
    if not head:
        raise JobError(f"{path.name} is empty (0 bytes): it was not touched; open a copy of the job instead")
    if len(head) < 100 or head[:16] != b"SQLite format 3\0":
        raise JobError(f"{path.name} is no Plain Stride job: it was not touched")
    page = struct.unpack(">H", head[16:18])[0]
    page = 65536 if page == 1 else page
    pages, schema = struct.unpack(">I", head[28:32])[0], struct.unpack(">I", head[60:64])[0]
    if struct.unpack(">I", head[68:72])[0] != APPLICATION_ID:
        raise JobError(f"{path.name} is a database, but no Plain Stride job: it was not touched")
    # With a log beside it, the file may be one that a power cut left half folded: the log holds the rest.
    if size < page * pages and not _has_log(path):
        raise JobError(f"{path.name} is cut short ({size:,} of {page * pages:,} bytes): it was not touched; use a copy")
    return int(schema)


def _has_log(path: Path) -> bool:
    try:
        return Path(f"{path}-wal").stat().st_size > 0
    except OSError:
        return False


def _lock_path(path: Path) -> Path:
    return Path(f"{path}-lock")


def _locked(path: Path) -> Any:
    """The writer's lock: held by the open file, so that it goes with the process however that ends."""
    try:
        lock = _lock_path(path).open("a+")
    except OSError as fault:
        raise JobError(f"{path.name} cannot be changed here ({fault.strerror}): it can only be looked at") from None
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        lock.seek(0)
        holder = lock.read().strip() or "another program"
        lock.close()
        raise JobError(f"{path.name} is being written by {holder}: close it there first; reading it works") from None
    lock.seek(0)
    lock.truncate()
    lock.write(f"Plain Stride, process {os.getpid()}")
    lock.flush()
    return lock


def _unlock(path: Path, lock: Any) -> None:
    with suppress(OSError):
        _lock_path(path).unlink(missing_ok=True)
    lock.close()


@contextmanager
def _part_beside(path: Path) -> Iterator[Path]:
    try:
        handle, name = tempfile.mkstemp(prefix=f".{path.stem}-", suffix=".part", dir=path.parent)
    except OSError as fault:
        raise JobError(f"{path.name} cannot be written there: {fault.strerror}") from None
    os.close(handle)
    part = Path(name)
    try:
        yield part
    finally:
        for end in ("", "-wal", "-shm", "-journal"):
            Path(f"{part}{end}").unlink(missing_ok=True)


def _put_in_place(path: Path, write: Callable[[Path], None]) -> None:
    """Writes beside the target and links it there when it is whole; never overwrites."""
    with _part_beside(path) as part:
        try:
            part.unlink()
            write(part)
            with part.open("rb") as file:
                os.fsync(file.fileno())
            os.link(part, path)
        except FileExistsError:
            raise JobError(f"{path.name} is there already and was not touched: choose another name") from None
        except sqlite3.Error as fault:
            raise _job_error(path, fault) from None
        except OSError as fault:
            raise JobError(f"{path.name} cannot be written there: {fault.strerror}") from None


def _job_error(path: Path, fault: sqlite3.Error) -> JobError:
    text = str(fault)
    if "full" in text:
        return JobError(f"the disk is full: {path.name} stays as it was; free some room and do it again")
    if "readonly" in text or "unable to open" in text:
        return JobError(f"{path.name} cannot be written there: nothing was changed; copy it to a folder of yours")
    if "malformed" in text or "not a database" in text:
        return JobError(f"{path.name} is damaged: it was not touched; open a copy of it")
    return JobError(f"{path.name} cannot be used ({text}): nothing was changed")
