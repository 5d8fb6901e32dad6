"""Chains drawn onto the middle of the darkness they run through; corners, ends, and how wide the rough is."""

import itertools
from dataclasses import dataclass

import numpy as np

from plain_stride.pencils.read.corners import STEP_MM, blurred, corner_at, corner_places, is_corner, sharpened
from plain_stride.pencils.read.flat import Flat
from plain_stride.pencils.read.linking import Chain
from plain_stride.pencils.read.ridges import Kind

ACROSS_MM, POWER = 0.05, 0.7
JOINT_MM, JOINT_WEIGHT = 1.2, 0.15
FIRST_W = 1.2
REACH_W = 3.5
CLEAR_SHARE = 0.9
CALMER = (1.0, 1.4, 2.0, 2.8, 4.0, 5.6, 8.0, 11.0)
"""Spans that a curve is evened out over at last, in those of its kind."""


@dataclass(frozen=True, eq=False)
class Centre:
    """points (n, 2) mm on the sheet of the scan, corners among them; spread (n,): RMS half-width of the darkness, mm,
    NaN where others lie across; mass (n,): darkness across, mm; tips: whether each end is free."""

    points: np.ndarray
    spread: np.ndarray
    mass: np.ndarray
    closed: bool
    tips: tuple[bool, bool]
    strength: float
    corners: tuple[int, ...] = ()


def centres_of(chains: list[Chain], flat: Flat, kind: Kind) -> list[Centre]:
    """Every chain on its centre; what is too short for one is left out."""
    rough = [_lightly(_resampled(c.points, c.closed), FIRST_W * kind.width, c.closed) for c in chains]
    # Corners are looked for before evening out takes them.
    sharp = [p[corner_places(p, c.closed, kind)] for p, c in zip(rough, chains, strict=True)]
    soft = [p if len(places) else _lightly(p, kind.smooth, chain.closed)
            for p, places, chain in zip(rough, sharp, chains, strict=True)]  # fmt: skip
    owners = _Owners(soft, flat)
    for round_ in range(3):
        # After the first round curves move by less than what parts them.
        owners = _Owners(soft, flat) if round_ == 1 else owners
        seen = _looked_across(soft, chains, owners, flat, kind)
        soft = [_drawn(p, chains[n], kind, seen[n], sharp[n]) for n, p in enumerate(soft)]
        if round_ == 1:
            sharp = [places[[is_corner(p, k, chains[n].closed, flat, kind) for k in _nearest(p, places)]]
                     for n, (p, places) in enumerate(zip(soft, sharp, strict=True))]  # fmt: skip
    seen = _looked_across(soft, chains, owners, flat, kind)
    last = [_drawn(p, chains[n], kind, seen[n], sharp[n]) for n, p in enumerate(soft)]
    last = [_calmed(p, chains[n].closed, _at(p, sharp[n]), kind) for n, p in enumerate(last)]
    seen = _looked_across(last, chains, owners, flat, kind)
    out = []
    for n, points in enumerate(last):
        if len(points) > 3:
            out.append(_finished(points, chains[n], flat, kind, seen[n], sharp[n]))
    return out


@dataclass(frozen=True, eq=False)
class _Across:
    """What lies across a curve: darkness (n, m) at offsets (m,) mm to its left, and what of it is its own."""

    dark: np.ndarray
    offsets: np.ndarray
    own: np.ndarray


def _looked_across(
    curves: list[np.ndarray], chains: list[Chain], owners: "_Owners", flat: Flat, kind: Kind
) -> list[_Across]:
    """Of all curves at once: one look at the scan is far quicker than many."""
    if not curves:
        return []
    tangents = np.vstack([_tangents(p, chain.closed) for p, chain in zip(curves, chains, strict=True)])
    points = np.vstack(curves)
    dark, offsets = across(points, tangents, flat, kind.window)
    normal = np.column_stack([tangents[:, 1], -tangents[:, 0]])
    places = (points[:, None] + normal[:, None] * offsets[None, :, None]).reshape(-1, 2)
    number = np.repeat(np.arange(len(curves)), [len(p) for p in curves])
    own = owners.of(places).reshape(dark.shape) == number[:, None]
    cuts = np.cumsum([len(p) for p in curves])[:-1]
    return [_Across(d, offsets, o) for d, o in zip(np.split(dark, cuts), np.split(own, cuts), strict=True)]


def as_it_runs(chain: Chain, kind: Kind) -> Centre:
    """A chain as the net has it, only evened out: enough for construction lines, which nobody inks."""
    points = _lightly(_resampled(chain.points, chain.closed), FIRST_W * kind.width, chain.closed)
    unknown = np.full(len(points), np.nan)
    return Centre(points, unknown, unknown, chain.closed, (not chain.ends[0], not chain.ends[1]), chain.strength)


class _Owners:
    """Which of all curves is nearest to each pixel of a scan."""

    def __init__(self, curves: list[np.ndarray], flat: Flat) -> None:
        from scipy import ndimage

        h, w = flat.dark.shape
        owner = np.full((h, w), -1, np.int32)
        for n, curve in enumerate(curves):
            x, y = np.round(curve.T * flat.per_mm - 0.5).astype(int)
            owner[np.clip(y, 0, h - 1), np.clip(x, 0, w - 1)] = n
        nearest = ndimage.distance_transform_edt(owner < 0, return_distances=False, return_indices=True)
        self._owner, self._per_mm = owner[tuple(nearest)], flat.per_mm

    def of(self, places: np.ndarray) -> np.ndarray:
        """Numbers of the curves that places (n, 2) mm belong to."""
        h, w = self._owner.shape
        x, y = np.round(places.T * self._per_mm - 0.5).astype(int)
        return np.asarray(self._owner[np.clip(y, 0, h - 1), np.clip(x, 0, w - 1)])


def _lightly(p: np.ndarray, span: float, closed: bool) -> np.ndarray:
    return _smoothed(p, np.ones(len(p)), span, closed) if len(p) > 4 else p


def _nearest(p: np.ndarray, places: np.ndarray) -> list[int]:
    """The point of a curve nearest to each of some places (k, 2)."""
    return [int(np.hypot(*(p - place).T).argmin()) for place in places]


def _at(p: np.ndarray, places: np.ndarray) -> list[int]:
    """The points of a curve nearest to places, each once, rising."""
    return sorted(set(_nearest(p, places)))


def _resampled(points: np.ndarray, closed: bool) -> np.ndarray:
    p = np.vstack([points, points[:1]]) if closed else points
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
    n = max(round(s[-1] / STEP_MM), 2)
    at = np.linspace(0.0, s[-1], n + 1)
    out = np.column_stack([np.interp(at, s, p[:, k]) for k in (0, 1)])
    return out[:-1] if closed else out


def _smoothed(p: np.ndarray, weight: np.ndarray, span: float, closed: bool) -> np.ndarray:
    """The penalised least squares through p (n, 2) whose second difference is held down over a span in mm."""
    n = len(p)
    stiff = (span / (2.0 * np.pi * STEP_MM)) ** 4
    if closed:
        # Round a ring the penalty acts in frequency; its weights are even.
        wave = 2.0 * np.pi * np.fft.rfftfreq(n)
        keep = 1.0 / (1.0 + stiff * (2.0 - 2.0 * np.cos(wave)) ** 2)
        out: np.ndarray = np.fft.irfft(np.fft.rfft(p, axis=0) * keep[:, None], n, axis=0)
        return out
    from scipy.linalg import solveh_banded

    bands = np.zeros((3, n))
    bands[0] = weight + stiff * np.array([1.0, 5.0, *([6.0] * (n - 4)), 5.0, 1.0])[:n] if n >= 4 else weight
    if n >= 4:
        bands[1, :-1] = stiff * np.array([-2.0, *([-4.0] * (n - 3)), -2.0])
        bands[2, :-2] = stiff
    solved: np.ndarray = solveh_banded(bands, weight[:, None] * p, lower=True)
    return solved


def _tangents(p: np.ndarray, closed: bool) -> np.ndarray:
    tangent = np.roll(p, -1, axis=0) - np.roll(p, 1, axis=0) if closed else np.gradient(p, axis=0)
    return tangent / np.maximum(np.hypot(*tangent.T), 1e-9)[:, None]


def across(places: np.ndarray, tangents: np.ndarray, flat: Flat, window: float) -> tuple[np.ndarray, np.ndarray]:
    """(darkness (n, m), offsets (m,) mm to the left) across unit directions at places (n, 2) mm."""
    from scipy import ndimage

    normal = np.column_stack([tangents[:, 1], -tangents[:, 0]])
    offsets = np.arange(-window, window + 1e-9, ACROSS_MM)
    grid = (places[:, None] + normal[:, None] * offsets[None, :, None])[..., ::-1].reshape(-1, 2).T
    dark = ndimage.map_coordinates(flat.dark, grid * flat.per_mm - 0.5, order=1, mode="nearest")
    return np.maximum(dark.reshape(len(places), len(offsets)), 0.0), offsets


def _drawn(p: np.ndarray, chain: Chain, kind: Kind, seen: _Across, sharp: np.ndarray) -> np.ndarray:
    """One round: each point towards the centroid of the darkness across, evened out along the curve."""
    if len(p) < 5:
        return p
    force = np.where(seen.own & (seen.dark > 0.06), seen.dark, 0.0) ** POWER
    mass = force.sum(axis=1)
    shift = (force * seen.offsets).sum(axis=1) / np.maximum(mass, 1e-6)
    tangent = _tangents(p, chain.closed)
    normal = np.column_stack([tangent[:, 1], -tangent[:, 0]])
    moved = p + normal * np.where(mass > 1e-6, shift, 0.0)[:, None]
    weight = np.clip(mass / max(float(np.median(mass)), 1e-6), 0.02, 1.5)
    s = np.arange(len(p)) * STEP_MM
    places_of_joints = [*chain.joints, *([0.0] if chain.ends[0] else []), *([s[-1]] if chain.ends[1] else [])]
    for at in places_of_joints:
        weight = weight * (1.0 - (1.0 - JOINT_WEIGHT) * np.exp(-(((s - at) / JOINT_MM) ** 2)))
    corners = _at(p, sharp)
    if chain.closed and not corners:
        return _resampled(_smoothed(moved, weight, kind.smooth, True), True)
    if chain.closed:
        turn = corners[0]
        moved, weight = np.roll(moved, -turn, axis=0), np.roll(weight, -turn)
        corners = sorted({(k - turn) % len(p) for k in corners})
    cuts = sorted({0, *corners, len(p)})
    pieces = []
    for a, b in itertools.pairwise(cuts):
        piece, w = moved[a:b], weight[a:b].copy()
        # Beside a corner the profile reaches over to its other side.
        near = blurred(kind)
        if a in corners or (chain.closed and a == 0):
            w[:near] *= 0.05
        if b in corners or (chain.closed and b == len(p)):
            w[-near:] *= 0.05
        pieces.append(_smoothed(piece, w, kind.smooth, False) if len(piece) > 4 else piece)
    out = np.vstack(pieces)
    return out if len(out) < 5 else _resampled(out, chain.closed)


def _calmed(p: np.ndarray, closed: bool, corners: list[int], kind: Kind) -> np.ndarray:
    """A curve evened out between its corners as far as it moves nowhere by more than the kind's room."""
    if closed and not corners:
        return _calm_piece(p, True, kind)
    if closed:
        turned = _calmed(np.vstack([np.roll(p, -corners[0], axis=0), p[corners[0]]]), False,
                         [k - corners[0] for k in corners[1:]], kind)  # fmt: skip
        return np.roll(turned[:-1], corners[0], axis=0)
    out = p.copy()
    for a, b in itertools.pairwise([0, *corners, len(p) - 1]):
        out[a : b + 1] = _calm_piece(p[a : b + 1], False, kind)
    return out


def _calm_piece(p: np.ndarray, closed: bool, kind: Kind) -> np.ndarray:
    best = p
    if len(p) < 5:
        return p
    for times in CALMER:
        z = _smoothed(p, np.ones(len(p)), times * kind.smooth, closed)
        if not closed:
            # Its ends stay where they are.
            u = np.linspace(0.0, 1.0, len(p))[:, None]
            z = z + (1.0 - u) * (p[0] - z[0]) + u * (p[-1] - z[-1])
        if np.hypot(*(z - p).T).max() > kind.room:
            break
        best = z
    return best


def _finished(p: np.ndarray, chain: Chain, flat: Flat, kind: Kind, seen: _Across, sharp: np.ndarray) -> Centre:
    """With sharp corners, ends where the darkness ends, and what was measured across."""
    dark, offsets = seen.dark, seen.offsets
    mass = dark.sum(axis=1) * ACROSS_MM
    clear = (dark * seen.own).sum(axis=1) >= CLEAR_SHARE * np.maximum(dark.sum(axis=1), 1e-6)
    middle = (dark * offsets).sum(axis=1) / np.maximum(dark.sum(axis=1), 1e-6)
    spread = np.sqrt((dark * (offsets - middle[:, None]) ** 2).sum(axis=1) / np.maximum(dark.sum(axis=1), 1e-6))
    # Where another line's darkness lies across, the width is nobody's.
    spread = np.where(clear, spread, np.nan)
    corners = [k for k in _at(p, sharp) if chain.closed or 3 < k < len(p) - 4]
    points = p.copy()
    for k in corners:
        corner = corner_at(p, k, chain.closed, kind)
        if corner is not None:
            points = sharpened(points, k, corner, chain.closed, kind)
    centre = Centre(points, spread, mass, chain.closed, (not chain.ends[0], not chain.ends[1]), chain.strength,
                    tuple(corners))  # fmt: skip
    return centre if chain.closed else _ended(centre, flat, kind)


def _ended(centre: Centre, flat: Flat, kind: Kind) -> Centre:
    """Free ends where the darkness falls below .3 of the body's; carried on where there is more of it."""
    mass = centre.mass
    body = float(np.median(mass))
    enough = mass >= kind.end * body
    if not enough.any():
        return centre
    first = int(np.argmax(enough)) if centre.tips[0] else 0
    last = len(mass) - int(np.argmax(enough[::-1])) if centre.tips[1] else len(mass)
    if last - first < 4:
        return centre
    points, spread, kept = centre.points[first:last], centre.spread[first:last], mass[first:last]
    corners = tuple(k - first for k in centre.corners if first <= k < last)
    for end in (0, 1):
        if centre.tips[end] and (first == 0 if end == 0 else last == len(mass)):
            more = _carried(points if end else points[::-1], flat, kind, body)
            if len(more):
                shift = len(more) if end == 0 else 0
                points = np.vstack([points, more]) if end else np.vstack([more[::-1], points])
                pad = (len(more), 0) if end == 0 else (0, len(more))
                spread, kept = np.pad(spread, pad, mode="edge"), np.pad(kept, pad, mode="edge")
                corners = tuple(k + shift for k in corners)
    return Centre(points, spread, kept, False, centre.tips, centre.strength, corners)


def _carried(points: np.ndarray, flat: Flat, kind: Kind, body: float) -> np.ndarray:
    """Points beyond the last one, straight on, as far as there is darkness, at most 3.5 W."""
    back = points[-max(4, min(len(points), int(2.0 / STEP_MM))) :]
    tangent = back[-1] - back[0]
    tangent = tangent / max(float(np.hypot(*tangent)), 1e-9)
    steps = np.arange(1, int(REACH_W * kind.width / STEP_MM) + 1) * STEP_MM
    line = points[-1] + tangent * steps[:, None]
    # Beyond its edge a scan tells nothing.
    h, w = flat.dark.shape
    inside = ((line >= 0.0) & (line <= np.array([w, h]) / flat.per_mm)).all(axis=1)
    line = line[: len(line) if inside.all() else int(np.argmin(inside))]
    if len(line) < 3:
        return line[:0]
    dark, _ = across(line, _tangents(line, False), flat, kind.window)
    enough = dark.sum(axis=1) * ACROSS_MM >= kind.end * body
    n = len(enough) if enough.all() else int(np.argmin(enough))
    return line[:n]
