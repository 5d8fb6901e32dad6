"""Places where the pencils do not say what they mean: passes apart, a second reading, lines that stop short."""

from dataclasses import dataclass

import numpy as np

from plain_stride.pencils.read.centres import STEP_MM, Centre
from plain_stride.pencils.read.graph import Graph
from plain_stride.pencils.read.ridges import Kind

APART_MM, APART_LONG_MM = 1.0, 1.4
"""Passes that lie so far apart, over such a length, disagree."""
STOP_FROM_W, STOP_TO_MM, STOP_DEG, STOP_LONG_MM = 1.2, 3.5, 14.0, 5.0
AROUND_MM, MOST_AROUND, MOST_AROUND_LONG, STOP_SURE_MM = 5.0, 2, 3, 15.0
"""So many other lines within 5 mm of an end that stops short, one more where the line is 15 mm long."""
LEAST_BOX_MM, PAD_MM = 1.0, 0.4
LOOP_LONG_MM, LOOP_APART_MM = 25.0, 2.6
EMPTY_PER_MM, EMPTY_MM, EMPTY_RING_MM, SIDES = 2.0, 6.0, 8.0, 12
BUSY, EMPTIER = 0.35, 3.0
"""Pixels a mm of the map; least radius of an empty place, width of the ring round it that is looked at, in so many
sectors, of which one at most may hold no line. The ring has at least so many mm of line for each square mm, and nine
in ten of its places lie three times nearer to a line than the middle of the empty one."""
OVERLAP_MM = 1.3
"""How near another line an end lies that belongs beside it."""
FINE_LONG_MM = 1.5
"""How long two lines must run closer than print holds."""


@dataclass(frozen=True)
class Limits:
    """What print holds, mm: the lightest nib, the least white between two lines, the thinnest line."""

    lightest: float = 0.10
    gap: float = 0.20
    line: float = 0.09


@dataclass(frozen=True)
class Place:
    """x, y: middle in mm of the scan; w, h: mm; reason: passes, two-readings, stops, close-up; measured in unit."""

    x: float
    y: float
    w: float
    h: float
    reason: str
    measured: float
    unit: str = "mm"


def undecided_places(centres: list[Centre], graph: Graph, kind: Kind) -> list[Place]:
    """The places, the worst first."""
    found = [*_passes_apart(centres), *_second_readings(graph), *_loops(graph), *_overlaps(centres),
             *_stops(centres, kind), *empty_places(centres)]  # fmt: skip
    found.sort(key=lambda place: -place.measured)
    out: list[Place] = []
    for place in found:
        if all(abs(place.x - p.x) > (place.w + p.w) / 2.0 or abs(place.y - p.y) > (place.h + p.h) / 2.0 for p in out):
            out.append(place)
    return out


def _box(points: np.ndarray, reason: str, measured: float) -> Place:
    low, high = points.min(axis=0) - PAD_MM, points.max(axis=0) + PAD_MM
    w, h = np.maximum(high - low, LEAST_BOX_MM)
    x, y = (low + high) / 2.0
    return Place(float(x), float(y), float(w), float(h), reason, round(float(measured), 3))


def _passes_apart(centres: list[Centre]) -> list[Place]:
    """Stretches whose darkness is far wider than the drawing's own: passes that disagree."""
    if not centres:
        return []
    usual = float(np.nanmedian(np.concatenate([*[c.spread for c in centres], np.full(1, 0.2)])))
    limit = max(APART_MM / 2.0, 1.45 * usual)
    out = []
    for c in centres:
        k = max(3, round(1.0 / STEP_MM))
        if len(c.spread) < 2 * k:
            continue
        wide = np.convolve(np.nan_to_num(c.spread), np.ones(k) / k, mode="same")
        wide[:k], wide[-k:] = 0.0, 0.0
        over = wide > limit
        edges = np.flatnonzero(np.diff(np.concatenate([[False], over, [False]]).astype(int)))
        for a, b in zip(edges[::2], edges[1::2], strict=True):
            if (b - a) * STEP_MM >= APART_LONG_MM:
                out.append(_box(c.points[a:b], "passes", 2.0 * float(wide[a:b].max())))
    return out


def _second_readings(graph: Graph) -> list[Place]:
    """Edges that were taken for another reading of the one beside them, where they are long enough to see."""
    from scipy.spatial import cKDTree

    kept = [e.points for e in graph.edges.values()]
    if not graph.doubled or not kept:
        return []
    tree = cKDTree(np.vstack(kept))
    out = []
    for points in graph.doubled:
        far = tree.query(points)[0]
        if far.max() >= APART_MM and np.count_nonzero(far > APART_MM / 2.0) * 0.25 >= APART_LONG_MM:
            out.append(_box(points[far > APART_MM / 2.0], "two-readings", float(far.max())))
    return out


def _loops(graph: Graph) -> list[Place]:
    """Two edges between the same joints that lie too near each other to be two things and too far to be one line."""
    from scipy.spatial import cKDTree

    pairs: dict[tuple[int, int], list[np.ndarray]] = {}
    for edge in graph.edges.values():
        if edge.a != edge.b and edge.length <= LOOP_LONG_MM:
            pairs.setdefault((min(edge.a, edge.b), max(edge.a, edge.b)), []).append(edge.points)
    out = []
    for both in pairs.values():
        if len(both) == 2:
            apart = float(cKDTree(both[0]).query(both[1])[0].max())
            if apart <= LOOP_APART_MM:
                out.append(_box(np.vstack(both), "two-readings", apart))
    return out


def _overlaps(centres: list[Centre]) -> list[Place]:
    """Two lines of which each begins beside the other: one line, drawn twice, that parts on the way."""
    from scipy.spatial import cKDTree

    if not centres:
        return []
    starts = np.cumsum([0, *(len(c.points) for c in centres)])
    points = np.vstack([c.points for c in centres])
    tips = [(n, end) for n, c in enumerate(centres) if not c.closed for end in (0, len(c.points) - 1)]
    near = cKDTree(points).query_ball_point(points[[starts[n] + end for n, end in tips]], OVERLAP_MM) if tips else []
    beside: dict[tuple[int, int], list[tuple[int, int]]] = {}
    for (n, end), found in zip(tips, near, strict=True):
        for m in {int(np.searchsorted(starts, k, side="right")) - 1 for k in found} - {n}:
            far = np.hypot(*(centres[m].points - centres[n].points[end]).T)
            beside.setdefault((n, m), []).append((end, int(np.argmin(far))))
    out = []
    for (n, m), ends in beside.items():
        for end, k in ends if n < m else ():
            for other, back in beside.get((m, n), ()):
                # From where the one begins beside the other to where the other ends beside it.
                place = _parted(_between(centres[m].points, k, other), _between(centres[n].points, end, back))
                out += [place] if place is not None else []
    return out


def _between(points: np.ndarray, a: int, b: int) -> np.ndarray:
    return points[min(a, b) : max(a, b) + 1]


def _parted(one: np.ndarray, two: np.ndarray) -> Place | None:
    """Two stretches that begin and end together, if they part on the way as passes do."""
    from scipy.spatial import cKDTree

    lengths = sorted(len(p) * STEP_MM for p in (one, two))
    if not APART_LONG_MM < lengths[0] <= lengths[1] <= min(LOOP_LONG_MM, 1.5 * lengths[0]):
        return None
    apart, back = cKDTree(two).query(one)[0], cKDTree(one).query(two)[0]
    most = float(max(apart.max(), back.max()))
    if not APART_MM <= most <= LOOP_APART_MM:
        return None
    wide = np.vstack([one[apart > APART_MM / 2.0], two[back > APART_MM / 2.0]])
    return _box(wide, "passes", most) if len(wide) else None


def _stops(centres: list[Centre], kind: Kind) -> list[Place]:
    """Free ends that point at a line a little ahead and do not reach it."""
    from scipy.spatial import cKDTree

    own = np.concatenate([np.full(len(c.points), n) for n, c in enumerate(centres)]) if centres else np.zeros(0)
    if not len(own):
        return []
    points = np.vstack([c.points for c in centres])
    tree = cKDTree(points)
    out = []
    for n, c in enumerate(centres):
        if c.closed or len(c.points) * STEP_MM < STOP_LONG_MM:
            continue
        for end in (0, 1):
            if not c.tips[end]:
                continue
            tip = c.points[0 if end == 0 else -1]
            back = c.points[min(12, len(c.points) - 1) if end == 0 else max(-13, -len(c.points))]
            tangent = (tip - back) / max(float(np.hypot(*(tip - back))), 1e-9)
            near = [k for k in tree.query_ball_point(tip, STOP_TO_MM) if own[k] != n]
            if not near:
                continue
            off = points[near] - tip
            long = np.hypot(*off.T)
            ahead = (off @ tangent) > long * np.cos(np.radians(STOP_DEG))
            if not ahead.any() or long.min() < STOP_FROM_W * kind.width:
                continue
            # Among many lines an end that points at one is chance, or the manner of the drawing.
            around = len({int(own[k]) for k in tree.query_ball_point(tip, AROUND_MM)} - {n})
            if around > (MOST_AROUND_LONG if len(c.points) * STEP_MM >= STOP_SURE_MM else MOST_AROUND):
                continue
            k = int(np.argmin(np.where(ahead, long, np.inf)))
            out.append(_box(np.array([tip, points[near[k]]]), "stops", float(long[k])))
    return out


def empty_places(centres: list[Centre]) -> list[Place]:
    """Where nothing is drawn in the midst of a busy form: round places far wider than what lies between lines around
    them, with lines on all sides."""
    from scipy import ndimage

    if not centres:
        return []
    points = np.vstack([c.points for c in centres])
    low = points.min(axis=0) - 2.0
    w, h = np.ceil((points.max(axis=0) + 2.0 - low) * EMPTY_PER_MM).astype(int)
    col, row = ((points - low) * EMPTY_PER_MM).astype(int).T
    length = np.bincount(row * w + col, minlength=h * w).reshape(h, w) * STEP_MM
    free = ndimage.distance_transform_edt(length == 0) / EMPTY_PER_MM
    widest = (free == ndimage.maximum_filter(free, round(EMPTY_MM * EMPTY_PER_MM))) & (free >= EMPTY_MM)
    out: list[Place] = []
    spots = np.argwhere(widest)
    for r, c in spots[np.argsort(-free[spots[:, 0], spots[:, 1]])].tolist():
        radius = float(free[r, c])
        place = low + (np.array([c, r]) + 0.5) / EMPTY_PER_MM
        if any(np.hypot(*(place - (p.x, p.y))) < p.measured / 2.0 for p in out):
            continue
        if _in_busy_form(length, free, r, c, radius):
            box = np.array([place - radius * 0.7, place + radius * 0.7])
            out.append(_box(box, "empty", 2.0 * radius))
    return out


def _in_busy_form(length: np.ndarray, free: np.ndarray, r: int, c: int, radius: float) -> bool:
    """Whether the ring round an empty place has many lines, on all sides, and little room between them."""
    reach = int((radius + EMPTY_RING_MM) * EMPTY_PER_MM) + 1
    r0, c0 = max(r - reach, 0), max(c - reach, 0)
    lines, room = (a[r0 : r + reach + 1, c0 : c + reach + 1] for a in (length, free))
    y, x = np.mgrid[0 : lines.shape[0], 0 : lines.shape[1]]
    y, x = y - (r - r0), x - (c - c0)
    far = np.hypot(y, x) / EMPTY_PER_MM
    ring = (far >= radius) & (far <= radius + EMPTY_RING_MM)
    if lines[ring].sum() < BUSY * np.count_nonzero(ring) / EMPTY_PER_MM**2:
        return False
    sides = np.unique(np.degrees(np.arctan2(y, x)[ring & (lines > 0)]) // (360.0 / SIDES))
    return len(sides) >= SIDES - 1 and radius >= EMPTIER * max(float(np.percentile(room[ring], 90)), 0.5)


def too_fine(centres: list[Centre], limits: Limits) -> list[Place]:
    """What would close up or vanish in print if it were inked with the lightest nib: stretches of lines closer than it
    and the least white allow, and rings smaller than that inside."""
    from scipy.spatial import cKDTree

    if not centres:
        return []
    own = np.concatenate([np.full(len(c.points), n) for n, c in enumerate(centres)])
    points = np.vstack([c.points for c in centres])
    least = max(limits.lightest, limits.line) + limits.gap
    pairs = cKDTree(points).query_pairs(least, output_type="ndarray")
    pairs = pairs[own[pairs[:, 0]] != own[pairs[:, 1]]]
    out = [_box(c.points, "close-up", across) for c in centres if c.closed and (across := _across(c)) < least]
    for a in np.unique(own[pairs[:, 0]]):
        mine = pairs[own[pairs[:, 0]] == a]
        for b in np.unique(own[mine[:, 1]]):
            both = mine[own[mine[:, 1]] == b]
            run = points[np.unique(both[:, 0])]
            if len(run) * STEP_MM >= FINE_LONG_MM:
                gap = float(np.hypot(*(points[both[:, 0]] - points[both[:, 1]]).T).mean())
                out.append(_box(run, "close-up", gap))
    return out


def _across(ring: Centre) -> float:
    """How wide a ring is at most inside, mm, by its area and its length: a circle's diameter, a slit's width."""
    p = ring.points
    x, y = p.T
    area = abs(float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)))) / 2.0
    length = float(np.hypot(*(np.roll(p, -1, axis=0) - p).T).sum())
    return 4.0 * area / max(length, 1e-9)
