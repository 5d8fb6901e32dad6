"""Widths along a line: left and right half-widths at arc lengths, read linearly between them."""

import math
from dataclasses import dataclass

import numpy as np

from plain_stride.compiled import edge_loops
from plain_stride.compiled.ready import floats, kernels

SWELL_LIMIT = 0.35
"""Largest |dw/ds| of the full width, mm per mm: a faster rise is a blob."""
GRID_MM = 0.2
TIP = 0.12
"""Share of the width that is left at a pointed tip."""
POINT_POWER = 0.8
SWELL_FADE_MM = 2.0
THIRD = 1.0 / 3.0
"""How much of a line a pointed end takes at most."""


@dataclass(frozen=True, eq=False)
class Widths:
    """s (n,) mm rising from 0 to the line's length; left, right (n,) half-widths in mm as seen travelling along it."""

    s: np.ndarray
    left: np.ndarray
    right: np.ndarray

    @property
    def full(self) -> np.ndarray:
        """Full widths (n,), mm."""
        return self.left + self.right

    def at(self, s: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Half-widths left and right (n,), mm, at arc lengths s (n,) mm."""
        return np.interp(s, self.s, self.left), np.interp(s, self.s, self.right)

    def scaled(self, factor: np.ndarray | float) -> "Widths":
        """The same along a line whose lengths and widths are so many times as large."""
        return Widths(self.s, self.left * factor, self.right * factor)

    def thinned(self, tolerance: float) -> "Widths":
        """The same with only the knots that keep left and right each within `tolerance` mm."""
        keep = joined(needed(self.s, self.left, tolerance), needed(self.s, self.right, tolerance))
        return Widths(self.s[keep], self.left[keep], self.right[keep])


def joined(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """All values of both, rising, each once. NumPy's own has it load its masked arrays at the window's first line.
    (n,) and (m,) to (k,)."""
    both = np.sort(np.concatenate([a, b]))
    return both[np.concatenate([[True], both[1:] != both[:-1]])] if len(both) else both


def grid_for(length: float) -> np.ndarray:
    """Arc lengths (n,) on which widths of a line of this length are worked out."""
    return np.linspace(0.0, length, int(min(max(math.ceil(length / GRID_MM), 8), 20000)) + 1)


def limit_slope(w: np.ndarray, s: np.ndarray, limit: float = SWELL_LIMIT) -> np.ndarray:
    """The largest profile below w whose slope stays within +-limit: exact, by running minima both ways. w (n,) mm at
    s (n,) mm."""
    up = np.minimum.accumulate(w - limit * s) + limit * s
    return np.minimum.accumulate((up + limit * s)[::-1])[::-1] - limit * s


def limited(widths: Widths, limit: float = SWELL_LIMIT) -> Widths:
    """Widths whose full width obeys the slope limit; both sides give in proportion."""
    full = widths.full
    held = limit_slope(full, widths.s, limit)
    if np.array_equal(held, full):
        return widths
    with np.errstate(invalid="ignore", divide="ignore"):
        share = np.where(full > 0, held / full, 1.0)
    return widths.scaled(share)


def swell(
    widths: Widths, start: float | None, end: float | None, factor: float, side: str, fade_at: tuple[bool, bool]
) -> Widths:
    """Heavier or lighter by `factor` from arc length start to end (None: the line's own end), fading over
    SWELL_FADE_MM or a fifth of the stretch inside its ends where `fade_at` says so."""
    a = widths.s[0] if start is None else start
    b = widths.s[-1] if end is None else end
    fade = max(min(SWELL_FADE_MM, (b - a) / 5.0), 1e-9)
    share = ((widths.s >= a - 1e-9) & (widths.s <= b + 1e-9)).astype(float)
    if start is not None and fade_at[0]:
        share *= _ease((widths.s - a) / fade)
    if end is not None and fade_at[1]:
        share *= _ease((b - widths.s) / fade)
    gain = factor**share
    left = widths.left * gain if side in ("both", "left") else widths.left
    right = widths.right * gain if side in ("both", "right") else widths.right
    return Widths(widths.s, left, right)


def with_knots(widths: Widths, at: np.ndarray) -> Widths:
    """The same widths with more knots, so that a change between two of them is not missed. knots: (n,) mm along it."""
    s = joined(widths.s, at[(at > widths.s[0]) & (at < widths.s[-1])])
    return Widths(s, *widths.at(s))


_TIP_SHARES = np.linspace(0.0, 1.0, 25) ** 2


def point_knots(length: float, start_mm: float, end_mm: float, most: float = THIRD) -> np.ndarray:
    """Where a pointed line needs knots: dense towards each tip, where the width falls fastest. (n,) mm along it."""
    share = _TIP_SHARES
    reach = (min(start_mm, length * most), min(end_mm, length * most))
    return joined(share * reach[0], length - share * reach[1])


def pointed(widths: Widths, start_mm: float, end_mm: float, strength: float = 1.0, most: float = THIRD) -> Widths:
    """Pointed ends of these lengths, each at most such a share of the line; 0 leaves an end as it is, and a strength
    below 1 sharpens it less (the factor to that power)."""
    s, length = widths.s, widths.s[-1]
    factor = np.ones(len(s))
    for away, mm in ((s, start_mm), (length - s, end_mm)):
        reach = min(mm, length * most)
        if reach > 0:
            factor *= pointing(away / reach)
    return widths.scaled(factor**strength)


def pointing(share: np.ndarray) -> np.ndarray:
    """How much of its width a pointed end has at shares (...) of its length from the tip, 1 and more for beyond it."""
    u = np.minimum(np.maximum(share, 0.0), 1.0)
    return np.asarray(TIP + (1.0 - TIP) * np.sin(np.pi / 2.0 * u) ** POINT_POWER)


def needed(x: np.ndarray, y: np.ndarray, tolerance: float) -> np.ndarray:
    """Indices (rising, ends included) of the knots that keep y within `tolerance`, by halving at the worst one. All
    in mm."""
    keep, todo = {0, len(x) - 1}, [(0, len(x) - 1)]
    while todo:
        a, b = todo.pop()
        if b - a < 2:
            continue
        line = y[a] + (y[b] - y[a]) * (x[a : b + 1] - x[a]) / max(x[b] - x[a], 1e-15)
        off = np.abs(y[a : b + 1] - line)
        k = int(off.argmax())
        if off[k] > tolerance:
            keep.add(a + k)
            todo += [(a, a + k), (a + k, b)]
    return np.array(sorted(keep))


def sleeve(widths: Widths, off: float) -> Widths:
    """The same with fewer knots: the straights between those that are left pass all others within `off` mm. Linear in
    the knots."""
    compiled = kernels()
    keep = (compiled or edge_loops).sleeve(*floats(widths.s, widths.left, widths.right), off)
    return Widths(widths.s[keep], widths.left[keep], widths.right[keep])


def _ease(u: np.ndarray) -> np.ndarray:
    u = np.clip(u, 0.0, 1.0)
    return u * u * (3.0 - 2.0 * u)
