"""A job file made, and commits written into it."""

import sqlite3
from contextlib import closing
from pathlib import Path

from plain_stride.job.commit import Commit, Whole, now
from plain_stride.job.errors import JobError
from plain_stride.job.history import RowChange
from plain_stride.job.records import RECORDS, as_json, written_json
from plain_stride.job.schema import SCHEMA_VERSION, create_statements
from plain_stride.job.whole_files import free, put_in_place
from plain_stride.job_mark import APPLICATION_ID

SUFFIX = ".stride"


def create_store(path: Path, first: Commit | Whole) -> None:
    """Makes a job file with its first rows, or a whole job's; it appears under its name only when it is whole. Raises
    JobError."""
    if path.suffix != SUFFIX:
        raise JobError(f"a job's name ends with {SUFFIX}: {path.name} does not")
    free(path)

    def write(part: Path) -> None:
        with closing(sqlite3.connect(part)) as db:
            with db:
                # In one transaction: each table by itself would wait for the disk.
                db.execute("BEGIN")
                db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
                db.execute(f"PRAGMA user_version = {SCHEMA_VERSION}")
                for statement in create_statements():
                    db.execute(statement)
                if isinstance(first, Whole):
                    write_whole(db, first)
                else:
                    write_commit(db, first)
            db.execute("PRAGMA journal_mode = WAL")

    put_in_place(path, write)


def write_whole(db: sqlite3.Connection, whole: Whole) -> None:
    """A whole job into a new file."""
    for step in whole.steps:
        write_commit(db, Commit((), {}, step))
    write_commit(db, Commit(whole.rows, whole.state, None, whole.kept))
    db.executemany("INSERT INTO marks VALUES (?, ?, ?)", [(name, step, now()) for name, step in whole.marks.items()])
    db.executemany("INSERT INTO delivered (made, name, step, manifest) VALUES (?, ?, ?, ?)", whole.sent)


def write_commit(db: sqlite3.Connection, what: Commit) -> None:
    """Writes one commit; the caller has opened the transaction."""
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
    values = [written_json(row[c]) if how.kind == "json" and row[c] is not None else row[c]
              for c, how in columns.items()]  # fmt: skip
    sets = ", ".join(f"{c} = excluded.{c}" for c in columns)
    marks = ", ".join("?" * (len(columns) + 1))
    db.execute(
        f"INSERT INTO {change.table} (id, {', '.join(columns)}) VALUES ({marks}) ON CONFLICT (id) DO UPDATE SET {sets}",
        [change.id, *values],
    )
