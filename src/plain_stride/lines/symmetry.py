"""Symmetry: where the copies of a line lie, mirrored about one or two axes, or turned round a place."""

from dataclasses import dataclass

import numpy as np

from plain_stride.lines.affine import Affine, mirrored, turned
from plain_stride.lines.errors import LinesError

MIRRORED, ROUND = SYMMETRIES = ("mirrored", "turned")
MOST_AXES, MOST_ROUND = 2, 60


class SymmetryError(LinesError):
    """A symmetry that there is not."""


@dataclass(frozen=True)
class Symmetry:
    """kind: mirrored about `count` axes (1 or 2, the second across the first), or turned so that there are `count` of
    each line. centre: [x, y] mm; angle: degrees clockwise of the first axis, 0 is upright. Raises SymmetryError."""

    kind: str
    count: int
    centre: tuple[float, float]
    angle: float = 0.0

    def __post_init__(self) -> None:
        if self.kind not in SYMMETRIES:
            raise SymmetryError(f"a symmetry is {' or '.join(SYMMETRIES)}, not '{self.kind}'")
        low, high = (1, MOST_AXES) if self.kind == MIRRORED else (2, MOST_ROUND)
        if not low <= self.count <= high:
            what = "axes" if self.kind == MIRRORED else "times round"
            raise SymmetryError(f"a symmetry has {low} to {high} {what}, not {self.count}")

    def as_json(self) -> dict[str, object]:
        """As a named change takes it; centre in mm, angle in degrees."""
        return {"kind": self.kind, "count": self.count, "centre": list(self.centre), "angle": self.angle}

    def maps(self) -> list[Affine]:
        """Where each copy lies, beside the line itself."""
        centre = np.array(self.centre)
        if self.kind == ROUND:
            return [turned(centre, 360.0 * n / self.count) for n in range(1, self.count)]
        first, second = (mirrored(*axis) for axis in self.axes(1.0, 2))
        return [first] if self.count == 1 else [first, second, turned(centre, 180.0)]

    def axes(self, reach: float, count: int | None = None) -> list[tuple[np.ndarray, np.ndarray]]:
        """The ends of each axis, or of each spoke of a turn, so many mm from the centre. (2,) mm each."""
        centre, n = np.array(self.centre), self.count if count is None else count
        step = 90.0 if self.kind == MIRRORED or count is not None else 360.0 / self.count
        out = []
        for k in range(n):
            a = np.radians(self.angle + step * k)
            way = np.array([np.sin(a), -np.cos(a)])
            back = centre if self.kind == ROUND and count is None else centre - reach * way
            out.append((back, centre + reach * way))
        return out
