"""Loops over lines, to be compiled: each is the twin of a NumPy function elsewhere and gives the same numbers.

Plain Python, so that they can be read and tested; `ready` compiles them. Shapes and units are those of the twins.
"""

import math

import numpy as np

NEAR = 6
LOOKS = 3
"""How often the longest piece that fits is looked for more closely."""


def nearer(curve: np.ndarray, q: np.ndarray, u: np.ndarray) -> np.ndarray:
    """Twin of `lines.curve.nearer`."""
    rows, n = u.shape
    out = np.empty((rows, n))
    for r in range(rows):
        c = curve[r]
        highest = 0.0
        for k in range(n):
            w = u[r, k]
            v = 1.0 - w
            slope = pull = 0.0
            for a in range(2):
                d0, d1, d2 = 3 * (c[1, a] - c[0, a]), 3 * (c[2, a] - c[1, a]), 3 * (c[3, a] - c[2, a])
                on = v * v * v * c[0, a] + 3 * v * v * w * c[1, a] + 3 * v * w * w * c[2, a] + w * w * w * c[3, a]
                first = v * v * d0 + 2 * v * w * d1 + w * w * d2
                second = v * 2 * (d1 - d0) + w * 2 * (d2 - d1)
                gap = on - q[r, k, a]
                slope += first * first + gap * second
                pull += gap * first
            new = w - pull / slope if slope > 1e-12 else w
            new = min(max(new, 0.0), 1.0)
            if k == 0:
                new = 0.0
            elif k == n - 1:
                new = 1.0
            highest = max(highest, new)
            out[r, k] = highest
    return out


def handles(q: np.ndarray, u: np.ndarray, t0: np.ndarray, t1: np.ndarray, long: np.ndarray) -> np.ndarray:
    """Twin of `lines.fit._handles`: least squares in the two handle lengths of each piece."""
    rows, n = u.shape
    out = np.empty((rows, 4, 2))
    for r in range(rows):
        a11 = a12 = a22 = y1 = y2 = 0.0
        for k in range(n):
            w = u[r, k]
            v = 1.0 - w
            b0, b1, b2, b3 = v * v * v, 3 * v * v * w, 3 * v * w * w, w * w * w
            r0 = r1 = 0.0
            for a in range(2):
                rest = q[r, k, a] - (b0 + b1) * q[r, 0, a] - (b2 + b3) * q[r, n - 1, a]
                r0 += rest * t0[a]
                r1 -= rest * t1[r, a]
            a11 += b1 * b1
            a22 += b2 * b2
            a12 -= b1 * b2
            y1 += b1 * r0
            y2 += b2 * r1
        a12 *= t1[r, 0] * t0[0] + t1[r, 1] * t0[1]
        det = a11 * a22 - a12 * a12
        alpha = beta = long[r] / 3.0
        if abs(det) >= 1e-12:
            first, second = (y1 * a22 - y2 * a12) / det, (y2 * a11 - y1 * a12) / det
            least, most = 0.02 * long[r], long[r]
            if least <= first <= most and least <= second <= most:
                alpha, beta = first, second
        for a in range(2):
            out[r, 0, a] = q[r, 0, a]
            out[r, 1, a] = q[r, 0, a] + alpha * t0[a]
            out[r, 2, a] = q[r, n - 1, a] - beta * t1[r, a]
            out[r, 3, a] = q[r, n - 1, a]
    return out


def apart(curve: np.ndarray, q: np.ndarray, u: np.ndarray) -> np.ndarray:
    """Largest distance (rows,) of q (rows, n, 2) from their pieces at parameters u."""
    rows, n = u.shape
    out = np.zeros(rows)
    for r in range(rows):
        c = curve[r]
        for k in range(n):
            w = u[r, k]
            v = 1.0 - w
            b0, b1, b2, b3 = v * v * v, 3 * v * v * w, 3 * v * w * w, w * w * w
            x = b0 * c[0, 0] + b1 * c[1, 0] + b2 * c[2, 0] + b3 * c[3, 0] - q[r, k, 0]
            y = b0 * c[0, 1] + b1 * c[1, 1] + b2 * c[2, 1] + b3 * c[3, 1] - q[r, k, 1]
            out[r] = max(out[r], math.sqrt(x * x + y * y))
    return out


def farthest(curve: np.ndarray, joints: np.ndarray, points: np.ndarray, steps: int) -> np.ndarray:
    """Twin of `lines.refine.farthest`: distance of points from their piece read as `steps` straights."""
    m = len(curve)
    out = np.zeros(m)
    flat = np.empty((steps + 1, 2))
    for r in range(m):
        c = curve[r]
        for k in range(steps + 1):
            w = k / steps
            v = 1.0 - w
            b0, b1, b2, b3 = v * v * v, 3 * v * v * w, 3 * v * w * w, w * w * w
            for a in range(2):
                flat[k, a] = b0 * c[0, a] + b1 * c[1, a] + b2 * c[2, a] + b3 * c[3, a]
        # Points come in order along their piece: only straights near the last one's, and near their share of the
        # way, are looked at. Where that misses a nearer one, the distance is told too large, never too small.
        many = max(1, joints[r + 1] - joints[r])
        last, near = 0, NEAR + 2 * steps // many
        for i in range(joints[r], joints[r + 1] + 1):
            best, nearest = 1e300, last
            about = steps * (i - joints[r]) // many
            for k in range(max(0, min(last, about) - near), min(steps, max(last, about) + near)):
                dx, dy = flat[k + 1, 0] - flat[k, 0], flat[k + 1, 1] - flat[k, 1]
                px, py = points[i, 0] - flat[k, 0], points[i, 1] - flat[k, 1]
                long = dx * dx + dy * dy
                share = min(max((px * dx + py * dy) / long, 0.0), 1.0) if long > 0.0 else 0.0
                x, y = px - share * dx, py - share * dy
                d = x * x + y * y
                if d < best:
                    best, nearest = d, k
            last = nearest
            out[r] = max(out[r], math.sqrt(best))
    return out


def arc_table(curve: np.ndarray, gauss_x: np.ndarray, gauss_w: np.ndarray, sub: int) -> np.ndarray:
    """Arc length (m * sub + 1,) at every sub-interval of every piece, as `lines.curve.Arc` keeps it."""
    m = len(curve)
    out = np.zeros(m * sub + 1)
    half = 0.5 / sub
    for k in range(m):
        c = curve[k]
        for i in range(sub):
            total = 0.0
            for g in range(len(gauss_x)):
                w = (i + 0.5) / sub + half * gauss_x[g]
                v = 1.0 - w
                x = 3 * (v * v * (c[1, 0] - c[0, 0]) + 2 * v * w * (c[2, 0] - c[1, 0]) + w * w * (c[3, 0] - c[2, 0]))
                y = 3 * (v * v * (c[1, 1] - c[0, 1]) + 2 * v * w * (c[2, 1] - c[1, 1]) + w * w * (c[3, 1] - c[2, 1]))
                total += math.sqrt(x * x + y * y) * gauss_w[g]
            out[k * sub + i + 1] = out[k * sub + i] + total * half
    return out


def speed_at(c: np.ndarray, w: float) -> tuple[float, float]:
    """The derivative (x, y) of one piece (4, 2) at a parameter."""
    v = 1.0 - w
    x = 3 * (v * v * (c[1, 0] - c[0, 0]) + 2 * v * w * (c[2, 0] - c[1, 0]) + w * w * (c[3, 0] - c[2, 0]))
    y = 3 * (v * v * (c[1, 1] - c[0, 1]) + 2 * v * w * (c[2, 1] - c[1, 1]) + w * w * (c[3, 1] - c[2, 1]))
    return x, y


def length_between(c: np.ndarray, start: float, end: float, gauss_x: np.ndarray, gauss_w: np.ndarray) -> float:
    """Arc length of one piece (4, 2) from one parameter to another."""
    half, total = (end - start) / 2.0, 0.0
    for g in range(len(gauss_x)):
        x, y = speed_at(c, start + half * (1.0 + gauss_x[g]))
        total += math.sqrt(x * x + y * y) * gauss_w[g]
    return total * half


def located(
    curve: np.ndarray, table: np.ndarray, s: np.ndarray, gauss_x: np.ndarray, gauss_w: np.ndarray, sub: int
) -> np.ndarray:
    """(piece, u) (n, 2) at arc lengths s (n,), as `lines.curve.Arc.locate`. table: its arc lengths."""
    out = np.zeros((len(s), 2))
    last = len(table) - 2
    for i in range(len(s)):
        at = min(max(s[i], 0.0), table[-1])
        cell = min(max(np.searchsorted(table, at, side="right") - 1, 0), last)
        k, start = cell // sub, (cell % sub) / sub
        rest = at - table[cell]
        u = start + rest / max(table[cell + 1] - table[cell], 1e-15) / sub
        for _ in range(2):
            x, y = speed_at(curve[k], u)
            away = length_between(curve[k], start, u, gauss_x, gauss_w) - rest
            u = min(max(u - away / max(math.sqrt(x * x + y * y), 1e-9), start), start + 1.0 / sub)
        out[i, 0], out[i, 1] = k, u
    return out


def lengths_at(
    curve: np.ndarray, table: np.ndarray, k: np.ndarray, u: np.ndarray, gauss: np.ndarray, sub: int
) -> np.ndarray:
    """Arc lengths (n,) at parameters u of pieces k, as `lines.curve.Arc.length_at`. gauss (2, g): places, weights."""
    out = np.zeros(len(k))
    for i in range(len(k)):
        cell = min(max(int(u[i] * sub), 0), sub - 1)
        part = length_between(curve[k[i]], cell / sub, u[i], gauss[0], gauss[1])
        out[i] = table[k[i] * sub + cell] + part
    return out


def strip_steps(curve: np.ndarray, joints: np.ndarray, tolerance: float) -> np.ndarray:
    """Steps in each piece of a strip, closer near the ends of the line."""
    m = len(curve)
    counts = np.empty(m, np.int64)
    length = joints[m]
    for k in range(m):
        c = curve[k]
        second = 0.0
        for j in range(2):
            x, y = c[j, 0] - 2 * c[j + 1, 0] + c[j + 2, 0], c[j, 1] - 2 * c[j + 1, 1] + c[j + 2, 1]
            second = max(second, math.sqrt(x * x + y * y))
        near_end = joints[k] < 2.5 or joints[k + 1] > length - 2.5
        step = 0.3 if near_end else 1.0
        counts[k] = max(
            1, math.ceil(math.sqrt(0.75 * second / tolerance)), math.ceil((joints[k + 1] - joints[k]) / step)
        )
    return counts


def strip(
    curve: np.ndarray, joints: np.ndarray, knots: np.ndarray, left: np.ndarray, right: np.ndarray, tolerance: float
) -> np.ndarray:
    """One ring (2 n, 2): the left edge there, the right edge back, straight between close steps.

    joints: arc lengths (m + 1,) where pieces meet; knots: arc lengths of the half-widths left and right.
    """
    m, counts = len(curve), strip_steps(curve, joints, tolerance)
    n = counts.sum() + 1
    ring = np.empty((2 * n, 2))
    at, knot = 0, 0
    for k in range(m):
        c = curve[k]
        last = counts[k] + (1 if k == m - 1 else 0)
        chord = 0.0
        px, py = c[0, 0], c[0, 1]
        for i in range(counts[k] + 1):
            w = i / counts[k]
            v = 1.0 - w
            b0, b1, b2, b3 = v * v * v, 3 * v * v * w, 3 * v * w * w, w * w * w
            x = b0 * c[0, 0] + b1 * c[1, 0] + b2 * c[2, 0] + b3 * c[3, 0]
            y = b0 * c[0, 1] + b1 * c[1, 1] + b2 * c[2, 1] + b3 * c[3, 1]
            chord += math.sqrt((x - px) ** 2 + (y - py) ** 2)
            px, py = x, y
        scale = (joints[k + 1] - joints[k]) / chord if chord > 0.0 else 0.0
        s = joints[k]
        px, py = c[0, 0], c[0, 1]
        for i in range(last):
            w = i / counts[k]
            v = 1.0 - w
            b0, b1, b2, b3 = v * v * v, 3 * v * v * w, 3 * v * w * w, w * w * w
            x = b0 * c[0, 0] + b1 * c[1, 0] + b2 * c[2, 0] + b3 * c[3, 0]
            y = b0 * c[0, 1] + b1 * c[1, 1] + b2 * c[2, 1] + b3 * c[3, 1]
            s += math.sqrt((x - px) ** 2 + (y - py) ** 2) * scale
            px, py = x, y
            dx = v * v * (c[1, 0] - c[0, 0]) + 2 * v * w * (c[2, 0] - c[1, 0]) + w * w * (c[3, 0] - c[2, 0])
            dy = v * v * (c[1, 1] - c[0, 1]) + 2 * v * w * (c[2, 1] - c[1, 1]) + w * w * (c[3, 1] - c[2, 1])
            size = math.sqrt(dx * dx + dy * dy)
            if size < 1e-12:
                dx, dy = c[3, 0] - c[0, 0], c[3, 1] - c[0, 1]
                size = max(math.sqrt(dx * dx + dy * dy), 1e-12)
            while knot < len(knots) - 2 and knots[knot + 1] < s:
                knot += 1
            gap = knots[knot + 1] - knots[knot]
            share = min(max((s - knots[knot]) / gap, 0.0), 1.0) if gap > 0.0 else 0.0
            a = left[knot] + share * (left[knot + 1] - left[knot])
            b = right[knot] + share * (right[knot + 1] - right[knot])
            nx, ny = dy / size, -dx / size
            ring[at, 0], ring[at, 1] = x + nx * a, y + ny * a
            ring[2 * n - 1 - at, 0], ring[2 * n - 1 - at, 1] = x - nx * b, y - ny * b
            at += 1
    return ring


def error_of(
    p: np.ndarray, s: np.ndarray, t: np.ndarray, start: int, end: int, samples: int, rounds: int, piece: np.ndarray
) -> float:
    """Fits `piece` (1, 4, 2) from start to end as `lines.fit._try` does; gives its error at the places sampled."""
    q = np.empty((1, samples, 2))
    u = np.empty((1, samples))
    long = np.full(1, max(s[end] - s[start], 1e-12))
    for k in range(samples):
        at = round(start + (end - start) * (k / (samples - 1)))
        q[0, k] = p[at]
        u[0, k] = (s[at] - s[start]) / long[0]
    for _ in range(rounds):
        piece[:] = handles(q, u, t[start], t[end : end + 1], long)
        u = nearer(piece, q, u)
    return float(apart(piece, q, u)[0])


def error_of_all(p: np.ndarray, s: np.ndarray, start: int, end: int, rounds: int, piece: np.ndarray) -> float:
    """Largest distance of all points from start to end, at about their parameters, from a piece (1, 4, 2)."""
    n = end - start + 1
    q = np.empty((1, n, 2))
    u = np.empty((1, n))
    for k in range(n):
        q[0, k] = p[start + k]
        u[0, k] = (s[start + k] - s[start]) / (s[end] - s[start])
    for _ in range(rounds):
        u = nearer(piece, q, u)
    return float(apart(piece, q, u)[0])


def greedy(
    p: np.ndarray,
    s: np.ndarray,
    t: np.ndarray,
    ladder: np.ndarray,
    tolerance: float,
    longest: float,
    samples: int,
    rounds: int,
) -> tuple[np.ndarray, np.ndarray]:
    """Twin of the loop of `lines.fit.fit_smooth` with `_longest`: (pieces (m, 4, 2), joints (m + 1,))."""
    n = len(p)
    pieces = np.empty((n, 4, 2))
    joints = np.zeros(n + 1, np.int64)
    trial = np.empty((1, 4, 2))
    ends = np.empty(len(ladder), np.int64)
    count, guess = 0, max(4, n // 12)
    while joints[count] < n - 1:
        start = joints[count]
        reach = np.searchsorted(s, s[start] + longest, side="right")
        last = min(n - 1, max(start + 1, reach - 1))
        many = 0
        for share in ladder:
            end = min(max(start + round(guess * share), start + 2), last)
            if many == 0 or end > ends[many - 1]:
                ends[many] = end
                many += 1
        found, best, fail = False, start + 1, last + 1
        for attempt in range(LOOKS):
            for k in range(many - 1, -1, -1):
                end = ends[k]
                if error_of(p, s, t, start, end, samples, rounds, trial) <= tolerance and (
                    end - start <= samples or error_of_all(p, s, start, end, rounds, trial) <= tolerance
                ):
                    found, best = True, end
                    pieces[count] = trial[0]
                    break
            for k in range(many):
                if ends[k] > best:
                    fail = ends[k]
                    break
            if best >= last or fail - best <= 1 or attempt == LOOKS - 1:
                break
            low, high = best + 1, min(fail - 1, last)
            many = 0
            for k in range(6):
                end = round(low + (high - low) * (k / 5.0))
                if end >= start + 2 and (many == 0 or end > ends[many - 1]):
                    ends[many] = end
                    many += 1
        if not found:
            for k in range(4):
                pieces[count, k] = p[start] + (p[best] - p[start]) * (k / 3.0)
        count += 1
        joints[count] = best
        guess = max(3, best - start)
    return pieces[:count], joints[: count + 1]


def cost(curve: np.ndarray, q: np.ndarray, u: np.ndarray, weight: np.ndarray) -> float:
    """Twin of `lines.refine._Target.cost`."""
    rows, n = u.shape
    total = 0.0
    for r in range(rows):
        c, here = curve[r], 0.0
        for k in range(n):
            w = u[r, k]
            v = 1.0 - w
            b0, b1, b2, b3 = v * v * v, 3 * v * v * w, 3 * v * w * w, w * w * w
            x = q[r, k, 0] - (b0 * c[0, 0] + b1 * c[1, 0] + b2 * c[2, 0] + b3 * c[3, 0])
            y = q[r, k, 1] - (b0 * c[0, 1] + b1 * c[1, 1] + b2 * c[2, 1] + b3 * c[3, 1])
            here += x * x + y * y
        total += weight[r, 0] * here
    return total


def equations(
    x: np.ndarray, along: np.ndarray, curve: np.ndarray, q: np.ndarray, u: np.ndarray, weight: np.ndarray
) -> np.ndarray:
    """Twin of `lines.refine._normal_equations`: its upper bands with the load as one row more, the last."""
    rows, n = u.shape
    out = np.zeros((11, 5 * (rows + 1)))
    j = np.zeros(10)
    for r in range(rows):
        c, first, w = curve[r], 5 * r, weight[r, 0]
        for k in range(n):
            b = u[r, k]
            a = 1.0 - b
            b0, b1, b2, b3 = a * a * a, 3 * a * a * b, 3 * a * b * b, b * b * b
            dx = a * a * (c[1, 0] - c[0, 0]) + 2 * a * b * (c[2, 0] - c[1, 0]) + b * b * (c[3, 0] - c[2, 0])
            dy = a * a * (c[1, 1] - c[0, 1]) + 2 * a * b * (c[2, 1] - c[1, 1]) + b * b * (c[3, 1] - c[2, 1])
            size = max(3.0 * math.sqrt(dx * dx + dy * dy), 1e-12)
            nx, ny = -3.0 * dy / size, 3.0 * dx / size
            j[1], j[2] = (b0 + b1) * nx, (b0 + b1) * ny
            j[3] = b1 * x[r, 4] * (along[r, 0] * ny - along[r, 1] * nx)
            j[4] = b1 * (along[r, 0] * nx + along[r, 1] * ny)
            j[5] = -b2 * (along[r + 1, 0] * nx + along[r + 1, 1] * ny)
            j[6], j[7] = (b2 + b3) * nx, (b2 + b3) * ny
            j[8] = -b2 * x[r + 1, 0] * (along[r + 1, 0] * ny - along[r + 1, 1] * nx)
            ox = q[r, k, 0] - (b0 * c[0, 0] + b1 * c[1, 0] + b2 * c[2, 0] + b3 * c[3, 0])
            oy = q[r, k, 1] - (b0 * c[0, 1] + b1 * c[1, 1] + b2 * c[2, 1] + b3 * c[3, 1])
            off = w * (ox * nx + oy * ny)
            for i in range(1, 9):
                out[10, first + i] += j[i] * off
                for m in range(i, 9):
                    out[9 + i - m, first + m] += w * j[i] * j[m]
    return out


def banded_solve(bands: np.ndarray, load: np.ndarray) -> np.ndarray:
    """Solves A x = load for a positive definite A by its upper bands (b, n), last row the diagonal: L D L'. Empty
    where A is not positive."""
    wide, n = bands.shape
    low = np.zeros((n, wide))
    for i in range(n):
        for d in range(wide):
            if i + d < n:
                low[i, d] = bands[wide - 1 - d, i + d]
    out = load.copy()
    for i in range(n):
        pivot = low[i, 0]
        if pivot <= 0.0:
            return np.empty(0)
        for d in range(1, min(wide, n - i)):
            share = low[i, d] / pivot
            for e in range(d, min(wide, n - i)):
                low[i + d, e - d] -= share * low[i, e]
            out[i + d] -= share * out[i]
    for i in range(n - 1, -1, -1):
        total = out[i]
        for d in range(1, min(wide, n - i)):
            total -= low[i, d] * out[i + d]
        out[i] = total / low[i, 0]
    return out


def chain_curve(x: np.ndarray, along: np.ndarray) -> np.ndarray:
    """The cubics of a chain's unknowns; see `lines.refine._Chain`."""
    m = len(x) - 1
    out = np.empty((m, 4, 2))
    for r in range(m):
        for a in range(2):
            out[r, 0, a] = x[r, 1 + a]
            out[r, 1, a] = x[r, 1 + a] + x[r, 4] * along[r, a]
            out[r, 2, a] = x[r + 1, 1 + a] - x[r + 1, 0] * along[r + 1, a]
            out[r, 3, a] = x[r + 1, 1 + a]
    return out


def chain_sound(x: np.ndarray, least: float, most: float) -> bool:
    """Whether all handles are of a reasonable length: shares of their chords."""
    for r in range(len(x) - 1):
        dx, dy = x[r + 1, 1] - x[r, 1], x[r + 1, 2] - x[r, 2]
        chord = math.sqrt(dx * dx + dy * dy)
        low, high = min(x[r, 4], x[r + 1, 0]), max(x[r, 4], x[r + 1, 0])
        if not (low > least * chord and high < most * chord):
            return False
    return True


def least_squares(
    x: np.ndarray, q: np.ndarray, u: np.ndarray, weight: np.ndarray, rounds: int, settings: np.ndarray
) -> np.ndarray:
    """Twin of `lines.refine._least_squares`; settings: enough, least and most of a handle, what fixes an unknown."""
    m, samples = u.shape
    along = np.empty((m + 1, 2))
    along[:, 0], along[:, 1] = np.cos(x[:, 3]), np.sin(x[:, 3])
    curve = chain_curve(x, along)
    now, damping, small = cost(curve, q, u, weight), 1e-3, 1e-3 * weight.mean() * samples
    for _ in range(rounds):
        both = equations(x, along, curve, q, u, weight)
        gained = -1.0
        while damping < 1e3:
            damped = both[:10].copy()
            damped[9] += damping * (both[9] + small)
            for k in (0, 1, 2):
                damped[9, k] = settings[3]
            n = damped.shape[1]
            for k in (4, 3, 1):
                damped[9, n - k] = settings[3]
            step = banded_solve(damped, both[10])
            if len(step):
                new = x + step.reshape((m + 1, 5))
                if chain_sound(new, settings[1], settings[2]):
                    tangent = np.empty((m + 1, 2))
                    tangent[:, 0], tangent[:, 1] = np.cos(new[:, 3]), np.sin(new[:, 3])
                    there = chain_curve(new, tangent)
                    w = nearer(there, q, nearer(there, q, u))
                    less = cost(there, q, w, weight)
                    if less < now:
                        gained = 1.0 - less / now
                        x, along, curve, u, now = new, tangent, there, w, less
                        damping = max(damping / 8.0, 1e-6)
                        break
            damping *= 8.0
        if gained < settings[0]:
            break
    return x
