"""Where lines cross, and which one is under the pen."""

import numpy as np

TOUCH_MM, DIRECT = 0.02, 4096
"""An end that stops this short of another line still counts as reaching it."""


def crossings(a: np.ndarray, b: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(i + share, j + share): places on polylines a (n, 2) and b (m, 2) where they cross, as fractional indices.

    Both ends of b are carried on by TOUCH_MM, so that a line which only just reaches a counts.
    """
    b = _carried_on(b)
    pairs = _near_pairs(a, b)
    if not len(pairs):
        return np.zeros(0), np.zeros(0)
    i, j = pairs.T
    p, r = a[i], a[i + 1] - a[i]
    q, s = b[j], b[j + 1] - b[j]
    det = r[:, 0] * s[:, 1] - r[:, 1] * s[:, 0]
    ok = np.abs(det) > 1e-12 * (np.hypot(*r.T) * np.hypot(*s.T) + 1e-30)
    det = np.where(ok, det, 1.0)
    d = q - p
    u = (d[:, 0] * s[:, 1] - d[:, 1] * s[:, 0]) / det
    v = (d[:, 0] * r[:, 1] - d[:, 1] * r[:, 0]) / det
    hit = ok & (u >= 0) & (u < 1) & (v >= 0) & (v <= 1)
    return i[hit] + u[hit], j[hit] + v[hit]


def self_crossings(a: np.ndarray) -> np.ndarray:
    """Fractional indices (both passes) where a polyline crosses itself. (k, 2) for points (n, 2)."""
    pairs = _near_pairs(a, a)
    pairs = pairs[pairs[:, 1] > pairs[:, 0] + 1]
    found = []
    for i, j in pairs:
        u, v = _cross(a[i], a[i + 1], a[j], a[j + 1])
        if u is not None and not (i == 0 and j == len(a) - 2 and u < 1e-9):
            found += [i + u, j + v]
    return np.array(found)


def nearest(points: np.ndarray, at: np.ndarray) -> tuple[float, float]:
    """(distance, fractional index) of the place on a polyline that lies nearest to a point. Points (n, 2) and place
    (2,) in mm; the index is a number of segments."""
    a, d = points[:-1], np.diff(points, axis=0)
    share = ((at - a) * d).sum(axis=1) / np.maximum((d * d).sum(axis=1), 1e-18)
    share = np.clip(share, 0.0, 1.0)
    away = np.hypot(*(a + share[:, None] * d - at).T)
    k = int(away.argmin())
    return float(away[k]), k + float(share[k])


def _carried_on(b: np.ndarray) -> np.ndarray:
    out = b.copy()
    for end, inner in ((0, 1), (-1, -2)):
        d = b[end] - b[inner]
        out[end] = b[end] + d / max(np.hypot(*d), 1e-12) * TOUCH_MM
    return out


def _near_pairs(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Pairs (k, 2) of segments whose boxes overlap: of those that lie in what both have in common, where these are many
    by sweeping blocks of 32 segments first."""
    boxes_a, boxes_b = _boxes(a), _boxes(b)
    own, other = _within(boxes_a, b), _within(boxes_b, a)
    if len(own) * len(other) <= DIRECT:
        i, j = np.nonzero(_overlap(boxes_a[own], boxes_b[other]))
        return np.column_stack([own[i], other[j]])
    blocks_a, blocks_b = _blocks(boxes_a), _blocks(boxes_b)
    found = []
    for i, j in np.argwhere(_overlap(blocks_a, blocks_b)):
        sa, sb = boxes_a[i * 32 : i * 32 + 32], boxes_b[j * 32 : j * 32 + 32]
        found.append(np.argwhere(_overlap(sa, sb)) + np.array([i * 32, j * 32]))
    return np.concatenate(found) if found else np.zeros((0, 2), int)


def _within(boxes: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Which boxes (n, 4) meet the box round points."""
    low, high = points.min(axis=0), points.max(axis=0)
    return np.flatnonzero((boxes[:, 0] <= high[0]) & (boxes[:, 2] >= low[0])
                          & (boxes[:, 1] <= high[1]) & (boxes[:, 3] >= low[1]))  # fmt: skip


def _boxes(p: np.ndarray) -> np.ndarray:
    return np.column_stack([np.minimum(p[:-1], p[1:]), np.maximum(p[:-1], p[1:])])


def _blocks(boxes: np.ndarray) -> np.ndarray:
    at = np.arange(0, len(boxes), 32)
    return np.column_stack([np.minimum.reduceat(boxes[:, :2], at), np.maximum.reduceat(boxes[:, 2:], at)])


def _overlap(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    return np.all((a[:, None, :2] <= b[None, :, 2:]) & (b[None, :, :2] <= a[:, None, 2:]), axis=2)


def _cross(a0: np.ndarray, a1: np.ndarray, b0: np.ndarray, b1: np.ndarray) -> tuple[float, float] | tuple[None, None]:
    r, s, d = a1 - a0, b1 - b0, b0 - a0
    det = r[0] * s[1] - r[1] * s[0]
    if abs(det) < 1e-15:
        return None, None
    u, v = (d[0] * s[1] - d[1] * s[0]) / det, (d[0] * r[1] - d[1] * r[0]) / det
    return (u, v) if 0 <= u < 1 and 0 <= v < 1 else (None, None)
