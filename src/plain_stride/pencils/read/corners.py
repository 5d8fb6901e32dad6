"""Corners of pencil lines: where a line turns sharply, proven by the darkness there, drawn to where its sides meet."""

from dataclasses import dataclass, replace

import numpy as np

from plain_stride.pencils.read.flat import Flat
from plain_stride.pencils.read.ridges import Kind

STEP_MM = 0.2
"""Apart of the points of a line as it is read."""
SPANS = ((0.8, 0.7), (1.7, 1.4))
"""Spans in W, at least mm, over which a corner turns and over which it stays turned."""
LEAST_DEG, SIDES_DEG = 36.0, 30.0
"""How far what may be a corner turns over the longer span; how far its sides do."""
SIDE_W, NEWTON = 3.0, 6
"""Length of the sides that are looked at, in W, and steps to where they meet."""


def corner_places(p: np.ndarray, closed: bool, kind: Kind) -> list[int]:
    """Where a curve (n, 2) may have corners, as indices: where it turns most, by LEAST_DEG over the longer span."""
    near, far = (max(2, round(max(f * kind.width, mm) / STEP_MM)) for f, mm in SPANS)
    n = len(p)
    if n < 2 * near + 3:
        return []
    one, two = _turns(p, near, closed), _turns(p, far, closed)
    found: list[int] = []
    for k in np.argsort(-(one + two)):
        k = int(k)
        if two[k] < np.radians(LEAST_DEG):
            continue
        if not closed and (k < near or k >= n - near):
            continue
        if all(min(abs(k - o), n - abs(k - o)) > 2 * near for o in found):
            found.append(k)
    return sorted(found)


def _turns(p: np.ndarray, reach: int, closed: bool) -> np.ndarray:
    """By how much a curve turns at each point (n,), radians, from what lies so many points before to what lies so many
    after."""
    k, n = np.arange(len(p)), len(p)
    back, ahead = (k - reach) % n if closed else np.maximum(k - reach, 0), (k + reach) % n if closed else np.minimum(
        k + reach, n - 1)  # fmt: skip
    before, after = p - p[back], p[ahead] - p
    out: np.ndarray = np.abs(np.arctan2(before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0],
                                        (before * after).sum(axis=1)))  # fmt: skip
    return out


@dataclass(frozen=True, eq=False)
class Side:
    """One side of a corner as a quadratic of the length from it (3, 2), and where along it the corner lies (mm)."""

    quadratic: np.ndarray
    tip: float = 0.0

    def at(self, s: np.ndarray | float) -> np.ndarray:
        """Places (n, 2) so many mm (n,) from the corner's point."""
        out: np.ndarray = np.vander(np.atleast_1d(s), 3) @ self.quadratic
        return out

    def way(self, s: float) -> np.ndarray:
        """The derivative (2,) there."""
        out: np.ndarray = np.array([2.0 * s, 1.0, 0.0]) @ self.quadratic
        return out


Corner = tuple[Side, Side]
"""The side before and the side after."""


def blurred(kind: Kind) -> int:
    """How many points beside a corner have profiles that reach over to its other side."""
    return int(np.ceil((kind.window + 0.1) / STEP_MM))


def corner_at(p: np.ndarray, k: int, closed: bool, kind: Kind) -> Corner | None:
    """The two sides of a corner, each carried on to where they meet; None where they do not."""
    one, two = (_side(p, k, tangent, closed, kind) for tangent in (-1, 1))
    if one is None or two is None:
        return None
    st = np.zeros(2)
    for _ in range(NEWTON):
        slopes = np.column_stack([one.way(st[0]), -two.way(st[1])])
        if abs(np.linalg.det(slopes)) < 0.2 * np.hypot(*slopes[:, 0]) * np.hypot(*slopes[:, 1]):
            return None
        st = st - np.linalg.solve(slopes, (one.at(st[0]) - two.at(st[1]))[0])
        if np.abs(st).max() > 3.0 * kind.width:
            return None
    place = one.at(st[0])[0]
    if np.hypot(*(place - two.at(st[1])[0])) > 0.05 or np.hypot(*(place - p[k])) > max(1.2 * kind.width, 0.9):
        return None
    return replace(one, tip=float(st[0])), replace(two, tip=float(st[1]))


def _side(p: np.ndarray, k: int, tangent: int, closed: bool, kind: Kind) -> Side | None:
    """What the points beyond those that see the other side follow; None where there are too few."""
    first = blurred(kind)
    steps = np.arange(first, first + round(SIDE_W * kind.width / STEP_MM) + 1)
    index = k + tangent * steps
    inside = np.full(len(index), True) if closed else (index >= 0) & (index < len(p))
    steps, index = steps[inside], index[inside] % len(p)
    if len(steps) < 4:
        return None
    # How much it bends is read from little: it is held towards straight.
    rows = np.vstack([np.vander(steps * STEP_MM, 3), [kind.straight, 0.0, 0.0]])
    return Side(np.linalg.lstsq(rows, np.vstack([p[index], np.zeros(2)]), rcond=None)[0])


def is_corner(p: np.ndarray, k: int, closed: bool, flat: Flat, kind: Kind) -> bool:
    """Whether what may be a corner of a curve is one: its sides turn, and a little beyond where they meet it is nearly
    as dark as that far aside of them. Beyond a bend would be paper there."""
    corner = corner_at(p, k, closed, kind)
    if corner is None:
        return False
    one, two = (side.way(side.tip) / max(float(np.hypot(*side.way(side.tip))), 1e-9) for side in corner)
    if np.pi - np.arccos(np.clip(one @ two, -1.0, 1.0)) < np.radians(SIDES_DEG):
        return False
    out = -(one + two) / max(float(np.hypot(*(one + two))), 1e-9)
    beyond = corner[0].at(corner[0].tip) + kind.beyond * out
    aside = []
    for side in corner:
        s = blurred(kind) * STEP_MM + np.arange(0.0, SIDE_W * kind.width, STEP_MM)
        way = np.array([side.way(float(v)) for v in s])
        normal = np.column_stack([way[:, 1], -way[:, 0]]) / np.maximum(np.hypot(*way.T), 1e-9)[:, None]
        aside += [side.at(s) + kind.beyond * sign * normal for sign in (-1.0, 1.0)]
    return bool(_dark(beyond, flat)[0] >= kind.proof * _dark(np.vstack(aside), flat).mean())


def _dark(places: np.ndarray, flat: Flat) -> np.ndarray:
    from scipy import ndimage

    out: np.ndarray = ndimage.map_coordinates(flat.dark, places[:, ::-1].T * flat.per_mm - 0.5, order=1, mode="nearest")
    return out


def sharpened(points: np.ndarray, k: int, corner: Corner, closed: bool, kind: Kind) -> np.ndarray:
    """The points round a corner along its sides up to where these meet; their number stays."""
    out, n = points.copy(), len(points)
    for straight, side in zip((-1, 1), corner, strict=True):
        edge = k + straight * blurred(kind)
        if not closed:
            edge = min(max(edge, 0), n - 1)
        steps = abs(edge - k)
        u = np.arange(steps) / max(steps, 1)
        far = steps * STEP_MM
        along = side.at(side.tip + (far - side.tip) * u) + u[:, None] * (points[edge % n] - side.at(far))
        out[(k + straight * np.arange(steps)) % n] = along
    return out
