"""Gaps: ends that stop short of what they go towards, measured between edges of ink.

An end that touches anything is no gap. A small one is told wherever it points; a wider one only where the end goes
towards what it does not reach. Ends that fade out, or were made loose, may stop short of things.
"""

from collections.abc import Iterator, Sequence

import numpy as np

from plain_stride.form.contacts import CROSSING, LOOK_OUT_MM
from plain_stride.form.places import STEP_MM, along_of
from plain_stride.proof.ends import (
    LOOSE,
    MET_MM,
    LineEnd,
    ends_of,
    half_at,
    nearest_on,
    nearest_to_all,
    other_of,
    white_to,
)
from plain_stride.proof.finding import LOOK, MUST, Finding, Mend
from plain_stride.proof.leaks import Leaks
from plain_stride.proof.page import Page

KIND = "gap"
CLOSE_MM, AIMED_DEG, FADED_DEG, LOOP_MM = 0.35, 50.0, 35.0, 6.0
"""Up to which a gap is one wherever its end points; by how much a wider one's end may point past, and one that fades;
how much of itself a line runs before its end can come back to it."""
FADED_MM, SLANT = 0.8, 3.5
"""A fading end that stops farther off than this has room to; how many times as far as straight across a line may go
that comes aslant."""
MOST_NEAR, CROSSED_MM = 4, 3.0
"""So many lines near an end are looked at, the nearest first; lines that it crossed so near are none of them."""
CURL_DEG, CURL_MM, ENDS_MM = 100.0, 5.0, 1.0
"""An end whose last mm turn so much is a curl; how near its other end a line must come back to itself to be a ring that
was left open."""
STRAIGHT_MM, ON_MM = 0.03, 0.06
"""What an end need not be drawn over; how near its way must come to the middle of what it meets."""


def find(page: Page, lines: Sequence[str]) -> Iterator[Finding]:
    """The gaps at ends of some lines."""
    told, leaks = set[tuple[str, str]](), list[Leaks]()
    for line in lines:
        if line in page.hatching:
            continue
        for end in ends_of(page, line):
            found = _gap(page, end, leaks)
            if found is not None and not (len(set(found.lines)) == 2 and found.lines[::-1] in told):
                told.add((found.lines[0], found.lines[-1]))
                yield found


def _gap(page: Page, end: LineEnd, leaks: list[Leaks]) -> Finding | None:
    """leaks: what knows of areas, made where the first gap is found."""
    # A contact counts the end's own half-width in, which only a round one has beyond it.
    if end.kind in LOOSE or any(c.gap + end.half - end.cap <= MET_MM for c in end.contacts):
        return None
    if not page.seen(end.line, end.s):
        return None
    near = [(*white_to(page, end, other), other) for other in _others(page, end)]
    if (own := _to_itself(page, end)) is not None:
        near.append((*own, end.line))
    if not near or min(gap for gap, _, _ in near) <= MET_MM:
        return None
    meant = [one for one in near if one[0] > page.limit(KIND) and _is_meant(page, end, *one)]
    if not meant:
        return None
    gap, to, other = min(meant, key=lambda one: one[0])
    what = "its own other side" if other == end.line else "the next"
    says = f"The {end.name} of this line stops {gap:.2f} mm short of {what}: carry it on, or end it clear of it."
    lines, meets = tuple(dict.fromkeys((end.line, other))), _met_on_its_way(page, end, gap, to, other)
    leaks[:] = leaks or [Leaks(page)]
    area = leaks[0].area(end.at, meets)
    if area is not None:
        says = f"{says} A fill of {area:.0f} mm2 runs out here."
    leaking = MUST if page.sheet.for_colour else None
    severity = leaking if area is not None else LOOK if end.fades and gap > CLOSE_MM else None
    return page.found(KIND, (end.at + to) / 2.0, np.array([end.at, to]), lines, gap, says, severity=severity,
                      mend=_mend(end, meets))  # fmt: skip


def _others(page: Page, end: LineEnd) -> list[str]:
    """Lines that an end might meet: those that its ink comes near."""
    crossed = {other_of(c, end.line) for c in page.contacts.get(end.line, ())
               if c.kind == CROSSING and end.from_end(c) <= CROSSED_MM}  # fmt: skip
    # An end that has run across a line and lies beside it does not stop short of it.
    return [key for key in dict.fromkeys(other_of(c, end.line) for c in end.contacts) if key not in crossed][:MOST_NEAR]


def _to_itself(page: Page, end: LineEnd) -> tuple[float, np.ndarray] | None:
    """(mm, place) from an end across to its own line, where that comes back so near."""
    length = end.shape.length
    if length < LOOP_MM:
        return None
    reach = min(LOOP_MM, length * 0.75)
    rough = along_of(end.shape.path)
    near = np.hypot(*(rough.points[np.abs(rough.s - end.s) >= reach] - end.at).T)
    if near.min(initial=np.inf) > LOOK_OUT_MM + float(end.shape.widths.full.max()) + STEP_MM:
        return None
    stroke = page.stroke(end.line)
    there = np.abs(stroke.s - end.s) >= reach
    half = np.array([half_at(page, end.line, s) for s in stroke.s[there].tolist()])
    away = np.hypot(*(stroke.points[there] - end.at).T) - half - end.cap
    k = int(np.argmin(away))
    return (float(away[k]), stroke.points[there][k]) if 0.0 < away[k] <= LOOK_OUT_MM else None


def _is_meant(page: Page, end: LineEnd, gap: float, to: np.ndarray, other: str) -> bool:
    """Whether an end goes towards what it does not reach."""
    if other != end.line:
        if gap > LOOK_OUT_MM or not page.is_behind(end.line, other):
            return False
        if gap > CLOSE_MM and not _is_aimed(page, end, gap, to, other):
            return False
        return page.seen(other, nearest_on(page, other, end.at)[1])
    if gap <= CLOSE_MM:
        return True
    other_end = end.shape.curve[0, 0] if end.at_end else end.shape.curve[-1, 3]
    return float(np.hypot(*(to - other_end))) <= ENDS_MM and _is_aimed(page, end, gap, to, other)


def _is_aimed(page: Page, end: LineEnd, gap: float, to: np.ndarray, other: str) -> bool:
    """Whether an end points at a place, or its line would soon run into the other: one that comes aslant does."""
    if (end.fades and gap > FADED_MM) or _curls(end):
        return False
    off = to - end.at
    aimed = float(off @ end.out) / max(float(np.hypot(*off)), 1e-9)
    if aimed >= np.cos(np.radians(FADED_DEG if end.fades else AIMED_DEG)):
        return True
    if aimed <= 0.0:
        return False
    way = end.at + np.linspace(0.0, SLANT * gap + end.half, 16)[1:, None] * end.out
    away, s, _ = nearest_to_all(page, other, way)
    return bool((away <= [half_at(page, other, one) for one in s.tolist()]).any())


def _curls(end: LineEnd) -> bool:
    """Whether a line curls up towards its end."""
    along = along_of(end.shape.path)
    last = along.way[np.abs(along.s - end.s) <= CURL_MM]
    turns = np.arctan2(last[:-1, 0] * last[1:, 1] - last[:-1, 1] * last[1:, 0], (last[:-1] * last[1:]).sum(axis=1))
    return bool(abs(np.degrees(turns.sum())) > CURL_DEG)


def _mend(end: LineEnd, to: np.ndarray) -> Mend:
    """Its end carried on to the middle of what it meets: along its own way as far as that comes, then drawn over."""
    off = to - end.at
    on = max(float(off @ end.out), 0.0)
    over = off - on * end.out
    changed = [end.line, end.name, round(on, 4)]
    if float(np.hypot(*over)) > STRAIGHT_MM:
        changed += [round(float(v), 4) for v in over]
    return Mend(f"carry its {end.name} on by {np.hypot(*off):.2f} mm, into what it meets",
                ({"change": "mend-ends", "mends": [changed]},))  # fmt: skip


def _met_on_its_way(page: Page, end: LineEnd, gap: float, to: np.ndarray, other: str) -> np.ndarray:
    """(2,) where a line that goes straight on comes to the middle of the other, where it does so soon; else `to`."""
    if other == end.line:
        return to
    reach = SLANT * (gap + float(np.hypot(*(to - end.at))) / 2.0)
    ways = end.at + np.linspace(0.0, reach, 40)[:, None] * end.out
    away = nearest_to_all(page, other, ways)[0]
    k = int(np.argmin(away))
    return ways[k] if away[k] <= ON_MM and k > 0 else to
