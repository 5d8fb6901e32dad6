"""Loops over lines, to be compiled: each is the twin of a NumPy function elsewhere and gives the same numbers.

Plain Python, so that they can be read and tested; `ready` compiles them. Shapes and units are those of the twins.
"""

import math

import numpy as np


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
        for i in range(joints[r], joints[r + 1] + 1):
            best = 1e300
            for k in range(steps):
                dx, dy = flat[k + 1, 0] - flat[k, 0], flat[k + 1, 1] - flat[k, 1]
                px, py = points[i, 0] - flat[k, 0], points[i, 1] - flat[k, 1]
                long = dx * dx + dy * dy
                share = min(max((px * dx + py * dy) / long, 0.0), 1.0) if long > 0.0 else 0.0
                x, y = px - share * dx, py - share * dy
                d = x * x + y * y
                best = min(best, d)
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


def strip(
    curve: np.ndarray, joints: np.ndarray, knots: np.ndarray, left: np.ndarray, right: np.ndarray, tolerance: float
) -> np.ndarray:
    """One ring (2 n, 2): the left edge there, the right edge back, straight between close steps.

    joints: arc lengths (m + 1,) where pieces meet; knots: arc lengths of the half-widths left and right.
    """
    m = len(curve)
    counts = np.empty(m, np.int64)
    length = joints[m]
    for k in range(m):
        c = curve[k]
        bend = 0.0
        for j in range(2):
            x, y = c[j, 0] - 2 * c[j + 1, 0] + c[j + 2, 0], c[j, 1] - 2 * c[j + 1, 1] + c[j + 2, 1]
            bend = max(bend, math.sqrt(x * x + y * y))
        near_end = joints[k] < 2.5 or joints[k + 1] > length - 2.5
        step = 0.3 if near_end else 1.0
        counts[k] = max(1, math.ceil(math.sqrt(0.75 * bend / tolerance)), math.ceil((joints[k + 1] - joints[k]) / step))
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
