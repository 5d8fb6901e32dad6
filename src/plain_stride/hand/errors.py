"""Faults of this room."""

from plain_stride.errors import StrideError


class HandError(StrideError):
    """What all faults of pulls, nibs and what is done to them have in common."""
