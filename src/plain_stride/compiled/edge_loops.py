"""Loops over the discs of a line, to be compiled: the rings whose union is its edge. Twins of `lines.outline`."""

import math

import numpy as np


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


def cap(out: np.ndarray, at: int, centre: np.ndarray, ends: np.ndarray, way: float, step: float) -> int:
    """Twin of `lines.outline._cap`: the arc round centre from ends[0] to ends[1] through the direction `way` (rad),
    both ends left out; step: rad at most."""
    ax, ay, bx, by = ends[0, 0] - centre[0], ends[0, 1] - centre[1], ends[1, 0] - centre[0], ends[1, 1] - centre[1]
    radius = math.sqrt(ax * ax + ay * ay)
    if radius < 1e-9:
        return at
    first = math.atan2(ay, ax)
    to_way, to_end = (way - first) % (2.0 * math.pi), (math.atan2(by, bx) - first) % (2.0 * math.pi)
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
    way, lean = math.atan2(dy, dx), math.acos((r[0] - r[1]) / long)
    for k in range(2):
        first = way + lean if k == 0 else way - lean
        last = way + 2.0 * math.pi - lean if k == 0 else way + lean
        n = 2 + int(disc_corners(r[k], within) * abs(last - first) / (2.0 * math.pi))
        at = arc(out, at, m[k], r[k], first, last, n)
    return at


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
    for k in range(n):
        ahead = r[k] - math.sqrt((m[k, 0] - m[0, 0]) ** 2 + (m[k, 1] - m[0, 1]) ** 2)
        behind = r[k] - math.sqrt((m[k, 0] - m[n - 1, 0]) ** 2 + (m[k, 1] - m[n - 1, 1]) ** 2)
        if ahead > most_ahead:
            first, most_ahead = k, ahead
        if behind > most_behind:
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
    how far within hulls lie, most step of a round.
    """
    n = len(turn)
    chunk, within, step = settings[0], settings[1], settings[2]
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
        if k < n and close[k]:
            at = hull(out, at, m[k : k + 2], r[k : k + 2], within)
            rings += 1
            starts[rings] = at
            start, turned = k + 1, 0.0
        elif k < n:
            turned += abs(turn[k])
    return out[:at], starts[: rings + 1]
