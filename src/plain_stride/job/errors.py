"""Errors of jobs and their files."""

from pathlib import Path

from plain_stride.errors import StrideError


class JobError(StrideError):
    """A job that cannot be opened, written or changed as asked."""


class OverwrittenError(JobError):
    """Another program has written into a job's file while it was open: what is on disk is no longer this job."""


class DamagedError(StrideError):
    """What of a file is no job; the message says which part of it."""


def job_error(path: Path, fault: Exception) -> JobError:
    """What went wrong with a job's file, in a sentence."""
    text = " ".join(str(fault).split())[:200]
    if isinstance(fault, DamagedError):
        return JobError(f"{path.name} is damaged ({text}): it was not touched; open a copy of it")
    if "full" in text:
        return JobError(f"the disk is full: {path.name} stays as it was; free some room and do it again")
    if "readonly" in text or "unable to open" in text:
        return JobError(f"{path.name} cannot be written there: nothing was changed; copy it to a folder of yours")
    if "malformed" in text or "not a database" in text or isinstance(fault, OverflowError | UnicodeError):
        return JobError(f"{path.name} is damaged: it was not touched; open a copy of it")
    return JobError(f"{path.name} cannot be used ({text}): nothing was changed")
