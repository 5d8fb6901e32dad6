"""Where a scan lies on the board: moved, scaled, turned, squared up by its four corners, cropped."""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from PIL import Image

from plain_stride.pencils.errors import PencilsError

UNIT = np.array([[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]])
LEAST_SHARE = 0.02
"""Of the picture's side, that corners and crops must leave."""
Box = tuple[float, float, float, float]


class PlacingError(PencilsError):
    """A place for pencils that cannot be."""


def homography(here: np.ndarray, there: np.ndarray) -> np.ndarray:
    """The 3 x 3 projective map that takes four points (4, 2) to four others, its last entry 1.

    The eight equations of the direct linear transform (Hartley and Zisserman, Multiple View Geometry, 4.1), exact for
    four points. Raises PlacingError where three of them lie on a line.
    """
    rows, values = [], []
    for (x, y), (u, v) in zip(here, there, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        values += [u, v]
    try:
        solved = np.linalg.solve(np.array(rows, float), np.array(values, float))
    except np.linalg.LinAlgError:
        raise PlacingError("three of the four corners lie on one line") from None
    return np.append(solved, 1.0).reshape(3, 3)


def mapped(h: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Points (n, 2) under a projective map."""
    p = np.column_stack([points, np.ones(len(points))]) @ h.T
    out: np.ndarray = p[:, :2] / p[:, 2:]
    return out


@dataclass(frozen=True)
class Placing:
    """x, y, w, h: the upright rectangle it fills, mm; turn: degrees clockwise about its middle; corners: the places in
    the picture, in shares of its sides, that go to the rectangle's corners, clockwise from the upper left; crop: what
    of the rectangle is kept, in shares of its sides (left, top, right, bottom)."""

    x: float
    y: float
    w: float
    h: float
    turn: float = 0.0
    corners: tuple[tuple[float, float], ...] | None = None
    crop: Box | None = None

    @property
    def plain(self) -> bool:
        """Whether the picture lies as it came, but for place and size."""
        return not self.turn and self.corners is None and self.crop is None

    @property
    def middle(self) -> np.ndarray:
        return np.array([self.x + self.w / 2.0, self.y + self.h / 2.0])

    def to_sheet(self, shares: np.ndarray) -> np.ndarray:
        """mm on the sheet of places (n, 2) in shares of the rectangle's sides."""
        flat = np.asarray(shares, float) * (self.w, self.h) - np.array([self.w, self.h]) / 2.0
        return flat @ _turning(self.turn).T + self.middle

    def from_sheet(self, points: np.ndarray) -> np.ndarray:
        """Shares of the rectangle's sides of places (n, 2) in mm on the sheet."""
        flat = (np.asarray(points, float) - self.middle) @ _turning(self.turn)
        out: np.ndarray = (flat + np.array([self.w, self.h]) / 2.0) / (self.w, self.h)
        return out

    def outline(self) -> np.ndarray:
        """(4, 2) mm: the corners of what is kept of it, clockwise from the upper left."""
        left, top, right, bottom = self.crop or (0.0, 0.0, 1.0, 1.0)
        return self.to_sheet(np.array([[left, top], [right, top], [right, bottom], [left, bottom]]))

    def picture_place(self, shares: np.ndarray) -> np.ndarray:
        """Shares of the picture's sides of places (n, 2) in shares of the rectangle's sides."""
        if self.corners is None:
            return np.asarray(shares, float)
        return mapped(homography(UNIT, np.array(self.corners)), np.asarray(shares, float))


def _turning(degrees: float) -> np.ndarray:
    """The matrix that turns clockwise as seen, y down."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return np.array([[c, -s], [s, c]])


def checked_corners(corners: object) -> tuple[tuple[float, float], ...]:
    """Four corners in shares of the picture, clockwise from the upper left. Raises PlacingError."""
    try:
        points = np.array(corners, float)
    except (TypeError, ValueError):
        points = np.zeros(0)
    if points.shape != (4, 2) or not np.isfinite(points).all():
        raise PlacingError("corners are four [x, y] in shares of the picture, clockwise from the upper left")
    sides = np.roll(points, -1, axis=0) - points
    turns = sides[:, 0] * np.roll(sides[:, 1], -1) - sides[:, 1] * np.roll(sides[:, 0], -1)
    if (turns <= 0.0).any() or np.hypot(*sides.T).min() < LEAST_SHARE:
        raise PlacingError("the four corners do not go round a sheet of paper clockwise from its upper left")
    if np.abs(points - 0.5).max() > 1.5:
        raise PlacingError("the corners lie far outside the picture")
    return tuple((float(x), float(y)) for x, y in points)


def checked_crop(crop: Any) -> Box:
    """What is kept, in shares: left, top, right, bottom. Raises PlacingError."""
    try:
        left, top, right, bottom = (float(v) for v in crop)
    except (TypeError, ValueError):
        raise PlacingError("a crop is [left, top, right, bottom] in shares of the scan's sides") from None
    left, top, right, bottom = max(left, 0.0), max(top, 0.0), min(right, 1.0), min(bottom, 1.0)
    if not (right - left >= LEAST_SHARE and bottom - top >= LEAST_SHARE):
        raise PlacingError("that crop would leave next to nothing of the scan")
    return left, top, right, bottom


def squared_size(corners: tuple[tuple[float, float], ...], pixels: tuple[int, int], width_mm: float) -> float:
    """The height (mm) of a sheet of `width_mm` from the means of its opposite sides in the picture."""
    points = np.array(corners) * pixels
    sides = np.hypot(*(np.roll(points, -1, axis=0) - points).T)
    return float(width_mm * (sides[1] + sides[3]) / (sides[0] + sides[2]))


def turn_to_level(a: np.ndarray, b: np.ndarray) -> float:
    """Degrees by which a board must turn clockwise so that the line from a to b lies level, or plumb if it is nearer
    to that; -45 to 45. a, b: (2,) mm."""
    angle = math.degrees(math.atan2(float(b[1] - a[1]), float(b[0] - a[0])))
    return -((angle + 45.0) % 90.0 - 45.0)


def warped(picture: np.ndarray, size: tuple[int, int], to_picture: np.ndarray) -> np.ndarray:
    """A picture (h, w) uint8 drawn anew at `size` (w, h); to_picture: the projective map of new pixels to old ones.
    What lies outside is 0."""
    h = to_picture / to_picture[2, 2]
    image = Image.fromarray(np.ascontiguousarray(picture))
    out = image.transform(size, Image.Transform.PERSPECTIVE, h.ravel()[:8].tolist(), Image.Resampling.BILINEAR)
    return np.asarray(out)


def paper_tilt(dark: np.ndarray) -> float | None:
    """Degrees clockwise by which a sheet of paper lies turned in a photo, by its left and right, upper and lower
    edges against a darker table; None where no straight edge is seen. dark: uint8 (h, w)."""
    step = max(1, max(dark.shape) // 600)
    small = np.asarray(Image.fromarray(np.ascontiguousarray(dark)).reduce(step), float) if step > 1 else dark * 1.0
    paper, table = np.percentile(small, 30), np.percentile(small, 98)
    if table - paper < 40.0:
        return None
    light = small < (paper + table) / 2.0
    tilts = [t for t in (_edge_tilt(light), _edge_tilt(light[:, ::-1], -1.0),
                         _edge_tilt(light.T, -1.0), _edge_tilt(light.T[:, ::-1])) if t is not None]  # fmt: skip
    return float(np.median(tilts)) if tilts else None


def _edge_tilt(light: np.ndarray, sign: float = 1.0) -> float | None:
    """Degrees by which the first light pixel of row after row moves, where that goes along a straight edge."""
    rows = np.flatnonzero(light.mean(axis=1) > 0.3)
    if len(rows) < 40:
        return None
    rows = rows[len(rows) // 8 : -len(rows) // 8]
    first = light[rows].argmax(axis=1).astype(float)
    if (first > 0).mean() < 0.7:
        return None
    slopes = [(first[k + len(rows) // 2] - first[k]) / (rows[k + len(rows) // 2] - rows[k])
              for k in range(len(rows) // 2)]  # fmt: skip
    slope = float(np.median(slopes))
    off = first - slope * rows
    if float(np.median(np.abs(off - np.median(off)))) > 2.0:
        return None
    return sign * -math.degrees(math.atan(slope))


def box_in_shares(placing: Placing, x0: float, y0: float, x1: float, y1: float) -> Box:
    """The crop that keeps what lies in a box drawn on the sheet, mm. Raises PlacingError."""
    corners = placing.from_sheet(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]]))
    (left, top), (right, bottom) = corners.min(axis=0), corners.max(axis=0)
    return checked_crop((left, top, right, bottom))
