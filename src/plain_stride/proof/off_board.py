"""Lines off the board: outside the sheet, short of the bleed that they should run to, outside the safe margin.

A line that reaches the trim is meant to run off. Where a drawing runs off a side of the sheet, scenery may lie in that
margin: only lines that lie in it altogether are told there, to be looked at.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from plain_stride.proof.finding import LOOK, SHOULD, Finding
from plain_stride.proof.page import Page

KIND = "off-board"
REACHES_MM, WITHIN_SHARE, FOLDED = 0.5, 0.9, 3
"""A line that comes so near the trim, or the edge of the bleed, reaches it; how much of a line lies in the margin where
it belongs there; more lines than this with the same fault on one side are told once."""
SIDES = ("left", "right", "top", "bottom")
OUTSIDE, SHORT, MARGIN = "outside", "short", "margin"
_SAYS = {OUTSIDE: "outside the sheet by {:.1f} mm", SHORT: "at the trim and {:.1f} mm short of the bleed",
         MARGIN: "outside the safe margin by {:.1f} mm"}  # fmt: skip


@dataclass(frozen=True, eq=False)
class _Off:
    line: str
    side: int
    what: str
    mm: float
    severity: str | None
    where: np.ndarray
    at: np.ndarray


def find(page: Page) -> Iterator[Finding]:
    """What of a page lies off the board."""
    runs_off = _sides_run_off(page)
    found: dict[tuple[int, str], list[_Off]] = {}
    for key in page.black_lines:
        for off in _of_line(page, key, runs_off):
            found.setdefault((off.side, off.what), []).append(off)
    for group in found.values():
        yield from ([_finding(page, group)] if len(group) > FOLDED else [_finding(page, [one]) for one in group])


def _inside(page: Page, line: str) -> np.ndarray:
    """mm (4, n) by which a line's ink lies within each side of the trim."""
    stroke, (wide, high) = page.stroke(line), page.sheet.size_mm
    x, y = stroke.points.T
    return np.stack([x, wide - x, y, high - y]) - stroke.full / 2.0


def _near_trim(page: Page, line: str, within: float) -> bool:
    x0, y0, x1, y1 = page.shapes[line].box
    wide, high = page.sheet.size_mm
    return min(x0, y0, wide - x1, high - y1) < within


def _sides_run_off(page: Page) -> np.ndarray:
    """Off which sides (4,) of the sheet the drawing runs."""
    out = np.zeros(4, int)
    for key in page.black_lines:
        if _near_trim(page, key, REACHES_MM):
            out += _inside(page, key).min(axis=1) <= REACHES_MM
    return out >= 2


def _of_line(page: Page, line: str, runs_off: np.ndarray) -> Iterator[_Off]:
    sheet, limit = page.sheet, page.limit(KIND)
    if not _near_trim(page, line, max(sheet.margin, REACHES_MM)):
        return
    inside = _inside(page, line)
    places = page.stroke(line).points

    def off(side: int, what: str, mm: float, severity: str | None, where: np.ndarray) -> _Off:
        return _Off(line, side, what, mm, severity, places[where], places[int(np.argmin(inside[side]))])

    for side in range(4):
        own, least = inside[side], float(inside[side].min())
        if own.max() < 0.0:
            yield off(side, OUTSIDE, -least, None, own < 0.0)
        elif least <= REACHES_MM:
            if sheet.bleed > 0.0 and least > REACHES_MM - sheet.bleed:
                yield off(side, SHORT, sheet.bleed + least, SHOULD, own <= REACHES_MM)
            elif sheet.bleed == 0.0 and least < -limit:
                yield off(side, OUTSIDE, -least, SHOULD, own < 0.0)
        elif least < sheet.margin - limit and page.roles[line] in ("outer", "inner") and page.part(line).tier != "far":
            in_it = own < sheet.margin
            if not runs_off[side] or in_it.mean() >= WITHIN_SHARE:
                yield off(side, MARGIN, sheet.margin - least, LOOK if runs_off[side] else SHOULD, in_it)


def _finding(page: Page, group: list[_Off]) -> Finding:
    worst = max(group, key=lambda one: one.mm)
    several = len(group) > 1
    many, them = (f"{len(group)} lines lie", "them") if several else ("This line lies", "it")
    off = _SAYS[worst.what].format(worst.mm)
    says = f"{many} {off} ({SIDES[worst.side]}): bring {them} in, or let {them} run off for good."
    where = np.array([one.at for one in group]) if several else worst.where
    return page.found(KIND, worst.at, where, [one.line for one in group], worst.mm, says, severity=worst.severity)
