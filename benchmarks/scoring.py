"""How a reading is held against the truth: lengths, numbers of lines, ends, corners, turning."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from plain_stride.pencils.read.reading import Reading

NEAR_MM, FAR_MM, STEP_MM = 0.25, 1.0, 0.1
CORNER_DEG, CORNER_MM = 38.0, 1.2


@dataclass(frozen=True)
class Score:
    """f1 of length within NEAR_MM; median, ends, corners: mm at the median; turning: per mm, found against true;
    false, missed: mm that are farther than FAR_MM from the other."""

    f1: float
    lines_per_true: float
    true_per_line: float
    median: float
    ends: float
    corners: float
    turning: float
    false: float
    missed: float

    def __str__(self) -> str:
        return (
            f"F1 {self.f1:.4f}, lines per true {self.lines_per_true:.2f}, true per line {self.true_per_line:.2f},"
            f" median {self.median:.3f}, ends {self.ends:.2f}, corners {self.corners:.2f} mm,"
            f" turning {self.turning:.2f}, false {self.false:.1f}, missed {self.missed:.1f} mm"
        )


def mean_score(scores: Sequence[Score]) -> Score:
    return Score(*(float(np.nanmean([getattr(s, f) for s in scores])) for f in Score.__dataclass_fields__))


def score(truth: Sequence[np.ndarray], reading: Reading) -> Score:
    """truth: polylines (n, 2) mm, a closed one repeating its first point."""
    true = [dense(line) for line in truth]
    found = [dense(np.vstack([r.points, r.points[:1]]) if r.closed else r.points) for r in reading.lines]
    t, f = np.vstack(true), np.vstack(found)
    from_truth, to_truth = cKDTree(f).query(t), cKDTree(t).query(f)
    precision, recall = (to_truth[0] < NEAR_MM).mean(), (from_truth[0] < NEAR_MM).mean()
    ends = np.vstack([line[[0, -1]] for line in truth if np.hypot(*(line[0] - line[-1])) > 0.5] or [np.zeros((0, 2))])
    tips = np.vstack([r.points[[0, -1]] for r in reading.lines if not r.closed] or [np.full((1, 2), np.inf)])
    corners = np.vstack([corners_of(line) for line in truth])
    return Score(
        float(2 * precision * recall / (precision + recall)),
        shared(true, found, from_truth),
        shared(found, true, to_truth),
        float(np.median(to_truth[0][to_truth[0] < NEAR_MM])),
        float(np.median(np.minimum(cKDTree(tips).query(ends)[0], 5.0))) if len(ends) else float("nan"),
        float(np.median(np.minimum(cKDTree(f).query(corners)[0], 5.0))) if len(corners) else float("nan"),
        _turning(found) / max(_turning(true), 1e-9),
        float(np.count_nonzero(to_truth[0] > FAR_MM) * STEP_MM),
        float(np.count_nonzero(from_truth[0] > FAR_MM) * STEP_MM),
    )


def corners_of(line: np.ndarray) -> np.ndarray:
    """Places (n, 2) where a true line turns sharply: by 38 degrees within the length of a pencil's point."""
    p = dense(line)
    k = round(CORNER_MM / STEP_MM)
    if len(p) < 2 * k + 3:
        return np.zeros((0, 2))
    a, b = p[k:-k] - p[: -2 * k], p[2 * k :] - p[k:-k]
    near = round(0.3 / STEP_MM)
    c, d = p[k:-k] - p[k - near : -k - near], p[k + near : len(p) - k + near] - p[k:-k]
    turn, sharp = _angle(a, b), _angle(c, d)
    peak = (sharp >= np.radians(CORNER_DEG)) & (turn >= np.radians(CORNER_DEG))
    out: list[np.ndarray] = []
    for n in np.argsort(-sharp):
        if peak[n] and all(np.hypot(*(p[n + k] - o)) > CORNER_MM for o in out):
            out.append(p[n + k])
    return np.array(out).reshape(-1, 2)


def _angle(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    return np.abs(np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1)))


def _turning(lines: Sequence[np.ndarray]) -> float:
    """Radians for each mm, over steps of half a mm, corners and all."""
    total, length = 0.0, 0.0
    for line in lines:
        way = np.diff(line[::5], axis=0)
        if len(way) > 2:
            total += float(_angle(way[:-1], way[1:]).sum())
        length += len(line) * STEP_MM
    return total / max(length, 1e-9)


def shared(ones: Sequence[np.ndarray], others: Sequence[np.ndarray], nearest: tuple[np.ndarray, np.ndarray]) -> float:
    """How many of the others take part in one, in the mean, by more than 1 mm and a tenth of it."""
    owner = np.concatenate([np.full(len(o), n) for n, o in enumerate(others)])
    counts, at = [], 0
    for one in ones:
        far, index = nearest[0][at : at + len(one)], nearest[1][at : at + len(one)]
        at += len(one)
        if (far < NEAR_MM).any():
            _, n = np.unique(owner[index[far < NEAR_MM]], return_counts=True)
            counts.append(np.count_nonzero(n * STEP_MM > max(1.0, 0.1 * len(one) * STEP_MM)))
    return float(np.mean(counts))


def dense(points: np.ndarray) -> np.ndarray:
    """A polyline with a point each STEP_MM."""
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    at = np.arange(0.0, s[-1] + 1e-9, STEP_MM)
    return np.column_stack([np.interp(at, s, points[:, k]) for k in (0, 1)])
