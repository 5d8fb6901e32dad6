"""A pull: one movement of the pen, with how the board lay under it. Never changed once made."""

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from plain_stride.hand.errors import HandError
from plain_stride.hand.nib import DEFAULT_NIB, Nib
from plain_stride.hand.raster import raster_of
from plain_stride.measure import FARTHEST_MM

MAX_SAMPLES = 2_000_000
PAUSE = 0.5
"""Seconds; a longer pause in a pull counts as this long, so that a lift that never came costs nothing."""
JUMP_TIMES, JUMP_MM = 8.0, 2.0
"""A lone sample has jumped when it is that many times farther off than its neighbours are from each other."""
TICK = 0.005
"""Seconds between samples that came without usable times."""
EVERY_S = 0.05
"""At most how far apart in time samples are read for a pull's length: a shake between them is no length."""

KEPT = "<f4"
"""How a job's file keeps samples: 32-bit floats hold a place on any board to a thousandth of a mm or better."""


class PullError(HandError):
    """Samples that cannot be a pull."""


@dataclass(frozen=True)
class View:
    """How the board lay while the pen was down: glass mm per sheet mm, turn in degrees clockwise, mirrored or not;
    origin: where the sheet's origin lay, mm on the glass from the screen's upper left, None where it is not known."""

    scale: float = 1.0
    turn: float = 0.0
    mirror: bool = False
    origin: tuple[float, float] | None = None


@dataclass(frozen=True, eq=False)
class Pull:
    """samples: float64 (n, 5): x mm, y mm, pressure 0..1, seconds from the first, tilt in degrees (NaN if unknown)."""

    samples: np.ndarray
    nib: Nib = DEFAULT_NIB
    view: View = field(default_factory=View)
    device: str = "pen"
    clock: str = ""

    def __post_init__(self) -> None:
        _check_places(self.samples)

    @cached_property
    def raster(self) -> float | None:
        """The side (mm on the sheet) of the pixels on which all its samples lie, as a mouse's do; None for a pen's."""
        return raster_of(self.samples[:, :2], self.view.turn)

    @property
    def seconds(self) -> float:
        """How long the pen was down."""
        return self._size[0]

    @property
    def mm(self) -> float:
        """How far the pen went on the sheet, its shake left out; from sample to sample where they have no times."""
        return self._size[1]

    @cached_property
    def _size(self) -> tuple[float, float]:
        t, x, y = passed(self.samples).cumsum(), self.samples[:, 0], self.samples[:, 1]
        seconds = float(t[-1]) if len(t) else 0.0
        if seconds:
            at = [0, *(t.searchsorted(np.arange(EVERY_S, seconds, EVERY_S)) + 1).tolist(), -1]
            x, y = x[at], y[at]
        return seconds, float(np.hypot(x[1:] - x[:-1], y[1:] - y[:-1]).sum())

    def as_kept(self) -> "Pull":
        """The same pull as it comes back out of a job's file."""
        kept = self.samples.astype(KEPT).astype(float)
        return self if np.array_equal(kept, self.samples, equal_nan=True) else replace(self, samples=kept)


def _check_places(samples: np.ndarray) -> None:
    if np.abs(samples[:, :2]).max(initial=0.0) > FARTHEST_MM:
        raise PullError(f"a sample lies more than {FARTHEST_MM:,.0f} mm from the board")


def checked_samples(raw: Any) -> np.ndarray:
    """Samples (n, 5) float64 from rows of [x, y, pressure, t] or [x, y, pressure, t, tilt].

    Pressure is clipped to 0..1 and the first time becomes 0; nothing else is altered here.
    Raises PullError for no samples, wrong shapes, non-finite or absurd numbers.
    """
    try:
        rows = [[float(v) for v in row] for row in raw]
    except (TypeError, ValueError):
        raise PullError("samples are rows of numbers: [x, y, pressure, t] or [x, y, pressure, t, tilt]") from None
    if not rows:
        raise PullError("a pull needs at least one sample")
    if len(rows) > MAX_SAMPLES:
        raise PullError(f"a pull has at most {MAX_SAMPLES:,} samples, this one has {len(rows):,}")
    widths = {len(row) for row in rows}
    if not widths <= {4, 5}:
        raise PullError("a sample has 4 or 5 numbers: x, y, pressure, t and, where known, tilt")
    samples = np.full((len(rows), 5), np.nan)
    for width in widths:
        at = [k for k, row in enumerate(rows) if len(row) == width]
        samples[at, :width] = [rows[k] for k in at]
    if not np.isfinite(samples[:, :4]).all():
        raise PullError("a sample holds a number that is not finite")
    _check_places(samples)
    samples[:, 2] = np.clip(samples[:, 2], 0.0, 1.0)
    samples[:, 3] -= samples[0, 3]
    return samples


def passed(samples: np.ndarray) -> np.ndarray:
    """(n - 1,) seconds between samples (n, 5): a clock that runs back stands still, a long pause counts as PAUSE."""
    return np.minimum(np.maximum(samples[1:, 3] - samples[:-1, 3], 0.0), PAUSE)


def working_samples(samples: np.ndarray) -> np.ndarray:
    """Samples whose times rise strictly: what steadying works on. (m, 5), m <= n.

    Times that run backwards stand still; two samples of one time become their mean, more of them are spread up to
    the next time; long pauses become PAUSE, samples without any times are taken as TICK apart, and one that alone has
    jumped away is left out.
    """
    samples = samples[~_jumped(samples[:, :2])]
    t = np.maximum.accumulate(samples[:, 3])
    if len(t) > 1 and t[-1] - t[0] <= 0.0:
        t = np.arange(len(t)) * TICK
    t = _spread(t)
    steps = np.minimum(np.diff(t, prepend=t[0]), PAUSE)
    t = np.cumsum(steps)
    new = np.concatenate([[True], np.diff(t) > 1e-6])
    group = np.cumsum(new) - 1
    counts = np.bincount(group).astype(float)
    out = np.column_stack([np.bincount(group, weights=samples[:, k]) / counts for k in range(5)])
    out[:, 3] = t[new]
    return out


def _spread(t: np.ndarray) -> np.ndarray:
    """Times (n,) of a clock that stood still while the pen went on: three samples or more of one time are spread
    evenly up to the next time, TICK apart at the end."""
    first = np.flatnonzero(np.concatenate([[True], np.diff(t) > 1e-6]))
    counts = np.diff(np.append(first, len(t)))
    after = np.append(t[first[1:]], t[-1] + counts[-1] * TICK)
    share = (np.arange(len(t)) - np.repeat(first, counts)) / np.repeat(counts, counts)
    out: np.ndarray = np.where(np.repeat(counts, counts) > 2, t + share * (np.repeat(after, counts) - t), t)
    return out


def _jumped(path: np.ndarray) -> np.ndarray:
    """(n,) whether a sample alone lies far from its neighbours, which lie near each other: no hand does that."""
    out = np.zeros(len(path), bool)
    if len(path) < 5:
        return out
    step = np.hypot(*np.diff(path, axis=0).T)
    near = np.hypot(*(path[2:] - path[:-2]).T)
    least = np.maximum(JUMP_TIMES * near, JUMP_TIMES * np.median(step) + JUMP_MM)
    out[1:-1] = np.minimum(step[1:], step[:-1]) > least
    return out
