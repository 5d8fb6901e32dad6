"""Faults of this room."""

from plain_stride.errors import StrideError


class BoardError(StrideError):
    """What all faults of the board: pages, frames, targets, the job sheet have in common."""
