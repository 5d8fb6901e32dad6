"""Leeway above auto's own: the strongest smoothing along the line that leaves it nowhere farther from auto than given.

Smoothing harder in time would not calm a line: the pen's changes of speed bend it. Each stretch between corners is
smoothed by arc length instead, as strongly at each place as the distance allows there, and never by more than a tenth
of the bend's radius. What one leeway allows a larger one allows too, so that more of it is nowhere weaker.
"""

import itertools

import numpy as np

from plain_stride.hand.along import blurred, lengths_along, places_at

MOST_POINTS, LEAST_POINTS, STEP_MM = 200, 8, 0.1
"""Points in which a stretch is smoothed, and how far they lie apart while there are no more."""
SHORTEST_MM, LONGEST_SHARE, WAVELENGTHS = 0.2, 1.25, 9
"""Half-gain wavelengths that are tried: from 0.2 mm to 1.25 times the stretch."""
BEND_SHARE, BEND_MM = 0.1, 2.0
"""Share of the bend radius by which a place may move, and the span over which the bend is looked at."""
NOMINAL = np.geomspace(0.002, 20.0, 40)
"""Nominal distances, mm, from which the strength at each place is taken: the largest that keeps its promise is used."""
SLOPE, SPILL = 0.6, 0.7
"""How fast, in logarithms for each mm, strength may change along the line: a jump in it would show. Of a bend's own
allowance its strength takes so much, since its neighbours pull at it as well."""
STIFFEST = 22.0
"""Logarithm of the stiffest penalty: wavelengths of 250 points are the longest that 64-bit floats solve well."""
HALVINGS = 6
FIRM = 1e9
"""Weight of a corner, which stays where it is."""


def calmed(auto: np.ndarray, corners: np.ndarray, room: float) -> np.ndarray:
    """A steadied path (n, 2), even in time, smoothed along its length so that it lies nowhere farther than `room` mm
    from where it was, its corners (indices) where they were."""
    if room <= NOMINAL[0] or len(auto) < LEAST_POINTS:
        return auto
    out = auto.copy()
    cuts = [0, *corners.tolist(), len(auto) - 1]
    for n, (a, b) in enumerate(itertools.pairwise(cuts)):
        if b - a >= LEAST_POINTS:
            piece = auto[a : b + 1]
            s = lengths_along(piece)
            even, move = _stretch(piece, s, room, (n > 0, n < len(cuts) - 2))
            out[a : b + 1] += np.column_stack([np.interp(s, even, move[:, k]) for k in (0, 1)])
    return out


def _stretch(piece: np.ndarray, s: np.ndarray, room: float, fixed: tuple[bool, bool]) -> tuple[np.ndarray, np.ndarray]:
    """(arc lengths, moves (m, 2)) of one stretch."""
    length = float(s[-1])
    m = int(np.clip(round(length / STEP_MM), LEAST_POINTS, MOST_POINTS)) + 1
    even = np.linspace(0.0, length, m)
    none = np.zeros((m, 2))
    if length < SHORTEST_MM:
        return even, none
    x = places_at(piece, s, even)
    step = length / (m - 1)
    weight = np.ones(m)
    weight[0] = FIRM if fixed[0] else 1.0
    weight[-1] = FIRM if fixed[1] else 1.0
    waves = np.geomspace(SHORTEST_MM, max(LONGEST_SHARE * length, 2.0 * SHORTEST_MM), WAVELENGTHS)
    stiffness = 6.0 * np.log(waves / (2.0 * np.pi * step))
    # How far each place goes at each strength, never less than at a lower one.
    far = np.maximum.accumulate([_apart(_solved(x, np.full(m, v), weight), x) for v in stiffness])
    reach = BEND_SHARE * _curvature_radius(x, step)

    def moved(nominal: float) -> np.ndarray | None:
        """The move at a nominal distance; None where it does not keep its promise, which depends on the room alone:
        a larger room allows all that a smaller one does."""
        z = _solved(x, _allowed(far, stiffness, np.minimum(nominal, SPILL * reach), step), weight)
        apart = _apart(z, x)
        return z - x if apart.max() <= room and (apart <= reach).all() else None

    kept = [moved(float(nominal)) for nominal in NOMINAL]
    last = max((k for k, move in enumerate(kept) if move is not None), default=None)
    if last is None:
        return even, none
    best = kept[last]
    assert best is not None
    low, high = float(NOMINAL[last]), float(NOMINAL[min(last + 1, len(NOMINAL) - 1)])
    for _ in range(HALVINGS):
        middle = float(np.sqrt(low * high))
        move = moved(middle)
        if move is None:
            high = middle
        else:
            low, best = middle, move
    return even, best


def _allowed(far: np.ndarray, stiffness: np.ndarray, most: np.ndarray, step: float) -> np.ndarray:
    """The strength (m,) at each place that moves it by `most` (m,) at the utmost, evened out along the line without
    rising anywhere."""
    out = np.full(far.shape[1], stiffness[0] - 60.0)
    for k in range(len(stiffness)):
        inside = far[k] <= most
        if k + 1 < len(stiffness):
            rise = np.maximum(far[k + 1] - far[k], 1e-12)
            share = np.clip((most - far[k]) / rise, 0.0, 1.0)
            value = stiffness[k] + share * (stiffness[k + 1] - stiffness[k])
        else:
            value = np.full(len(out), stiffness[k])
        out = np.where(inside, np.maximum(out, value), out)
    first = np.clip(most / np.maximum(far[0], 1e-12), 1e-26, 1.0)
    out = np.where(far[0] > most, stiffness[0] + np.log(first), out)
    return _evened(out, step)


def _evened(v: np.ndarray, step: float) -> np.ndarray:
    """The largest profile below v that changes by no more than SLOPE a mm: exact, by running minima both ways."""
    s = np.arange(len(v)) * step * SLOPE
    up = np.minimum.accumulate(v - s) + s
    down: np.ndarray = np.minimum.accumulate((up + s)[::-1])[::-1] - s
    return down


def _solved(x: np.ndarray, strength: np.ndarray, weight: np.ndarray) -> np.ndarray:
    """The penalised least squares through x (m, 2), its third differences held down by exp(strength) at each place
    (Whittaker 1923, Eilers 2003); strengths are read in the middle of each difference."""
    from scipy.linalg import solveh_banded

    m = len(x)
    middle = (strength[1:-2] + strength[2:-1]) / 2.0
    lam = np.exp(np.clip(middle, -60.0, STIFFEST))
    c = np.array([-1.0, 3.0, -3.0, 1.0])
    bands = np.zeros((4, m))
    for i in range(4):
        for j in range(i, 4):
            bands[j - i, i : i + m - 3] += lam * c[i] * c[j]
    bands[0] += weight
    out: np.ndarray = solveh_banded(bands, weight[:, None] * x, lower=True)
    return out


def _apart(z: np.ndarray, x: np.ndarray) -> np.ndarray:
    """Distance (m,) across the line at each place, in any direction at its ends."""
    move = z - x
    tangent = np.gradient(x, axis=0)
    long = np.maximum(np.hypot(*tangent.T), 1e-12)
    across = np.abs(tangent[:, 0] * move[:, 1] - tangent[:, 1] * move[:, 0]) / long
    across[[0, -1]] = np.hypot(*move[[0, -1]].T)
    return across


def _curvature_radius(x: np.ndarray, step: float) -> np.ndarray:
    """The radius (m,) of the bend at each place, mm: of the signed curvature over BEND_MM, so that a wobble, which
    bends to and fro, is none."""
    tangent = np.gradient(x, axis=0)
    turn = np.gradient(np.unwrap(np.arctan2(tangent[:, 1], tangent[:, 0]))) / step
    even = blurred(turn, BEND_MM / step)
    return 1.0 / np.maximum(np.abs(even), 1e-6)
