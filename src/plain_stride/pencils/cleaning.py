"""Scans made clean: uneven light flattened, paper to white, blue pencil told from graphite, grain and specks gone. The
file itself is never touched: this is how it is shown and read."""

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from PIL import Image, ImageChops

from plain_stride.pencils.errors import PencilsError
from plain_stride.pencils.picture import colours, darkness

PENCILS = ("all", "graphite", "colour")
AROUND_PX, SMALL_PX = 41, 400
"""The light is looked at on a picture of at most so many pixels a side, the paper as the lightest within so many."""
COLOUR_FROM = 26.0
"""Of 255: how far a pixel's channels must lie apart to be colour; paper and lamps are never quite grey."""
MOST_SPECK_MM = 2.0


class CleaningError(PencilsError):
    """A cleaning that cannot be."""


@dataclass(frozen=True)
class Cleaning:
    """even: the light is flattened and paper taken to white; white, black: the darkness (0..1) taken to none and to
    full; speck_mm: what is smaller across is taken away; pencil: all, graphite alone, colour pencils alone."""

    even: bool = False
    white: float = 0.0
    black: float = 1.0
    speck_mm: float = 0.0
    pencil: str = PENCILS[0]

    def __post_init__(self) -> None:
        for value, what in ((self.white, "white"), (self.black, "black")):
            if isinstance(value, bool) or not isinstance(value, int | float) or not 0.0 <= value <= 1.0:
                raise CleaningError(f"the level of {what} goes from 0 to 1, not {value!r}")
        if self.black - self.white < 0.05:
            raise CleaningError("the level of black must lie above that of white by .05 at least")
        if isinstance(self.speck_mm, bool) or not 0.0 <= float(self.speck_mm) <= MOST_SPECK_MM:
            raise CleaningError(f"specks go from 0 to {MOST_SPECK_MM:g} mm across")
        if self.pencil not in PENCILS:
            raise CleaningError(f"the pencil that is kept is one of: {', '.join(PENCILS)}")

    @property
    def plain(self) -> bool:
        return self == Cleaning()

    def as_row(self) -> dict[str, Any]:
        return asdict(self)


def cleaning_from_row(row: dict[str, Any] | None) -> Cleaning:
    """Raises CleaningError for unknown or wrong values."""
    unknown = set(row or {}) - set(Cleaning.__dataclass_fields__)
    if unknown:
        raise CleaningError(f"a cleaning knows no '{min(unknown)}': {', '.join(Cleaning.__dataclass_fields__)}")
    return Cleaning(**row) if row else Cleaning()


def cleaned(data: bytes, cleaning: Cleaning, per_mm: float) -> np.ndarray:
    """The darkness (uint8 (h, w), 0 paper to 255) of a scan's file, cleaned. per_mm: its pixels for one mm."""
    if cleaning.plain:
        return darkness(data)
    dark = darkness(data) if cleaning.pencil == "all" else _told_apart(colours(data), cleaning.pencil)
    if cleaning.even:
        dark = evened(dark)
    if cleaning.white > 0.0 or cleaning.black < 1.0:
        table = np.clip((np.arange(256) / 255.0 - cleaning.white) / (cleaning.black - cleaning.white), 0.0, 1.0)
        dark = np.round(table * 255.0).astype(np.uint8)[dark]
    return without_specks(dark, cleaning.speck_mm * per_mm) if cleaning.speck_mm > 0.0 else dark


def _told_apart(picture: Image.Image, pencil: str) -> np.ndarray:
    """Graphite takes from all channels alike, a colour pencil leaves one light: the lightest channel shows graphite
    alone, the channels' distance colour alone."""
    r, g, b = picture.split()
    lightest = ImageChops.lighter(ImageChops.lighter(r, g), b)
    if pencil == "graphite":
        return 255 - np.asarray(lightest)
    apart = np.asarray(ImageChops.subtract(lightest, ImageChops.darker(ImageChops.darker(r, g), b)))
    table = np.clip((np.arange(256) - COLOUR_FROM) * (255.0 / (255.0 - COLOUR_FROM)), 0, 255)
    return table.astype(np.uint8)[apart]


def evened(dark: np.ndarray) -> np.ndarray:
    """A scan with its light flattened: each place divided by the paper's own brightness there, paper to white. (h,
    w) uint8."""
    from scipy import ndimage

    step = max(1, max(dark.shape) // SMALL_PX)
    light = Image.fromarray(255 - dark)
    small = np.asarray(light.reduce(step) if step > 1 else light, np.float32)
    paper = ndimage.maximum_filter(small, AROUND_PX, mode="nearest")
    paper = ndimage.gaussian_filter(paper, AROUND_PX / 3.0, mode="nearest")
    coarse = Image.fromarray(np.clip(np.round(paper), 1, 255).astype(np.uint8))
    wide = np.asarray(coarse.resize((dark.shape[1], dark.shape[0]), Image.Resampling.BICUBIC))
    # Whole numbers of 16 bits: a scan of many megapixels is done in a fraction of the time.
    share = (255 - dark).astype(np.uint16) * np.uint16(255) // np.maximum(wide, 1)
    return (255 - np.minimum(share, 255)).astype(np.uint8)


def without_specks(dark: np.ndarray, across_px: float) -> np.ndarray:
    """Without marks that fit into a square of `across_px` pixels: dust and grain. dark: (h, w) uint8."""
    from scipy import ndimage

    level = max(24, int(np.percentile(dark[::4, ::4], 50)) + 16)
    labels, n = ndimage.label(dark > level, np.ones((3, 3)))
    if not n:
        return dark
    small = np.zeros(n + 1, bool)
    for k, box in enumerate(ndimage.find_objects(labels), 1):
        small[k] = max(s.stop - s.start for s in box) <= across_px
    out = dark.copy()
    # The soft rim of a speck goes with it.
    out[ndimage.grey_dilation(small[labels].astype(np.uint8), (3, 3)) > 0] = 0
    return out
