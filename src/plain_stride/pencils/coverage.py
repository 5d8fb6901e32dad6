"""Pencils against ink: what has ink, what has not yet, what ink has no pencil, how far it strays."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

STEP_MM = 0.25
INKED_MM, OWN_MM = 0.8, 2.5
"""Ink within INKED_MM of a pencil line, and half the rough's width, is ink of it; ink that is farther than OWN_MM from
any pencil is an addition of the inker's own."""
LEAST_RUN_MM, ALONG_DEG = 1.0, 40.0
"""Shorter bare stretches are breath, not gaps; ink that crosses a pencil line at a steeper angle does not cover it."""


@dataclass(frozen=True, eq=False)
class Pencil:
    """points (n, 2) mm of a read line; width: of the rough, mm."""

    points: np.ndarray
    width: float
    closed: bool = False


@dataclass(frozen=True, eq=False)
class Strays:
    """Of one inked line, against the pencils it follows, mm. share: of its length that follows any; places: how many
    places were measured; over: whether it lies farther off than OWN_MM in places, which count as the inker's own."""

    rms: float
    most: float
    at: tuple[float, float]
    share: float
    places: int = 1
    over: bool = False


@dataclass(frozen=True, eq=False)
class Coverage:
    """inked: share of the pencils' length that has ink, by line and over all; bare: stretches (n, 2) mm without ink;
    own: ink, by its key, that has no pencil, as stretches; straying: by ink's key, where it follows pencils."""

    inked: float
    by_line: tuple[float, ...]
    bare: tuple[np.ndarray, ...]
    own: Mapping[str, tuple[np.ndarray, ...]]
    straying: Mapping[str, Strays]
    bare_mm: float
    own_mm: float


def coverage(pencils: Sequence[Pencil], ink: Mapping[str, np.ndarray], toned: Sequence[np.ndarray] = ()) -> Coverage:
    """ink: centrelines (n, 2) mm by key, a closed one repeating its first point; toned: strokes of tones, which ink
    pencils that they run along but are never the inker's own nor straying: they were laid by a grey."""
    from scipy.spatial import cKDTree

    rough = [_dense(p.points, p.closed) for p in pencils]
    drawn = {key: _dense(points, False) for key, points in ink.items() if len(points) > 1}
    if not rough:
        return Coverage(1.0, (), (), {k: (p,) for k, p in drawn.items()}, {}, 0.0, sum(map(_length, drawn.values())))
    inks = [*drawn.values(), *(_dense(points, False) for points in toned if len(points) > 1)]
    marks = np.vstack(inks) if inks else np.full((1, 2), 1e9)
    tangents = np.vstack([_tangents(p) for p in inks]) if inks else np.zeros((1, 2))
    tree, covered, bare = cKDTree(marks), [], []
    for one, pencil in zip(rough, pencils, strict=True):
        reach = INKED_MM + pencil.width / 2.0
        has = _has_ink(one, tree, tangents, reach)
        covered.append(float(has.mean()))
        bare += _runs(one, ~has)
    lengths = np.array([_length(p) for p in rough])
    own, straying = _of_ink(rough, drawn)
    return Coverage(
        float((np.array(covered) * lengths).sum() / max(lengths.sum(), 1e-9)),
        tuple(covered),
        tuple(bare),
        own,
        straying,
        sum(map(_length, bare)),
        sum(_length(run) for runs in own.values() for run in runs),
    )


def _has_ink(points: np.ndarray, tree: object, tangents: np.ndarray, reach: float) -> np.ndarray:
    """Whether ink runs along, not only across, within reach of each point of a pencil line."""
    near = tree.query_ball_point(points, reach)  # type: ignore[attr-defined]
    own, least = _tangents(points), np.cos(np.radians(ALONG_DEG))
    return np.array([bool(len(found)) and bool((np.abs(tangents[found] @ tangent) >= least).any())
                     for found, tangent in zip(near, own, strict=True)])  # fmt: skip


def _of_ink(
    rough: list[np.ndarray], drawn: Mapping[str, np.ndarray]
) -> tuple[dict[str, tuple[np.ndarray, ...]], dict[str, Strays]]:
    from scipy.spatial import cKDTree

    tree = cKDTree(np.vstack(rough))
    own: dict[str, tuple[np.ndarray, ...]] = {}
    straying: dict[str, Strays] = {}
    for key, points in drawn.items():
        far = tree.query(points)[0]
        follows = far <= OWN_MM
        runs = _runs(points, ~follows)
        if runs:
            own[key] = tuple(runs)
        if follows.any():
            k = int(np.argmax(np.where(follows, far, -1.0)))
            straying[key] = Strays(float(np.sqrt(np.mean(far[follows] ** 2))), float(far[k]),
                                   (float(points[k, 0]), float(points[k, 1])), float(follows.mean()),
                                   int(follows.sum()), bool(runs))  # fmt: skip
    return own, straying


def _runs(points: np.ndarray, wanted: np.ndarray) -> list[np.ndarray]:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], wanted, [False]]).astype(int)))
    return [points[a:b] for a, b in zip(edges[::2], edges[1::2], strict=True) if (b - a) * STEP_MM >= LEAST_RUN_MM]


def _dense(points: np.ndarray, closed: bool) -> np.ndarray:
    p = np.vstack([points, points[:1]]) if closed else np.asarray(points, float)
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
    at = np.linspace(0.0, s[-1], max(2, round(s[-1] / STEP_MM) + 1))
    return np.column_stack([np.interp(at, s, p[:, k]) for k in (0, 1)])


def _length(points: np.ndarray) -> float:
    return float(np.hypot(*np.diff(points, axis=0).T).sum())


def _tangents(points: np.ndarray) -> np.ndarray:
    tangent = np.gradient(points, axis=0)
    out: np.ndarray = tangent / np.maximum(np.hypot(*tangent.T), 1e-9)[:, None]
    return out
