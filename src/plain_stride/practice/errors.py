"""Faults of practice."""

from plain_stride.errors import StrideError


class PracticeError(StrideError):
    """A drill, a pull of it or a hand book that cannot be used."""
