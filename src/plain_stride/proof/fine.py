"""Lines sampled finely enough for what an eye finds fault with: places, directions and widths of many lines at once."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from weakref import WeakKeyDictionary

import numpy as np

from plain_stride.lines.curve import direction, point
from plain_stride.lines.shape import Shape

STEP_MM, LEAST_PLACES, MOST_PLACES = 0.2, 9, 4000
CORNER_DEG, CORNER_MM, CALM_MM = 40.0, 2.5, 3.0
"""A line whose chords of so many mm to either side of a place turn so much has a corner there, once it is smoothed over
the last: a line that shivers turns and turns back."""


@dataclass(frozen=True, eq=False)
class Stroke:
    """One line, evenly: s (n,) mm, points (n, 2), way (n, 2); body, full (n,): widths before ends and with them, mm;
    left, right (n,): halves of the latter."""

    s: np.ndarray
    points: np.ndarray
    way: np.ndarray
    body: np.ndarray
    left: np.ndarray
    right: np.ndarray

    @property
    def full(self) -> np.ndarray:
        """Widths with ends (n,), mm."""
        return self.left + self.right

    @property
    def step(self) -> float:
        """mm between two places."""
        return float(self.s[1])

    @property
    def length(self) -> float:
        """mm."""
        return float(self.s[-1])


_kept: WeakKeyDictionary[Shape, Stroke] = WeakKeyDictionary()


def stroke_of(shape: Shape) -> Stroke:
    """A finished line, sampled; kept as long as it."""
    kept = _kept.get(shape)
    if kept is None:
        length = shape.arc.length
        s = np.linspace(0.0, length, int(np.clip(np.ceil(length / STEP_MM) + 1, LEAST_PLACES, MOST_PLACES)))
        at = shape.arc.locate(s)
        body = np.interp(s, shape.body.s, shape.body.full)
        kept = _kept[shape] = Stroke(s, point(shape.curve, *at), direction(shape.curve, *at), body,
                                     *shape.widths.at(s))  # fmt: skip
    return kept


@dataclass(frozen=True, eq=False)
class Fine:
    """Some lines one after the other: lines: ids; starts (m + 1,): where the places of each begin; the rest as of
    `Stroke`; closed (m,)."""

    lines: tuple[str, ...]
    starts: np.ndarray
    s: np.ndarray
    points: np.ndarray
    way: np.ndarray
    body: np.ndarray
    full: np.ndarray
    closed: np.ndarray

    @cached_property
    def line(self) -> np.ndarray:
        """Which line each place is on (n,)."""
        return np.repeat(np.arange(len(self.lines)), np.diff(self.starts))

    @cached_property
    def length(self) -> np.ndarray:
        """mm of each line (m,)."""
        return self.s[self.starts[1:] - 1] - self.first_s if len(self.lines) else np.zeros(0)

    @cached_property
    def step(self) -> np.ndarray:
        """mm between places of each line (m,)."""
        return self.length / np.maximum(np.diff(self.starts) - 1, 1)

    @cached_property
    def left(self) -> np.ndarray:
        """Directions (n, 2) to the left of travel; y goes down."""
        return np.column_stack([self.way[:, 1], -self.way[:, 0]])

    @cached_property
    def first_s(self) -> np.ndarray:
        """Where each line or piece begins (m,), mm along its line."""
        return self.s[self.starts[:-1]] if len(self.lines) else np.zeros(0)

    @cached_property
    def from_end(self) -> np.ndarray:
        """mm (n,) to the nearer end; of closed lines half their length, which have none."""
        s = self.s - self.first_s[self.line]
        away = np.minimum(s, self.length[self.line] - s)
        return np.where(self.closed[self.line], self.length[self.line] / 2.0, away)

    def of(self, k: int) -> slice:
        """The places of a line."""
        return slice(int(self.starts[k]), int(self.starts[k + 1]))

    def shifted(self, by: int) -> np.ndarray:
        """Indices (n,) of the places so many further on along their line: it ends there, or goes round."""
        n = np.diff(self.starts)[self.line]
        here = np.arange(len(self.s)) - self.starts[self.line] + by
        round_it = here % np.maximum(n - 1, 1)
        return self.starts[self.line] + np.where(self.closed[self.line], round_it, np.clip(here, 0, n - 1))

    def smoothed(self, values: np.ndarray, half: int) -> np.ndarray:
        """Values (n,) averaged by a triangle over so many places to either side along each line; near its ends over
        what lies on both sides alike."""
        return self._mean(self._mean(values, half // 2), half // 2)

    def _mean(self, values: np.ndarray, half: int) -> np.ndarray:
        here = np.arange(len(values))
        first, last = self._bounds
        reach = np.minimum(half, np.minimum(here - first, last - here))
        sums = np.concatenate([[0.0], np.cumsum(values)])
        return np.asarray((sums[here + reach + 1] - sums[here - reach]) / (2 * reach + 1))

    def averaged(self, values: np.ndarray, window: int) -> np.ndarray:
        """Means (n,) of values (n,) over so many places round each, of what of them lies on its line."""
        here = np.arange(len(values))
        first, last = self._bounds
        low, high = np.maximum(here - window // 2, first), np.minimum(here + window // 2, last)
        sums = np.concatenate([[0.0], np.cumsum(values)])
        return np.asarray((sums[high + 1] - sums[low]) / (high + 1 - low))

    @cached_property
    def _bounds(self) -> tuple[np.ndarray, np.ndarray]:
        """The first and the last place (n,) of the line that each place is on."""
        return self.starts[:-1][self.line], self.starts[1:][self.line] - 1

    def between_corners(self) -> "Fine":
        """The same, each line cut into pieces at its corners; a piece has the id of its line."""
        turned = _turned(self)
        most = (turned >= turned[self.shifted(1)]) & (turned > turned[self.shifted(-1)])
        sharp = np.flatnonzero((turned > CORNER_DEG) & most)
        ends = np.isin(sharp, self.starts) | np.isin(sharp, self.starts[1:] - 1)
        cuts = np.sort(np.concatenate([self.starts, sharp[~ends]]))
        keep = np.concatenate([np.diff(cuts) >= LEAST_PLACES, [True]])
        starts = cuts[keep] if keep[:-1].all() else _merged(cuts, self.starts)
        row = self.line[np.minimum(starts[:-1], len(self.s) - 1)] if len(self.s) else np.zeros(0, int)
        whole = np.bincount(row, minlength=len(self.lines)) == 1
        return Fine(tuple(self.lines[k] for k in row.tolist()), starts, self.s, self.points, self.way, self.body,
                    self.full, self.closed[row] & whole[row])  # fmt: skip

    def runs(self, those: np.ndarray) -> list[np.ndarray]:
        """Runs of places for which those (n,) holds, none longer than one line: indices of each."""
        at = np.flatnonzero(those)
        if not len(at):
            return []
        cut = (np.diff(at) > 1) | (np.diff(self.line[at]) > 0)
        return np.split(at, np.flatnonzero(cut) + 1)


def fine_of(shapes: Mapping[str, Shape], lines: Sequence[str]) -> Fine:
    """Some lines by id, in this order."""
    strokes = [stroke_of(shapes[key]) for key in lines]
    starts = np.concatenate([[0], np.cumsum([len(one.s) for one in strokes], dtype=int)])
    if not strokes:
        none, pairs = np.zeros(0), np.zeros((0, 2))
        return Fine((), starts, none, pairs, pairs, none, none, np.zeros(0, bool))
    s, points, way, body, left, right = (np.concatenate([getattr(one, name) for one in strokes])
                                         for name in ("s", "points", "way", "body", "left", "right"))  # fmt: skip
    return Fine(tuple(lines), starts, s, points, way, body, left + right,
                np.array([shapes[key].closed for key in lines], bool))  # fmt: skip


def _turned(fine: Fine) -> np.ndarray:
    """Degrees (n,) by which a line turns round each place."""
    by, half = round(CORNER_MM / STEP_MM), round(CALM_MM / STEP_MM / 2.0)
    calm = np.column_stack([fine.smoothed(fine.points[:, k], half) for k in (0, 1)])
    a, b = calm - calm[fine.shifted(-by)], calm[fine.shifted(by)] - calm
    turned = np.abs(np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1)))
    return np.degrees(np.where(np.hypot(*a.T) * np.hypot(*b.T) > 0.0, turned, 0.0))


def _merged(cuts: np.ndarray, starts: np.ndarray) -> np.ndarray:
    """Cuts (k,) without those that leave a piece of too few places; where lines begin stays."""
    own, out = set(starts.tolist()), [int(cuts[0])]
    for cut in cuts[1:].tolist():
        if cut - out[-1] >= LEAST_PLACES or cut in own:
            if cut in own and cut - out[-1] < LEAST_PLACES and out[-1] not in own:
                out.pop()
            out.append(cut)
    return np.array(out)
