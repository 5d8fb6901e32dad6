"""The writer's lock: a file beside the job, held open, so that it goes with the process however that ends."""

import fcntl
import os
import stat
from contextlib import suppress
from pathlib import Path

from plain_stride.job.errors import JobError
from plain_stride.job.whole_files import why

OURS = "Plain Stride, process "
TRIES = 50


class WriterLock:
    """Held from `take` to `release`. A lock file that another writer has taken away meanwhile counts for nothing:
    whether it is still the one under its name is looked at after it is held."""

    def __init__(self, place: Path, handle: int) -> None:
        self._place, self._handle = place, handle

    @classmethod
    def take(cls, path: Path) -> "WriterLock":
        """The lock of a job. Raises JobError, naming the holder, where another program has it."""
        place = Path(f"{path}-lock")
        for _ in range(TRIES):
            handle = _opened(path, place)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                if _same(handle, place):
                    os.ftruncate(handle, 0)
                    os.pwrite(handle, f"{OURS}{os.getpid()}".encode(), 0)
                    return cls(place, handle)
                os.close(handle)
            except BlockingIOError:
                holder = os.pread(handle, 200, 0).decode("utf-8", "replace").strip() or "another program"
                os.close(handle)
                told = f"{path.name} is being written by {holder}: close it there first; reading it works"
                raise JobError(told) from None
            except OSError as fault:
                os.close(handle)
                raise JobError(f"{path.name} cannot be changed here ({why(fault)}): it can only be looked at") from None
        raise JobError(f"{path.name} is being opened and closed by others all the time: try again")

    def release(self) -> None:
        """Lets another writer have it; its file goes, where it is still this one."""
        with suppress(OSError):
            if _same(self._handle, self._place):
                self._place.unlink()
        os.close(self._handle)


def _opened(path: Path, place: Path) -> int:
    """A lock file open for reading and writing, made where there is none. Links are not followed, and what is no lock
    of ours is left alone. Raises JobError."""
    flags = os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW | os.O_CLOEXEC | os.O_NONBLOCK
    strange = JobError(f"{place.name} stands where the lock of {path.name} belongs, and is none: nothing was touched;"
                       " take it away first")  # fmt: skip
    try:
        handle = os.open(place, flags, 0o666)
    except (OSError, ValueError) as fault:
        if (os.path.lexists(place) and not place.is_file()) or place.is_symlink():
            raise strange from None
        raise JobError(f"{path.name} cannot be changed here ({why(fault)}): it can only be looked at") from None
    facts = os.fstat(handle)
    said = os.pread(handle, len(OURS), 0) if stat.S_ISREG(facts.st_mode) else b"?"
    if not stat.S_ISREG(facts.st_mode) or facts.st_nlink > 1 or not OURS.encode().startswith(said):
        os.close(handle)
        raise strange
    return handle


def _same(handle: int, place: Path) -> bool:
    """Whether an open file is the one under a name."""
    try:
        here, there = os.fstat(handle), os.lstat(place)
    except OSError:
        return False
    return (here.st_dev, here.st_ino) == (there.st_dev, there.st_ino)
