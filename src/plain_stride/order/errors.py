"""Faults of planning."""

from plain_stride.errors import StrideError


class OrderError(StrideError):
    """An order of work, a deadline or working hours that cannot be."""
