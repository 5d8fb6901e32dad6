"""Files that appear under their name only when they are whole, and never in the place of another."""

import errno
import os
import sqlite3
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from plain_stride.job.errors import JobError, job_error

MOST_NAME = 240
"""Bytes of a job's file name: what stands beside it has a longer one, and 255 is what file systems take."""
_NO_LINKS = (errno.EPERM, errno.EOPNOTSUPP, errno.ENOTSUP, errno.ENOSYS, errno.EMLINK, errno.EXDEV, errno.EINVAL)


def free(path: Path) -> None:
    """Raises JobError where something has this name already, or nothing can have it."""
    if len(os.fsencode(path.name)) > MOST_NAME:
        raise JobError(
            f"a job's name has at most {MOST_NAME} bytes, '{path.name[:40]}…' is longer: choose a shorter one"
        )
    try:
        there = os.path.lexists(path)
    except (OSError, ValueError) as fault:
        raise JobError(f"{path.name} cannot be written there: {why(fault)}") from None
    if there:
        raise JobError(f"{path.name} is there already and was not touched: choose another name")


@contextmanager
def part_beside(path: Path) -> Iterator[Path]:
    """A new empty file in the folder of another, gone afterwards with all that SQLite lays beside it. Raises
    JobError."""
    try:
        handle, name = tempfile.mkstemp(prefix=f".{path.stem[:40]}-", suffix=".part", dir=path.parent)
    except (OSError, ValueError) as fault:
        raise JobError(f"{path.name} cannot be written there: {why(fault)}") from None
    os.close(handle)
    part = Path(name)
    try:
        yield part
    finally:
        for end in ("", "-wal", "-shm", "-journal"):
            Path(f"{part}{end}").unlink(missing_ok=True)


def put_in_place(path: Path, write: Callable[[Path], None]) -> None:
    """Writes beside the target and gives it the name when it is whole; never overwrites. Raises JobError."""
    with part_beside(path) as part:
        try:
            part.unlink()
            write(part)
            with part.open("rb") as file:
                os.fsync(file.fileno())
            give_name(part, path)
        except FileExistsError:
            raise JobError(f"{path.name} is there already and was not touched: choose another name") from None
        except sqlite3.Error as fault:
            raise job_error(path, fault) from None
        except OSError as fault:
            raise JobError(f"{path.name} cannot be written there: {why(fault)}") from None


@contextmanager
def made_whole(path: Path) -> Iterator[Path]:
    """A free hidden name with the same ending, for a file that takes several steps to make: it gets its own when all
    are done, and nothing is left of it where one fails. Raises JobError."""
    free(path)
    part = path.with_name(f".{path.stem[:40]}-{os.getpid()}{path.suffix}")
    try:
        part.unlink(missing_ok=True)
        yield part
        give_name(part, path)
    except FileExistsError:
        raise JobError(f"{path.name} is there already and was not touched: choose another name") from None
    except OSError as fault:
        raise JobError(f"{path.name} cannot be written there: {why(fault)}") from None
    finally:
        for end in ("", "-wal", "-shm", "-journal", "-lock"):
            with suppress(OSError):
                Path(f"{part}{end}").unlink(missing_ok=True)


def give_name(part: Path, path: Path) -> None:
    """Gives a whole file its name. Raises FileExistsError where another has it."""
    try:
        os.link(part, path)
    except FileExistsError:
        raise
    except OSError as fault:
        if fault.errno not in _NO_LINKS:
            raise
        # File systems without hard links: an empty file takes the name first, so that none is overwritten.
        os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o666))
        part.replace(path)


def why(fault: Exception) -> str:
    """An error of the system in its own words."""
    return str(getattr(fault, "strerror", None) or fault)
