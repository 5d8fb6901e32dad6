"""Strokes of a set: centres and half-widths in arrays, what they cover, and the lines that they become."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.hand.along import lengths_along
from plain_stride.lines.curve import Arc, straight
from plain_stride.lines.given import Form
from plain_stride.lines.profile import Widths

PARTS_OF = ("points", "half", "way", "row", "apart", "asked")
"""What strokes are told by: each array has a row a stroke."""
STRAIGHT_MM, EVEN_MM = 1e-3, 1e-4
"""Off its chord by less a stroke is straight; of widths that differ by less one is enough."""


@dataclass(frozen=True, eq=False)
class Strokes:
    """points (m, n, 2) mm; half (m, n): half-widths, mm; way (m, n, 2): unit directions of travel; row (m,): which
    course of its set each is a piece of, rising across the field; apart (m, 2): how far the courses before and
    after were asked to go from its middle; asked (m,): how wide it was to be there; mm."""

    points: np.ndarray
    half: np.ndarray
    way: np.ndarray
    row: np.ndarray
    apart: np.ndarray
    asked: np.ndarray

    def __len__(self) -> int:
        return len(self.points)

    @property
    def lengths(self) -> np.ndarray:
        """mm (m,), by chords."""
        legs = np.diff(self.points, axis=1)
        return np.asarray(np.hypot(legs[..., 0], legs[..., 1]).sum(axis=1))

    @property
    def middle_widths(self) -> np.ndarray:
        """mm (m,) half way along."""
        return 2.0 * at_middle(self.points, self.half)

    @property
    def middles(self) -> np.ndarray:
        """Places (m, 2) half way along."""
        return at_middle(self.points, self.points)

    def only(self, which: np.ndarray) -> "Strokes":
        """Some of them; which: a mask or numbers."""
        return Strokes(*(getattr(self, name)[which] for name in PARTS_OF))

    def rings(self) -> np.ndarray:
        """Their edges (m, 2 n, 2), cut straight across at both ends."""
        normal = np.stack([self.way[..., 1], -self.way[..., 0]], axis=-1) * self.half[..., None]
        return np.concatenate([self.points + normal, (self.points - normal)[:, ::-1]], axis=1)

    def areas(self) -> Any:
        """What each covers, as shapely has it."""
        import shapely

        return shapely.make_valid(shapely.polygons(self.rings()))

    def inside(self, area: Any) -> np.ndarray:
        """mm2 (m,) that each covers of an area."""
        import shapely

        return np.asarray(shapely.area(shapely.intersection(self.areas(), area)))

    def forms(self) -> Iterator[Form]:
        """The lines that they are."""
        # Cubics through all places, with the directions of the net.
        curves, is_straight = hermite(self.points, self.way), self._straight()
        for k in range(len(self)):
            curve = straight(self.points[k][[0, -1]]) if is_straight[k] else curves[k]
            yield Form(curve, False, self._widths(k, curve))

    def _straight(self) -> np.ndarray:
        a, b = self.points[:, :1], self.points[:, -1:]
        chord = (b - a) / np.maximum(np.hypot(*np.moveaxis(b - a, -1, 0)), 1e-9)[..., None]
        off = self.points - a
        aside = np.abs(off[..., 0] * chord[..., 1] - off[..., 1] * chord[..., 0])
        return np.asarray(aside.max(axis=1) < STRAIGHT_MM)

    def _widths(self, k: int, curve: np.ndarray) -> Widths:
        half = self.half[k]
        length = float(np.hypot(*(curve[-1, 3] - curve[0, 0]))) if len(curve) == 1 else Arc(curve).length
        if np.ptp(half) < EVEN_MM:
            return Widths(np.array([0.0, length]), half[[0, -1]], half[[0, -1]])
        s = lengths_along(self.points[k])
        s *= length / s[-1]
        return Widths(s, half, half)


def at_middle(points: np.ndarray, values: np.ndarray) -> np.ndarray:
    """Values (m, n, ...) at places (m, n, 2) of courses, read half way along each: (m, ...)."""
    legs = np.hypot(*np.moveaxis(np.diff(points, axis=1), -1, 0))
    s = np.concatenate([np.zeros((len(points), 1)), np.cumsum(legs, axis=1)], axis=1)
    at, m = s[:, -1] / 2.0, np.arange(len(points))
    k = np.clip((s <= at[:, None]).sum(axis=1) - 1, 0, points.shape[1] - 2)
    u = (at - s[m, k]) / np.maximum(s[m, k + 1] - s[m, k], 1e-12)
    u = u.reshape(-1, *([1] * (values.ndim - 2)))
    return np.asarray(values[m, k] + u * (values[m, k + 1] - values[m, k]))


def hermite(points: np.ndarray, way: np.ndarray) -> np.ndarray:
    """Cubics (..., n - 1, 4, 2) through places (..., n, 2) with unit directions (..., n, 2) at them."""
    a, b = points[..., :-1, :], points[..., 1:, :]
    third = np.hypot(b[..., 0] - a[..., 0], b[..., 1] - a[..., 1])[..., None] / 3.0
    return np.stack([a, a + way[..., :-1, :] * third, b - way[..., 1:, :] * third, b], axis=-2)
