"""A scan made even: paper to 0, the blackest pencil to about 1, whatever the light and the paper."""

import math
from dataclasses import dataclass

import numpy as np
from PIL import Image

FLAT_PER_MM = 150.0 / 25.4
PAPER_MM, AROUND_MM, PAPER_SHARE = 1.25, 6.0, 0.9
BLACK_SHARE, INK_FROM, MOST_DARK = 0.97, 0.08, 1.6
LARGE_PX, MOST_WORK_PX = 40_000_000, 30_000_000
"""Pixels above which a scan is made smaller before it is worked on, and of what is worked on at the most."""
LEAST_INK = 2e-5
"""Share of pixels below which a sheet counts as blank."""


@dataclass(frozen=True, eq=False)
class Flat:
    """dark float32 (h, w), 0 paper to about 1; per_mm: pixels for one mm."""

    dark: np.ndarray
    per_mm: float

    def at(self, per_mm: float) -> "Flat":
        """The same at another resolution, never finer."""
        wanted = min(per_mm, self.per_mm)
        return Flat(resized(self.dark, wanted / self.per_mm), wanted)


def resized(picture: np.ndarray, factor: float) -> np.ndarray:
    """A float32 picture made smaller by means over areas. (h, w) to (h2, w2). factor: pixels for one, exactly: what is
    left over at the right and below is cut off, so that no place moves."""
    h, w = picture.shape
    size = (max(1, int(w * factor + 1e-6)), max(1, int(h * factor + 1e-6)))
    if size == (w, h):
        return picture
    box = (0.0, 0.0, min(size[0] / factor, w), min(size[1] / factor, h))
    return np.asarray(Image.fromarray(picture).resize(size, Image.Resampling.BOX, box), np.float32)


def lessened(darkness: np.ndarray, per_mm: float) -> np.ndarray:
    """The darkness (uint8) of a very large scan by means over whole pixels: while it is finer than what is read, and
    further where it would take more memory than reading may, which makes several floats of each pixel."""
    if darkness.size <= LARGE_PX:
        return darkness
    by = max(int(per_mm / FLAT_PER_MM + 1e-3), math.ceil(math.sqrt(darkness.size / MOST_WORK_PX)), 1)
    return np.asarray(Image.fromarray(darkness).reduce(by))


def flattened(darkness: np.ndarray, per_mm: float) -> Flat:
    """The even darkness of a scan (uint8, 0 paper to 255 black), at 150 dpi or its own resolution if that is less.

    Paper is the mean (Gaussian, 1.25 mm) of the pixels that are nearly as light as the lightest within 6 mm.
    """
    from scipy import ndimage

    scale = min(FLAT_PER_MM, per_mm)
    light = 255.0 - resized(darkness.astype(np.float32), scale / per_mm)
    around = max(3, round(AROUND_MM * scale) | 1)
    soft = ndimage.gaussian_filter(light, 0.1 * scale, mode="nearest")
    lightest = ndimage.maximum_filter(soft, around, mode="nearest")
    paper = (soft >= PAPER_SHARE * lightest).astype(np.float32)
    sigma = PAPER_MM * scale
    weight = ndimage.gaussian_filter(paper, sigma, mode="nearest")
    mean = ndimage.gaussian_filter(light * paper, sigma, mode="nearest") / np.maximum(weight, 1e-4)
    mean = np.where(weight > 1e-3, mean, lightest)
    dark = -np.log(np.clip(light / np.maximum(mean, 1.0), 0.02, 1.0))
    ink = dark[dark > INK_FROM]
    black = float(np.quantile(ink, BLACK_SHARE)) if ink.size > LEAST_INK * dark.size else 1.0
    # Grain of empty paper is not to be brought to black.
    return Flat((np.minimum(dark / max(black, 0.25), MOST_DARK)).astype(np.float32), scale)
