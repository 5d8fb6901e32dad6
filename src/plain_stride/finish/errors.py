"""Faults of this room."""

from plain_stride.errors import StrideError


class FinishError(StrideError):
    """What all faults of files of final art have in common."""
