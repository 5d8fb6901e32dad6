"""Why a picture may be no drawing at all: it has tones instead of lines, rows as a page of text or music has, or is
full of crumbs."""

from collections.abc import Sequence

import numpy as np

from plain_stride.pencils.read.flat import Flat

TONED, FIRM, MOST_TONED, SOME_TONED, LEAST_FIRM = 0.12, 0.30, 0.50, 0.22, 0.67
"""Even darkness from which a pixel is toned, or firm; shares of the picture that are toned, and of these firm. Measured
on general pictures of an image library: toned share .23 to .77, of it firm .36 to .71; on scanned drawings .02 to .18,
firm .66 to .79."""
ROW_MM, ROW_DARK, EMPTY_SHARE, MANY_ROWS, EVEN, APART_MM = 0.25, 0.25, 0.02, 10, 0.5, (3.0, 60.0)
"""Height of what is looked at as one row, darkness of ink, share of the fullest row's ink below which one is empty; so
many empty rows, so evenly spaced (deviation for the mean) and so far apart are those between rows of text. Measured:
text 52 rows (.36), music 15 (.30); of 40 scanned drawings four had ten and more, none more even than .9."""
MANY_LINES, CRUMB_MM = 400, 3.5
"""So many lines, half of them shorter than that, are crumbs."""


def doubt_of(flat: Flat, lengths: Sequence[float]) -> str:
    """A sentence without its stop, '' for none. lengths: mm of the lines that were read."""
    toned = float((flat.dark > TONED).mean())
    firm = float((flat.dark > FIRM).mean()) / max(toned, 1e-9)
    if toned > MOST_TONED or (toned > SOME_TONED and firm < LEAST_FIRM):
        return f"This looks like a photo of something, not like a drawing ({toned:.0%} of it is toned)"
    if has_rows(flat.dark, flat.per_mm) or has_rows(flat.dark.T, flat.per_mm):
        return "This looks like a page of rows, as of text or music, not like a drawing"
    if len(lengths) >= MANY_LINES and float(np.median(lengths)) < CRUMB_MM:
        return f"This looks like texture, not like a drawing (half of its lines are shorter than {CRUMB_MM:g} mm)"
    return ""


def has_rows(dark: np.ndarray, per_mm: float) -> bool:
    """Whether what is dark (h, w) stands in many even rows with paper between them."""
    high = max(1, round(ROW_MM * per_mm))
    m = len(dark) // high
    ink = (dark[: m * high] > ROW_DARK).reshape(m, -1).mean(axis=1)
    inked = np.flatnonzero(ink)
    if len(inked) < 2:
        return False
    within = ink[inked[0] : inked[-1] + 1]
    empty = within <= EMPTY_SHARE * within.max()
    turns = np.flatnonzero(np.diff(np.concatenate([[False], empty, [False]]).astype(int)))
    apart = np.diff((turns[::2] + turns[1::2]) / 2.0) * high / per_mm
    if len(apart) + 1 < MANY_ROWS:
        return False
    mean = float(apart.mean())
    return APART_MM[0] <= mean <= APART_MM[1] and float(apart.std()) <= EVEN * mean
