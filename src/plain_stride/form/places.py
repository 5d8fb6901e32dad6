"""Places along all lines of a drawing at once: what is known of a drawing, and what a plan wants, is told at these.

Each line has places evenly along it, its ends among them (a closed one its seam twice); those of all lines stand one
after the other in one array, so that a rule is a few array operations however many lines there are.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from weakref import WeakKeyDictionary

import numpy as np

from plain_stride.lines.curve import direction, point
from plain_stride.lines.shape import Path

STEP_MM, LEAST_PLACES, MOST_PLACES = 0.5, 9, 2000
_FAR = 1e4
"""More than any value differs from another, between the values of lines that stand beside each other."""


@dataclass(frozen=True, eq=False)
class Along:
    """s (n,) mm, points (n, 2) mm, way (n, 2): evenly along one line."""

    s: np.ndarray
    points: np.ndarray
    way: np.ndarray

    @property
    def left(self) -> np.ndarray:
        """Directions (n, 2) to the left of travel; y goes down."""
        return left_of(self.way)


def left_of(way: np.ndarray) -> np.ndarray:
    """Directions (n, 2) to the left of others; y goes down."""
    return np.column_stack([way[:, 1], -way[:, 0]])


_kept: WeakKeyDictionary[Path, Along] = WeakKeyDictionary()


def along_of(path: Path) -> Along:
    """Places along a path; kept as long as it."""
    kept = _kept.get(path)
    if kept is None:
        length = path.arc.length
        n = int(np.clip(np.ceil(length / STEP_MM) + 1, LEAST_PLACES, MOST_PLACES))
        s = np.linspace(0.0, length, n)
        at = path.arc.locate(s)
        kept = _kept[path] = Along(s, point(path.curve, *at), direction(path.curve, *at))
    return kept


@dataclass(frozen=True, eq=False)
class Places:
    """lines: their ids; starts (m + 1,): where the places of each begin; s (n,), points (n, 2), way (n, 2): arc
    length, place and direction of each; closed (m,)."""

    lines: tuple[str, ...]
    starts: np.ndarray
    s: np.ndarray
    points: np.ndarray
    way: np.ndarray
    closed: np.ndarray

    @cached_property
    def counts(self) -> np.ndarray:
        """How many places each line has (m,)."""
        return np.diff(self.starts)

    @cached_property
    def line(self) -> np.ndarray:
        """Which line each place is on (n,)."""
        return np.repeat(np.arange(len(self.lines)), self.counts)

    @cached_property
    def length(self) -> np.ndarray:
        """mm of each line (m,)."""
        return self.s[self.starts[1:] - 1] if len(self.lines) else np.zeros(0)

    @cached_property
    def step(self) -> np.ndarray:
        """mm between two places of each line (m,)."""
        return self.length / np.maximum(self.counts - 1, 1)

    @cached_property
    def weight(self) -> np.ndarray:
        """mm that each place stands for (n,)."""
        out = self.step[self.line]
        out[self.starts[:-1]] /= 2.0
        out[self.starts[1:] - 1] /= 2.0
        return out

    @cached_property
    def row(self) -> dict[str, int]:
        """Which line an id is."""
        return dict(zip(self.lines, range(len(self.lines)), strict=True))

    @cached_property
    def left(self) -> np.ndarray:
        """Directions (n, 2) to the left of travel; y goes down."""
        return left_of(self.way)

    def of(self, k: int) -> slice:
        """The places of a line."""
        return slice(int(self.starts[k]), int(self.starts[k + 1]))

    def index_of(self, lines: np.ndarray) -> np.ndarray:
        """The places (k,) of some lines (j,), one line after the other."""
        counts = self.counts[lines]
        first = np.cumsum(counts) - counts
        return np.arange(int(counts.sum())) + np.repeat(self.starts[lines] - first, counts)

    def only(self, lines: np.ndarray) -> "Places":
        """Those of some lines (j,)."""
        on = self.index_of(lines)
        starts = np.concatenate([[0], np.cumsum(self.counts[lines])])
        keys = tuple(self.lines[k] for k in lines.tolist())
        return Places(keys, starts, self.s[on], self.points[on], self.way[on], self.closed[lines])

    def were(self, before: "Places") -> np.ndarray:
        """Which places of others these are (n,): of a line with the same id that lies as it did; -1 for none."""
        line_was = np.array([before.row.get(key, -1) for key in self.lines], int)
        same = (line_was >= 0) & (self.counts == np.append(before.counts, 0)[line_was])
        out = np.full(len(self.s), -1)
        now, then = self.index_of(np.flatnonzero(same)), before.index_of(line_was[same])
        moved = (self.points[now] != before.points[then]).any(axis=1)
        lies_otherwise = np.bincount(self.line[now[moved]], minlength=len(self.lines)) > 0
        out[now] = np.where(lies_otherwise[self.line[now]], -1, then)
        return out

    def at(self, line: np.ndarray, s: np.ndarray) -> np.ndarray:
        """The places (k,) nearest to arc lengths s (k,) of lines (k,)."""
        on = np.rint(s / np.maximum(self.step[line], 1e-12)).astype(int)
        return self.starts[line] + np.clip(on, 0, self.counts[line] - 1)

    def around(self, line: np.ndarray, s: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """(places, row, mm): for each of some spots, at arc lengths s (k,) of lines (k,), all places of its line, with
        which spot it is and how far along the line each is from it."""
        counts = self.counts[line]
        row = np.repeat(np.arange(len(line)), counts)
        first = np.cumsum(counts) - counts
        index = self.starts[line][row] + np.arange(len(row)) - first[row]
        away, whole = np.abs(self.s[index] - s[row]), self.length[line[row]]
        return index, row, np.where(self.closed[line[row]], np.minimum(away, whole - away), away)

    def shifted(self, by: np.ndarray | int) -> np.ndarray:
        """Indices (n,) of the places so many (n,) further on along their line: it ends there, or goes round."""
        return self.shifted_from(np.arange(len(self.s)), by)

    def shifted_from(self, place: np.ndarray, by: np.ndarray | int) -> np.ndarray:
        """The same for some places (k,)."""
        k = self.line[place]
        n, here = self.counts[k], place - self.starts[k] + by
        round_it = np.where(self.closed[k], here % np.maximum(n - 1, 1), np.clip(here, 0, n - 1))
        return self.starts[k] + round_it

    def smoothed(self, values: np.ndarray, mm: float) -> np.ndarray:
        """Values (n,) averaged over so many mm along each line, by a triangle."""
        reach = np.rint(mm / np.maximum(self.step, 1e-9) / 2.0).astype(int)
        reach = np.minimum(reach, self.counts)[self.line]
        total, weights = (reach + 1.0) * values, reach + 1.0
        for by in range(1, int(reach.max(initial=0)) + 1):
            gain = np.maximum(reach + 1 - by, 0)
            total = total + gain * (values[self.shifted(by)] + values[self.shifted(-by)])
            weights = weights + 2.0 * gain
        return total / weights

    def limited(self, wide: np.ndarray, slope: float) -> np.ndarray:
        """The largest widths (n,) below these whose slope stays within +-slope along each line, round closed ones as
        well. Exact: running minima both ways, and the lower side of a seam taken over by the other."""
        held = self._limited(wide, slope)
        closed = np.flatnonzero(self.closed)
        if len(closed):
            first, last = self.starts[closed], self.starts[closed + 1] - 1
            seam = np.minimum(held[first], held[last])
            held[first], held[last] = seam, seam
            held = self._limited(held, slope)
        return held

    def _limited(self, wide: np.ndarray, slope: float) -> np.ndarray:
        # Lines lie so far below each other that no minimum of one reaches into the next.
        apart = _FAR * self.line
        up = np.minimum.accumulate(wide - slope * self.s - apart) + slope * self.s + apart
        down = np.minimum.accumulate((up + slope * self.s + apart)[::-1])[::-1] - slope * self.s - apart
        return down


def places_of(lines: Iterable[tuple[str, Path]]) -> Places:
    """Places along lines by id, in the order given."""
    keys, closed, alongs = [], [], []
    for key, path in lines:
        keys.append(key)
        closed.append(path.closed)
        alongs.append(along_of(path))
    starts = np.concatenate([[0], np.cumsum([len(along.s) for along in alongs], dtype=int)])
    s, points, way = (_joined([getattr(along, name) for along in alongs], empty)
                      for name, empty in (("s", (0,)), ("points", (0, 2)), ("way", (0, 2))))  # fmt: skip
    return Places(tuple(keys), starts, s, points, way, np.array(closed, bool))


def _joined(arrays: Sequence[np.ndarray], empty: tuple[int, ...]) -> np.ndarray:
    return np.concatenate(arrays) if arrays else np.zeros(empty)
