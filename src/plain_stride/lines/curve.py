"""Curves: chains of cubic Béziers as arrays (m, 4, 2) in mm, each piece starting where the last one ends."""

import numpy as np

from plain_stride.compiled.ready import floats, kernels
from plain_stride.lines.errors import LinesError

_GAUSS_X, _GAUSS_W = np.polynomial.legendre.leggauss(6)
_GAUSS = np.array([_GAUSS_X, _GAUSS_W])
_SUB = 8
"""Sub-intervals a piece in the arc-length table."""


class CurveError(LinesError):
    """Points or pieces that are no curve."""


def point(curve: np.ndarray, k: np.ndarray, u: np.ndarray) -> np.ndarray:
    """Places (n, 2) on pieces k at parameters u."""
    c, u, v = curve[k], u[:, None], 1.0 - u[:, None]
    return v * v * v * c[:, 0] + 3 * v * v * u * c[:, 1] + 3 * v * u * u * c[:, 2] + u * u * u * c[:, 3]


def derivative(curve: np.ndarray, k: np.ndarray, u: np.ndarray) -> np.ndarray:
    """First derivatives (n, 2) by the piece's source parameter."""
    c, u, v = curve[k], u[:, None], 1.0 - u[:, None]
    return 3 * (v * v * (c[:, 1] - c[:, 0]) + 2 * v * u * (c[:, 2] - c[:, 1]) + u * u * (c[:, 3] - c[:, 2]))


def direction(curve: np.ndarray, k: np.ndarray, u: np.ndarray) -> np.ndarray:
    """Unit tangents (n, 2); where a handle has no length, towards the next control point that differs."""
    d = derivative(curve, k, u)
    size = np.hypot(*d.T)
    weak = size < 1e-9
    if weak.any():
        h = 1e-4
        near = np.where(u[weak] < 0.5, u[weak] + h, u[weak] - h)
        d[weak] = derivative(curve, k[weak], near)
        size = np.hypot(*d.T)
        still = size < 1e-12
        chord = curve[k, 3] - curve[k, 0]
        d[still] = chord[still]
        size = np.hypot(*d.T)
        d[size < 1e-12] = (1.0, 0.0)
        size = np.hypot(*d.T)
    return d / size[:, None]


def flat_counts(curve: np.ndarray, tolerance: float) -> np.ndarray:
    """Segments (m,) per piece that keep a polyline within `tolerance` mm of it (bound by second differences)."""
    second = np.hypot(*np.moveaxis(curve[:, :2] - 2 * curve[:, 1:3] + curve[:, 2:], -1, 0)).max(axis=1)
    return np.maximum(1, np.ceil(np.sqrt(0.75 * second / tolerance))).astype(int)


def flatten(curve: np.ndarray, tolerance: float) -> np.ndarray:
    """Points (n, 2) of a polyline within `tolerance` mm, both ends included."""
    k, u = parameters(flat_counts(curve, tolerance))
    return point(curve, k, u)


def parameters(counts: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(piece, u) of evenly spaced parameters, `counts` steps in each piece, the last end included."""
    k = np.repeat(np.arange(len(counts)), counts)
    first = np.repeat(np.cumsum(counts) - counts, counts)
    u = (np.arange(len(k)) - first) / counts[k]
    return np.append(k, len(counts) - 1), np.append(u, 1.0)


def nearer(piece: np.ndarray, q: np.ndarray, u: np.ndarray) -> np.ndarray:
    """One Newton step of parameters (m, k) towards the feet of q (m, k, 2), each row on its piece of (m, 4, 2).

    Order and ends are kept.
    """
    compiled = kernels()
    if compiled is not None:
        steps: np.ndarray = compiled.nearer(*floats(piece, q, u))
        return steps
    c = piece[:, None]
    d1, d2 = 3 * np.diff(c, axis=2), 6 * np.diff(c, 2, axis=2)
    w, v = u[..., None], 1.0 - u[..., None]
    on = v**3 * c[:, :, 0] + 3 * v * v * w * c[:, :, 1] + 3 * v * w * w * c[:, :, 2] + w**3 * c[:, :, 3]
    first = v * v * d1[:, :, 0] + 2 * v * w * d1[:, :, 1] + w * w * d1[:, :, 2]
    second = v * d2[:, :, 0] + w * d2[:, :, 1]
    off = on - q
    slope = (first * first).sum(-1) + (off * second).sum(-1)
    step = np.where(slope > 1e-12, (off * first).sum(-1) / np.where(slope > 1e-12, slope, 1.0), 0.0)
    new = np.clip(u - step, 0.0, 1.0)
    new[:, 0], new[:, -1] = 0.0, 1.0
    return np.maximum.accumulate(new, axis=1)


class Arc:
    """Arc length of a curve: `length`, and where along the pieces a length lies. Gauss-Legendre, error below 1e-9."""

    def __init__(self, curve: np.ndarray) -> None:
        self.curve = curve
        m = len(curve)
        compiled = kernels()
        if compiled is not None:
            self.s: np.ndarray = compiled.arc_table(*floats(curve, _GAUSS_X, _GAUSS_W), _SUB)
            self.length = float(self.s[-1])
            return
        edges = np.linspace(0.0, 1.0, _SUB + 1)
        mid, half = (edges[1:] + edges[:-1]) / 2.0, 0.5 / _SUB
        u = (mid[:, None] + half * _GAUSS_X).ravel()
        k = np.repeat(np.arange(m), len(u))
        speed = np.hypot(*derivative(curve, k, np.tile(u, m)).T).reshape(m, _SUB, len(_GAUSS_X))
        steps = (speed * _GAUSS_W).sum(axis=2) * half
        self.s = np.concatenate([[0.0], np.cumsum(steps.ravel())])
        self.length = float(self.s[-1])

    def at_piece_ends(self) -> np.ndarray:
        """Arc lengths (m + 1,) at the joints."""
        return self.s[::_SUB]

    def locate(self, s: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """(piece, u) at arc lengths s (clipped to the curve)."""
        compiled = kernels()
        if compiled is not None:
            found = compiled.located(*floats(self.curve, self.s, s, _GAUSS_X, _GAUSS_W), _SUB)
            return found[:, 0].astype(int), np.ascontiguousarray(found[:, 1])
        s = np.clip(s, 0.0, self.length)
        cell = np.clip(np.searchsorted(self.s, s, side="right") - 1, 0, len(self.s) - 2)
        k, sub = np.divmod(cell, _SUB)
        rest = s - self.s[cell]
        size = np.maximum(self.s[cell + 1] - self.s[cell], 1e-15)
        start = sub / _SUB
        u = start + rest / size / _SUB
        for _ in range(2):
            u = np.clip(u - (self._from(k, start, u) - rest) / self._speed(k, u), start, start + 1.0 / _SUB)
        return k, u

    def length_at(self, k: np.ndarray, u: np.ndarray) -> np.ndarray:
        """Arc length from the start of the curve to parameter u of piece k. mm; u from 0 to 1, curve (m, 4, 2)."""
        compiled = kernels()
        if compiled is not None and k.ndim == 1:
            places = np.ascontiguousarray(k, np.int64)
            out: np.ndarray = compiled.lengths_at(*floats(self.curve, self.s), places, *floats(u, _GAUSS), _SUB)
            return out
        sub = np.clip((u * _SUB).astype(int), 0, _SUB - 1)
        return self.s[k * _SUB + sub] + self._from(k, sub / _SUB, u)

    def _speed(self, k: np.ndarray, u: np.ndarray) -> np.ndarray:
        return np.maximum(np.hypot(*derivative(self.curve, k, u).T), 1e-9)

    def _from(self, k: np.ndarray, start: np.ndarray, u: np.ndarray) -> np.ndarray:
        half = (u - start)[:, None] / 2.0
        at = start[:, None] + half * (1.0 + _GAUSS_X)
        speed = np.hypot(*derivative(self.curve, np.repeat(k, len(_GAUSS_X)), at.ravel()).T).reshape(at.shape)
        return (speed * _GAUSS_W).sum(axis=1) * half[:, 0]

    def point(self, s: np.ndarray) -> np.ndarray:
        """(n, 2) mm: places at parameters u (n,) of pieces k (n,) of a curve (m, 4, 2)."""
        return point(self.curve, *self.locate(s))

    def direction(self, s: np.ndarray) -> np.ndarray:
        """(n, 2) unit tangents at parameters u (n,) of pieces k (n,) of a curve (m, 4, 2)."""
        return direction(self.curve, *self.locate(s))


def part_of(curve: np.ndarray, u0: float, u1: float) -> np.ndarray:
    """One piece (4, 2) between parameters u0 < u1, by de Casteljau; an end at 0 or 1 is kept exactly."""
    c = curve
    if u1 < 1.0:
        c = _split(c, u1)[0]
    if u0 > 0.0:
        c = _split(c, u0 / u1)[1]
    return c


def between(arc: Arc, s0: float, s1: float) -> np.ndarray:
    """The stretch of a curve from arc length s0 to s1 as a curve of its own. Raises CurveError when it is empty.
    Curves (m, 4, 2), lengths in mm."""
    if s1 - s0 < 1e-6:
        raise CurveError("that stretch has no length")
    ks, us = arc.locate(np.array([s0, s1]))
    first, last = int(ks[0]), int(ks[1])
    if last > first and us[1] < 1e-9:
        last, us[1] = last - 1, 1.0
    if last > first and us[0] > 1.0 - 1e-9:
        first, us[0] = first + 1, 0.0
    if first == last:
        return part_of(arc.curve[first], float(us[0]), float(us[1]))[None]
    out = arc.curve[first : last + 1].copy()
    out[0] = part_of(out[0], float(us[0]), 1.0)
    out[-1] = part_of(out[-1], 0.0, float(us[1]))
    return out


def straight(points: np.ndarray) -> np.ndarray:
    """The chain of straight pieces through points (n, 2)."""
    a, b = points[:-1], points[1:]
    return np.stack([a, a + (b - a) / 3.0, a + (b - a) * (2.0 / 3.0), b], axis=1)


def circle(centre: np.ndarray, radius: float) -> np.ndarray:
    """Four cubics (4, 4, 2), counter-clockwise in x right, y down; off a true circle by 2.73e-4 radius at most."""
    k = 4.0 / 3.0 * (np.sqrt(2.0) - 1.0)
    quarter = np.array([[1, 0], [1, -k], [k, -1], [0, -1]])
    turn = np.array([[0, -1], [1, 0]])
    pieces = [quarter]
    for _ in range(3):
        pieces.append(pieces[-1] @ turn)
    return np.asarray(centre) + radius * np.array(pieces)


def _split(c: np.ndarray, u: float) -> tuple[np.ndarray, np.ndarray]:
    a = c[:-1] + (c[1:] - c[:-1]) * u
    b = a[:-1] + (a[1:] - a[:-1]) * u
    d = b[0] + (b[1] - b[0]) * u
    return np.array([c[0], a[0], b[0], d]), np.array([d, b[1], a[2], c[3]])
