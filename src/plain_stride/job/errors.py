"""Errors of jobs and their files."""

from plain_stride.errors import StrideError


class JobError(StrideError):
    """A job that cannot be opened, written or changed as asked."""


class OverwrittenError(JobError):
    """Another program has written into a job's file while it was open: what is on disk is no longer this job."""


class DamagedError(StrideError):
    """What of a file is no job; the message says which part of it."""
