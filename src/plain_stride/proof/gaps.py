"""Gaps: ends that stop short of what they go towards, measured between edges of ink.

An end that touches anything is no gap. A small one is told wherever it points; a wider one only where the end goes
towards what it does not reach. Ends that fade out, or were made loose, may stop short of things.
"""

from collections.abc import Iterator, Sequence

import numpy as np

from plain_stride.form.contacts import BESIDE, LOOK_OUT_MM, Contact
from plain_stride.proof.ends import LOOSE, LineEnd, ends_of, nearest_on, other_of, place_on
from plain_stride.proof.finding import LOOK, Finding, Mend, point
from plain_stride.proof.page import Page

KIND = "gap"
CLOSE_MM, AIMED_DEG, LOOP_MM = 0.35, 50.0, 6.0
"""Up to which a gap is one wherever its end points; by how much a wider one's end may point past; how much of itself
a line runs before its end can come back to it."""
FADED_MM = 0.8
"""A fading end that stops farther off than this has room to."""


def find(page: Page, lines: Sequence[str]) -> Iterator[Finding]:
    """The gaps at ends of some lines."""
    told = set[tuple[str, str]]()
    for line in lines:
        for end in ends_of(page, line):
            found = _gap(page, end)
            if found is not None and not (len(set(found.lines)) == 2 and found.lines[::-1] in told):
                told.add((found.lines[0], found.lines[-1]))
                yield found


def _gap(page: Page, end: LineEnd) -> Finding | None:
    if end.kind in LOOSE or end.met:
        return None
    own = _to_itself(page, end)
    nearest = next((c for c in end.contacts if c.kind != BESIDE and _is_ends(c, end)
                    and page.is_behind(end.line, other_of(c, end.line))), None)  # fmt: skip
    limit = page.limit(KIND)
    if own is not None and (nearest is None or own[0] < nearest.gap):
        gap, to = own
        other = end.line
    elif nearest is not None and page.seen(other_of(nearest, end.line), _place_of_other(nearest, end.line)):
        gap, other = nearest.gap, other_of(nearest, end.line)
        to = nearest_on(page, other, end.at)[2]
    else:
        return None
    if gap <= limit or not _is_meant(page, end, gap, to, other):
        return None
    doubtful = end.fades and gap > CLOSE_MM
    says = f"The {end.name} of this line stops {gap:.2f} mm short of {'its own other side' if other == end.line else 'the next'}: carry it on, or end it clear of it."  # noqa: E501
    return Finding(KIND, page.manners.severity(KIND, LOOK if doubtful else None), point((end.at + to) / 2.0),
                   (point(end.at), point(to)), (end.line, other) if other != end.line else (end.line,), gap, limit,
                   "mm", says, _mend(end, gap, other))  # fmt: skip


def _is_ends(contact: Contact, end: LineEnd) -> bool:
    """Whether a contact is that of an end, and not of the line before it."""
    return contact.gap > 0.0 and end.from_end(contact) <= 0.3 + end.half


def _place_of_other(contact: Contact, line: str) -> float:
    return place_on(contact, other_of(contact, line))


def _to_itself(page: Page, end: LineEnd) -> tuple[float, np.ndarray] | None:
    """(mm, place) from an end across to its own line, where that comes back so near."""
    stroke = page.stroke(end.line)
    if stroke.length < LOOP_MM:
        return None
    far = np.abs(stroke.s - end.s) >= min(LOOP_MM, stroke.length * 0.75)
    away = np.where(far, np.hypot(*(stroke.points - end.at).T) - stroke.full / 2.0, np.inf) - end.cap
    k = int(np.argmin(away))
    if k in (0, len(away) - 1):
        away[k] -= stroke.full[k] / 2.0 if page.shapes[end.line].ends[k > 0] == "round" else -stroke.full[k] / 2.0
    return (float(away[k]), stroke.points[k]) if 0.0 < away[k] <= LOOK_OUT_MM else None


def _is_meant(page: Page, end: LineEnd, gap: float, to: np.ndarray, other: str) -> bool:
    """Whether an end goes towards what it does not reach."""
    if gap <= CLOSE_MM:
        return True
    if end.fades and gap > FADED_MM:
        return False
    off = to - end.at
    aimed = float(off @ end.out) / max(float(np.hypot(*off)), 1e-9)
    return aimed >= np.cos(np.radians(AIMED_DEG))


def _mend(end: LineEnd, gap: float, other: str) -> Mend | None:
    if other == end.line:
        return None
    return Mend(f"carry its {end.name} on by {gap:.2f} mm, to where it meets",
                ({"change": "tidy", "lines": [end.line], "gap": round(gap + 0.02, 3), "overshoot": 0.0},))  # fmt: skip
