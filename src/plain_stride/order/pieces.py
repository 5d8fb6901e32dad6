"""What there is to ink, piece by piece: lines of the pencils with the part they belong to, and what else is asked."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

FRAMES, SILHOUETTES, INNER, DETAILS, HATCHING, BLACKS, AGAIN = KINDS = (
    "frames", "silhouettes", "inner lines", "details", "hatching", "blacks", "to draw again",
)  # fmt: skip
DETAIL_MM = 12.0
"""Shorter lines are details: common practice, big shapes first."""
REACH_MM, NEAR_MM, STEP_MM = 12.0, 3.0, 1.0
"""How far off ink still says which part a pencil line is of; how fast its word grows less with the distance; how
far apart it is asked."""
FRAME_MM = 1.5


@dataclass(frozen=True)
class Piece:
    """kind: of KINDS; part: its key, '' for none; mm: how long; inked: share of it that is done; at: a place of what is
    left, mm; dark: how dark the pencils are, or how wide the ink is to be, mm."""

    kind: str
    part: str
    mm: float
    inked: float
    at: tuple[float, float]
    dark: float = 0.0


def parts_by_neighbours(lines: Sequence[np.ndarray], ink: Sequence[np.ndarray], parts: Sequence[str]) -> list[str]:
    """The part of each pencil line (n, 2) mm, '' for none: the one whose ink (each (m, 2), of `parts`) lies nearest
    along it. n log n in their lengths."""
    from scipy.spatial import cKDTree

    marked = [(_spaced(one), part) for one, part in zip(ink, parts, strict=True) if len(one) > 1]
    if not marked:
        return [""] * len(lines)
    known = sorted(set(parts))
    marks = [mark for mark, _ in marked]
    of = np.concatenate([np.full(len(mark), known.index(part)) for mark, part in marked])
    tree = cKDTree(np.vstack(marks))
    out = []
    for line in lines:
        far, near = tree.query(_spaced(line), k=min(6, len(of)), distance_upper_bound=REACH_MM)
        far, near = np.atleast_2d(far).ravel(), np.atleast_2d(near).ravel()
        found = np.isfinite(far)
        said = np.bincount(of[near[found]], np.exp(-far[found] / NEAR_MM), len(known))
        out.append(known[int(said.argmax())] if said.any() else "")
    return out


def kinds_of(lines: Sequence[np.ndarray], parts: Sequence[str], frames: Sequence[np.ndarray]) -> list[str]:
    """The kind of each pencil line (n, 2) mm: along a frame (closed (m, 2)); outside of all that its part encloses;
    else by its length."""
    out = [DETAILS if _length(line) < DETAIL_MM else INNER for line in lines]
    for part in set(parts):
        mine = [k for k, of in enumerate(parts) if of == part]
        for k, outside in zip(mine, _outside([lines[k] for k in mine]), strict=True):
            if outside:
                out[k] = SILHOUETTES
    for k in _along(lines, frames):
        out[k] = FRAMES
    return out


def _outside(lines: Sequence[np.ndarray]) -> list[bool]:
    from plain_stride.form.outside import outside_of
    from plain_stride.form.places import Along

    spaced = [_spaced(line) for line in lines]
    ways = [np.gradient(one, axis=0) / np.maximum(np.hypot(*np.gradient(one, axis=0).T), 1e-9)[:, None]
            for one in spaced]  # fmt: skip
    alongs = [Along(_along_of(one), one, way)
              for one, way in zip(spaced, ways, strict=True)]  # fmt: skip
    return [side.share > 0.5 for side in outside_of(list(lines), alongs)]


def _along(lines: Sequence[np.ndarray], frames: Sequence[np.ndarray]) -> list[int]:
    """The lines most of which runs along a frame."""
    import shapely

    if not frames:
        return []
    edges = shapely.union_all([shapely.LineString(frame) for frame in frames])
    shapely.prepare(edges)
    return [k for k, line in enumerate(lines)
            if shapely.dwithin(edges, shapely.points(_spaced(line)), FRAME_MM).mean() > 0.8]  # fmt: skip


def _along_of(points: np.ndarray) -> np.ndarray:
    return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])


def _length(points: np.ndarray) -> float:
    return float(_along_of(points)[-1])


def _spaced(points: np.ndarray) -> np.ndarray:
    """Places (n, 2) about STEP_MM apart, both ends among them."""
    s = _along_of(points)
    at = np.linspace(0.0, s[-1], max(2, round(s[-1] / STEP_MM) + 1))
    return np.column_stack([np.interp(at, s, points[:, axis]) for axis in (0, 1)])
