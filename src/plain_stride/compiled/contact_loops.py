"""Loops over two lines that lie near each other, to be compiled. Twins of `form.contacts`.

A line is points (n, 2), chords (n,) along them and half-widths left, right (n,).
"""

import math

import numpy as np

CORNER, RUN_ON, TEE, CROSSING, BESIDE = 0, 1, 2, 3, 4


def locate(p: np.ndarray, chords: np.ndarray, x: float, y: float, out: np.ndarray) -> None:
    """The place of a line nearest to (x, y): distance, chord, x, y into out (4,)."""
    best = 1e300
    for k in range(len(p) - 1):
        dx, dy = p[k + 1, 0] - p[k, 0], p[k + 1, 1] - p[k, 1]
        long = dx * dx + dy * dy
        share = min(max(((x - p[k, 0]) * dx + (y - p[k, 1]) * dy) / long, 0.0), 1.0) if long > 0.0 else 0.0
        qx, qy = p[k, 0] + share * dx, p[k, 1] + share * dy
        away = (qx - x) ** 2 + (qy - y) ** 2
        if away < best:
            best = away
            out[1], out[2], out[3] = chords[k] + share * (chords[k + 1] - chords[k]), qx, qy
    out[0] = math.sqrt(best)


def heading(p: np.ndarray, chords: np.ndarray, chord: float, out: np.ndarray) -> int:
    """Twin of `Strand.tangent`: the unit tangent into out (2,); gives the segment."""
    k = min(max(int(np.searchsorted(chords, chord, side="right")) - 1, 0), len(p) - 2)
    dx, dy = p[k + 1, 0] - p[k, 0], p[k + 1, 1] - p[k, 1]
    size = max(math.sqrt(dx * dx + dy * dy), 1e-12)
    out[0], out[1] = dx / size, dy / size
    return k


def facing(
    p: np.ndarray, chords: np.ndarray, left: np.ndarray, right: np.ndarray, at: np.ndarray, x: float, y: float,
    tangent: np.ndarray,
) -> float:  # fmt: skip
    """Twin of `Strand.half` at a located place at (4,) towards (x, y); its tangent into way (2,)."""
    k = heading(p, chords, at[1], tangent)
    side = left if tangent[0] * (y - at[3]) - tangent[1] * (x - at[2]) < 0.0 else right
    gap = chords[k + 1] - chords[k]
    share = min(max((at[1] - chords[k]) / gap, 0.0), 1.0) if gap > 0.0 else 0.0
    return float(side[k] + share * (side[k + 1] - side[k]))


def note(
    pa: np.ndarray, ca: np.ndarray, la: np.ndarray, ra: np.ndarray, pb: np.ndarray, cb: np.ndarray, lb: np.ndarray,
    rb: np.ndarray, kind: int, here: np.ndarray, there: np.ndarray, row: np.ndarray,
) -> None:  # fmt: skip
    """Twin of `_contact` for located places on a and on b: kind, x, y, chords, gap, angle into row (8,)."""
    way_a, way_b = np.empty(2), np.empty(2)
    half_a = facing(pa, ca, la, ra, here, there[2], there[3], way_a)
    half_b = facing(pb, cb, lb, rb, there, here[2], here[3], way_b)
    apart = math.sqrt((here[2] - there[2]) ** 2 + (here[3] - there[3]) ** 2)
    dot = min(abs(way_a[0] * way_b[0] + way_a[1] * way_b[1]), 1.0)
    row[0], row[1], row[2], row[3], row[4] = kind, here[2], here[3], here[1], there[1]
    row[5], row[6] = apart - half_a - half_b, math.acos(dot) / math.pi * 180.0


def end_notes(
    pa: np.ndarray, ca: np.ndarray, la: np.ndarray, ra: np.ndarray, pb: np.ndarray, cb: np.ndarray, lb: np.ndarray,
    rb: np.ndarray, closed_b: bool, second: bool, widest_b: float, settings: np.ndarray, crossings: np.ndarray,
    rows: np.ndarray, n: int,
) -> int:  # fmt: skip
    """Twin of `_end_contacts`: ends of a (open) on or near b, into rows from n on; gives the row after them.

    crossings (k, 5): x, y, chord on the first, on the second line, 1 once it is used; second: a is the second line,
    whose ends at ends of b are told already.
    """
    here, there, out_of, into, other_way = np.empty(4), np.empty(4), np.empty(2), np.empty(2), np.zeros(8)
    for end in range(2):
        k = 0 if end == 0 else len(pa) - 1
        here[0], here[1], here[2], here[3] = 0.0, ca[k], pa[k, 0], pa[k, 1]
        best, nearest = -1, settings[1] + widest_b
        for j in range(len(crossings)):
            away = abs(crossings[j, 3 if second else 2] - ca[k])
            if away <= nearest and (best < 0 or away < nearest):
                best, nearest = j, away
        if best >= 0:
            here[1] = crossings[best, 3 if second else 2]
            here[2], here[3] = crossings[best, 0], crossings[best, 1]
            crossings[best, 4] = 1.0
        locate(pb, cb, here[2], here[3], there)
        note(pa, ca, la, ra, pb, cb, lb, rb, TEE, here, there, rows[n])
        if rows[n, 5] > settings[0]:
            continue
        far, nearest = -1, settings[1] + widest_b
        if not closed_b:
            for other in (0, len(pb) - 1):
                away = math.sqrt((pb[other, 0] - there[2]) ** 2 + (pb[other, 1] - there[3]) ** 2)
                if away <= nearest and (far < 0 or away < nearest):
                    far, nearest = other, away
        if far >= 0:
            if second:
                continue
            heading(pa, ca, ca[k], out_of)
            heading(pb, cb, cb[far], into)
            turn = out_of[0] * into[0] + out_of[1] * into[1]
            if end == 0:
                turn = -turn
            if far != 0:
                turn = -turn
            kind = RUN_ON if turn > settings[2] else CORNER
            note(pa, ca, la, ra, pb, cb, lb, rb, kind, here, there, rows[n])
            there[1], there[2], there[3] = cb[far], pb[far, 0], pb[far, 1]
            locate(pa, ca, there[2], there[3], here)
            note(pa, ca, la, ra, pb, cb, lb, rb, kind, here, there, other_way)
            if other_way[5] < rows[n, 5]:
                rows[n] = other_way
        n += 1
    return n


def crossing_places(pa: np.ndarray, ca: np.ndarray, pb: np.ndarray, cb: np.ndarray) -> np.ndarray:
    """Where middles cross, in order along a: rows (k, 5) of x, y, chord on a, on b, and 0."""
    found = np.zeros((len(pa) + len(pb), 5))
    n = 0
    for i in range(len(pa) - 1):
        rx, ry = pa[i + 1, 0] - pa[i, 0], pa[i + 1, 1] - pa[i, 1]
        x0, x1 = min(pa[i, 0], pa[i + 1, 0]), max(pa[i, 0], pa[i + 1, 0])
        y0, y1 = min(pa[i, 1], pa[i + 1, 1]), max(pa[i, 1], pa[i + 1, 1])
        for j in range(len(pb) - 1):
            if (pb[j, 0] > x1 and pb[j + 1, 0] > x1) or (pb[j, 0] < x0 and pb[j + 1, 0] < x0):
                continue
            if (pb[j, 1] > y1 and pb[j + 1, 1] > y1) or (pb[j, 1] < y0 and pb[j + 1, 1] < y0):
                continue
            sx, sy = pb[j + 1, 0] - pb[j, 0], pb[j + 1, 1] - pb[j, 1]
            det = rx * sy - ry * sx
            if det == 0.0:
                continue
            qx, qy = pb[j, 0] - pa[i, 0], pb[j, 1] - pa[i, 1]
            u, v = (qx * sy - qy * sx) / det, (qx * ry - qy * rx) / det
            if 0.0 <= u <= 1.0 and 0.0 <= v <= 1.0 and n < len(found):
                chord = ca[i] + u * (ca[i + 1] - ca[i])
                # Through a vertex two lines cross once.
                if n == 0 or abs(chord - found[n - 1, 2]) > 1e-9:
                    found[n, 0], found[n, 1] = pa[i, 0] + u * rx, pa[i, 1] + u * ry
                    found[n, 2], found[n, 3] = chord, cb[j] + v * (cb[j + 1] - cb[j])
                    n += 1
    return found[:n][np.argsort(found[:n, 2])]


def at_chord(p: np.ndarray, chords: np.ndarray, chord: float, out: np.ndarray) -> None:
    """The place at a chord of a line, located: 0, chord, x, y into out (4,)."""
    k = min(max(int(np.searchsorted(chords, chord, side="right")) - 1, 0), len(p) - 2)
    gap = chords[k + 1] - chords[k]
    share = min(max((chord - chords[k]) / gap, 0.0), 1.0) if gap > 0.0 else 0.0
    out[0], out[1] = 0.0, chord
    out[2], out[3] = p[k, 0] + share * (p[k + 1, 0] - p[k, 0]), p[k, 1] + share * (p[k + 1, 1] - p[k, 1])


def wide(chords: np.ndarray, left: np.ndarray, right: np.ndarray, chord: float) -> float:
    """Twin of `Strand.wide` for one place."""
    k = min(max(int(np.searchsorted(chords, chord, side="right")) - 1, 0), len(chords) - 2)
    gap = chords[k + 1] - chords[k]
    share = min(max((chord - chords[k]) / gap, 0.0), 1.0) if gap > 0.0 else 0.0
    return float(max(left[k] + share * (left[k + 1] - left[k]), right[k] + share * (right[k + 1] - right[k])))


def nearest_chord(
    pa: np.ndarray, ca: np.ndarray, pb: np.ndarray, cb: np.ndarray, low: float, high: float, samples: int,
    here: np.ndarray, there: np.ndarray,
) -> float:  # fmt: skip
    """Where between two places of the first line the second is nearest, mm along its chords; here, there: room."""
    nearest, chord = 1e300, 0.0
    for j in range(samples):
        at_chord(pa, ca, low + (high - low) * j / (samples - 1), here)
        locate(pb, cb, here[2], here[3], there)
        if there[0] < nearest:
            nearest, chord = there[0], here[1]
    return chord


def touching(
    pa: np.ndarray, ca: np.ndarray, la: np.ndarray, ra: np.ndarray, pb: np.ndarray, cb: np.ndarray, lb: np.ndarray,
    rb: np.ndarray, closed: np.ndarray, settings: np.ndarray,
) -> np.ndarray:  # fmt: skip
    """Twin of `contacts_between`: rows (k, 8) of kind, x, y, chord on the first, on the second, gap, angle, and 1 where
    b is the first. closed: of a and b; settings: look-out, joined, cosine of a run-on, step, clear."""
    widest_a, widest_b = max(la.max(), ra.max()), max(lb.max(), rb.max())
    samples = max(2, int(ca[len(ca) - 1] / settings[3]) + 1)
    crossings = crossing_places(pa, ca, pb, cb)
    rows = np.zeros((8 + len(crossings) + samples, 8))
    n = 0
    if not closed[0]:
        n = end_notes(pa, ca, la, ra, pb, cb, lb, rb, closed[1], False, widest_b, settings, crossings, rows, n)
    if not closed[1]:
        first = n
        n = end_notes(pb, cb, lb, rb, pa, ca, la, ra, closed[0], True, widest_a, settings, crossings, rows, n)
        rows[first:n, 7] = 1.0
    here, there = np.empty(4), np.empty(4)
    for c in range(len(crossings)):
        clear = crossings[c, 4] == 0.0
        here[1], here[2], here[3] = crossings[c, 2], crossings[c, 0], crossings[c, 1]
        for k in range(n):
            away = math.sqrt((rows[k, 1] - here[2]) ** 2 + (rows[k, 2] - here[3]) ** 2)
            clear = clear and (rows[k, 5] > 0.0 or away > settings[1] + widest_a + widest_b)
        if clear:
            there[1], there[2], there[3] = crossings[c, 3], here[2], here[3]
            note(pa, ca, la, ra, pb, cb, lb, rb, CROSSING, here, there, rows[n])
            n += 1
    taken, gap = n, 0.0
    best, best_at, inside = 1e300, 0, False
    clear_at = np.ones(samples + 2, np.int64)
    last = ca[len(ca) - 1]
    for k in range(samples + 1):
        near = False
        if k < samples:
            at_chord(pa, ca, last * k / (samples - 1), here)
            locate(pb, cb, here[2], here[3], there)
            gap = there[0] - wide(ca, la, ra, here[1]) - wide(cb, lb, rb, there[1])
            for i in range(taken):
                far = math.sqrt((rows[i, 1] - here[2]) ** 2 + (rows[i, 2] - here[3]) ** 2) > settings[4]
                if not far and gap + settings[5] >= rows[i, 5]:
                    clear_at[k + 1] = 0
            near = gap <= settings[0] and clear_at[k + 1] == 1
        if near:
            inside = True
            if gap < best:
                best, best_at = gap, k
        elif inside:
            # Lines that come nearer towards what is told already belong to it.
            if clear_at[best_at] == 1 and clear_at[best_at + 2] == 1:
                first, step = max(best_at - 1, 0), last / (samples - 1)
                until, finer = min(best_at + 1, samples - 1), int(settings[6])
                at_chord(pa, ca, nearest_chord(pa, ca, pb, cb, step * first, step * until, finer, here, there), here)
                locate(pb, cb, here[2], here[3], there)
                note(pa, ca, la, ra, pb, cb, lb, rb, BESIDE, here, there, rows[n])
                n += 1
            best, inside = 1e300, False
    return rows[:n]
