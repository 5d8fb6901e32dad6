"""Blobs: swellings that come and go within a short stretch of a line.

What an opening over SPAN_MM takes off a line's widths (Serra 1982, in one dimension) stands higher than what lies on
both sides of it. A swell over a long stretch passes; so does one that ends a line, or that the inker set.
"""

from collections.abc import Iterator, Sequence

import numpy as np

from plain_stride.proof.finding import Finding, Mend, point
from plain_stride.proof.fine import STEP_MM, Fine
from plain_stride.proof.page import Page

KIND = "blob"
SPAN_MM, LEAST_SHARE, LEAST_RISE = 3.0, 0.3, 0.25
"""Over which the widths are opened; how much wider than that at least; how steep both flanks are, mm per mm."""
FLANK_MM = 2.0


def find(page: Page, lines: Sequence[str]) -> Iterator[Finding]:
    """The blobs of some lines."""
    limit = page.limit(KIND)
    swelling = [key for key in lines if np.ptp(page.shapes[key].body.full) > limit]
    fine = page.fine(swelling)
    base = _opened(fine, fine.body, round(SPAN_MM / STEP_MM))
    high = fine.body - base
    for run in fine.runs((high > limit) & (high > LEAST_SHARE * base)):
        k = int(run[np.argmax(high[run])])
        if not _steep(fine, k):
            continue
        key, excess = fine.lines[int(fine.line[k])], float(high[k])
        says = f"The line swells by {excess:.2f} mm and back within {SPAN_MM:g} mm: shave it to what lies beside it."
        mend = Mend(f"shave it from {fine.body[k]:.2f} to {base[k]:.2f} mm",
                    ({"change": "width", "line": key, "at": list(point(fine.points[k])), "mm": round(float(base[k]), 3),
                      "reach": SPAN_MM / 2.0},))  # fmt: skip
        yield page.found(KIND, fine.points[k], fine.points[run], (key,), excess, says, mend=mend)


def _steep(fine: Fine, k: int) -> bool:
    """Whether the widths fall steeply to both sides of a place, near it."""
    on = fine.of(int(fine.line[k]))
    body, s = fine.body[on], fine.s[on]
    here = k - on.start
    slope = np.diff(body) / max(float(s[1]), 1e-9)
    reach = max(1, int(FLANK_MM / max(float(s[1]), 1e-9)))
    before, after = slope[max(0, here - reach) : here], slope[here : here + reach]
    return bool(len(before) and len(after) and before.max() >= LEAST_RISE and -after.min() >= LEAST_RISE)


def _opened(fine: Fine, values: np.ndarray, span: int) -> np.ndarray:
    """An opening of values (n,) along each line: the largest profile below them that is nowhere a peak narrower than
    so many places. Ends go on as they are."""
    from scipy import ndimage

    if not len(values):
        return values
    # Lines are set apart by more than a span of their own end values, so that one filter serves them all.
    counts, pad = np.diff(fine.starts), span + 1
    row = np.arange(len(values)) + fine.line * 2 * pad + pad
    whole = np.zeros(len(values) + 2 * pad * len(counts))
    first, last = fine.starts[:-1], fine.starts[1:] - 1
    begin = np.arange(len(counts)) * 2 * pad + first
    for k in range(pad):
        whole[begin + k] = values[first]
        whole[begin + pad + counts + k] = values[last]
    whole[row] = values
    return np.asarray(ndimage.grey_opening(whole, span)[row])
