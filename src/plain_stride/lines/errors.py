"""Faults of this room."""

from plain_stride.errors import StrideError


class LinesError(StrideError):
    """What all faults of lines have in common."""
