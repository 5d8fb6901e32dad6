"""Where the courses of a set go: at the pitch that is asked, even at the middle of each, whatever the form does to
them before and after; and what of each lies in the field."""

from dataclasses import dataclass

import numpy as np

from plain_stride.tone.errors import ToneError
from plain_stride.tone.field import Field
from plain_stride.tone.grey import Grey
from plain_stride.tone.nets import Net, Straight, spacing

PROBES, ALONG, REFINED = 129, 65, 24
STEP_MM, MOST_ALONG = 1.0, 600
MOST_STROKES, LEAST_LONG_MM = 100_000, 0.2


@dataclass(frozen=True)
class Range:
    """What the strokes of a set may be. lightest, heaviest: mm wide; least: mm that a stroke in the middle of the field
    has at least; gap: mm of white between two that print holds; pitch: mm, None for as fine as holds; widening: by
    which share each pitch is larger than the one before, in the direction in which t grows."""

    lightest: float
    heaviest: float
    least: float
    gap: float
    pitch: float | None = None
    widening: float = 0.0


@dataclass(frozen=True, eq=False)
class Courses:
    """t (k,): where they go; asked (k,): where they would by rule; cell (k,): how much of t each stands for; pitch: mm
    between them, as a mean."""

    t: np.ndarray
    asked: np.ndarray
    cell: np.ndarray
    pitch: float


@dataclass(frozen=True, eq=False)
class Pieces:
    """What of courses lies in a field: course (m,), from v0 (m,) to v1 (m,), ends (m, 2, 2) exactly on its edges."""

    course: np.ndarray
    v0: np.ndarray
    v1: np.ndarray
    ends: np.ndarray


@dataclass(frozen=True, eq=False)
class _Probe:
    """At places across (t): where the middle of a course lies along it, how far apart courses are there for a step of 1
    in t, and which greys (least, middle, most) a course runs through."""

    t: np.ndarray
    v: np.ndarray
    apart: np.ndarray
    low: np.ndarray
    mean: np.ndarray
    high: np.ndarray


def placed(net: Net, field: Field, grey: Grey, sets: int, wanted: Range) -> Courses:
    """Where courses go. Raises ToneError where none reaches the field, or more than MOST_STROKES do."""
    probe = _probed(net, field, grey, sets)
    pitch = _pitch(probe, wanted)
    steps = np.diff(probe.t)
    apart = np.concatenate([[0.0], np.cumsum(steps * (probe.apart[1:] + probe.apart[:-1]) / 2.0)])
    dense = probe.apart / pitch
    count = np.concatenate([[0.0], np.cumsum(steps * (dense[1:] + dense[:-1]) / 2.0)])
    count = _widened(count, wanted.widening) if wanted.widening else count
    if count[-1] > MOST_STROKES:
        raise ToneError(
            f"that would be {count[-1]:,.0f} strokes: {MOST_STROKES:,} are laid at most; take a wider pitch"
        )
    n = max(1, round(float(count[-1])))
    edges = np.interp(np.arange(2 * n + 1) / (2.0 * n) * count[-1], count, probe.t)
    return Courses(edges[1::2], edges[1::2], np.diff(edges[::2]), float(apart[-1] / n))


def _widened(count: np.ndarray, share: float) -> np.ndarray:
    """Courses up to places where each pitch is larger by a share than the one before, in the way in which they are
    counted, or against it where below 0: n pitches that grow by r are ((1 + r)^n - 1) / ln(1 + r) of the first."""
    rate = float(np.log1p(abs(share)))
    if share > 0.0:
        return np.asarray(np.log1p(rate * count) / rate)
    back = np.log1p(rate * (count[-1] - count)) / rate
    return np.asarray(back[0] - back)


def _probed(net: Net, field: Field, grey: Grey, sets: int) -> _Probe:
    low, high = reached(net, field)
    t = np.linspace(low, high, PROBES)
    v = np.linspace(0.0, 1.0, ALONG if not isinstance(net, Straight) else 4 * ALONG)
    points, inside = _seen(net, field, t, v)
    shares = grey.share_of(sets, points)
    counts = np.maximum(inside.sum(axis=1), 1)
    some = inside.any(axis=1)
    if not some.any():
        # The field is thinner than the net of probes: its middle tells.
        some, inside = np.ones(PROBES, bool), np.ones_like(inside)
        counts = inside.sum(axis=1)
    mean = np.where(inside, shares, 0.0).sum(axis=1) / counts
    least, most = np.where(inside, shares, np.inf).min(axis=1), np.where(inside, shares, -np.inf).max(axis=1)
    middle = (inside * v).sum(axis=1) / counts
    # Where a course meets nothing of the field, the nearest one that does stands for it.
    known = np.flatnonzero(some)
    fill = known[np.abs(known[None, :] - np.arange(PROBES)[:, None]).argmin(axis=1)]
    middle, mean, least, most = middle[fill], mean[fill], least[fill], most[fill]
    return _Probe(t, middle, np.maximum(spacing(net, t, middle), 1e-9), least, mean, most)


def _seen(net: Net, field: Field, t: np.ndarray, v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(places (k, m, 2) of courses, whether each is in the field)."""
    import shapely

    points = net.at(*np.meshgrid(t, v, indexing="ij"))
    return points, shapely.contains_xy(field.area, points[..., 0], points[..., 1])


def reached(net: Net, field: Field) -> tuple[float, float]:
    """Between which t courses run through the field."""
    low, high = net.span
    if isinstance(net, Straight):
        (x, y), (u, w) = net.middle, net.way
        across = (field.corners - (x, y)) @ np.array([-w, u])
        return float(across.min()), float(across.max())
    t = np.linspace(low, high, 4 * PROBES + 1)
    hit = np.flatnonzero(_hits(net, field, t))
    if not len(hit):
        raise ToneError("no stroke runs through that field: draw the direction, or the edges, through it")
    step = t[1] - t[0]
    first = _edge(net, field, float(t[hit[0]]), max(float(t[hit[0]]) - step, low))
    return first, _edge(net, field, float(t[hit[-1]]), min(float(t[hit[-1]]) + step, high))


def _edge(net: Net, field: Field, inside: float, outside: float) -> float:
    """Where courses begin to run through the field, by halving."""
    if _hits(net, field, np.array([outside]))[0]:
        return outside
    for _ in range(REFINED):
        middle = (inside + outside) / 2.0
        inside, outside = (middle, outside) if _hits(net, field, np.array([middle]))[0] else (inside, middle)
    return inside


def _hits(net: Net, field: Field, t: np.ndarray) -> np.ndarray:
    import shapely

    return np.asarray(shapely.intersects(field.area, _drawn(net, t)[0]))


def _drawn(net: Net, t: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(courses as shapely has them, places (k, m, 2), v (m,))."""
    import shapely

    low, high = net.span
    middle = np.full(33, (low + high) / 2.0)
    legs = np.diff(net.at(middle, np.linspace(0.0, 1.0, 33)), axis=0)
    length = float(np.hypot(*legs.T).sum())
    n = 2 if isinstance(net, Straight) else int(np.clip(np.ceil(length / STEP_MM), 16, MOST_ALONG)) + 1
    v = np.linspace(0.0, 1.0, n)
    points = net.at(*np.meshgrid(t, v, indexing="ij"))
    return shapely.linestrings(points), points, v


def _pitch(probe: _Probe, wanted: Range) -> np.ndarray:
    """mm between courses at places across: as asked; else as fine as print and the nib's range hold."""
    if wanted.pitch is not None:
        return np.full(len(probe.t), wanted.pitch)
    mean, most = np.maximum(probe.mean, 1e-3), np.clip(probe.high, 1e-3, 0.98)
    fine = np.maximum(wanted.least / mean, wanted.gap / (1.0 - most))
    return np.asarray(np.minimum(np.maximum(fine, wanted.lightest / mean), wanted.heaviest / most))


def pieces_of(net: Net, field: Field, courses: Courses) -> Pieces:
    """What of courses lies in a field, in their order, each from where it starts to where it ends. Linear in them."""
    import shapely

    if isinstance(net, Straight):
        return _straight_pieces(net, field, courses)
    lines, points, v = _drawn(net, courses.t)
    cut, course = shapely.get_parts(shapely.intersection(lines, field.area), return_index=True)
    long = (shapely.get_type_id(cut) == 1) & (shapely.length(cut) > LEAST_LONG_MM)
    cut, course = cut[long], course[long]
    ends = np.stack([shapely.get_coordinates(shapely.get_point(cut, k)) for k in (0, -1)], axis=1).reshape(-1, 2, 2)
    places = [_along(lines[course], points[course], v, ends[:, k]) for k in (0, 1)]
    turned = places[0] > places[1]
    ends[turned] = ends[turned][:, ::-1]
    v0, v1 = np.minimum(*places), np.maximum(*places)
    order = np.lexsort((v0, course))
    return Pieces(course[order], v0[order], v1[order], ends[order])


def _straight_pieces(net: Straight, field: Field, courses: Courses) -> Pieces:
    """The same of straights: where they cross the field's edges, inside after every odd crossing. n log n in the
    crossings."""
    (x, y), (u, w) = net.middle, net.way
    rings = field.rings()
    a = np.concatenate(rings)
    b = np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])
    across, along = ([(p - (x, y)) @ way for p in (a, b)] for way in (np.array([-w, u]), np.array([u, w])))
    order = np.argsort(courses.t, kind="stable")
    t = courses.t[order]
    first, last = (np.searchsorted(t, end, side="right") for end in (np.minimum(*across), np.maximum(*across)))
    edge = np.repeat(np.arange(len(a)), last - first)
    k = np.arange(len(edge)) - np.repeat(np.cumsum(last - first) - (last - first), last - first) + first[edge]
    share = (t[k] - across[0][edge]) / (across[1][edge] - across[0][edge])
    s = along[0][edge] + share * (along[1][edge] - along[0][edge])
    rank = np.lexsort((s, k))
    course, s = order[k[rank][::2]], s[rank].reshape(-1, 2)
    long = s[:, 1] - s[:, 0] > LEAST_LONG_MM
    course, s = course[long], s[long]
    v = s / (2.0 * net.reach) + 0.5
    by_course = np.lexsort((v[:, 0], course))
    course, v = course[by_course], v[by_course]
    ends = net.at(courses.t[course][:, None], v)
    return Pieces(course, v[:, 0], v[:, 1], ends)


def _along(lines: np.ndarray, points: np.ndarray, v: np.ndarray, at: np.ndarray) -> np.ndarray:
    """v (m,) of places (m, 2) on courses, one each."""
    import shapely

    far = shapely.line_locate_point(lines, shapely.points(at))
    legs = np.hypot(*np.moveaxis(np.diff(points, axis=1), -1, 0))
    s = np.concatenate([np.zeros((len(points), 1)), np.cumsum(legs, axis=1)], axis=1)
    k = np.clip((s <= far[:, None]).sum(axis=1) - 1, 0, len(v) - 2)
    m = np.arange(len(points))
    u = (far - s[m, k]) / np.maximum(s[m, k + 1] - s[m, k], 1e-12)
    return np.asarray(v[k] + u * (v[k + 1] - v[k]))
