"""Loops over the discs of a line, to be compiled: the rings whose union is its edge. Twins of `lines.outline`."""

import math

import numpy as np

HIDDEN = 3.0
"""Radii along the line within which a disc may hide its end; see `lines.outline`."""


def disc_corners(radius: float, off: float) -> int:
    """Twin of `lines.outline._disc_corners`."""
    return min(max(math.ceil(math.pi / math.sqrt(2.0 * off / max(radius, 1e-4))), 24), 720)


def arc(out: np.ndarray, at: int, centre: np.ndarray, radius: float, first: float, last: float, n: int) -> int:
    """n points of an arc, both ends with it, from row `at` on; gives the row after them."""
    for k in range(n):
        angle = first + (last - first) * (k / (n - 1))
        out[at, 0] = centre[0] + radius * math.cos(angle)
        out[at, 1] = centre[1] + radius * math.sin(angle)
        at += 1
    return at


def cap(out: np.ndarray, at: int, centre: np.ndarray, ends: np.ndarray, tangent: float, step: float) -> int:
    """Twin of `lines.outline._cap`: the arc round centre from ends[0] to ends[1] through the direction `way` (rad),
    both ends left out; step: rad at most."""
    ax, ay, bx, by = ends[0, 0] - centre[0], ends[0, 1] - centre[1], ends[1, 0] - centre[0], ends[1, 1] - centre[1]
    radius = math.sqrt(ax * ax + ay * ay)
    if radius < 1e-9:
        return at
    first = math.atan2(ay, ax)
    to_way, to_end = (tangent - first) % (2.0 * math.pi), (math.atan2(by, bx) - first) % (2.0 * math.pi)
    sweep = to_end if to_way <= to_end else to_end - 2.0 * math.pi
    n = max(3, math.ceil(abs(sweep) / min(step, 2.0 * math.sqrt(0.0008 / radius))))
    for k in range(1, n):
        angle = first + sweep * (k / n)
        out[at, 0], out[at, 1] = centre[0] + radius * math.cos(angle), centre[1] + radius * math.sin(angle)
        at += 1
    return at


def hull(out: np.ndarray, at: int, m: np.ndarray, r: np.ndarray, within: float) -> int:
    """Twin of `lines.outline._hull` for two discs m (2, 2), r (2,)."""
    dx, dy = m[1, 0] - m[0, 0], m[1, 1] - m[0, 1]
    long = math.sqrt(dx * dx + dy * dy)
    if long <= abs(r[0] - r[1]) + 1e-12:
        k = 0 if r[0] > r[1] else 1
        n = disc_corners(r[k], within)
        return arc(out, at, m[k], r[k], 0.0, 2.0 * math.pi * (n - 1) / n, n)
    heading, lean = math.atan2(dy, dx), math.acos((r[0] - r[1]) / long)
    for k in range(2):
        first = heading + lean if k == 0 else heading - lean
        last = heading + 2.0 * math.pi - lean if k == 0 else heading + lean
        n = 2 + int(disc_corners(r[k], within) * abs(last - first) / (2.0 * math.pi))
        at = arc(out, at, m[k], r[k], first, last, n)
    return at


def round_hull(out: np.ndarray, at: int, m: np.ndarray, r: np.ndarray, within: float) -> int:
    """Twin of `lines.outline._round_hull` for discs m (n, 2), r (n,)."""
    n = disc_corners(r.max(), within)
    for k in range(n):
        x, y = math.cos(2.0 * math.pi * k / n), math.sin(2.0 * math.pi * k / n)
        far, best = -1e300, 0
        for i in range(len(r)):
            reach = m[i, 0] * x + m[i, 1] * y + r[i]
            if reach > far:
                far, best = reach, i
        out[at, 0], out[at, 1] = m[best, 0] + r[best] * x, m[best, 1] + r[best] * y
        at += 1
    return at


def huddle(m: np.ndarray, r: np.ndarray, close: np.ndarray, k: int, notch: float) -> int:
    """Twin of `lines.outline._huddle`."""
    j, thin = k + 1, min(r[k], r[k + 1])
    while j < len(close) and close[j]:
        thin = min(thin, r[j + 1])
        for i in range(k, j + 1):
            if (m[j + 1, 0] - m[i, 0]) ** 2 + (m[j + 1, 1] - m[i, 1]) ** 2 > 8.0 * thin * notch:
                return j
        j += 1
    return j


def sides(m: np.ndarray, r: np.ndarray, t: np.ndarray) -> np.ndarray:
    """Twin of `lines.outline._sides`: (n, 4), left x, y and right x, y of the envelope."""
    n = len(r)
    out = np.empty((n, 4))
    before = 0.0
    for k in range(n):
        i = min(k, n - 2)
        dx, dy = m[i + 1, 0] - m[i, 0], m[i + 1, 1] - m[i, 1]
        step = max(math.sqrt(dx * dx + dy * dy), 1e-12)
        slope = (r[i + 1] - r[i]) / step
        if 0 < k < n - 1:
            px, py = m[k, 0] - m[k - 1, 0], m[k, 1] - m[k - 1, 1]
            last = max(math.sqrt(px * px + py * py), 1e-12)
            slope, before = (before * step + slope * last) / (last + step), slope
        else:
            before = slope
        slope = min(max(slope, -1.0), 1.0)
        back, side = -slope * r[k], math.sqrt(1.0 - slope * slope) * r[k]
        out[k, 0], out[k, 1] = m[k, 0] + t[k, 0] * back + t[k, 1] * side, m[k, 1] + t[k, 1] * back - t[k, 0] * side
        out[k, 2], out[k, 3] = m[k, 0] + t[k, 0] * back - t[k, 1] * side, m[k, 1] + t[k, 1] * back + t[k, 0] * side
    return out


def shown(m: np.ndarray, r: np.ndarray) -> tuple[int, int]:
    """Twin of `lines.outline._shown`."""
    n = len(r)
    first, last, most_ahead, most_behind = 0, n - 1, r[0] + 1e-12, r[n - 1] + 1e-12
    way = np.zeros(n)
    for k in range(1, n):
        way[k] = way[k - 1] + math.sqrt((m[k, 0] - m[k - 1, 0]) ** 2 + (m[k, 1] - m[k - 1, 1]) ** 2)
    for k in range(n):
        ahead = r[k] - math.sqrt((m[k, 0] - m[0, 0]) ** 2 + (m[k, 1] - m[0, 1]) ** 2)
        behind = r[k] - math.sqrt((m[k, 0] - m[n - 1, 0]) ** 2 + (m[k, 1] - m[n - 1, 1]) ** 2)
        if way[k] <= HIDDEN * r[k] and ahead > most_ahead:
            first, most_ahead = k, ahead
        if way[n - 1] - way[k] <= HIDDEN * r[k] and behind > most_behind:
            last, most_behind = k, behind
    return (first, last) if first < last else (0, n - 1)


def tight(m: np.ndarray, r: np.ndarray, t: np.ndarray, turn: np.ndarray) -> np.ndarray:
    """Twin of `lines.outline._tight`."""
    n = len(turn)
    side = sides(m, r, t)
    first, last = shown(m, r)
    out = np.zeros(n, np.bool_)
    for k in range(n):
        wx, wy = t[k, 0] + t[k + 1, 0], t[k, 1] + t[k + 1, 1]
        left = (side[k + 1, 0] - side[k, 0]) * wx + (side[k + 1, 1] - side[k, 1]) * wy
        right = (side[k + 1, 2] - side[k, 2]) * wx + (side[k + 1, 3] - side[k, 3]) * wy
        out[k] = (first <= k < last and min(left, right) < -1e-9) or abs(turn[k]) > 0.35
    return out


def strip_ring(
    out: np.ndarray, at: int, m: np.ndarray, r: np.ndarray, t: np.ndarray, flat0: bool, flat1: bool, step: float
) -> int:
    """Twin of `lines.outline._strip` for the discs given: left edge there, end, right edge back, start."""
    side = sides(m, r, t)
    first, last = shown(m, r)
    for k, cut in ((first, flat0), (last, flat1)):
        if cut:
            nx, ny = t[k, 1] * r[k], -t[k, 0] * r[k]
            side[k, 0], side[k, 1], side[k, 2], side[k, 3] = m[k, 0] + nx, m[k, 1] + ny, m[k, 0] - nx, m[k, 1] - ny
    begin = at
    ends = np.empty((2, 2))
    for k in range(first, last + 1):
        out[at, 0], out[at, 1] = side[k, 0], side[k, 1]
        at += 1
    if not flat1:
        ends[0], ends[1] = side[last, :2], side[last, 2:]
        at = cap(out, at, m[last], ends, math.atan2(t[last, 1], t[last, 0]), step)
    for k in range(last, first - 1, -1):
        out[at, 0], out[at, 1] = side[k, 2], side[k, 3]
        at += 1
    if not flat0:
        ends[0], ends[1] = side[first, 2:], side[first, :2]
        at = cap(out, at, m[first], ends, math.atan2(-t[first, 1], -t[first, 0]), step)
    # Points on top of the one before them are left out.
    kept, px, py = begin, out[at - 1, 0], out[at - 1, 1]
    for k in range(begin, at):
        x, y = out[k, 0], out[k, 1]
        if math.sqrt((x - px) ** 2 + (y - py) ** 2) > 1e-7:
            out[kept, 0], out[kept, 1] = x, y
            kept += 1
        px, py = x, y
    return kept


def stretches(
    m: np.ndarray,
    r: np.ndarray,
    t: np.ndarray,
    turn: np.ndarray,
    close: np.ndarray,
    ends: np.ndarray,
    settings: np.ndarray,
) -> tuple[np.ndarray, np.ndarray]:
    """Twin of `lines.outline._stretches`: (points, where each ring begins and the last one ends).

    close: where the line is tight; ends: whether its start and its end are cut flat; settings: most turn of a chunk,
    how far within hulls lie, most step of a round, how deep a notch a hull may fill.
    """
    n = len(turn)
    chunk, within, step, notch = settings[0], settings[1], settings[2], settings[3]
    most = 2 * disc_corners(r.max(), min(within, 0.0004)) + 8
    room, hulls, chunks, turned = 2 * (n + 2), 0, 2, 0.0
    for k in range(n):
        hulls += close[k]
        turned += abs(turn[k])
        if turned > chunk or close[k]:
            chunks += 1
            turned = 0.0
    out = np.empty((room + 2 * chunks + (hulls + 2 * chunks + 2) * most, 2))
    starts = np.zeros(hulls + 2 * chunks + 3, np.int64)
    rings, at, start, turned = 0, 0, 0, 0.0
    for k in range(n + 1):
        cut = k == n or close[k] or turned + abs(turn[k]) > chunk
        if cut and k > start:
            flat0, flat1 = ends[0] and start == 0, ends[1] and k == n
            at = strip_ring(out, at, m[start : k + 1], r[start : k + 1], t[start : k + 1], flat0, flat1, step)
            rings += 1
            starts[rings] = at
            start, turned = k, 0.0
        if start <= k < n and close[k]:
            last = huddle(m, r, close, k, notch)
            if last == k + 1:
                at = hull(out, at, m[k : k + 2], r[k : k + 2], within)
            else:
                at = round_hull(out, at, m[k : last + 1], r[k : last + 1], within)
            rings += 1
            starts[rings] = at
            start, turned = last, 0.0
        elif start <= k < n:
            turned += abs(turn[k])
    return out[:at], starts[: rings + 1]


def sleeve(s: np.ndarray, left: np.ndarray, right: np.ndarray, off: float) -> np.ndarray:
    """Twin of `lines.profile.sleeve`: indices of knots between which the straights pass all others within `off`."""
    n = len(s)
    keep = np.empty(n, np.int64)
    keep[0] = 0
    count, a = 1, 0
    low0, high0, low1, high1 = -1e300, 1e300, -1e300, 1e300
    i = 1
    while i < n:
        run = s[i] - s[a]
        fits = run <= 1e-12
        if not fits:
            slope0, slope1 = (left[i] - left[a]) / run, (right[i] - right[a]) / run
            fits = low0 <= slope0 <= high0 and low1 <= slope1 <= high1
        if fits:
            if run > 1e-12:
                give = off / run
                low0, high0 = max(low0, slope0 - give), min(high0, slope0 + give)
                low1, high1 = max(low1, slope1 - give), min(high1, slope1 + give)
            i += 1
        else:
            a = i - 1
            keep[count] = a
            count += 1
            low0, high0, low1, high1 = -1e300, 1e300, -1e300, 1e300
    if keep[count - 1] != n - 1:
        keep[count] = n - 1
        count += 1
    return keep[:count]


def tangent(curve: np.ndarray, k: int, u: float, out: np.ndarray) -> None:
    """Twin of `lines.curve.direction` for one place: the unit tangent into out (2,)."""
    for attempt in range(2):
        w = u
        if attempt:
            w = u + 1e-4 if u < 0.5 else u - 1e-4
        v = 1.0 - w
        for a in range(2):
            d0, d1 = curve[k, 1, a] - curve[k, 0, a], curve[k, 2, a] - curve[k, 1, a]
            d2 = curve[k, 3, a] - curve[k, 2, a]
            out[a] = 3 * (v * v * d0 + 2 * v * w * d1 + w * w * d2)
        size = math.sqrt(out[0] * out[0] + out[1] * out[1])
        if size >= (1e-12 if attempt else 1e-9):
            out /= size
            return
    out[:] = curve[k, 3] - curve[k, 0]
    size = math.sqrt(out[0] * out[0] + out[1] * out[1])
    if size < 1e-12:
        out[0], out[1] = 1.0, 0.0
    else:
        out /= size


def place(curve: np.ndarray, k: int, u: float, out: np.ndarray) -> None:
    """Twin of `lines.curve.point` for one place: into out (2,)."""
    v = 1.0 - u
    b0, b1, b2, b3 = v * v * v, 3 * v * v * u, 3 * v * u * u, u * u * u
    for a in range(2):
        out[a] = b0 * curve[k, 0, a] + b1 * curve[k, 1, a] + b2 * curve[k, 2, a] + b3 * curve[k, 3, a]


def chord_length(curve: np.ndarray, k: int, steps: int, at: np.ndarray, b: np.ndarray) -> float:
    """mm along the chords of a piece in so many steps; at, b: room for two places."""
    place(curve, k, 0.0, at)
    chord = 0.0
    for i in range(steps):
        place(curve, k, (i + 1) / steps, b)
        chord += math.sqrt((b[0] - at[0]) ** 2 + (b[1] - at[1]) ** 2)
        at[:] = b
    return chord


def discs(
    curve: np.ndarray, joints: np.ndarray, counts: np.ndarray, s: np.ndarray, left: np.ndarray, right: np.ndarray
) -> np.ndarray:
    """Twin of `lines.outline._discs`: (n, 5) middle, radius and unit tangent of the discs along a line.

    joints: arc lengths (m + 1,) where pieces meet; counts: steps (m,) in each piece; s, left, right: the half-widths.
    """
    m, knots = len(curve), len(s)
    most = counts.sum() + 1 + knots + m
    out = np.empty((most, 5))
    at, b, d, before = np.empty(2), np.empty(2), np.empty(2), np.empty(2)
    n, knot, seg = 0, 1, 0
    for k in range(m):
        steps = counts[k]
        scale = (joints[k + 1] - joints[k]) / max(chord_length(curve, k, steps, at, b), 1e-12)
        place(curve, k, 0.0, at)
        here = joints[k]
        for i in range(steps + 1):
            if i == steps and k < m - 1:
                break
            u = i / steps
            if i == steps:
                here = joints[k + 1]
            tangent(curve, k, u, d)
            place(curve, k, u, at)
            while seg < knots - 2 and s[seg + 1] < here:
                seg += 1
            gap = s[seg + 1] - s[seg]
            share = min(max((here - s[seg]) / gap, 0.0), 1.0) if gap > 0.0 else 0.0
            a0 = left[seg] + share * (left[seg + 1] - left[seg])
            a1 = right[seg] + share * (right[seg + 1] - right[seg])
            if i == 0 and k > 0:
                tangent(curve, k - 1, 1.0, before)
                if before[0] * d[0] + before[1] * d[1] < 0.9995:
                    out[n, 0] = at[0] + before[1] * (a0 - a1) / 2.0
                    out[n, 1] = at[1] - before[0] * (a0 - a1) / 2.0
                    out[n, 2], out[n, 3], out[n, 4] = (a0 + a1) / 2.0, before[0], before[1]
                    n += 1
            out[n, 0], out[n, 1] = at[0] + d[1] * (a0 - a1) / 2.0, at[1] - d[0] * (a0 - a1) / 2.0
            out[n, 2], out[n, 3], out[n, 4] = (a0 + a1) / 2.0, d[0], d[1]
            n += 1
            if i == steps:
                break
            place(curve, k, (i + 1) / steps, b)
            after = here + math.sqrt((b[0] - at[0]) ** 2 + (b[1] - at[1]) ** 2) * scale
            while knot < knots - 1 and s[knot] < after:
                share = (s[knot] - here) / max(after - here, 1e-12)
                if 0.02 < share < 0.98:
                    place(curve, k, u + share / steps, b)
                    tangent(curve, k, u + share / steps, d)
                    a0, a1 = left[knot], right[knot]
                    out[n, 0], out[n, 1] = b[0] + d[1] * (a0 - a1) / 2.0, b[1] - d[0] * (a0 - a1) / 2.0
                    out[n, 2], out[n, 3], out[n, 4] = (a0 + a1) / 2.0, d[0], d[1]
                    n += 1
                knot += 1
            here = after
    return out[:n]


def disc_steps(curve: np.ndarray, flat: float, most: float, reach: float) -> np.ndarray:
    """Twin of `lines.outline._counts`: steps in each piece. flat: mm that chords may lie off; most: rad a step."""
    m = len(curve)
    out = np.empty(m, np.int64)
    legs = np.empty((5, 2))
    step = min(most, 2.0 * math.sqrt(2.0 * flat / max(reach, 0.02)))
    for k in range(m):
        tangent(curve, k, 0.0, legs[0])
        tangent(curve, k, 1.0, legs[4])
        long, second = 0.0, 0.0
        for j in range(3):
            x, y = curve[k, j + 1, 0] - curve[k, j, 0], curve[k, j + 1, 1] - curve[k, j, 1]
            size = max(math.sqrt(x * x + y * y), 1e-12)
            long += size
            legs[1 + j, 0], legs[1 + j, 1] = x / size, y / size
            if j < 2:
                x = curve[k, j, 0] - 2 * curve[k, j + 1, 0] + curve[k, j + 2, 0]
                y = curve[k, j, 1] - 2 * curve[k, j + 1, 1] + curve[k, j + 2, 1]
                second = max(second, math.sqrt(x * x + y * y))
        turn = 0.0
        for j in range(4):
            dot = legs[j, 0] * legs[j + 1, 0] + legs[j, 1] * legs[j + 1, 1]
            turn += math.acos(min(max(dot, -1.0), 1.0))
        by_bend = max(1, math.ceil(math.sqrt(0.75 * second / flat)))
        out[k] = max(by_bend, math.ceil(turn / step), math.ceil(long / 2.0), 2)
    return out


def discs_along(
    curve: np.ndarray, joints: np.ndarray, s: np.ndarray, left: np.ndarray, right: np.ndarray, settings: np.ndarray
) -> np.ndarray:
    """Twin of `lines.outline.discs_along`: see `discs`. settings: mm that chords may lie off, mm that widths may, most
    rad of a step, the widest half-width."""
    keep = sleeve(s, left, right, settings[1])
    counts = disc_steps(curve, settings[0], settings[2], settings[3])
    return discs(curve, joints, counts, s[keep], left[keep], right[keep])
