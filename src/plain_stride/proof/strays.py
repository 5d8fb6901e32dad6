"""Stray marks: short bits of ink that belong to nothing near them."""

from collections.abc import Iterator

import numpy as np

from plain_stride.proof.finding import SHOULD, Finding, Mend
from plain_stride.proof.page import Page

KIND = "stray"
ALONE_MM, ALIKE_MM, ALIKE, SPECK_MM = 1.0, 12.0, 2, 0.6
"""Nothing else lies so near it; within so many mm there are not so many others like it; a mark no longer than this, or
than it is wide, is a speck."""


def find(page: Page) -> Iterator[Finding]:
    """The stray marks of a page."""
    from scipy.spatial import cKDTree

    limit, small = page.limit(KIND), _marks(page)
    if not small:
        return
    tree = cKDTree(np.array([at for _, at, _ in small]))
    for key, at, long in small:
        if not page.is_black(key) or _is_meant(page, key) or page.contacts.get(key):
            continue
        alike = len(tree.query_ball_point(at, ALIKE_MM)) - 1
        if alike >= ALIKE or long > limit:
            continue
        says = f"A mark of {long:.1f} mm that touches nothing: take it away, unless it is meant."
        mend = Mend("take it away", ({"change": "delete", "lines": [key]},), safe=False)
        yield page.found(KIND, at, page.stroke(key).points, (key,), long, says,
                         severity=SHOULD if long <= SPECK_MM else None, mend=mend)  # fmt: skip


def _marks(page: Page) -> list[tuple[str, np.ndarray, float]]:
    """(line, its middle, mm of its ink) of all lines that are short."""
    out = []
    most = 2.0 * page.limit(KIND)
    for key in page.lines:
        shape = page.shapes[key]
        if shape.length <= most:
            stroke = page.stroke(key)
            out.append((key, stroke.points.mean(axis=0), stroke.length))
    return out


def _is_meant(page: Page, line: str) -> bool:
    return page.given(line) and page.roles[line] in ("detail", "texture", "halo")
