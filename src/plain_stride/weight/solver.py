"""The solver of the plan's guarantees: the least change of the widths that meets them, the higher ones first.

Unknown is an offset at each knot, in powers of two of the width. A guarantee is a row: a sum of shares of offsets that
is to be so much or more. The sum of squares of the offsets is the least (dual coordinate ascent, after Hildreth 1957);
thickening costs against thinning as `lean` says. Where all rows can be met together, that is the answer. Else levels
are met from the highest: rows of higher levels weigh as much as they must, those of the level at hand at most
MOST_WEIGHT each; one that weighs that much and is still not met gives way, the worst first, and the next level follows.
"""

from dataclasses import dataclass

import numpy as np

from plain_stride.compiled import plan_loops
from plain_stride.compiled.ready import floats, kernels

MOST_WEIGHT, ROUNDS, NEAR_ENOUGH, MET = 30.0, 4000, 2e-6, 2e-3
LEAST_LEAN, MOST_LOOKS = 0.02, 200


@dataclass(frozen=True, eq=False)
class Rows:
    """first (m + 1,): where the columns of each row begin; column, share (k,): which offsets, and how much of each;
    need (m,): what each row wants; level (m,): 0 the highest."""

    first: np.ndarray
    column: np.ndarray
    share: np.ndarray
    need: np.ndarray
    level: np.ndarray

    def have(self, offsets: np.ndarray) -> np.ndarray:
        """What each row comes to (m,)."""
        row = np.repeat(np.arange(len(self.need)), np.diff(self.first))
        out: np.ndarray = np.bincount(row, self.share * offsets[self.column], minlength=len(self.need))
        return out


@dataclass(frozen=True, eq=False)
class Solved:
    """offsets (n,), powers of two; gave_way (m,): rows that could not be met; weight (m,): what each row weighs."""

    offsets: np.ndarray
    gave_way: np.ndarray
    weight: np.ndarray


def solved(rows: Rows, count: int, lean: float = 0.5, start: np.ndarray | None = None) -> Solved:
    """The offsets of so many knots. lean: how far a clash thickens (1) rather than thins (0); start (m,): weights to
    begin with, as those of nearly the same rows before: they change how soon it is there, not the answer."""
    lean = min(max(lean, LEAST_LEAN), 1.0 - LEAST_LEAN)
    at_work = _AtWork(rows, count, 2.0 * (1.0 - lean), 2.0 * lean)
    if not at_work.meets_all(start):
        at_work.begin_anew()
        _by_levels(rows, at_work)
    return Solved(at_work.offsets(), at_work.gave_way, at_work.weight)


def _by_levels(rows: Rows, at_work: "_AtWork") -> None:
    for level in np.unique(rows.level):
        here = rows.level == level
        at_work.most[here] = MOST_WEIGHT
        while len(failed := at_work.failed(here)):
            for row in _worst_apart(rows, at_work.short(), failed):
                at_work.give_way(row)
        _look_again(at_work, here)
        if (here & at_work.gave_way).any():
            at_work.begin_anew()
            # What strove against each other has left its weight: all rows that are left settle from nothing.
            at_work.failed(at_work.most > 0.0)
        at_work.most[here & ~at_work.gave_way] = np.inf


def wholes(*arrays: np.ndarray) -> list[np.ndarray]:
    """Arrays of whole numbers as the loops take them."""
    return [np.require(a, np.int64, ["C", "W"]) for a in arrays]


def touched(rows: Rows, count: int) -> list[np.ndarray]:
    """(first (count + 1,), row (k,)): the rows of each column."""
    row = np.repeat(np.arange(len(rows.need)), np.diff(rows.first))
    order = np.argsort(rows.column, kind="stable")
    first = np.concatenate([[0], np.cumsum(np.bincount(rows.column, minlength=count))])
    return wholes(first, row[order])


class _AtWork:
    """The state of a solution: what each row may weigh and weighs, and what all of them come to at each knot."""

    def __init__(self, rows: Rows, count: int, thicken: float, thin: float) -> None:
        self.rows, self._thicken, self._thin = rows, thicken, thin
        self.most, self.weight = np.zeros(len(rows.need)), np.zeros(len(rows.need))
        self.gave_way = np.zeros(len(rows.need), bool)
        self.z = np.zeros(count)
        self._touch = touched(rows, count)
        row = np.repeat(np.arange(len(rows.need)), np.diff(rows.first))
        self._steep = np.bincount(row, rows.share**2, minlength=len(rows.need)) / min(thicken, thin)

    def offsets(self) -> np.ndarray:
        """What the weights call for: above nought and below it at their own cost."""
        return np.where(self.z > 0.0, self.z / self._thicken, self.z / self._thin)

    def short(self) -> np.ndarray:
        """What each row lacks."""
        return self.rows.need - self.rows.have(self.offsets())

    def failed(self, here: np.ndarray) -> np.ndarray:
        """Rows of a level that are not met, once all have settled."""
        compiled, rows = kernels() or plan_loops, self.rows
        compiled.settle(*wholes(rows.first, rows.column), *floats(rows.share), *self._touch,
                        *floats(rows.need, self._steep, self.most), self.weight, self.z, self._thicken, self._thin,
                        np.array([ROUNDS, NEAR_ENOUGH]))  # fmt: skip
        return np.flatnonzero(here & ~self.gave_way & (self.short() > MET))

    def meets_all(self, start: np.ndarray | None) -> bool:
        """Whether all rows are met together, none weighing more than MOST_WEIGHT. start (m,): weights to begin with."""
        self.most[:] = MOST_WEIGHT
        if start is not None:
            self.weight[:] = np.minimum(start, MOST_WEIGHT)
            row = np.repeat(np.arange(len(start)), np.diff(self.rows.first))
            self.z[:] = np.bincount(self.rows.column, self.rows.share * self.weight[row], minlength=len(self.z))
        met = not len(self.failed(self.most > 0.0))
        self.most[:] = 0.0
        return met

    def begin_anew(self) -> None:
        """All weights nought."""
        self.weight[:], self.z[:] = 0.0, 0.0

    def give_way(self, row: int) -> None:
        """Takes a row out."""
        self.gave_way[row], self.most[row] = True, 0.0
        own = slice(self.rows.first[row], self.rows.first[row + 1])
        np.subtract.at(self.z, self.rows.column[own], self.weight[row] * self.rows.share[own])
        self.weight[row] = 0.0


def _look_again(at_work: _AtWork, here: np.ndarray) -> None:
    """Rows that gave way beside others may find room once those have: the nearest to it first."""
    lost = np.flatnonzero(here & at_work.gave_way)
    for row in lost[np.argsort(at_work.short()[lost], kind="stable")][:MOST_LOOKS].tolist():
        weight, z = at_work.weight.copy(), at_work.z.copy()
        at_work.gave_way[row], at_work.most[row] = False, MOST_WEIGHT
        if len(at_work.failed(at_work.most > 0.0)):
            at_work.gave_way[row], at_work.most[row] = True, 0.0
            at_work.weight[:], at_work.z[:] = weight, z


def _worst_apart(rows: Rows, short: np.ndarray, failed: np.ndarray) -> list[int]:
    """Of rows that failed, those that fall farthest short, none of which shares a knot with a worse one: that one's
    giving way may be all it takes."""
    taken: set[int] = set()
    out = []
    for row in failed[np.argsort(-short[failed], kind="stable")].tolist():
        own = set(rows.column[rows.first[row] : rows.first[row + 1]].tolist())
        if not own & taken:
            out.append(row)
        taken |= own
    return out
