"""Chains, rings, ropes and braids along a line: strands that pass in front of each other and tuck behind.

A motif is laid out along a straight (u along, v across), every strand with a height at each of its places; the straight
is then the line. Where two strands cross, the lower one is cut, so that white is left on both sides of the upper.
"""

import itertools
from dataclasses import dataclass

import numpy as np

from plain_stride.lines.cross import crossings
from plain_stride.lines.curve import Arc
from plain_stride.lines.errors import LinesError

KINDS = CHAIN, RINGS, ROPE, BRAID = ("chain", "rings", "rope", "braid")
MOST_STRANDS, PLACES, TURN_PLACES = 600, 49, 24
LINK_LONG, LINK_APART, RING_APART = 1.7, 1.15, 0.72
"""Of the motif's size: how long a link is, and how far apart links and rings begin."""
ROPE_PITCH, ROPE_LEAN, BRAID_PITCH = 0.75, 0.9, 2.4
"""Of its size: how far apart the strands of a rope are, how far each runs along, and how long a turn of a braid is."""
LEAST_MM, WHITE_WIDTHS = 0.3, 1.0


class MotifError(LinesError):
    """A motif that has no room, or would be too many strands."""


@dataclass(frozen=True, eq=False)
class Strand:
    """points (n, 2): along and across, or on the sheet; height (n,): the larger lies in front."""

    points: np.ndarray
    height: np.ndarray


def motif(kind: str, guide: Arc, size: float, width: float) -> list[np.ndarray]:
    """Lines (n, 2) mm of a motif so large across, along a line, for strokes of a width. Raises MotifError."""
    laid = {CHAIN: _chain, RINGS: _rings, ROPE: _rope, BRAID: _braid}[kind](guide.length, size)
    if not laid:
        raise MotifError(f"that line is too short for a {kind} {size:g} mm across")
    if len(laid) > MOST_STRANDS:
        raise MotifError(f"that would be {len(laid)} strands: make it larger, or the line shorter")
    strands = [Strand(_on(guide, strand.points), strand.height) for strand in laid]
    return [piece for k in range(len(strands)) for piece in _in_front(strands, k, width)]


def _ellipse(u: float, half_u: float, half_v: float) -> Strand:
    t = np.linspace(0.0, 2.0 * np.pi, PLACES)
    # Each link lies over the next one above the middle, and under it below.
    return Strand(np.column_stack([u + half_u * np.cos(t), half_v * np.sin(t)]), -np.cos(t) * np.sin(t))


def _links(length: float, size: float, long: float, apart: float) -> list[Strand]:
    n = int((length - long * size) / (apart * size)) + 1 if length >= long * size else 0
    start = (length - (n - 1) * apart * size) / 2.0 if n else 0.0
    return [_ellipse(start + k * apart * size, long * size / 2.0, size / 2.0) for k in range(n)]


def _chain(length: float, size: float) -> list[Strand]:
    return _links(length, size, LINK_LONG, LINK_APART)


def _rings(length: float, size: float) -> list[Strand]:
    return _links(length, size, 1.0, RING_APART)


def _rope(length: float, size: float) -> list[Strand]:
    pitch, lean, half = ROPE_PITCH * size, ROPE_LEAN * size, size / 2.0
    n = int((length - lean) / pitch) + 1 if length > lean else 0
    if n < 1:
        return []
    start, t = (length - (n - 1) * pitch - lean) / 2.0, np.linspace(0.0, 1.0, TURN_PLACES)
    ease = t * t * (3.0 - 2.0 * t)
    lays = [Strand(np.column_stack([start + k * pitch + lean * t, half * (2.0 * ease - 1.0)]), np.zeros(len(t)))
            for k in range(n)]  # fmt: skip
    # Its edges swell over each lay and come in where two meet.
    s = np.linspace(start, start + (n - 1) * pitch + lean, max(PLACES, 12 * n))
    edges = []
    for side, shift in ((-1.0, 0.0), (1.0, lean)):
        swell = 0.10 * size * np.abs(np.sin(np.pi * (s - start - shift) / pitch))
        edges.append(Strand(np.column_stack([s, side * (half + swell)]), np.ones(len(s))))
    return [*edges, *lays]


def _braid(length: float, size: float) -> list[Strand]:
    turn = BRAID_PITCH * size
    if length < turn:
        return []
    s = np.linspace(0.0, length, max(PLACES, int(length / turn * 36)))
    phases = 2.0 * np.pi * (s[:, None] / turn + np.array([0.0, 1.0, 2.0]) / 3.0)
    return [Strand(np.column_stack([s, size / 2.0 * np.sin(phase)]), np.sin(2.0 * phase)) for phase in phases.T]


def _on(guide: Arc, points: np.ndarray) -> np.ndarray:
    """Places along and across a line, on the sheet."""
    s = np.clip(points[:, 0], 0.0, guide.length)
    way = guide.direction(s)
    normal = np.column_stack([-way[:, 1], way[:, 0]])
    beyond = (points[:, 0] - s)[:, None] * way
    out: np.ndarray = guide.point(s) + points[:, 1:] * normal + beyond
    return out


def _in_front(strands: list[Strand], k: int, width: float) -> list[np.ndarray]:
    """What is left of a strand where others pass in front of it."""
    own = strands[k]
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(own.points, axis=0).T))])
    closed = bool(np.hypot(*(own.points[-1] - own.points[0])) < 1e-6)
    gaps: list[tuple[float, float]] = []
    for n, other in enumerate(strands):
        if n == k or not _boxes_meet(own.points, other.points):
            continue
        i, j = crossings(own.points, other.points)
        for a, b in zip(i, j, strict=True):
            under = np.interp(a, np.arange(len(along)), own.height) < np.interp(b, np.arange(len(other.height)),
                                                                                other.height)  # fmt: skip
            if under:
                at = float(np.interp(a, np.arange(len(along)), along))
                half = width * (0.5 + WHITE_WIDTHS) / max(_sine(own.points, a, other.points, b), 0.35)
                gaps.append((at - half, at + half))
    if not gaps:
        return [own.points]
    return [_stretch(own.points, along, a, b) for a, b in _left(sorted(gaps), float(along[-1]), closed)]


def _left(gaps: list[tuple[float, float]], length: float, closed: bool) -> list[tuple[float, float]]:
    """Stretches that are left between gaps; on a closed one the last goes on over the seam."""
    edges = [0.0, *itertools.chain(*gaps), length]
    left = [(a, b) for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a > LEAST_MM]
    if closed and len(left) > 1 and left[0][0] == 0.0 and left[-1][1] == length:
        first = left.pop(0)
        left[-1] = (left[-1][0], length + first[1])
    return left


def _stretch(points: np.ndarray, along: np.ndarray, a: float, b: float) -> np.ndarray:
    s = np.linspace(a, b, max(6, int((b - a) / max(along[-1], 1e-9) * len(points)) + 2)) % (along[-1] + 1e-9)
    return np.column_stack([np.interp(s, along, points[:, k]) for k in (0, 1)])


def _boxes_meet(a: np.ndarray, b: np.ndarray) -> bool:
    return bool((a.min(axis=0) <= b.max(axis=0)).all() and (b.min(axis=0) <= a.max(axis=0)).all())


def _sine(a: np.ndarray, i: float, b: np.ndarray, j: float) -> float:
    """The sine of the angle at which two chains cross."""
    ways = []
    for points, at in ((a, i), (b, j)):
        k = int(np.clip(at, 0, len(points) - 2))
        ways.append(points[k + 1] - points[k])
    cross = float(ways[0][0] * ways[1][1] - ways[0][1] * ways[1][0])
    return abs(cross) / max(float(np.hypot(*ways[0]) * np.hypot(*ways[1])), 1e-12)
