"""Job files made, opened, and brought up to this schema; a file that cannot be used is never written to."""

import os
import shutil
import sqlite3
import stat
import struct
from collections.abc import Callable
from contextlib import closing, suppress
from pathlib import Path

from plain_stride.job.checking import (
    check_columns,
    check_tables,
)
from plain_stride.job.connecting import facts_of, has_log, looking, writing
from plain_stride.job.errors import DamagedError, JobError, job_error
from plain_stride.job.schema import SCHEMA_VERSION, UPDATES
from plain_stride.job.store import Store
from plain_stride.job.whole_files import part_beside, why
from plain_stride.job.writer_lock import WriterLock
from plain_stride.job_mark import APPLICATION_ID

TRIES = 3
"""So often a file is looked at that is being written at the very moment."""


def open_store(path: Path, write: bool, look_over: Callable[[Store], object] | None = None) -> Store:
    """An existing job. Raises JobError for what is no whole job of ours, for a newer schema when writing, and, naming
    the holder, when another program is writing it. A file that cannot be used is never written to.

    One of an older schema is brought up to this one: on a copy that takes its place when it is whole, the old file
    staying beside it; in memory where it is only looked at. look_over: raises JobError where a store makes no whole
    job; asked before a file is brought up, so that a damaged one stays as it was."""
    for _ in range(TRIES - 1):
        with suppress(_TornError):
            return _opened_once(path, write, look_over)
    try:
        return _opened_once(path, write, look_over)
    except _TornError as torn:
        raise torn.fault from None


class _TornError(Exception):
    """A file was written while it was read as one that nobody writes. fault: what that looked like."""

    def __init__(self, fault: JobError) -> None:
        super().__init__(str(fault))
        self.fault = fault


def _opened_once(path: Path, write: bool, look_over: Callable[[Store], object] | None) -> Store:
    """Raises JobError, _TornError."""
    schema = _checked_header(path)
    if write and schema > SCHEMA_VERSION:
        raise JobError(
            f"{path.name} was made by a newer Plain Stride (schema {schema}, this one knows {SCHEMA_VERSION}):"
            " it can be looked at here, not changed"
        )
    lock = WriterLock.take(path) if write else None
    db, before = None, None
    try:
        if not write and not has_log(path):
            before = facts_of(path)
        db = looking(path, before is not None)
        check_tables(db)
        if schema < SCHEMA_VERSION:
            if write:
                with closing(_updated_in_memory(db)) as new:
                    if look_over is not None:
                        look_over(Store(path, new, None, SCHEMA_VERSION, None))
                _update_file(path)
                db = looking(path, False)
            else:
                db, before = _updated_in_memory(db), None
        if schema <= SCHEMA_VERSION:
            check_columns(db)
        if write:
            db.close()
            db = writing(path)
        return Store(path, db, lock, max(schema, SCHEMA_VERSION), before)
    except (sqlite3.Error, JobError, DamagedError, OverflowError, UnicodeError) as fault:
        if db is not None:
            db.close()
        if lock is not None:
            lock.release()
        told = fault if isinstance(fault, JobError) else job_error(path, fault)
        raise (_TornError(told) if before is not None and before != facts_of(path) else told) from None


def _update_file(path: Path) -> None:
    """The file in this schema, by way of a copy; the old one stays beside it."""
    old = writing(path)
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
    if size < page * pages and not has_log(path):
        raise JobError(f"{path.name} is cut short ({size:,} of {page * pages:,} bytes): it was not touched; use a copy")
    return int(schema)
