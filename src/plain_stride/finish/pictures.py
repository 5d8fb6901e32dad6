"""What is a picture in any file, as SVG and PDF hold it: at a resolution of its own."""

from dataclasses import dataclass, replace

import numpy as np

from plain_stride import colour
from plain_stride.finish.art import Art, ArtScan, SoftCopy
from plain_stride.finish.layers import ScanLayer
from plain_stride.finish.pages import Rasteriser, filler
from plain_stride.finish.soft import SoftLayer
from plain_stride.measure import MM_PER_INCH


@dataclass(frozen=True, eq=False)
class Picture:
    """values (h, w) or (h, w, 3) and alpha (h, w), uint8; box: x, y, w, h in mm of the sheet."""

    values: np.ndarray
    alpha: np.ndarray
    box: tuple[float, float, float, float]


def picture_of(thing: SoftCopy | ArtScan, art: Art, rasteriser: Rasteriser) -> Picture | None:
    """None where there is nothing to be seen of it."""
    if isinstance(thing, ArtScan):
        return _of_scan(thing, art)
    if not thing.of:
        return None
    values, alpha, (x, y, w, h) = SoftLayer(thing, art, filler(rasteriser)).picture()
    return Picture(values, alpha, (x + float(art.corner[0]), y + float(art.corner[1]), w, h))


def _of_scan(scan: ArtScan, art: Art) -> Picture:
    """Squared up, at the resolution that it has itself, on the sheet."""
    own = MM_PER_INCH / float(np.hypot(scan.matrix.a, scan.matrix.b))
    there = replace(art, page=replace(art.page, dpi=min(own, 1200.0)))
    wide, high = there.whole.pixels
    _, alpha = ScanLayer(scan, there).band(0, high, False)
    size = tuple(n / there.page.dpi * MM_PER_INCH for n in (wide, high))
    black = np.full((high, wide), round(255 * colour.grey("black")), np.uint8)
    return Picture(
        black, np.rint(alpha * 255.0).astype(np.uint8), (float(art.corner[0]), float(art.corner[1]), size[0], size[1])
    )
