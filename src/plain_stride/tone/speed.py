"""Speed lines: to a point or along a path, tapering, even or bunched."""

from dataclasses import dataclass

import numpy as np

from plain_stride.tone.drawn_strokes import Drawn, clipped
from plain_stride.tone.errors import ToneError
from plain_stride.tone.field import Field
from plain_stride.tone.nets import even_places, read_along

MOST, PLACES = 5000, 24
RAGGED, BUNCH = 0.7, 1.6
"""At raggedness 1, how much of the field's half diagonal a line ends short; at bunched 1, the coefficient of variation
of the gaps."""
START, END = 0.08, 0.85
"""Shares of their lengths over which lines come to a point."""


@dataclass(frozen=True)
class Speed:
    """count: how many; light, heavy: mm; bunched, ragged: 0 to 1; seed: any whole number."""

    count: int
    light: float
    heavy: float
    bunched: float = 0.0
    ragged: float = 0.5
    seed: int = 0

    def __post_init__(self) -> None:
        """Raises ToneError."""
        if not 1 <= self.count <= MOST:
            raise ToneError(f"speed lines are 1 to {MOST:,}, not {self.count:,}")

    @property
    def rng(self) -> np.random.Generator:
        return np.random.default_rng([abs(self.seed), 77])


def to_a_point(field: Field, at: np.ndarray, inner: float, speed: Speed) -> list[Drawn]:
    """Lines from the edge of a field towards a place (2,) mm, thick outside, pointed where they end, `inner` mm from it
    at the nearest. Raises ToneError where none lies in the field."""
    rng, far = speed.rng, 2.0 * field.reach + float(np.hypot(*(field.middle - at)))
    angles = 2.0 * np.pi * _spread(speed, rng)
    ends = inner + speed.ragged * RAGGED * field.reach * rng.uniform(0.0, 1.0, speed.count)
    lines = []
    for angle, end, width in zip(angles.tolist(), ends.tolist(), _widths(speed, rng), strict=True):
        way = np.array([np.cos(angle), np.sin(angle)])
        if end < far:
            lines.append(Drawn(np.array([at + way * far, at + way * end]), width, 0.0, END))
    return _within(lines, field)


def along_a_path(guide: np.ndarray, wide: float, field: Field | None, speed: Speed) -> list[Drawn]:
    """Lines beside a path (n, 2) mm, over a band so wide, each a stretch of it, thick where the path begins. Raises
    ToneError where none lies in the field."""
    rng, course = speed.rng, even_places(guide)
    way = np.gradient(course, axis=0)
    right = np.column_stack([-way[:, 1], way[:, 0]]) / np.maximum(np.hypot(*way.T), 1e-12)[:, None]
    across = (_spread(speed, rng) - 0.5) * wide
    short = rng.uniform(0.0, 0.5, (2, speed.count)) * speed.ragged
    lines = []
    for t, a, b, width in zip(across.tolist(), *short.tolist(), _widths(speed, rng), strict=True):
        share = np.linspace(a, 1.0 - b, PLACES)
        lines.append(Drawn(read_along(course, share) + t * read_along(right, share), width, START, END))
    return lines if field is None else _within(lines, field)


def _spread(speed: Speed, rng: np.random.Generator) -> np.ndarray:
    """Places (count,) from 0 to 1: even ones, or with gaps that vary as a gamma distribution's, so that lines come in
    bunches."""
    if speed.bunched <= 0.0:
        return (np.arange(speed.count) + 0.5) / speed.count
    gaps = rng.gamma((BUNCH * speed.bunched) ** -2, size=speed.count)
    return np.asarray((np.cumsum(gaps) - gaps[0] / 2.0) / gaps.sum())


def _widths(speed: Speed, rng: np.random.Generator) -> list[float]:
    """mm of each: most of them thin."""
    out: list[float] = (speed.light + (speed.heavy - speed.light) * rng.uniform(0.0, 1.0, speed.count) ** 2).tolist()
    return out


def _within(lines: list[Drawn], field: Field) -> list[Drawn]:
    out = clipped(lines, field.area)
    if not out:
        raise ToneError("no speed line lies in that field: draw round more of it")
    return out
