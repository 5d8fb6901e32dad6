"""What a hand likes: the direction in which it strays least, its reach, and its place on the glass.

Learned from pulls along lines that are known, as a reading of pencils knows them: how far a pull lies beside its line
is slow noise whose size the hand's direction changes. Without such lines nothing can be told: the bends that were
meant would pass for straying.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from plain_stride.hand.along import evenly, lengths_along, places_at, project_onto
from plain_stride.hand.follow import REACH_MM
from plain_stride.hand.pull import Pull, View

BIN_S, MOST_BINS, LEAST_BINS = 0.1, 40, 4
"""A pull beside its line is looked at in bins of a period of the shake, so that the shake cancels; long pulls in
stretches."""
LEAST_PULLS = 12
FINE_MM = 0.05
"""Apart of the places by which a known line is looked at."""
AXES_DEG = np.arange(0.0, 180.0, 5.0)
STRAINS = np.array([0.0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.8, 1.0])
"""Logarithms of how much more a hand strays across its best direction than along it, that are tried."""
REACHES_MM = (*range(20, 200, 10),)
BEYOND = 0.5
"""How much straying grows when a place is twice the reach away: the simulated hand's figure, as a common form."""
SURE, CLEAR = 0.7, 3.0
"""sure: how closely the likely axes agree, 0 to 1, from which one is named; CLEAR: by how much of log likelihood a
reach must be better than none."""
USUAL_REACH_MM, FILLED, ENLARGED = 60.0, (0.25, 0.95), (0.5, 2.0)
"""The reach while pulls tell none (common practice: what wrist and fingers sweep); the share of it that a line fills;
by how much the board is enlarged at once."""
LOOK_BACK_BINS, NUGGET = 20.0, 0.01
"""Straying is not looked at as connected over more bins; NUGGET: the share of it that is no hand's."""


@dataclass(frozen=True, eq=False)
class Beside:
    """A pull beside its line, by bins: across (n,) mm on the glass; way (n,) radians, clockwise from up on the glass;
    away (n,) mm on the glass from the pull's middle; place (2,) mm on the glass, None where it is not known."""

    across: np.ndarray
    way: np.ndarray
    away: np.ndarray
    place: np.ndarray | None


@dataclass(frozen=True)
class Liking:
    """pulls: how many it was learned from; axis: degrees clockwise from up, 0 to 180, None while it is not sure;
    sure: 0 to 1; strain: how much more the hand strays across the axis; reach: mm, None where pulls do not tell;
    place: mm on the glass, None where pulls do not tell."""

    pulls: int = 0
    axis: float | None = None
    sure: float = 0.0
    strain: float = 1.0
    reach: float | None = None
    place: tuple[float, float] | None = None


def on_glass(ways: np.ndarray, view: View) -> np.ndarray:
    """Vectors (n, 2) on the sheet as they lie on the glass, in its mm."""
    a = math.radians(view.turn)
    side = -view.scale if view.mirror else view.scale
    x, y = ways[:, 0] * side, ways[:, 1] * view.scale
    return np.column_stack([x * math.cos(a) - y * math.sin(a), x * math.sin(a) + y * math.cos(a)])


def beside(pull: Pull, line: np.ndarray) -> Beside | None:
    """A pull beside a known line (m, 2) mm; None where it is too short, or lies along it for less than all but its
    ends."""
    from scipy.spatial import cKDTree

    fine = evenly(line, FINE_MM)
    ways = np.gradient(fine, axis=0)
    ways /= np.maximum(np.hypot(*ways.T), 1e-9)[:, None]
    path, t = pull.samples[:, :2], pull.samples[:, 3]
    far, k = cKDTree(fine).query(path)
    along = (far <= REACH_MM) & (k > 0) & (k < len(fine) - 1)
    if along.mean() < 0.8:
        return None
    off = path - fine[k]
    across = (ways[k, 0] * off[:, 1] - ways[k, 1] * off[:, 0]) * pull.view.scale
    number = np.floor((t - t[0]) / BIN_S).astype(int)
    used = along & (number < int((t[-1] - t[0]) / BIN_S))
    kept, number = np.unique(number[used], return_inverse=True)
    if len(kept) < LEAST_BINS:
        return None
    glass = on_glass(ways[k][used], pull.view)
    middle = on_glass(path - path.mean(axis=0), pull.view)
    away = np.hypot(*middle[used].T)
    way = np.arctan2(_means(glass[:, 0], number), -_means(glass[:, 1], number))
    place = None
    if pull.view.origin is not None:
        place = np.array(pull.view.origin) + on_glass(path.mean(axis=0)[None], pull.view)[0]
    return Beside(_means(across[used], number), way, _means(away, number), place)


def liking_of(pulls: Sequence[Beside]) -> Liking:
    """The most likely axis, reach and place of the hand that made these pulls beside their lines.

    Straying across the line is a Gaussian process of the pulls' own pooled correlation, its size multiplied by
    exp(-strain / 2 cos 2 (way - axis)); axes and strains are compared by their likelihood, and the axis named is the
    mean of the likely ones.
    """
    if len(pulls) < LEAST_PULLS:
        return Liking(len(pulls))
    runs = [run for pull in pulls for run in _runs(pull)]
    across, way, away, filled = (np.array([run[k] for run in runs]) for k in range(4))
    white = _whitening(across, filled)
    surface = _surface(across, way, filled, white)
    likely = np.exp(surface - surface.max())
    turns = np.exp(2j * np.radians(AXES_DEG))
    mean = complex((likely.sum(axis=1) * turns).sum() / likely.sum())
    sure = abs(mean)
    axis = math.degrees(math.atan2(mean.imag, mean.real)) / 2.0 % 180.0
    strain = float((likely.sum(axis=0) * STRAINS).sum() / likely.sum())
    if sure < SURE:
        return Liking(len(pulls), sure=sure, place=_place(pulls))
    calm = across * np.exp(strain / 2.0 * np.cos(2.0 * (way - math.radians(axis))))
    return Liking(len(pulls), axis, sure, math.exp(strain), _reach(calm, away, filled, white), _place(pulls))


def board_for(line: np.ndarray, view: View, liking: Liking) -> View:
    """How the board would lie for a line (n, 2) mm of the sheet to be pulled along the hand's axis, within its reach:
    the nearest of both turns, and as large as now unless the line leaves the reach or fills little of it."""
    if liking.axis is None:
        return view
    step = np.diff(line, axis=0) * (-1.0 if view.mirror else 1.0, 1.0)
    twice = 2.0 * np.arctan2(step[:, 0], -step[:, 1])
    long = np.hypot(*step.T)
    now = math.degrees(math.atan2((long * np.sin(twice)).sum(), (long * np.cos(twice)).sum())) / 2.0
    by = (liking.axis - now - view.turn + 90.0) % 180.0 - 90.0
    turn = (view.turn + by + 180.0) % 360.0 - 180.0
    half = float(np.hypot(*(line - line.mean(axis=0)).T).max()) * view.scale
    reach = liking.reach or USUAL_REACH_MM
    factor = float(np.clip(np.clip(1.0, FILLED[0] * reach / half, FILLED[1] * reach / half), *ENLARGED))
    return View(view.scale * factor, turn, view.mirror)


def stretch_within(line: np.ndarray, at: np.ndarray, half: float) -> np.ndarray:
    """What of a line (n, 2) lies within `half` mm of its length to either side of its point nearest to a place."""
    s, here = lengths_along(line), float(project_onto(line, at[None])[0][0])
    return places_at(line, s, np.linspace(max(0.0, here - half), min(s[-1], here + half), 60))


def _runs(pull: Beside) -> list[tuple[np.ndarray, ...]]:
    """(across, way, away, filled), each of MOST_BINS, of a pull's stretches."""
    out = []
    for a in range(0, len(pull.across), MOST_BINS):
        n = min(MOST_BINS, len(pull.across) - a)
        if n >= LEAST_BINS:
            rows = [
                np.pad(v[a : a + n], (0, MOST_BINS - n)) for v in (pull.across, pull.way, pull.away, np.ones(a + n))
            ]
            out.append(tuple(rows))
    return out


def _whitening(across: np.ndarray, filled: np.ndarray) -> np.ndarray:
    """The lower triangle (n, n) that makes the straying of a run white: of its pooled correlation, which fades out
    over LOOK_BACK_BINS."""
    from scipy.linalg import toeplitz

    n = across.shape[1]
    lags = np.array([(across[:, k:] * across[:, : n - k]).sum() for k in range(n)])
    counts = np.array([(filled[:, k:] * filled[:, : n - k]).sum() for k in range(n)])
    held = lags / np.maximum(counts, 1.0)
    held = held / held[0] * np.clip(1.0 - np.arange(n) / LOOK_BACK_BINS, 0.0, 1.0)
    held[0] += NUGGET
    size, shape = np.linalg.eigh(toeplitz(held))
    out: np.ndarray = np.linalg.inv(np.linalg.cholesky((shape * np.clip(size, NUGGET, None)) @ shape.T))
    return out


def _surface(across: np.ndarray, way: np.ndarray, filled: np.ndarray, white: np.ndarray) -> np.ndarray:
    """Log likelihoods by axis and strain, the size of the straying taken as the best one."""
    out = np.empty((len(AXES_DEG), len(STRAINS)))
    for i, axis in enumerate(np.radians(AXES_DEG)):
        turn = np.cos(2.0 * (way - axis)) * filled
        for j, strain in enumerate(STRAINS):
            out[i, j] = _log_likelihood(across, -strain / 2.0 * turn, filled, white)
    return out


def _log_likelihood(across: np.ndarray, more: np.ndarray, filled: np.ndarray, white: np.ndarray) -> float:
    """more: logarithm of how much larger the straying is at each bin, 0 where none is."""
    noise = (across * np.exp(-more)) @ white.T * filled
    return float(-filled.sum() / 2.0 * np.log((noise**2).sum()) - more.sum())


def _reach(across: np.ndarray, away: np.ndarray, filled: np.ndarray, white: np.ndarray) -> float | None:
    """The distance from the middle of a pull beyond which straying grows; None where no distance is clearly it."""

    def fit(reach: float) -> float:
        return _log_likelihood(across, np.log1p(BEYOND * np.clip(away / reach - 1.0, 0.0, 2.0)) * filled, filled, white)

    fits = [fit(reach) for reach in REACHES_MM]
    best = int(np.argmax(fits))
    beyond = away[filled > 0.0].max() > REACHES_MM[best]
    none = _log_likelihood(across, np.zeros_like(across), filled, white)
    return float(REACHES_MM[best]) if beyond and fits[best] > none + CLEAR else None


def _place(pulls: Sequence[Beside]) -> tuple[float, float] | None:
    """Where on the glass the steadier half of the pulls lay: their middle."""
    known = [pull for pull in pulls if pull.place is not None]
    if len(known) < LEAST_PULLS:
        return None
    rms = np.array([np.sqrt((pull.across**2).mean()) for pull in known])
    places = np.array([pull.place for pull in known])[rms <= np.median(rms)]
    x, y = np.median(places, axis=0)
    return float(x), float(y)


def _means(values: np.ndarray, number: np.ndarray) -> np.ndarray:
    out: np.ndarray = np.bincount(number, weights=values) / np.bincount(number)
    return out
