"""Connections to a job file, and what its name tells of it."""

import os
import sqlite3
import urllib.parse
from pathlib import Path

Stat = tuple[int, int, int, int]
"""Device, inode, size in bytes, ns of the last write."""


def writing(path: Path) -> sqlite3.Connection:
    """A connection for writing, to a file that has been looked at."""
    db = sqlite3.connect(f"{_uri(path)}?mode=rw", uri=True, check_same_thread=False, isolation_level=None)
    for pragma in ("trusted_schema = OFF", "journal_mode = WAL", "synchronous = FULL", "foreign_keys = ON"):
        db.execute(f"PRAGMA {pragma}")
    return db


def looking(path: Path, still: bool) -> sqlite3.Connection:
    """A connection for reading. still: nobody writes the file, so that nothing need be laid beside it."""
    if not still:
        return reading(path)
    db = sqlite3.connect(f"{_uri(path)}?mode=ro&immutable=1", uri=True, check_same_thread=False, isolation_level=None)
    db.execute("PRAGMA trusted_schema = OFF")
    return db


def reading(path: Path) -> sqlite3.Connection:
    """A connection for reading what another program may be writing."""
    db = sqlite3.connect(f"{_uri(path)}?mode=ro", uri=True, check_same_thread=False, isolation_level=None)
    db.execute("PRAGMA trusted_schema = OFF")
    return db


def _uri(path: Path) -> str:
    return "file:" + urllib.parse.quote(os.fsencode(path.resolve()))


def has_log(path: Path) -> bool:
    """Whether a log lies beside it that holds something."""
    try:
        return Path(f"{path}-wal").stat().st_size > 0
    except OSError:
        return False


def identity_of(path: Path) -> tuple[int, int] | None:
    """Which file lies under a name; None for none."""
    found = facts_of(path)
    return found[:2] if found is not None else None


def facts_of(path: Path) -> Stat | None:
    """Which file lies under a name, how large it is and when it was written last; None for none."""
    try:
        found = path.stat()
    except (OSError, ValueError):
        return None
    return found.st_dev, found.st_ino, found.st_size, found.st_mtime_ns
