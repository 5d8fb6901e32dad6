"""Putting an export in place: whole or not at all."""

import os
import tempfile
from pathlib import Path

from plain_stride.finish.errors import FinishError
from plain_stride.job_mark import is_job


class WriteError(FinishError):
    """A file that cannot be written where it should go."""


def write_whole(path: Path, data: bytes) -> None:
    """Writes beside the target and moves it there when it is complete; an older export is replaced only then, a job
    never. Raises StrideError, the target as it was."""
    if path.suffix == ".stride" or is_job(path):
        raise WriteError(f"{path.name} is a job, or named like one: it was not touched; choose another name")
    if path.exists() and not path.is_file():
        raise WriteError(f"{path.name} is there and is no file: it was not touched; choose another name")
    try:
        handle, name = tempfile.mkstemp(prefix=f".{path.stem[:40]}-", suffix=".part", dir=path.parent)
    except (OSError, ValueError) as fault:
        raise WriteError(
            f"{path} cannot be written: {getattr(fault, 'strerror', fault)}; choose a folder of yours"
        ) from None
    part = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        umask = os.umask(0)
        os.umask(umask)
        part.chmod(0o666 & ~umask)
        part.replace(path)
    except OSError as fault:
        raise WriteError(f"{path} cannot be written: {fault.strerror}; what was there before is untouched") from None
    finally:
        part.unlink(missing_ok=True)
