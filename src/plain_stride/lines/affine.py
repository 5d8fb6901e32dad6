"""Affine maps of the sheet: moved, turned, scaled, mirrored."""

import math
from dataclasses import dataclass

import numpy as np

from plain_stride.lines.errors import LinesError
from plain_stride.measure import FARTHEST_MM

LEAST_SCALE, MOST_SCALE, MOST_SLANT = 1e-3, 1e3, 80.0


class AffineError(LinesError):
    """A map that squeezes a line to nothing, or throws it off the board."""


@dataclass(frozen=True)
class Affine:
    """x' = a x + c y + e, y' = b x + d y + f; mm. Raises AffineError where it is no map of a drawing."""

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 1.0
    e: float = 0.0
    f: float = 0.0

    def __post_init__(self) -> None:
        values = self.row
        if not all(math.isfinite(v) for v in values) or max(map(abs, values[4:])) > FARTHEST_MM:
            raise AffineError("a map is six finite numbers that leave a line near the board")
        if not LEAST_SCALE <= self.scale <= MOST_SCALE:
            raise AffineError(f"lines are made at most {MOST_SCALE:g} times as large or as small")

    @property
    def row(self) -> tuple[float, float, float, float, float, float]:
        """Its six numbers, the last two in mm."""
        return self.a, self.b, self.c, self.d, self.e, self.f

    @property
    def scale(self) -> float:
        """By how much it makes lengths larger, in the mean: the root of the area's factor."""
        return math.sqrt(abs(self.a * self.d - self.b * self.c))

    @property
    def mirrors(self) -> bool:
        """Whether left and right change places."""
        return self.a * self.d - self.b * self.c < 0.0

    def of(self, points: np.ndarray) -> np.ndarray:
        """Points (.., 2) where the map takes them."""
        out: np.ndarray = points @ np.array([[self.a, self.b], [self.c, self.d]]) + np.array([self.e, self.f])
        return out

    def then(self, other: "Affine") -> "Affine":
        """This map and another one after it."""
        ends = other.of(np.array([[self.a, self.b], [self.c, self.d], [self.e, self.f], [0.0, 0.0]]))
        (a, b), (c, d) = (ends[:2] - ends[3]).tolist()
        return Affine(a, b, c, d, *ends[2].tolist())

    def inverse(self) -> "Affine":
        """The map that takes back what this one does."""
        det = self.a * self.d - self.b * self.c
        a, b, c, d = self.d / det, -self.b / det, -self.c / det, self.a / det
        return Affine(a, b, c, d, -(a * self.e + c * self.f), -(b * self.e + d * self.f))


def moved(x: float, y: float) -> Affine:
    """Moved by mm."""
    return Affine(e=x, f=y)


def scaled(centre: np.ndarray, factor: float) -> Affine:
    """Made so many times as large about a place (2,) in mm. Raises AffineError where nothing would be left."""
    x, y = (float(v) for v in centre)
    return Affine(a=factor, d=factor, e=x - factor * x, f=y - factor * y)


def turned(centre: np.ndarray, degrees: float) -> Affine:
    """Turned clockwise about a place (2,). centre (2,) in mm, the turn in degrees clockwise."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    x, y = (float(v) for v in centre)
    return Affine(c, s, -s, c, x - c * x + s * y, y - s * x - c * y)


def slanted(centre: np.ndarray, degrees: float) -> Affine:
    """Slanted, so that what stands upright leans to the right by so many degrees; what lies level with the centre (2,)
    mm stays. Raises AffineError where nothing would be left of it."""
    if abs(degrees) > MOST_SLANT:
        raise AffineError(f"lines lean by {MOST_SLANT:g} degrees at most")
    lean = math.tan(math.radians(degrees))
    return Affine(c=-lean, e=lean * float(centre[1]))


def degrees_between(a: np.ndarray, b: np.ndarray) -> float:
    """Clockwise on the sheet, from one way (2,) to another; -180 to 180."""
    return math.degrees(math.atan2(float(a[0] * b[1] - a[1] * b[0]), float(a @ b)))


def mirrored(a: np.ndarray, b: np.ndarray) -> Affine:
    """Mirrored about the straight through two places (2,). Raises AffineError where they are one."""
    x, y = (float(v) for v in np.subtract(b, a))
    length = math.hypot(x, y)
    if length < 1e-6:
        raise AffineError("an axis needs two different points")
    c, s = (x * x - y * y) / length**2, 2.0 * x * y / length**2
    ax, ay = (float(v) for v in a)
    return Affine(c, s, s, -c, ax - c * ax - s * ay, ay - s * ax + c * ay)
