"""What makes a job's file a whole job: looked at on opening, before anything is worked out from it.

A file may come from anywhere. Its database is held to a list of our own tables, so that none of its views or triggers
is ever run; each row is held to the kinds of its columns and to what it stands for. What fails is damaged, said in one
sentence, and the file is not touched. A cache that fails is no damage: it is worked out anew.
"""

import math
import sqlite3
from collections.abc import Callable
from functools import lru_cache
from typing import Any

from plain_stride import plain_json
from plain_stride.errors import StrideError
from plain_stride.job.errors import DamagedError
from plain_stride.job.kept import KEPT_ROWS
from plain_stride.job.record_fields import Column
from plain_stride.job.records import RECORDS
from plain_stride.job.schema import BLOBS

OWN_TABLES = {*RECORDS, *BLOBS, "steps", "step_rows", "marks", "delivered", "state", "log", "fits"}
MOST_TEXT, MOST_JSON, SHORT = 100_000, 64_000_000, 1000
MOST_BLOB, MOST_BLOBS = 128_000_000, 2_000_000_000
"""Bytes of one row that never changes, pictures left out, and of all of them."""
MOST_FITS, MOST_FIT = 1_000_000_000, 16_000_000


def check_tables(db: sqlite3.Connection) -> None:
    """Raises DamagedError where a database holds anything that is no table of ours, or lacks what every schema has."""
    found = db.execute("SELECT type, name FROM sqlite_master WHERE name NOT LIKE 'sqlite_%'").fetchall()
    strange = [f"a {kind} '{name}'" for kind, name in found if kind != "table" or name not in OWN_TABLES]
    if strange:
        raise DamagedError(f"it holds {strange[0]}, which no job has")
    lacking = {"board", "parts", "lines", "plan", "pulls", "forms", "steps", "state"} - {name for _, name in found}
    if lacking:
        raise DamagedError(f"table '{min(lacking)}' is missing")


def check_columns(db: sqlite3.Connection) -> None:
    """Raises DamagedError where a table of this schema lacks columns, or holds more than any job does."""
    for table in sorted(OWN_TABLES):
        columns = {row[1] for row in db.execute(f"PRAGMA table_info({table})")}
        if not columns:
            raise DamagedError(f"table '{table}' is missing")
        wanted = {"id", *RECORDS[table].columns()} if table in RECORDS else set(_blob_columns(table))
        if wanted - columns:
            raise DamagedError(f"table '{table}' lacks column '{min(wanted - columns)}'")
    total = 0
    for table in BLOBS:
        for column in _blob_columns(table):
            most, whole = db.execute(f"SELECT MAX(LENGTH({column})), SUM(LENGTH({column})) FROM {table}").fetchone()
            if table != "images" and (most or 0) > MOST_BLOB:
                raise DamagedError(f"a row of '{table}' takes {most:,} bytes")
            total += (whole or 0) if table != "images" else 0
    for table, texts in {
        **{t: tuple(r.columns()) for t, r in RECORDS.items()},
        "step_rows": ("before", "after"),
    }.items():
        for column in texts:
            most, whole = db.execute(f"SELECT MAX(LENGTH({column})), SUM(LENGTH({column})) FROM {table}").fetchone()
            if (most or 0) > MOST_JSON:
                raise DamagedError(f"a row of '{table}' takes {most:,} bytes")
            total += whole or 0
    if total > MOST_BLOBS:
        raise DamagedError(f"its rows take {total:,} bytes")


def _blob_columns(table: str) -> tuple[str, ...]:
    return KEPT_ROWS[table].names() if table in BLOBS else ()


def json_of(text: object) -> Any:
    """JSON text of a file as data, which is not to be changed. Raises DamagedError."""
    words = str(text)
    return _json_once(words) if len(words) < SHORT else _json(words)


@lru_cache(8192)
def _json_once(words: str) -> Any:
    """Thousands of lines say the same of their roles, ends and nibs."""
    return _json(words)


def _json(words: str) -> Any:
    try:
        return plain_json.loads(words)
    except (ValueError, RecursionError):
        raise DamagedError("a column holds no JSON") from None


def record_of(table: str, key: object, row: Any) -> Any:
    """The record of a row as SQL or JSON holds it. Raises DamagedError where it is not what its columns say."""
    if not isinstance(key, str) or not 0 < len(key) <= MOST_TEXT:
        raise DamagedError(f"a row of '{table}' has no key")
    kind = RECORDS.get(table)
    if kind is None or set(row) != set(kind.columns()):
        raise DamagedError(f"row '{key[:40]}' of '{table}' has other columns than a job's")
    try:
        return kind(**{name: _value(name, column, row[name]) for name, column in kind.columns().items()})
    except (StrideError, KeyError, TypeError, ValueError, IndexError, AttributeError, OverflowError) as fault:
        raise DamagedError(f"row '{key[:40]}' of '{table}': {fault}") from None


def _value(name: str, column: Column, value: Any) -> Any:
    if value is None:
        if not column.nullable:
            raise DamagedError(f"it lacks '{name}'")
        return None
    if not _KINDS[column.kind](value):
        raise DamagedError(f"'{name}' holds no {_WORDS[column.kind]}")
    return column.decode(value)


def _is_real(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value) and abs(value) < 1e15


_KINDS: dict[str, Callable[[object], bool]] = {
    "text": lambda v: isinstance(v, str) and len(v) <= MOST_TEXT,
    "real": _is_real,
    "int": lambda v: isinstance(v, int) and not isinstance(v, bool) and abs(v) < 10**15,
    "json": lambda v: True,
}
_WORDS = {"text": "text", "real": "number", "int": "whole number", "json": "JSON"}


def past_record(table: str, key: object, text: object) -> Any:
    """The record of a row of the history, JSON text; columns that came after it was made are added. None for None.
    Raises DamagedError."""
    if text is None:
        return None
    row = json_of(text)
    if not isinstance(row, dict):
        raise DamagedError("a step of its history holds no row")
    kind = RECORDS.get(table)
    if kind is not None:
        row = {**kind.added(), **{kind.renamed.get(name, name): value for name, value in row.items()}}
    return record_of(table, key, row)
