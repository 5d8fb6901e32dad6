"""Least squares over a whole chain of cubics: joints, directions and handles moved together, so that a fit found piece
by piece lies nearer to its path without more pieces. Gauss and Newton's method, damped (Marquardt 1963)."""

from dataclasses import dataclass

import numpy as np

from plain_stride.compiled.ready import floats, kernels
from plain_stride.lines.curve import nearer, parameters, point

FLAT = 48
"""Straights a piece is read as where distances from it are measured: within 0.001 mm of it."""
LEAST_SHARE = 0.2
SAMPLES = 24
ROUNDS = 8
_PER_JOINT = 5
"""Unknowns of a joint: its incoming handle, x, y, direction, outgoing handle."""
_BAND = 2 * _PER_JOINT
_HANDLES = (0.05, 1.0)
"""Least and most length of a handle, as shares of its piece's chord."""
_ENOUGH = 0.03
"""A round that gains a smaller share than this is the last."""
_FIXED = 1e9


def refined(curve: np.ndarray, joints: np.ndarray, points: np.ndarray, tolerance: float) -> np.ndarray:
    """The chain (m, 4, 2), within the tolerance of `points` (n, 2), nearer to them in the mean square.

    joints: (m + 1,) indices of the points where the pieces begin and end. The two ends stay, and no point comes to
    lie farther than the tolerance from its piece. All in mm."""
    first = _Chain.of(curve)
    if not first.sound():
        return curve
    best = _least_squares(first, _Target.of(curve, joints, points))
    return _held(first, best, joints, points, tolerance).curve


def _held(first: "_Chain", best: "_Chain", joints: np.ndarray, points: np.ndarray, tolerance: float) -> "_Chain":
    """As much of the way from first to best as each joint may go without a point leaving the tolerance."""
    share = np.ones(len(first.x))
    while True:
        chain = _Chain(first.x + share[:, None] * (best.x - first.x))
        bad = farthest(chain.curve, joints, points) > tolerance
        bad |= ~chain.sound_pieces()
        held = (np.append(bad, False) | np.append(False, bad)) & (share > 0.0)
        if not held.any():
            return chain
        share[held] = np.where(share[held] > LEAST_SHARE, share[held] / 2.0, 0.0)


def farthest(curve: np.ndarray, joints: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Largest distance (m,) mm of the points from their pieces, each read as FLAT straights."""
    compiled = kernels()
    if compiled is not None:
        out: np.ndarray = compiled.farthest(*floats(curve), joints, *floats(points), FLAT)
        return out
    worst = []
    for piece, a, b in zip(curve, joints[:-1], joints[1:], strict=True):
        flat = point(piece[None], *parameters(np.array([FLAT])))
        d, q = np.diff(flat, axis=0), points[a : b + 1, None] - flat[:-1]
        share = np.clip((q * d).sum(-1) / np.maximum((d * d).sum(-1), 1e-300), 0.0, 1.0)
        worst.append(np.sqrt(((q - share[..., None] * d) ** 2).sum(-1).min(axis=1).max()))
    return np.array(worst)


def _least_squares(chain: "_Chain", target: "_Target") -> "_Chain":
    compiled = kernels()
    if compiled is not None:
        settings = np.array([_ENOUGH, *_HANDLES, _FIXED])
        return _Chain(compiled.least_squares(*floats(chain.x, target.q, target.u, target.weight), ROUNDS, settings))
    cost, damping = target.cost(chain), 1e-3
    for _ in range(ROUNDS):
        better, damping = _step(chain, target, cost, damping)
        if better is None:
            break
        chain, target, new = better
        gain, cost = 1.0 - new / cost, new
        if gain < _ENOUGH:
            break
    return chain


@dataclass(frozen=True, eq=False)
class _Chain:
    """x (m + 1, 5): the unknowns of each joint."""

    x: np.ndarray

    @classmethod
    def of(cls, curve: np.ndarray) -> "_Chain":
        first, last = curve[:, 1] - curve[:, 0], curve[:, 3] - curve[:, 2]
        x = np.zeros((len(curve) + 1, _PER_JOINT))
        x[:, 1:3] = np.vstack([curve[:, 0], curve[-1:, 3]])
        x[:-1, 4], x[1:, 0] = np.hypot(*first.T), np.hypot(*last.T)
        x[:-1, 3] = np.arctan2(first[:, 1], first[:, 0])
        x[-1, 3] = np.arctan2(last[-1, 1], last[-1, 0])
        return cls(x)

    @property
    def along(self) -> np.ndarray:
        return np.column_stack([np.cos(self.x[:, 3]), np.sin(self.x[:, 3])])

    @property
    def curve(self) -> np.ndarray:
        at, t = self.x[:, 1:3], self.along
        return np.stack([at[:-1], at[:-1] + self.x[:-1, 4:] * t[:-1], at[1:] - self.x[1:, :1] * t[1:], at[1:]], axis=1)

    def sound(self) -> bool:
        return bool(self.sound_pieces().all())

    def sound_pieces(self) -> np.ndarray:
        """Which pieces (m,) have handles of a reasonable length."""
        chord = np.hypot(*np.diff(self.x[:, 1:3], axis=0).T)
        least, most = (share * chord for share in _HANDLES)
        out, into = self.x[:-1, 4], self.x[1:, 0]
        good: np.ndarray = (out > least) & (out < most) & (into > least) & (into < most)
        return good


@dataclass(frozen=True, eq=False)
class _Target:
    """q (m, k, 2) places of the path, u (m, k) where on its piece each is nearest, weight (m, 1) by length."""

    q: np.ndarray
    u: np.ndarray
    weight: np.ndarray

    @classmethod
    def of(cls, curve: np.ndarray, joints: np.ndarray, points: np.ndarray) -> "_Target":
        a, b = joints[:-1], joints[1:]
        at = np.round(a[:, None] + (b - a)[:, None] * np.linspace(0.0, 1.0, SAMPLES)).astype(int)
        s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
        long = np.maximum(s[b] - s[a], 1e-12)
        u = (s[at] - s[a][:, None]) / long[:, None]
        weight = long[:, None] / (long.sum() * SAMPLES)
        return cls(points[at], u, weight).near(curve, 3)

    def near(self, curve: np.ndarray, rounds: int) -> "_Target":
        u = self.u
        for _ in range(rounds):
            u = nearer(curve, self.q, u)
        return _Target(self.q, u, self.weight)

    def basis(self) -> tuple[np.ndarray, ...]:
        u, v = self.u, 1.0 - self.u
        return v**3, 3 * v * v * u, 3 * v * u * u, u**3

    def off(self, curve: np.ndarray) -> np.ndarray:
        """From the nearest places of the pieces to the path (m, k, 2)."""
        out: np.ndarray = self.q - sum(b[..., None] * curve[:, None, k] for k, b in enumerate(self.basis()))
        return out

    def cost(self, chain: _Chain) -> float:
        return float((self.weight * (self.off(chain.curve) ** 2).sum(-1)).sum())


def _step(
    chain: _Chain, target: _Target, cost: float, damping: float
) -> tuple[tuple[_Chain, _Target, float] | None, float]:
    """(a chain that costs less with its target and cost, or None; the next damping)."""
    from scipy.linalg import solveh_banded

    bands, pull = _normal_equations(chain, target)
    while damping < 1e3:
        damped = bands.copy()
        damped[-1] += damping * (bands[-1] + 1e-3 * target.weight.mean() * SAMPLES)
        damped[-1, [0, 1, 2, -4, -3, -1]] = _FIXED
        new = _Chain(chain.x + solveh_banded(damped, pull, check_finite=False).reshape(-1, _PER_JOINT))
        if new.sound():
            there = target.near(new.curve, 2)
            less = there.cost(new)
            if less < cost:
                return (new, there, less), max(damping / 8.0, 1e-6)
        damping *= 8.0
    return None, damping


def _normal_equations(chain: _Chain, target: _Target) -> tuple[np.ndarray, np.ndarray]:
    """Upper bands (_BAND, n) of J'WJ, last row the diagonal, and J'Wr (n,), for the distances across the pieces."""
    curve, t = chain.curve, chain.along
    across = np.column_stack([-t[:, 1], t[:, 0]])
    normal = _normals(curve, target.u)
    b0, b1, b2, b3 = target.basis()
    jacobian = np.zeros((*target.u.shape, _BAND))
    jacobian[..., 1:3] = (b0 + b1)[..., None] * normal
    jacobian[..., 3] = b1 * chain.x[:-1, 4:] * (normal * across[:-1, None]).sum(-1)
    jacobian[..., 4] = b1 * (normal * t[:-1, None]).sum(-1)
    jacobian[..., 5] = -b2 * (normal * t[1:, None]).sum(-1)
    jacobian[..., 6:8] = (b2 + b3)[..., None] * normal
    jacobian[..., 8] = -b2 * chain.x[1:, :1] * (normal * across[1:, None]).sum(-1)
    weighted = jacobian * target.weight[..., None]
    blocks = np.matmul(weighted.transpose(0, 2, 1), jacobian)
    loads = (weighted * (target.off(curve) * normal).sum(-1)[..., None]).sum(axis=1)
    return _banded(blocks, loads)


def _banded(blocks: np.ndarray, loads: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Blocks (m, 10, 10) that overlap by a joint, and loads (m, 10), summed into bands and one vector."""
    m = len(blocks)
    bands, load = np.zeros((_BAND, _PER_JOINT * (m + 1))), np.zeros(_PER_JOINT * (m + 1))
    first = _PER_JOINT * np.arange(m)
    for i in range(_BAND):
        load[first + i] += loads[:, i]
        for j in range(i, _BAND):
            bands[_BAND - 1 + i - j, first + j] += blocks[:, i, j]
    return bands, load


def _normals(curve: np.ndarray, u: np.ndarray) -> np.ndarray:
    d, w, v = 3 * np.diff(curve, axis=1)[:, None], u[..., None], 1.0 - u[..., None]
    along = v * v * d[:, :, 0] + 2 * v * w * d[:, :, 1] + w * w * d[:, :, 2]
    out = np.stack([-along[..., 1], along[..., 0]], axis=-1)
    return out / np.maximum(np.hypot(out[..., 0], out[..., 1]), 1e-12)[..., None]
