"""The blue taken out of a scan: what of each pixel's darkness is ink, and what is the pale blue that it was drawn over.

Light is taken by both one after the other, so what they take adds up in logarithms: each pixel is a share of ink, which
takes all channels alike, and a share of blue, whose channels are found in the scan itself.
"""

import numpy as np

from plain_stride.pencils.cleaning import evened

PALE_BLUE = (0.62, 0.80, 0.95)
"""Red, green, blue that a full pencil is printed in: pale enough to draw over, blue enough to be told from ink."""
LEAST_HUE, MOST_INK = 0.06, 0.45
"""How much more of its red light than of its blue a pixel loses that is surely blue, in logarithms; what it may lose in
its lightest channel, so that it is no ink."""
MOST_SHARE = 1.3
"""Of the blue that is found in a scan, the most that a pixel has: the darkest print of it."""
CLEAN, FULL = 0.16, 0.80
"""Darkness of ink that is taken for none, and for full."""
DARKEST = 1.0 / 255.0


def without_blue(rgb: np.ndarray) -> np.ndarray:
    """The darkness (h, w) uint8, 0 paper to 255 ink, of a scan (h, w, 3) uint8, evened for its light."""
    light = np.stack([255 - evened(255 - rgb[:, :, c]) for c in range(3)], axis=2)
    taken = -np.log(np.maximum(light.astype(np.float32) / 255.0, DARKEST))
    blue = _blue_of(taken)
    # Least squares for ink (1, 1, 1) and blue, both at least nothing.
    way = blue - blue.mean()
    # There is no more blue than was printed: a hue in the dark is noise, which logarithms make much of.
    share = np.clip((taken @ way) / max(float(way @ way), 1e-9), 0.0, MOST_SHARE)
    ink = np.clip(taken.mean(axis=2) - share * float(blue.mean()), 0.0, None)
    dark = 1.0 - np.exp(-ink)
    return np.rint(np.clip((dark - CLEAN) / (FULL - CLEAN), 0.0, 1.0) * 255.0).astype(np.uint8)


def _blue_of(taken: np.ndarray) -> np.ndarray:
    """(3,) what blue takes of each channel: of the pixels that are blue and no ink, else what it was printed in."""
    flat = taken[::3, ::3].reshape(-1, 3)
    hue = flat[:, 0] - flat[:, 2]
    sure = flat[(hue > LEAST_HUE) & (flat.min(axis=1) < MOST_INK)]
    if len(sure) < 200:
        return np.asarray(-np.log(PALE_BLUE))
    found = np.median(sure[sure[:, 0] >= np.percentile(sure[:, 0], 50)], axis=0)
    return np.asarray(found)
