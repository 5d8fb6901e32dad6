"""Faults of this room."""

from plain_stride.errors import StrideError


class ToneError(StrideError):
    """A tone that cannot be laid."""
