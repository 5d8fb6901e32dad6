"""Ruled paper: pale straight lines right across the sheet, evenly apart, that nobody drew. They are taken away before
lines are read.

Along a line of the paper nearly all that is seen is that line; along any other straight across the sheet much is paper.
So what is seen along most of a straight tells the lines of the paper, wherever pencil lies over them.
"""

import numpy as np

from plain_stride.pencils.read.flat import Flat

SLOPES = np.tan(np.radians(np.linspace(-2.0, 2.0, 17)))
EVERY_MM = 1.2
"""Turns of a sheet that are tried; how far apart places along a straight are looked at."""
SEEN, PALE, LEAST_ROWS, EVEN, EVEN_SHARE = 0.05, 0.5, 4, 0.1, 0.7
"""Darkness of a line of the paper, at least and at most; so many lines, most of whose gaps are whole numbers of the
middle gap within a share of it."""
ACROSS, EDGE_SHARE, MARGIN, _BESIDE = 0.3, 0.04, 1.3, 2
"""A line of the paper is as dark as told, or darker, along all of its way but so much, and at both edges of the sheet
as well, so far in. It varies along its way: so many times that is taken away, and as many pixels beside it."""


def without_ruling(flat: Flat) -> Flat:
    """The darkness without the lines of ruled paper, along the sheet or across it. Linear in the pixels."""
    for turned in (False, True):
        dark = flat.dark.T if turned else flat.dark
        found = _ruling(dark, flat.per_mm)
        if found is not None:
            profile, slope = found
            lifted = np.maximum(dark - MARGIN * profile[_rows_at(dark.shape, slope)], 0.0).astype(np.float32)
            flat = Flat(np.ascontiguousarray(lifted.T) if turned else lifted, flat.per_mm)
    return flat


def _rows_at(shape: tuple[int, ...], slope: float) -> np.ndarray:
    """For each pixel (h, w) the row in which a straight of that slope through it crosses the middle column."""
    h, w = shape
    shift = np.rint((np.arange(w) - w / 2.0) * slope).astype(int)
    return np.clip(np.arange(h)[:, None] - shift[None], 0, h - 1)


def _ruling(dark: np.ndarray, per_mm: float) -> tuple[np.ndarray, float] | None:
    """(darkness of the paper's lines by row of the middle column (h,), slope); None for plain paper."""
    columns = np.arange(0, dark.shape[1], max(1, round(EVERY_MM * per_mm)))
    some = dark[:, columns]
    best, slope = np.zeros(len(dark)), 0.0
    for one in SLOPES.tolist():
        shift = np.rint((columns - dark.shape[1] / 2.0) * one).astype(int)
        rows = np.clip(np.arange(len(dark))[:, None] + shift[None], 0, len(dark) - 1)
        straight = some[rows, np.arange(len(columns))[None]]
        middle = np.minimum(np.quantile(straight, ACROSS, axis=1), _at_both_edges(straight))
        if np.count_nonzero(middle > SEEN) and (middle**2).sum() > (best**2).sum():
            best, slope = middle, one
    # What is as dark as pencil was drawn, however far it goes across the sheet.
    best = np.where(_widened(best) > PALE, 0.0, best)
    seen = best > SEEN
    turns = np.flatnonzero(np.diff(np.concatenate([[False], seen, [False]]).astype(int)))
    places = (turns[::2] + turns[1::2]) / 2.0
    if not _are_even(places):
        return None
    # What is blurred beside a line is of it as well.
    wide = _widened(best)
    return np.where(wide > SEEN, wide, 0.0), slope


def _at_both_edges(straight: np.ndarray) -> np.ndarray:
    """How dark straights (h, k) are at the edge of the sheet where they are less so (h,): what is drawn ends sooner."""
    k = max(3, round(EDGE_SHARE * straight.shape[1]))
    out: np.ndarray = np.minimum(np.median(straight[:, :k], axis=1), np.median(straight[:, -k:], axis=1))
    return out


def _widened(rows: np.ndarray) -> np.ndarray:
    """The largest of a few rows (h,) round each."""
    out: np.ndarray = np.max([np.roll(rows, by) for by in range(-_BESIDE, _BESIDE + 1)], axis=0)
    return out


def _are_even(places: np.ndarray) -> bool:
    if len(places) < LEAST_ROWS:
        return False
    times = np.diff(places) / float(np.median(np.diff(places)))
    even = (np.abs(times - np.rint(times)) <= EVEN) & (np.rint(times) >= 1)
    return float(even.mean()) >= EVEN_SHARE
