"""Rows of strokes that are one thing: hatching, grass, stitches that were pulled one by one."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

LEAST_STROKES = 6
"""How many strokes that hang together, each beside the next, make a row."""


@dataclass(frozen=True, eq=False)
class Sets:
    """rows: ids of the strokes of each set."""

    rows: tuple[tuple[str, ...], ...]

    @cached_property
    def of(self) -> Mapping[str, int]:
        """In which set a line is."""
        return {key: k for k, row in enumerate(self.rows) for key in row}

    def holds(self, line: str) -> bool:
        """Whether a line is a stroke of a set."""
        return line in self.of


def sets_of(keys: Sequence[str], which: np.ndarray) -> Sets:
    """The sets among lines (n,). which (n,): the row that each is in, as of `strokes_beside`."""
    order = np.argsort(which, kind="stable")
    groups = np.split(order, np.flatnonzero(np.diff(which[order])) + 1) if len(order) else []
    return Sets(tuple(tuple(keys[k] for k in group.tolist()) for group in groups
                      if which[group[0]] >= 0 and len(group) >= LEAST_STROKES))  # fmt: skip
