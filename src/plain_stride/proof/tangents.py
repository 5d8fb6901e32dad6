"""Tangents: edges of different things that just touch, or run along each other, by accident.

Told are kisses of two lines that do not meet there, lines of different parts that share an edge, free ends that just
touch what lies behind them, three lines through one point, and lines that run along a frame.
"""

from collections.abc import Iterator, Sequence

import numpy as np

from plain_stride.form.contacts import BESIDE, CROSSING, TEE
from plain_stride.proof.beside import Beside
from plain_stride.proof.ends import ends_of, other_of, place_on
from plain_stride.proof.finding import LOOK, Finding, Mend, point
from plain_stride.proof.page import Page

KIND = "tangent"
LAP_MM, JOINED_MM, LEAST_MM, LONG_SHARE = 0.15, 5.0, 4.0, 0.45
"""Inks may lie over each other by so much and still only touch; lines that meet so near are wedges; shorter ones are
marks; lines of one part beside each other over a larger share are doubled on purpose."""
NEAR_MM, THREE_MM, THREE_DEG, FRAME_MM, FRAME_LONG_MM = 0.25, 0.35, 15.0, 0.6, 4.0
"""How much wider than the nearest the white beside a kiss counts as near; how near each other three crossings lie; the
angle below which lines do not cross there; how near a frame, and how long, a line runs along it."""


def find(page: Page, lines: Sequence[str], pairs: Sequence[Beside]) -> Iterator[Finding]:
    """All tangents of some lines; pairs: theirs, beside each other."""
    for pair in pairs:
        if (found := _kiss(page, pair)) is not None:
            yield found
    for line in lines:
        yield from _end_kisses(page, line)
        yield from _along_frames(page, line)
    yield from _three_in_a_point(page, lines)


def _kiss(page: Page, pair: Beside) -> Finding | None:
    roles = page.roles[pair.a], page.roles[pair.b]
    if {"texture", "detail"} & set(roles) or page.shapes[pair.a].length < LEAST_MM:
        return None
    limit = page.limit(KIND)
    kisses = [c for c in pair.contacts if c.kind == BESIDE and -LAP_MM <= c.gap <= limit]
    if not kisses or page.sets.holds(pair.a) or page.sets.holds(pair.b):
        return None
    nearest = min(kisses, key=lambda c: c.gap)
    s = place_on(nearest, pair.a)
    if len(pair.joined_at) and np.abs(pair.joined_at - s).min() <= JOINED_MM:
        return None
    if not page.seen(pair.a, s):
        return None
    near = (pair.white <= max(nearest.gap, 0.0) + NEAR_MM) & (pair.along >= 0.8)
    if pair.share(near) > LONG_SHARE and not page.apart(pair.a, pair.b):
        return None
    where = pair.points[near] if near.any() else np.array([nearest.at])
    shared = near.sum() * pair.step > LEAST_MM
    passing = "just touch" if nearest.gap <= 0.0 else f"pass {nearest.gap:.2f} mm from each other"
    words = "run along each other" if shared else passing
    says = f"These two edges {words}: let them overlap clearly, part them clearly, or make the nearer one heavier."
    at = np.array(nearest.at)
    return page.found(KIND, at, where, (pair.a, pair.b), max(nearest.gap, 0.0), says, mend=_moved_apart(page, pair, at))


def _moved_apart(page: Page, pair: Beside, at: np.ndarray) -> Mend | None:
    """The farther line bent away by what it lacks."""
    back = max((pair.a, pair.b), key=lambda key: page.part(key).order)
    if page.shapes[back].length < 2.0 * LEAST_MM:
        return None
    k = int(np.argmin(np.hypot(*(pair.points - at).T)))
    stroke = page.stroke(pair.b)
    there = np.array([np.interp(pair.other_s[k], stroke.s, stroke.points[:, n]) for n in (0, 1)])
    off = pair.points[k] - there if back == pair.a else there - pair.points[k]
    far = float(np.hypot(*off))
    if far < 1e-6:
        return None
    by = off / far * (2.0 * page.limit(KIND) - float(pair.white[k]) + 0.1)
    place = pair.points[k] if back == pair.a else there
    reach = round(min(6.0, page.shapes[back].length / 3.0), 2)
    return Mend(f"bend the farther one away by {np.hypot(*by):.2f} mm",
                ({"change": "bend", "line": back, "at": list(point(place)), "by": list(point(by)), "reach": reach},),
                safe=False)  # fmt: skip


def _end_kisses(page: Page, line: str) -> Iterator[Finding]:
    """Free ends of a nearer part that just touch a line that lies behind: a leaf's tip on the horizon."""
    if page.roles[line] in ("texture", "halo", "detail") or page.sets.holds(line):
        return
    limit = page.limit(KIND)
    for end in ends_of(page, line):
        met = [c for c in end.contacts if c.gap <= limit]
        if len(met) != 1 or met[0].kind != TEE or met[0].lines[0] != line or met[0].gap < -LAP_MM:
            continue
        other = other_of(met[0], line)
        if not page.apart(line, other) or page.part(line).order >= page.part(other).order:
            continue
        says = "This end just touches what lies behind it: carry it clearly across, or end it clear of it."
        yield page.found(KIND, end.at, end.at[None], (line, other), max(met[0].gap, 0.0), says, severity=LOOK)


def _three_in_a_point(page: Page, lines: Sequence[str]) -> Iterator[Finding]:
    """Places where three lines of more than one part run through one point."""
    from scipy.spatial import cKDTree

    wanted = set(lines)
    crossings = {(c.lines, c.at): c for line in lines for c in page.contacts.get(line, ())
                 if c.kind == CROSSING and c.angle >= THREE_DEG and not any(map(page.sets.holds, c.lines))
                 and not any(page.roles[key] in ("texture", "halo") for key in c.lines)}  # fmt: skip
    found = list(crossings.values())
    if len(found) < 2:
        return
    at = np.array([c.at for c in found])
    told = set[frozenset[str]]()
    for k, near in enumerate(cKDTree(at).query_ball_point(at, THREE_MM)):
        here = [found[n] for n in near]
        through = tuple(sorted({key for c in here for key in c.lines}))
        if len(through) < 3 or frozenset(through) in told or not wanted & set(through):
            continue
        told.add(frozenset(through))
        if len({page.part(key).inside or page.part(key).id for key in through}) < 2:
            continue
        spread = float(max(np.hypot(*(np.array(c.at) - at[k])) for c in here))
        says = f"{len(through)} lines run through one point: move one of them, or end it short."
        yield page.found(KIND, at[k], at[k][None], through, spread, says, severity=LOOK)


def _along_frames(page: Page, line: str) -> Iterator[Finding]:
    """Stretches that run along a frame, beside its edge."""
    if not page.sheet.frames or page.roles[line] in ("ruled", "texture", "halo") or page.sets.holds(line):
        return
    stroke = page.stroke(line)
    for x0, y0, x1, y1 in page.sheet.frames:
        for axis, edge in ((0, x0), (0, x1), (1, y0), (1, y1)):
            low, high = (y0, y1) if axis == 0 else (x0, x1)
            p, other = stroke.points[:, axis], stroke.points[:, 1 - axis]
            near = (np.abs(p - edge) <= FRAME_MM + stroke.full / 2.0) & (np.abs(stroke.way[:, axis]) <= 0.1)
            near &= (other >= low) & (other <= high)
            if near.sum() * stroke.step < FRAME_LONG_MM:
                continue
            where = stroke.points[near]
            away = float(np.abs(where[:, axis] - edge).min())
            says = "This line runs along the frame: bring it clearly in, or let it cross."
            yield page.found(KIND, where[len(where) // 2], where, (line,), away, says, limit=FRAME_MM)
