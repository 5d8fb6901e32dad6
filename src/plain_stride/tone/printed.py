"""What print makes of ink: the page at the target's resolution, cut to ink or paper, thinned where lines do not hold,
grown by the ink's spread and closed where the white does not; and the grey that it reads as.

A line thinner than the target holds is lost, a white thinner than it holds closes: an opening and a closing with discs
of these widths (Serra 1982). The ink's spread is taken as an eighth of the white that holds: common practice gives the
white, no standard the spread. Grey by Murray and Davies (1936): reflectance is the mean of ink's and paper's by area;
Yule and Nielsen (1951) let light spread in the paper, with the exponent n.
"""

from dataclasses import dataclass

import numpy as np

from plain_stride.board.targets import PrintTarget
from plain_stride.measure import MM_PER_INCH

PAPER, INK, N_FACTOR = 0.85, 0.04, 1.7
"""Reflectances of paper and of black ink, and Yule and Nielsen's n of a coated paper: usual values, from memory."""
SPREAD, FINE_PX, MOST_FINER = 0.125, 4.0, 4


@dataclass(frozen=True, eq=False)
class Printed:
    """ink (h, w): what is printed; lost (h, w): ink that does not hold; closed (h, w): white that does not; per_mm:
    pixels for one mm."""

    ink: np.ndarray
    lost: np.ndarray
    closed: np.ndarray
    per_mm: float


def printed(dark: np.ndarray, target: PrintTarget) -> Printed:
    """Darkness (h, w), 0 to 1, of pixels of the target's own resolution, as printed; what comes of it has so many times
    finer pixels that what print holds is several wide."""
    own = target.dpi / MM_PER_INCH
    finer = int(np.clip(np.ceil(FINE_PX / (min(target.line_mm, target.gap_mm) * own)), 1, MOST_FINER))
    bits, per_mm = np.repeat(np.repeat(dark >= 0.5, finer, axis=0), finer, axis=1), own * finer
    # Widths were rounded to pixels of the target: what is half of one too thin by that holds.
    rounding = finer / 4.0
    held = _opened(bits, target.line_mm / 2.0 * per_mm - rounding)
    closed = ~held & ~_opened(~held, target.gap_mm / 2.0 * per_mm - rounding)
    return Printed(_grown(held | closed, SPREAD * target.gap_mm * per_mm), bits & ~held, closed, per_mm)


def _opened(bits: np.ndarray, radius: float) -> np.ndarray:
    """What a disc of a radius, pixels, covers that stays within the bits."""
    return _grown(~_grown(~bits, radius), radius)


def _grown(bits: np.ndarray, radius: float) -> np.ndarray:
    """Bits and all whose middle is within a radius of their edges, which lie half a pixel from their own middles."""
    from scipy import ndimage

    if radius <= 0.0 or not bits.any():
        return bits
    return np.asarray(ndimage.distance_transform_edt(~bits) <= radius + 0.5 - 1e-6)


def reflectance(coverage: float, n: float = 1.0) -> float:
    """How much light comes back, 0 to 1: by Murray and Davies with n = 1, by Yule and Nielsen with another."""
    return float((coverage * INK ** (1.0 / n) + (1.0 - coverage) * PAPER ** (1.0 / n)) ** n)
