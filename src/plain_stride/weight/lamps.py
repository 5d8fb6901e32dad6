"""Lamps: where the light comes from, as a direction or as a place on the sheet."""

from dataclasses import dataclass

import numpy as np

from plain_stride.errors import StrideError

MOST_LAMPS = 2
FACING_DEG = 170.0
"""Two directions that differ by more light each other's shadow sides: nothing is left to be heavier."""
NEAR_MM = 1e-6


class LampError(StrideError):
    """A lamp that cannot be."""


@dataclass(frozen=True)
class Lamp:
    """degrees: where it comes from, clockwise, 0 straight from above; at: its place (mm) where it is on the sheet."""

    degrees: float = 0.0
    at: tuple[float, float] | None = None

    def __post_init__(self) -> None:
        values = (self.degrees,) if self.at is None else self.at
        if not all(np.isfinite(value) and abs(value) <= 1e5 for value in values):
            raise LampError("a lamp is a direction in degrees, 0 from above, or a place on the sheet in mm")

    def away(self, points: np.ndarray) -> np.ndarray:
        """(n, 2): directions away from it at points (n, 2) mm; none right at the lamp."""
        if self.at is None:
            angle = np.radians(self.degrees)
            return np.broadcast_to(np.array([-np.sin(angle), np.cos(angle)]), points.shape)
        off = points - np.asarray(self.at)
        return off / np.maximum(np.hypot(*off.T), NEAR_MM)[:, None]

    def closeness(self, points: np.ndarray, reach: float) -> np.ndarray:
        """(n,) 0..1: 1 right at it, falling off over so many mm; a direction is everywhere the same."""
        if self.at is None:
            return np.ones(len(points))
        out: np.ndarray = np.exp(-((points - np.asarray(self.at)) ** 2).sum(axis=1) / reach**2)
        return out


def checked_lamps(lamps: tuple[Lamp, ...]) -> tuple[Lamp, ...]:
    """The lamps, where they leave a shadow side. Raises LampError."""
    if len(lamps) > MOST_LAMPS:
        raise LampError(f"{len(lamps)} lamps are too many: a plan has none, one or two")
    if len(lamps) == MOST_LAMPS and lamps[0] == lamps[1]:
        raise LampError("two lamps in one place are one: leave one of them out")
    directions = [lamp.degrees for lamp in lamps if lamp.at is None]
    if len(directions) == MOST_LAMPS:
        apart = abs((directions[0] - directions[1] + 180.0) % 360.0 - 180.0)
        if apart > FACING_DEG:
            raise LampError("two lamps that face each other leave no side in shadow: turn one of them, or take it away")
    return lamps
