"""Faults of this room."""

from plain_stride.errors import StrideError


class PencilsError(StrideError):
    """What all faults of pencils have in common."""
