"""Loops over the hand's samples, to be compiled: each is the twin of a NumPy function elsewhere and gives the same
numbers.

Plain Python, so that they can be read and tested; `ready` compiles them. Shapes and units are those of the twins.
"""

import math

import numpy as np


def solve(y: np.ndarray, penalty: np.ndarray, noise: np.ndarray) -> np.ndarray:
    """Twin of `hand.solve.steady_solve` after its noise bands (p + 1, n), last row the diagonal: L D L'."""
    n, columns = y.shape
    p = len(noise) - 1
    wide = max(3, p)
    centre = np.zeros(columns)
    for c in range(columns):
        centre[c] = y[:, c].mean()
    off = np.zeros((wide + 1, n))
    for d in range(p + 1):
        off[d, : n - d] = noise[p - d, d:]
    third = (-1.0, 3.0, -3.0, 1.0)
    for k in range(n - 3):
        for a in range(4):
            for b in range(a, 4):
                off[b - a, k + a] += penalty[k] * third[a] * third[b]
    x = np.zeros((n, columns))
    for i in range(n):
        for c in range(columns):
            total = noise[p, i] * (y[i, c] - centre[c])
            for d in range(1, p + 1):
                if i + d < n:
                    total += noise[p - d, i + d] * (y[i + d, c] - centre[c])
                if i - d >= 0:
                    total += noise[p - d, i] * (y[i - d, c] - centre[c])
            x[i, c] = total
    # off[d, i] becomes L[i + d, i] for d > 0 and D[i] for d = 0.
    for i in range(n):
        pivot = off[0, i]
        for d in range(1, wide + 1):
            if i + d < n:
                share = off[d, i] / pivot
                for e in range(d, wide + 1):
                    if i + e < n:
                        off[e - d, i + d] -= share * off[e, i]
        for d in range(1, wide + 1):
            if i + d < n:
                off[d, i] /= pivot
                for c in range(columns):
                    x[i + d, c] -= off[d, i] * x[i, c]
    for i in range(n - 1, -1, -1):
        for c in range(columns):
            x[i, c] /= off[0, i]
            for d in range(1, wide + 1):
                if i + d < n:
                    x[i, c] -= off[d, i] * x[i + d, c]
    return x + centre


def read(t: np.ndarray, p: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Twin of `hand.resample.read_at` without slopes given; t of two times at least."""
    n, wide = p.shape
    out = np.empty((len(at), wide))
    slope = np.empty((n, wide))
    for c in range(wide):
        for i in range(1, n - 1):
            h0, h1 = t[i] - t[i - 1], t[i + 1] - t[i]
            slope[i, c] = ((p[i, c] - p[i - 1, c]) / h0 * h1 + (p[i + 1, c] - p[i, c]) / h1 * h0) / (h0 + h1)
        first, last = (p[1, c] - p[0, c]) / (t[1] - t[0]), (p[n - 1, c] - p[n - 2, c]) / (t[n - 1] - t[n - 2])
        slope[0, c] = 2.0 * first - slope[1, c] if n > 2 else first
        slope[n - 1, c] = 2.0 * last - slope[n - 2, c] if n > 2 else last
    k = 0
    for j in range(len(at)):
        now = min(max(at[j], t[0]), t[n - 1])
        if now < t[k]:
            k = 0
        while k < n - 2 and t[k + 1] <= now:
            k += 1
        h = t[k + 1] - t[k]
        u = (now - t[k]) / h
        u2, u3 = u * u, u * u * u
        for c in range(wide):
            out[j, c] = (
                (2 * u3 - 3 * u2 + 1) * p[k, c]
                + (u3 - 2 * u2 + u) * h * slope[k, c]
                + (3 * u2 - 2 * u3) * p[k + 1, c]
                + (u3 - u2) * h * slope[k + 1, c]
            )
    return out


def penalties(hz: np.ndarray, rate: float, noise: np.ndarray) -> np.ndarray:
    """Twin of `hand.solve.penalty_for`."""
    out = np.empty(len(hz))
    for i in range(len(hz)):
        w = 2.0 * math.pi * min(hz[i], 0.45 * rate) / rate
        real, imaginary = 0.0, 0.0
        for k in range(len(noise)):
            real += noise[k] * math.cos(k * w)
            imaginary += noise[k] * math.sin(k * w)
        out[i] = (real * real + imaginary * imaginary) / (2.0 * math.sin(w / 2.0)) ** 6
    return out


def kinked(
    raw: np.ndarray, hz: np.ndarray, corners: np.ndarray, rate: float, noise: np.ndarray, bands: np.ndarray
) -> np.ndarray:
    """Twin of `hand.steady._solved` with the noise's bands given."""
    n = len(raw)
    penalty = penalties((hz[1 : n - 2] + hz[2 : n - 1]) / 2.0, rate, noise)
    for k in corners:
        penalty[max(0, k - 2) : max(0, k)] = 0.0
    return solve(raw, penalty, bands)


def blur(v: np.ndarray, sigma: float) -> np.ndarray:
    """Twin of `hand.along.blurred`."""
    n, half = len(v), max(1, round(3 * sigma))
    weights = np.exp(-0.5 * (np.arange(-half, half + 1) / max(sigma, 1e-9)) ** 2)
    weights /= weights.sum()
    out = np.zeros(n)
    for i in range(n):
        for j in range(-half, half + 1):
            out[i] += weights[j + half] * v[min(max(i + j, 0), n - 1)]
    return out


def auto(
    raw: np.ndarray,
    corners: np.ndarray,
    bands: np.ndarray,
    noise: np.ndarray,
    pace: np.ndarray,
    glass: float,
    rate: float,
) -> np.ndarray:
    """Twin of `hand.steady.auto_path`; bands: the noise's, noise: its filter; pace: first, base, low, high Hz, base
    and hard acceleration, their powers, seconds round a corner, seconds of the envelope, Hz of the fine pass."""
    n = len(raw)
    first = kinked(raw, np.full(n, pace[0]), corners, rate, noise, bands)
    second = np.zeros(n)
    for i in range(1, n - 1):
        x = first[i - 1, 0] - 2.0 * first[i, 0] + first[i + 1, 0]
        y = first[i - 1, 1] - 2.0 * first[i, 1] + first[i + 1, 1]
        second[i] = math.sqrt(x * x + y * y) * rate * rate * glass
    second[0], second[n - 1] = second[1], second[n - 2]
    for k in corners:
        most = 0.0
        for i in range(max(0, k - 8), k - 2):
            most = max(most, second[i])
        for i in range(k + 3, min(n, k + 9)):
            most = max(most, second[i])
        second[max(0, k - 2) : k + 3] = most
    envelope = np.sqrt(blur(second * second, pace[9] * rate)) + 1e-9
    steep = np.maximum(1.0, envelope / pace[5]) ** pace[7]
    reach = round(pace[8] * rate)
    for k in corners:
        for i in range(max(0, k - reach), min(n, k + reach + 1)):
            steep[i] = max(1.0, envelope[i] / pace[4]) ** pace[6]
    hz = np.empty(n)
    for i in range(n):
        hz[i] = min(max(pace[1] * (envelope[i] / pace[4]) ** pace[6] * steep[i], pace[2]), pace[3])
    path = kinked(raw, hz, corners, rate, noise, bands)
    return kinked(path, np.full(n, pace[10]), corners, rate, np.ones(1), np.ones((1, n)))


def beside(places: np.ndarray, at: np.ndarray, other: np.ndarray, reach: int) -> np.ndarray:
    """Twin of `hand.steady.beside`; reach: straights to either side among which the nearest place is looked for."""
    out = np.empty(len(places))
    for i in range(len(places)):
        least = np.inf
        for j in range(max(0, at[i] - reach), min(len(other) - 1, at[i] + reach)):
            sx, sy = other[j + 1, 0] - other[j, 0], other[j + 1, 1] - other[j, 1]
            ax, ay = places[i, 0] - other[j, 0], places[i, 1] - other[j, 1]
            share = min(max((ax * sx + ay * sy) / max(sx * sx + sy * sy, 1e-24), 0.0), 1.0)
            dx, dy = ax - share * sx, ay - share * sy
            least = min(least, dx * dx + dy * dy)
        out[i] = math.sqrt(least)
    return out


def slow_places(speed: np.ndarray, reach: int, around: int, slowing: float) -> np.ndarray:
    """Twin of `hand.corners._slow_places`: which samples (n,) are slow places."""
    n = len(speed)
    out = np.zeros(n, np.bool_)
    for k in range(3, n - 3):
        here = speed[k]
        slowest = True
        for i in range(max(0, k - around), min(n, k + around + 1)):
            if speed[i] < here:
                slowest = False
                break
        if slowest:
            before, after = 0.0, 0.0
            for i in range(max(0, k - reach), k):
                before = max(before, speed[i])
            for i in range(k + 1, min(n, k + reach + 1)):
                after = max(after, speed[i])
            out[k] = here < slowing * min(before, after)
    return out
