"""The soft copy: ink blurred by a Gaussian of a radius in mm, round, along a direction, or out from a place.

It is worked out on a grid of its own that the radius asks for, not the page: so it looks the same at any resolution,
and needs little memory. What the grid itself softens is taken off the radius.
"""

from collections.abc import Callable

import numpy as np

from plain_stride import colour
from plain_stride.finish.art import Art, Ink, SoftCopy, box_of
from plain_stride.finish.passes import ALONG, OUT, ROUND, Soft
from plain_stride.measure import MM_PER_INCH

PER_RADIUS, MOST_DPI = 4.0, 400.0
"""Pixels of its grid for a radius where it is round, where it is not, its resolution: it stays sharp across its way."""
REACH = 4.0
"""Radii that a blur goes out."""
GRID_VARIANCE = 1.0 / 12.0 + 1.0 / 6.0
"""Pixels squared: what a pixel's mean, and reading straight between two of them, soften."""
Filled = Callable[[list[Ink], tuple[int, int], float, bool], tuple[np.ndarray, np.ndarray]]
"""(values, alpha), uint8, of ink on nothing: of so many pixels, at dpi, whether coloured."""


class SoftLayer:
    """See `layers.Layer`. filled: makes pixels of ink."""

    def __init__(self, soft: SoftCopy, art: Art, filled: Filled) -> None:
        told = soft.told
        self._page_per_mm = art.whole.dpi / MM_PER_INCH
        self._wide = art.whole.pixels[0]
        dpi = min(art.whole.dpi, _dpi(told))
        self._per_mm = dpi / MM_PER_INCH
        # The grid of the page's own pixels, where it is that: then nothing is read between.
        self._own = dpi == art.whole.dpi
        self._low, high = _box(soft, art, self._per_mm)
        size = tuple(np.maximum(high - self._low, 1).tolist())
        shift = -art.corner - self._low / self._per_mm
        inked = [(item.colour, [ring + shift for ring in item.seen()]) for item in soft.of]
        colours = list(dict.fromkeys(name for name, _ in inked))
        self._one = colours[0] if len(colours) == 1 else None
        values, alpha = filled(inked, size, dpi, self._one is None)
        share = alpha.astype(np.float32) / 255.0
        blurred = _blur(told, self._per_mm, shift, self._own)
        self._alpha = np.clip(blurred(share), 0.0, 1.0) * np.float32(told.strength)
        self._values = None
        if self._one is None:
            laid = [blurred(share * (values[:, :, c].astype(np.float32) / 255.0)) for c in range(3)]
            whole = np.maximum(self._alpha / np.float32(told.strength), 1e-6)
            self._values = np.clip(np.dstack(laid) / whole[:, :, None], 0.0, 1.0)

    def band(self, top: int, rows: int, coloured: bool) -> tuple[np.ndarray, np.ndarray]:
        """See `Layer`: one colour (1, 1, channels) or (rows, wide, channels), and (rows, wide)."""
        alpha = self._read(self._alpha, top, rows)
        if self._one is not None:
            told = colour.rgb(self._one) if coloured else (colour.grey(self._one),)
            return np.array(told, np.float32)[None, None], alpha
        assert self._values is not None
        values = np.dstack([self._read(np.ascontiguousarray(self._values[:, :, c]), top, rows) for c in range(3)])
        return (values if coloured else values.mean(axis=2, keepdims=True)), alpha

    def picture(self) -> tuple[np.ndarray, np.ndarray, tuple[float, float, float, float]]:
        """(values, alpha), uint8, of its own grid, and its box x, y, w, h in mm from the corner of what is written."""
        alpha = np.rint(self._alpha * 255.0).astype(np.uint8)
        high, wide = alpha.shape
        if self._values is not None:
            values = np.rint(self._values * 255.0).astype(np.uint8)
        elif self._one is not None and colour.is_grey(self._one):
            values = np.full((high, wide), round(255.0 * colour.grey(self._one)), np.uint8)
        else:
            values = np.broadcast_to(np.rint(np.array(colour.rgb(str(self._one))) * 255.0), (high, wide, 3))
        x, y = (self._low / self._per_mm).tolist()
        return values.astype(np.uint8), alpha, (x, y, wide / self._per_mm, high / self._per_mm)

    def _read(self, plane: np.ndarray, top: int, rows: int) -> np.ndarray:
        """(rows, wide) of the page, read from the grid."""
        y = self._places(np.arange(top, top + rows), self._low[1], plane.shape[0])
        x = self._places(np.arange(self._wide), self._low[0], plane.shape[1])
        lines = _between(plane, y, 0)
        return _between(lines, x, 1)

    def _places(self, pixels: np.ndarray, low: int, many: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """(index (n,), share of the next (n,), whether on the grid (n,)) of middles of the page's pixels."""
        at = (pixels + 0.5) / self._page_per_mm * self._per_mm - low - 0.5
        if self._own:
            at = np.rint(at)
        k = np.clip(np.floor(at), 0, max(many - 2, 0)).astype(int)
        return k, np.clip(at - k, 0.0, 1.0).astype(np.float32), (at > -1.0) & (at < many)


def _between(plane: np.ndarray, places: tuple[np.ndarray, np.ndarray, np.ndarray], axis: int) -> np.ndarray:
    k, share, inside = places
    if plane.shape[axis] == 1:
        return np.take(plane, np.zeros_like(k), axis) * (inside[:, None] if axis == 0 else inside[None])
    a, b = np.take(plane, k, axis), np.take(plane, k + 1, axis)
    share, inside = (v[:, None] if axis == 0 else v[None] for v in (share, inside))
    return np.asarray((a + (b - a) * share) * inside, np.float32)


def _dpi(told: Soft) -> float:
    return MM_PER_INCH * PER_RADIUS / told.radius if told.way == ROUND else MOST_DPI


def _box(soft: SoftCopy, art: Art, per_mm: float) -> tuple[np.ndarray, np.ndarray]:
    """(low (2,), high (2,)): pixels of its grid that it may colour, and those beyond that count for them."""
    boxes = np.array([box_of(item) for item in soft.of]).reshape(-1, 4) - np.tile(art.corner, 2)
    told, size = soft.told, np.array(art.whole.size_mm)
    reach = REACH * told.radius
    if told.way == OUT:
        corners = np.array([[0.0, 0.0], [size[0], 0.0], [0.0, size[1]], size]) + art.corner - told.centre
        reach *= max(1.0, float(np.hypot(*corners.T).max()) / told.reach)
    low = np.maximum(boxes[:, :2].min(axis=0, initial=np.inf) - reach, -reach)
    high = np.minimum(boxes[:, 2:].max(axis=0, initial=-np.inf) + reach, size + reach)
    if (high <= low).any():
        low, high = np.zeros(2), np.zeros(2)
    return np.floor(low * per_mm).astype(int), np.ceil(high * per_mm).astype(int)


def _blur(told: Soft, per_mm: float, shift: np.ndarray, own: bool) -> Callable[[np.ndarray], np.ndarray]:
    """What blurs a plane of its grid. shift: mm from the grid's corner to the sheet's."""
    spread = told.radius * per_mm
    grid = GRID_VARIANCE if not own else 0.0
    if told.way == OUT:
        centre = (np.array(told.centre) + shift) * per_mm
        return lambda plane: _blurred_out(plane, centre, told.radius / told.reach)
    sigma = float(np.sqrt(max(spread**2 - grid, 0.01)))
    if told.way == ALONG:
        return lambda plane: _blurred_along(plane, sigma, told.angle)
    return lambda plane: _blurred_round(plane, sigma)


def _blurred_round(plane: np.ndarray, sigma: float) -> np.ndarray:
    from scipy.ndimage import gaussian_filter

    return np.asarray(gaussian_filter(plane, sigma, mode="constant", truncate=REACH))


def _blurred_along(plane: np.ndarray, sigma: float, angle: float) -> np.ndarray:
    from scipy.signal import oaconvolve

    reach = int(np.ceil(REACH * sigma)) + 1
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1].astype(np.float32)
    ax, ay = np.sin(np.radians(angle)), -np.cos(np.radians(angle))
    along, across = x * ax + y * ay, np.abs(x * ay - y * ax)
    # One pixel wide across its way, falling off straight: as a line between pixels is read.
    kernel = np.exp(-0.5 * (along / sigma) ** 2) * np.maximum(1.0 - across, 0.0)
    kernel = (kernel / kernel.sum()).astype(np.float32)
    return np.asarray(oaconvolve(plane, kernel, mode="same"), np.float32)


def _blurred_out(plane: np.ndarray, centre: np.ndarray, share: float) -> np.ndarray:
    """Out from a place: what lies r away is spread by share times r along its ray."""
    from scipy.ndimage import affine_transform

    far = max(np.hypot(*(centre - corner)) for corner in ((0, 0), plane.shape[::-1], (0, plane.shape[0]),
                                                          (plane.shape[1], 0)))  # fmt: skip
    steps = int(np.clip(np.ceil(REACH * share * far), 8, 60))
    out, total = np.zeros_like(plane), 0.0
    for k in range(-steps, steps + 1):
        at = REACH * k / steps
        weight = float(np.exp(-0.5 * at * at))
        scale = float(np.exp(share * at))
        offset = centre[::-1] * (1.0 - scale) + 0.5 * (scale - 1.0)
        out += weight * affine_transform(plane, [scale, scale], offset, order=1, output=np.float32)
        total += weight
    return out / np.float32(total)
