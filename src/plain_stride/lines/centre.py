"""From a steadied pull to a centreline: cubic pieces that remember when the pen was where, and how hard it pressed."""

import itertools
from dataclasses import dataclass, replace

import numpy as np

from plain_stride.hand.follow import followed
from plain_stride.hand.nib import Steadying
from plain_stride.hand.pull import Pull
from plain_stride.hand.rails import led
from plain_stride.hand.resample import read_at
from plain_stride.hand.steady import Steadied, steady
from plain_stride.lines.curve import Arc, parameters, straight
from plain_stride.lines.fit import fit_path

DENSE_MM, APART_MM = 0.1, 0.008
DOT_MM = 0.001
"""Length that a tap is given, so that it has a direction."""
CENTRE_VERSION = 5
"""Raised when the same pull would become another centreline: kept results of an older one are then made anew."""


@dataclass(frozen=True, eq=False)
class Centreline:
    """curve (m, 4, 2); s, source_t, pressure (k,): arc length, the line's source parameter there (seconds of the pull,
    or arc length for a line without one) and pressure 0..1. Figures in mm as `Steadied` has them."""

    curve: np.ndarray
    s: np.ndarray
    source_t: np.ndarray
    pressure: np.ndarray
    tremor_mm: float = 0.0
    moved_mm: float = 0.0
    own_leeway_mm: float = 0.0


@dataclass(frozen=True, eq=False)
class Following:
    """share (0..1) of the way to a pencil line (n, 2) mm that a pull is drawn to it; strict: all along and exactly, as
    along a rail."""

    share: float
    line: np.ndarray
    strict: bool = False

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Following) or (self.share, self.strict) != (other.share, other.strict):
            return False
        return np.array_equal(self.line, other.line)

    def __hash__(self) -> int:
        return hash((self.share, self.strict, self.line.tobytes()))

    def drawn(self, path: np.ndarray) -> np.ndarray:
        """A path (n, 2) mm, even in time, drawn to the line."""
        if self.strict:
            return path + self.share * (led(path, self.line) - path)
        return followed(path, self.line, self.share)


def centreline_of(pull: Pull, setting: Steadying, following: Following | None = None) -> Centreline:
    """The centreline of a pull, steadied, drawn to the pencils if wanted, and fitted. A tap becomes DOT_MM long."""
    steadied = steady(pull.samples, setting, pull.view.scale, pull.raster)
    if following is not None:
        steadied = replace(steadied, path=following.drawn(steadied.path))
    return fitted(steadied)


def fitted(steadied: Steadied) -> Centreline:
    """The steadied path as cubics within the tolerance of `fit_path`, kinked at its corners."""
    points, t, corners = _dense(steadied)
    figures = (steadied.tremor_mm, steadied.moved_mm, steadied.own_leeway_mm)
    if len(points) < 2:
        at = points[0]
        curve = straight(np.array([at, at + np.array([DOT_MM, 0.0])]))
        source_t = np.array([steadied.t[0], max(steadied.t[-1], steadied.t[0] + 1e-3)])
        return Centreline(curve, np.array([0.0, DOT_MM]), source_t, np.full(2, steadied.pressure.max()), *figures)
    curve, joints = fit_path(points, corners)
    ends = Arc(curve).at_piece_ends()
    chord = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    s = np.interp(chord, chord[joints], ends)
    pressure = np.interp(t, steadied.t, steadied.pressure)
    return Centreline(curve, s, t, pressure, *figures)


def _dense(steadied: Steadied) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(points, times, corner indices): the C1 path through the steadied samples, its points DENSE_MM apart or less
    and none nearer than APART_MM to the one before, corners and ends kept."""
    path, t = steadied.path, steadied.t
    if len(path) < 2:
        return path[:1], t[:1], np.zeros(0, int)
    cuts = [0, *steadied.corners.tolist(), len(path) - 1]
    points, times, joints = [path[:1]], [t[:1]], []
    for a, b in itertools.pairwise(cuts):
        p, q = path[a : b + 1], t[a : b + 1]
        step = np.hypot(*np.diff(p, axis=0).T)
        k, u = parameters(np.clip(np.ceil(step / DENSE_MM), 1, 400).astype(int))
        at = q[k] + u * np.append(np.diff(q), 0.0)[k]
        at[-1] = q[-1]
        fine = read_at(q, p, at)
        keep = _apart(fine)
        if len(keep) < 2:
            continue
        points.append(fine[keep[1:]])
        times.append(at[keep[1:]])
        joints.append(sum(map(len, points)) - 1)
    return np.vstack(points), np.concatenate(times), np.array(joints[:-1], int)


def _apart(p: np.ndarray) -> np.ndarray:
    """Indices of points that are APART_MM of the way from each other; the first and the last are kept."""
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
    if s[-1] < APART_MM:
        return np.zeros(1, int)
    keep = np.flatnonzero(np.concatenate([[True], np.diff(np.floor(s / APART_MM)) > 0]))
    if s[-1] - s[keep[-1]] < APART_MM / 2 and len(keep) > 1:
        keep = keep[:-1]
    return np.append(keep, len(p) - 1)
