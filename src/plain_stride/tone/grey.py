"""The grey that is asked of a tone: one value, or a ramp from one to another."""

from dataclasses import dataclass

import numpy as np

from plain_stride.tone.errors import ToneError
from plain_stride.tone.field import Field

LEAST, MOST = 0.005, 0.98


@dataclass(frozen=True)
class Grey:
    """start, end: shares of ink, 0 white to 1 black; way (2,): unit direction from the one to the other; low, high:
    where along it, mm, the ramp begins and ends."""

    start: float
    end: float
    way: tuple[float, float] = (1.0, 0.0)
    low: float = 0.0
    high: float = 1.0

    def at(self, points: np.ndarray) -> np.ndarray:
        """The share asked at places (..., 2); beyond the ramp's ends that of the end."""
        along = points[..., 0] * self.way[0] + points[..., 1] * self.way[1]
        share = np.clip((along - self.low) / max(self.high - self.low, 1e-9), 0.0, 1.0)
        out: np.ndarray = self.start + (self.end - self.start) * share
        return out

    @property
    def even(self) -> bool:
        """Whether it is one value."""
        return self.start == self.end

    def mean(self, field: Field) -> float:
        """The share asked over a whole field."""
        return float(self.at(field.inside).mean())

    def share_of(self, sets: int, points: np.ndarray) -> np.ndarray:
        """The share (..., ) that each of so many sets laid over each other has at places: what is white of all is the
        product of what is white of each, 1 - (1 - a)^n, as holds for sets that cross."""
        return np.asarray(1.0 - (1.0 - self.at(points)) ** (1.0 / sets))


def grey_over(field: Field, start: float, end: float, towards: float) -> Grey:
    """A ramp over a field from its one side to its other. towards: degrees clockwise, 0 straight up. Raises
    ToneError."""
    for share in (start, end):
        if not 0.0 <= share <= MOST:
            raise ToneError(f"a grey of lines goes from 0 (white) to {MOST:g}, not {share:g}: lay a black for more")
    if max(start, end) < LEAST:
        raise ToneError(f"a grey below {LEAST:.1%} is paper: there is nothing to be laid")
    way = direction(towards)
    along = field.corners @ np.array(way)
    return Grey(start, end, way, float(along.min()), float(along.max()))


def direction(degrees: float) -> tuple[float, float]:
    """Unit direction of an angle clockwise, 0 straight up; y goes down."""
    a = np.radians(degrees)
    return float(np.sin(a)), float(-np.cos(a))
