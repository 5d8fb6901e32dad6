"""Loose strands: lines that leave the sheet of hair or grass that they belong to.

A strand is held against those of its own part, and about its length, that lie nearest to it: where these run with each
other and it does not run with them, it is loose.
"""

from collections.abc import Iterator

import numpy as np

from plain_stride.form.places import Along, along_of
from plain_stride.proof.finding import Finding
from plain_stride.proof.page import Page

KIND = "loose-strand"
NEAREST, LEAST, NEAR_MM, TOGETHER_DEG = 6, 4, 12.0, 15.0
"""So many neighbours are looked at, so many at least, so far off; what they may differ by among themselves."""
LENGTHS, BENT, LEAST_MM = 3.0, 0.75, 4.0
"""How many times as long a neighbour may be; the least straightness and length of a strand."""
IN_SHEET, SHEET_SHARE = 8, 0.7
"""Fewer strands are no sheet, nor are those of which fewer run with each other."""


def find(page: Page) -> Iterator[Finding]:
    """The loose strands of a page."""
    by_part: dict[str, list[str]] = {}
    for key in page.black_lines:
        if _is_strand(page, key):
            by_part.setdefault(page.part(key).id, []).append(key)
    for strands in by_part.values():
        if len(strands) >= IN_SHEET:
            yield from _of_part(page, strands)


def _is_strand(page: Page, line: str) -> bool:
    shape = page.shapes[line]
    if shape.closed or page.roles[line] == "ruled" or shape.length < LEAST_MM:
        return False
    return float(np.hypot(*(shape.curve[-1, 3] - shape.curve[0, 0]))) >= BENT * shape.length


def _of_part(page: Page, strands: list[str]) -> Iterator[Finding]:
    off = _turned_out([along_of(page.shapes[key].path) for key in strands])
    known = np.isfinite(off)
    if not known.any() or np.mean(off[known] <= TOGETHER_DEG) < SHEET_SHARE:
        return
    for k in np.flatnonzero(known & (np.nan_to_num(off) > page.limit(KIND))).tolist():
        says = f"This strand turns {off[k]:.0f} degrees out of those round it: lay it along, or take it away."
        places = page.stroke(strands[k]).points
        yield page.found(KIND, places[len(places) // 2], places, (strands[k],), float(off[k]), says)


def _turned_out(strokes: list[Along]) -> np.ndarray:
    """Degrees (n,) by which each strand turns out of the nearest ones; nan where these do not run with each other, or
    are too few."""
    from scipy.spatial import cKDTree

    middles = np.array([one.points[len(one.s) // 2] for one in strokes])
    lengths = np.array([one.s[-1] for one in strokes])
    angles = np.array([_way(one.points) for one in strokes])
    far, near = cKDTree(middles).query(middles, NEAREST + 1, distance_upper_bound=NEAR_MM)
    out = np.full(len(strokes), np.nan)
    for k in range(len(strokes)):
        others = near[k][np.isfinite(far[k]) & (near[k] != k)]
        others = others[(lengths[others] <= LENGTHS * lengths[k]) & (lengths[k] <= LENGTHS * lengths[others])]
        if len(others) < LEAST:
            continue
        mean = float(np.angle(np.exp(1j * angles[others]).sum()))
        spread = np.degrees(np.abs(_half_turn(angles[others] - mean)))
        if np.sort(spread)[: len(others) - 1].max() <= TOGETHER_DEG:
            out[k] = float(np.degrees(np.abs(_half_turn(angles[k : k + 1] - mean)))[0])
    return out


def _way(points: np.ndarray) -> float:
    """Twice the angle of a strand's chord: which end it begins at does not count."""
    dx, dy = (points[-1] - points[0]).tolist()
    return 2.0 * float(np.arctan2(dy, dx))


def _half_turn(doubled: np.ndarray) -> np.ndarray:
    """Differences (n,) of doubled angles as those of the angles, -90 to 90 degrees, in radians."""
    return ((doubled + np.pi) % (2.0 * np.pi) - np.pi) / 2.0
