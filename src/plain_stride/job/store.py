"""The file that keeps a job: an SQLite database, one transaction for each change, one writer at a time."""

import json
import os
import shutil
import sqlite3
import stat
import struct
import urllib.parse
from collections.abc import Callable, Iterable
from contextlib import closing, suppress
from pathlib import Path
from typing import Any, TypeVar

from plain_stride.job.checking import (
    MOST_FIT,
    MOST_FITS,
    check_columns,
    check_tables,
    json_of,
    past_record,
    record_of,
)
from plain_stride.job.commit import Commit, Forgetting, Whole, now
from plain_stride.job.errors import DamagedError, JobError, OverwrittenError, job_error
from plain_stride.job.history import RowChange, Step
from plain_stride.job.kept import KEPT_ROWS, checked_rows
from plain_stride.job.records import RECORDS, as_json
from plain_stride.job.schema import SCHEMA_VERSION, UPDATES, create_statements
from plain_stride.job.whole_files import free, give_name, part_beside, put_in_place, why
from plain_stride.job.writer_lock import WriterLock
from plain_stride.job_mark import APPLICATION_ID

SUFFIX = ".stride"
T = TypeVar("T")
Stat = tuple[int, int, int, int]


class Store:
    """An open job file. Made by `create_store` or `open_store`; usable from one thread at a time.

    Between commits its write-ahead log is folded into the file as soon as `rest` is called, so that a file that takes
    its place never finds another's log beside it.
    """

    def __init__(
        self, path: Path, db: sqlite3.Connection, lock: WriterLock | None, schema: int, before: Stat | None
    ) -> None:
        """before: what is known of a file that is read without its log, from before it was read."""
        self.path, self.schema = path, schema
        self._db, self._lock, self._still = db, lock, before is not None
        self._file, self._left = _identity(path), before or _facts(path)

    @property
    def writable(self) -> bool:
        return self._lock is not None

    def settled(self) -> bool:
        """Whether all that was read belongs together: a file that is read without its log was not written meanwhile.
        Where it was, what is read from now on is; then all is to be read anew."""
        if not self._still or self._left == _facts(self.path):
            return True
        self._db.close()
        self._db, self._still = _reading(self.path), False
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
        """The bytes of a scan as they came."""
        found = self._read("SELECT bytes FROM images WHERE id = ?", [key])
        if not self.settled():
            found = self._read("SELECT bytes FROM images WHERE id = ?", [key])
        if not found or not isinstance(found[0][0], bytes):
            raise JobError(f"{self.path.name} is damaged (a scan is missing): it was not touched; open a copy of it")
        return found[0][0]

    def image_keys(self) -> list[str]:
        return [str(row[0]) for row in self._read("SELECT id FROM images")]

    def state(self) -> dict[str, str]:
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
        gone = _identity(self.path) != self._file
        if gone:
            self._put_back()
        elif _facts(self.path) != self._left:
            raise OverwrittenError(
                f"another program has written into {self.path.name} while it was open: nothing was written to it"
            )

        def write() -> None:
            with self._db:
                self._db.execute("BEGIN IMMEDIATE")
                _write(self._db, what)

        try:
            self._guarded(write)
        finally:
            self._left = _facts(self.path)
        return gone

    def rest(self) -> None:
        """Folds the write-ahead log into the file, where it is still this job's. Never raises."""
        if self.writable and _identity(self.path) == self._file and _facts(self.path) == self._left:
            with suppress(sqlite3.Error):
                self._db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            self._left = _facts(self.path)

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
        self._left = _facts(self.path)

    def marks(self) -> dict[str, int]:
        """Steps by the names of their marks, in the order in which they were set."""
        return dict(self._read("SELECT name, step FROM marks ORDER BY rowid"))

    def mark(self, name: str, step: int) -> None:
        """Gives a moment of the history a name; a name that is there moves to it."""
        self._changed([("INSERT OR REPLACE INTO marks VALUES (?, ?, ?)", [(name, step, now())])])

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
        self._left = _facts(self.path)

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
        self._db = _writing(path)
        self._file, self._left = _identity(path), _facts(path)

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


def _identity(path: Path) -> tuple[int, int] | None:
    """Which file lies under a name; None for none."""
    found = _facts(path)
    return found[:2] if found is not None else None


def _facts(path: Path) -> Stat | None:
    """Which file lies under a name, how large it is and when it was written last; None for none."""
    try:
        found = path.stat()
    except (OSError, ValueError):
        return None
    return found.st_dev, found.st_ino, found.st_size, found.st_mtime_ns


def create_store(path: Path, first: Commit | Whole) -> None:
    """Makes a job file with its first rows, or a whole job's; it appears under its name only when it is whole. Raises
    JobError."""
    if path.suffix != SUFFIX:
        raise JobError(f"a job's name ends with {SUFFIX}: {path.name} does not")
    free(path)

    def write(part: Path) -> None:
        with closing(sqlite3.connect(part)) as db:
            db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
            db.execute(f"PRAGMA user_version = {SCHEMA_VERSION}")
            with db:
                for statement in create_statements():
                    db.execute(statement)
                if isinstance(first, Whole):
                    _write_whole(db, first)
                else:
                    _write(db, first)
            db.execute("PRAGMA journal_mode = WAL")

    put_in_place(path, write)


def open_store(path: Path, write: bool, look_over: Callable[[Store], object] | None = None) -> Store:
    """An existing job. Raises JobError for what is no whole job of ours, for a newer schema when writing, and, naming
    the holder, when another program is writing it. A file that cannot be used is never written to.

    One of an older schema is brought up to this one: on a copy that takes its place when it is whole, the old file
    staying beside it; in memory where it is only looked at. look_over: raises JobError where a store makes no whole
    job; asked before a file is brought up, so that a damaged one stays as it was."""
    schema = _checked_header(path)
    if write and schema > SCHEMA_VERSION:
        raise JobError(
            f"{path.name} was made by a newer Plain Stride (schema {schema}, this one knows {SCHEMA_VERSION}):"
            " it can be looked at here, not changed"
        )
    lock = WriterLock.take(path) if write else None
    db, before = None, None
    try:
        if not write and not _has_log(path):
            before = _facts(path)
        db = _looked_at(path, before is not None)
        check_tables(db)
        if schema < SCHEMA_VERSION:
            if write:
                with closing(_updated_in_memory(db)) as new:
                    if look_over is not None:
                        look_over(Store(path, new, None, SCHEMA_VERSION, None))
                _update_file(path)
                db = _looked_at(path, False)
            else:
                db, before = _updated_in_memory(db), None
        if schema <= SCHEMA_VERSION:
            check_columns(db)
        if write:
            db.close()
            db = _writing(path)
        return Store(path, db, lock, max(schema, SCHEMA_VERSION), before)
    except (sqlite3.Error, JobError, DamagedError, OverflowError, UnicodeError) as fault:
        if db is not None:
            db.close()
        if lock is not None:
            lock.release()
        raise (fault if isinstance(fault, JobError) else job_error(path, fault)) from None


def _update_file(path: Path) -> None:
    """The file in this schema, by way of a copy; the old one stays beside it."""
    old = _writing(path)
    try:
        with part_beside(path) as part:
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


def _writing(path: Path) -> sqlite3.Connection:
    """A connection for writing, to a file that has been looked at."""
    db = sqlite3.connect(f"{_uri(path)}?mode=rw", uri=True, check_same_thread=False, isolation_level=None)
    for pragma in ("trusted_schema = OFF", "journal_mode = WAL", "synchronous = FULL", "foreign_keys = ON"):
        db.execute(f"PRAGMA {pragma}")
    return db


def _looked_at(path: Path, still: bool) -> sqlite3.Connection:
    """A connection for reading. still: nobody writes the file, so that nothing need be laid beside it."""
    if not still:
        return _reading(path)
    db = sqlite3.connect(f"{_uri(path)}?mode=ro&immutable=1", uri=True, check_same_thread=False, isolation_level=None)
    db.execute("PRAGMA trusted_schema = OFF")
    return db


def _reading(path: Path) -> sqlite3.Connection:
    """A connection for reading what another program may be writing."""
    db = sqlite3.connect(f"{_uri(path)}?mode=ro", uri=True, check_same_thread=False, isolation_level=None)
    db.execute("PRAGMA trusted_schema = OFF")
    return db


def _uri(path: Path) -> str:
    return "file:" + urllib.parse.quote(os.fsencode(path.resolve()))


def _write_whole(db: sqlite3.Connection, whole: Whole) -> None:
    """A whole job into a new file."""
    for step in whole.steps:
        _write(db, Commit((), {}, step))
    _write(db, Commit(whole.rows, whole.state, None, whole.kept))
    db.executemany("INSERT INTO marks VALUES (?, ?, ?)", [(name, step, now()) for name, step in whole.marks.items()])


def _write(db: sqlite3.Connection, what: Commit) -> None:
    for kept in what.kept:
        names = kept.names()
        marks = ", ".join("?" * len(names))
        db.execute(f"INSERT OR IGNORE INTO {kept.table} ({', '.join(names)}) VALUES ({marks})", kept.values())
    for change in what.rows:
        _write_row(db, change)
    if what.step is not None:
        s = what.step
        db.execute("INSERT INTO steps VALUES (?, ?, ?, ?, ?, ?)", (s.id, s.parent, s.name, s.words, s.args, s.made))
        db.executemany(
            "INSERT INTO step_rows VALUES (?, ?, ?, ?, ?, ?)",
            [(s.id, k, c.table, c.id, as_json(c.before), as_json(c.after)) for k, c in enumerate(s.rows)],
        )
    for fit in what.fits:
        values = vars(fit)
        marks = ", ".join("?" * len(values))
        db.execute(f"INSERT OR REPLACE INTO fits ({', '.join(values)}) VALUES ({marks})", list(values.values()))
    db.executemany("INSERT OR REPLACE INTO state VALUES (?, ?)", list(what.state.items()))


def _write_row(db: sqlite3.Connection, change: RowChange) -> None:
    if change.after is None:
        db.execute(f"DELETE FROM {change.table} WHERE id = ?", (change.id,))
        return
    columns, row = RECORDS[change.table].columns(), change.after.plain()
    values = [json.dumps(row[c]) if how.kind == "json" and row[c] is not None else row[c] for c, how in columns.items()]
    sets = ", ".join(f"{c} = excluded.{c}" for c in columns)
    marks = ", ".join("?" * (len(columns) + 1))
    db.execute(
        f"INSERT INTO {change.table} (id, {', '.join(columns)}) VALUES ({marks}) ON CONFLICT (id) DO UPDATE SET {sets}",
        [change.id, *values],
    )


def _checked_header(path: Path) -> int:
    """The schema of a job file, from its first bytes. Raises JobError for anything that is not a whole job."""
    try:
        if not stat.S_ISREG(path.stat().st_mode):
            raise JobError(f"{path.name} is no file: a job is one")
        with path.open("rb") as file:
            head = file.read(100)
            size = os.fstat(file.fileno()).st_size
    except FileNotFoundError:
        raise JobError(f"there is no job {path}") from None
    except (OSError, ValueError) as fault:
        raise JobError(f"{path.name} cannot be read: {why(fault)}") from None
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
