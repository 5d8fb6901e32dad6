"""The one base class of errors that are said to the inker."""


class StrideError(Exception):
    """Something the inker can act on: what is wrong, what is safe, what to do, in one sentence or two."""
