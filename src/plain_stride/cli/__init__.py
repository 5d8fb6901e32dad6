"""The command line: the same work without a window."""

from plain_stride.cli.entry import main, run

__all__ = ["main", "run"]
