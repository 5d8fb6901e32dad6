"""Overshoots: short tails of ink past the line that an end should stop on, measured from its far edge."""

from collections.abc import Iterator, Sequence

import numpy as np

from plain_stride.form.contacts import BESIDE, JOINED_MM, TEE, Contact
from plain_stride.proof.ends import LOOSE, MET_MM, LineEnd, ends_of, half_at, nearest_on, other_of, place_on
from plain_stride.proof.finding import LOOK, Finding, Mend
from plain_stride.proof.page import Page

KIND = "overshoot"
MOST_MM, MOST_SHARE, LEAST_DEG, BAR_MM = 2.0, 0.25, 20.0, 1.0
"""A longer tail, or a larger share of its line, is drawn on purpose; lines that cross at less run on; where the other
line ends there, a longer tail is the bar that it ends on."""


def find(page: Page, lines: Sequence[str]) -> Iterator[Finding]:
    """The overshoots at ends of some lines."""
    for line in lines:
        if line in page.hatching:
            continue
        for end in ends_of(page, line):
            if end.kind not in LOOSE and (found := _overshoot(page, end)) is not None:
                yield found


def _overshoot(page: Page, end: LineEnd) -> Finding | None:
    crossed = _crossed(page, end)
    if crossed is None or _ends_on_another(page, end, crossed):
        return None
    other = other_of(crossed, end.line)
    away, s, foot = nearest_on(page, other, end.at)
    over = away + end.cap - half_at(page, other, s)
    if over <= page.limit(KIND) or over > (BAR_MM if _ends_there(page, other, crossed) else MOST_MM):
        return None
    says = f"The {end.name} of this line runs {over:.2f} mm past the one that it ends on: take the tail off."
    back = end.from_end(crossed) - max(end.cap - half_at(page, other, place_on(crossed, other)), 0.0)
    mend = Mend(f"take {over:.2f} mm off its {end.name}",
                ({"change": "mend-ends", "mends": [[end.line, end.name, -round(back, 4)]]},))  # fmt: skip
    severity = LOOK if page.roles[end.line] == "detail" else None
    return page.found(
        KIND, end.at, np.array([foot, end.at]), (end.line, other), over, says, severity=severity, mend=mend
    )


def _ends_there(page: Page, line: str, crossed: Contact) -> bool:
    """Whether a line ends at a crossing, or a little beyond it."""
    shape, s = page.shapes[line], place_on(crossed, line)
    return not shape.closed and min(s, shape.length - s) <= JOINED_MM + float(shape.widths.full.max()) / 2.0


def _crossed(page: Page, end: LineEnd) -> Contact | None:
    """The place nearest to an end at which its line crosses another, no farther from it than a tail is long."""
    reach = min(MOST_MM * 1.5 + 2.0, MOST_SHARE * end.shape.length)
    found = [c for c in page.contacts.get(end.line, ()) if c.kind != BESIDE and c.gap <= 0.0 and c.angle >= LEAST_DEG
             and not (c.kind == TEE and c.lines[0] != end.line)
             and end.half / 2.0 < end.from_end(c) <= reach
             and page.is_black(other_of(c, end.line)) and page.is_behind(end.line, other_of(c, end.line))
             and page.seen(end.line, place_on(c, end.line))]  # fmt: skip
    return min(found, key=end.from_end, default=None)


def _ends_on_another(page: Page, end: LineEnd, crossed: Contact) -> bool:
    """Whether a tail meets something else on its way."""
    limit = end.from_end(crossed)
    return any(c is not crossed and c.gap <= MET_MM and end.from_end(c) < limit - 1e-6
               for c in page.contacts.get(end.line, ())
               if other_of(c, end.line) != other_of(crossed, end.line))  # fmt: skip
