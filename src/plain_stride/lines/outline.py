"""Outlines: the true edge of a line, the union of all the round discs that the brush sets along it.

A nib at s has its middle (left - right) / 2 beside the centreline and the radius (left + right) / 2. Where the line
is gentle the edge is the envelope of those discs, in closed form. Where it is not (a width above the bend's radius,
corners, loops) the line is cut into gentle stretches and tight ones, whose union is the edge.
"""

import numpy as np

from plain_stride.compiled.edge_loops import HIDDEN
from plain_stride.compiled.ready import floats, kernels
from plain_stride.lines.curve import direction, flat_counts, parameters, point
from plain_stride.lines.profile import Widths, sleeve

FLAT_MM = KNOT_MM = 0.0004
"""How near the discs' places and their radii are to the line's own."""
STEP_RAD = 0.08
CHUNK_RAD = 1.7
WITHIN_MM, NOTCH_MM = 0.00005, 0.0004
"""How far inside rounds the hulls of discs lie; how deep a notch between discs they fill."""
SEAM_MM = 0.00015
"""Steps below this where stretches were joined are taken out of the edge."""
_LEAST_HOLE = 1e-5


class BrushDiscs:
    """Discs along a line: middles (n, 2), radii (n,), unit directions (n, 2) of travel, turn (n - 1,) between them."""

    def __init__(self, middle: np.ndarray, radius: np.ndarray, travel: np.ndarray) -> None:
        self.middle, self.radius, self.travel = middle, radius, travel
        a, b = travel[:-1], travel[1:]
        self.turn = np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1))


def discs_along(curve: np.ndarray, arc_s: np.ndarray, widths: Widths, scale: float = 1.0) -> BrushDiscs:
    """Discs close enough that the envelope of neighbours is the edge within about 0.002 mm / scale.

    arc_s: arc lengths at the curve's joints, as `Arc.at_piece_ends` gives them. curve: (m, 4, 2) mm."""
    reach = max(float(widths.full.max()) / 2.0, 1e-6)
    compiled = kernels()
    if compiled is not None:
        arrays = floats(curve, arc_s, widths.s, widths.left, widths.right)
        found = compiled.discs_along(*arrays, np.array([FLAT_MM / scale, KNOT_MM / scale, 2.0 * STEP_RAD, reach]))
        return BrushDiscs(found[:, :2], found[:, 2], found[:, 3:])
    return _discs(curve, arc_s, _counts(curve, reach, scale), sleeve(widths, KNOT_MM / scale))


def _discs(curve: np.ndarray, arc_s: np.ndarray, counts: np.ndarray, widths: Widths) -> BrushDiscs:
    k, u = parameters(counts)
    p, d = point(curve, k, u), direction(curve, k, u)
    s = _arc_at(curve, arc_s, k, u)
    knots = widths.s[1:-1]
    if len(knots):
        cell = np.clip(np.searchsorted(s, knots, side="right") - 1, 0, len(s) - 2)
        share = (knots - s[cell]) / np.maximum(s[cell + 1] - s[cell], 1e-12)
        inside = (share > 0.02) & (share < 0.98)
        steps = counts[k[cell]]
        kk, uu = k[cell[inside]], (u[cell] + share / steps)[inside]
        order = np.argsort(np.concatenate([s, knots[inside]]), kind="stable")
        p = np.concatenate([p, point(curve, kk, uu)])[order]
        d = np.concatenate([d, direction(curve, kk, uu)])[order]
        s = np.concatenate([s, knots[inside]])[order]
    left, right = widths.at(s)
    p, d, left, right = _corner_doubled(curve, p, d, s, arc_s, left, right)
    normal = np.column_stack([d[:, 1], -d[:, 0]])
    return BrushDiscs(p + normal * ((left - right) / 2.0)[:, None], (left + right) / 2.0, d)


def outline(discs: BrushDiscs, closed: bool, flat: tuple[bool, bool]) -> list[np.ndarray]:
    """Rings (n, 2) of the line's edge, outer ones and holes turning opposite ways; no ring repeats its first point.

    flat: whether the start and the end are cut straight across instead of round.
    """
    if len(discs.radius) == 1 or np.hypot(*np.ptp(discs.middle, axis=0)) < 1e-6:
        return [_disc(discs.middle[0], float(discs.radius.max()))]
    rings = _gentle_rings(discs, closed, flat)
    return rings if rings is not None else _union_rings(discs, closed, flat)


def round_strip(discs: BrushDiscs) -> np.ndarray:
    """One ring (n, 2) of both edges with round ends. Where the line is tight it crosses itself, as no outline does."""
    return _strip(discs, (False, False))


def rings_area(rings: list[np.ndarray]) -> float:
    """Area enclosed, mm^2; holes count negative. rings: (n, 2) mm each."""
    return abs(sum(signed_area(r) for r in rings))


def signed_area(ring: np.ndarray) -> float:
    """mm^2 enclosed by a ring (n, 2); negative where it turns the other way."""
    x, y = (ring - ring[0]).T
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2.0)


def _counts(curve: np.ndarray, reach: float, scale: float) -> np.ndarray:
    a, b = direction_ends(curve)
    legs = np.diff(curve, axis=1)
    size = np.maximum(np.hypot(*np.moveaxis(legs, -1, 0)), 1e-12)
    unit = legs / size[..., None]
    turn = sum(
        np.arccos(np.clip((x * y).sum(-1), -1, 1))
        for x, y in ((a, unit[:, 0]), (unit[:, 0], unit[:, 1]), (unit[:, 1], unit[:, 2]), (unit[:, 2], b))
    )
    step = min(STEP_RAD * 2, 2.0 * np.sqrt(2.0 * FLAT_MM / scale / max(reach, 0.02)))
    by_turn = np.ceil(turn / step).astype(int)
    by_length = np.ceil(size.sum(axis=1) / 2.0).astype(int)
    return np.maximum.reduce([flat_counts(curve, FLAT_MM / scale), by_turn, by_length, np.full(len(curve), 2)])


def direction_ends(curve: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Unit directions (m, 2) at the start and the end of every piece."""
    k = np.arange(len(curve))
    return direction(curve, k, np.zeros(len(k))), direction(curve, k, np.ones(len(k)))


def _arc_at(curve: np.ndarray, arc_s: np.ndarray, k: np.ndarray, u: np.ndarray) -> np.ndarray:
    """Arc length at parameters, by chords scaled to each piece's true length (error far below a width knot)."""
    p = point(curve, k, u)
    steps = np.concatenate([[0.0], np.hypot(*np.diff(p, axis=0).T)])
    starts = np.concatenate([np.flatnonzero(u == 0.0), [len(u) - 1]])
    chord = np.cumsum(steps)
    lengths = np.maximum(np.diff(chord[starts]), 1e-12)
    kk = np.minimum(k, len(arc_s) - 2)
    return arc_s[kk] + (chord - chord[starts[:-1]][kk]) / lengths[kk] * np.diff(arc_s)[kk]


def _corner_doubled(
    curve: np.ndarray, p: np.ndarray, d: np.ndarray, s: np.ndarray, arc_s: np.ndarray, left: np.ndarray,
    right: np.ndarray,
) -> tuple[np.ndarray, ...]:  # fmt: skip
    """Both directions at every corner (a joint where the direction jumps), so that its turn is seen."""
    a, b = direction_ends(curve)
    jump = np.flatnonzero((b[:-1] * a[1:]).sum(axis=1) < 0.9995) + 1
    if not len(jump):
        return p, d, left, right
    at = np.searchsorted(s, arc_s[jump] - 1e-7)
    at = np.clip(at, 0, len(s) - 1)
    before = b[jump - 1]
    return tuple(
        np.insert(v, at, w, axis=0) for v, w in ((p, curve[jump, 0]), (d, before), (left, left[at]), (right, right[at]))
    )


def _sides(discs: BrushDiscs) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(left, right, slope): envelope points of the discs and how fast the radius grows, within (-1, 1) where the
    disc shows at all."""
    m, r = discs.middle, discs.radius
    step = np.maximum(np.hypot(*np.diff(m, axis=0).T), 1e-12)
    grow = np.diff(r) / step
    slope = np.concatenate(
        [grow[:1], (grow[:-1] * step[1:] + grow[1:] * step[:-1]) / (step[1:] + step[:-1]), grow[-1:]]
    )
    slope = np.clip(slope, -1.0, 1.0)
    t = discs.travel
    n = np.column_stack([t[:, 1], -t[:, 0]])
    back, side = -slope * r, np.sqrt(1.0 - slope**2) * r
    return m + t * back[:, None] + n * side[:, None], m + t * back[:, None] - n * side[:, None], slope


def _shown(discs: BrushDiscs) -> tuple[int, int]:
    """First and last disc that is not inside one that follows it, or that it follows, along a way of HIDDEN of its
    radii at most: a line that comes back to its start is not over there."""
    m, r = discs.middle, discs.radius
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(m, axis=0).T))])
    ahead = np.where(way <= HIDDEN * r, r - np.hypot(*(m - m[0]).T), -np.inf)
    first = int(np.argmax(ahead)) if ahead.max() > r[0] + 1e-12 else 0
    behind = np.where(way[-1] - way <= HIDDEN * r, r - np.hypot(*(m - m[-1]).T), -np.inf)
    last = int(np.argmax(behind)) if behind.max() > r[-1] + 1e-12 else len(r) - 1
    return (first, last) if first < last else (0, len(r) - 1)


def _gentle_rings(discs: BrushDiscs, closed: bool, flat: tuple[bool, bool]) -> list[np.ndarray] | None:
    """The edge in closed form, or None where the line is not gentle."""
    import shapely

    if _tight(discs).any():
        return None
    if closed:
        left, right, _ = _sides(discs)
        rings = [left[:-1], right[:-1]]
        if abs(signed_area(rings[0])) < abs(signed_area(rings[1])):
            rings.reverse()
        rings = [_oriented(rings[0], True), _oriented(rings[1], False)]
        shape = shapely.Polygon(rings[0], [rings[1]])
    else:
        rings = [_strip(discs, flat)]
        shape = shapely.Polygon(rings[0])
    return rings if shape.is_valid else None


def _tight(discs: BrushDiscs) -> np.ndarray:
    """(n - 1,) whether an inner edge runs backwards between two neighbours, or the direction jumps."""
    compiled = kernels()
    if compiled is not None:
        out: np.ndarray = compiled.tight(*floats(discs.middle, discs.radius, discs.travel, discs.turn))
        return out
    left, right, _ = _sides(discs)
    leg = discs.travel[:-1] + discs.travel[1:]
    back = np.minimum((np.diff(left, axis=0) * leg).sum(1), (np.diff(right, axis=0) * leg).sum(1)) < -1e-9
    first, last = _shown(discs)
    back[:first], back[last:] = False, False
    return back | (np.abs(discs.turn) > 0.35)


def _strip(discs: BrushDiscs, flat: tuple[bool, bool]) -> np.ndarray:
    """One ring: left edge there, end, right edge back, start."""
    first, last = _shown(discs)
    left, right, _slope = _sides(discs)
    left, right = left[first : last + 1], right[first : last + 1]
    if not flat[1]:
        end = _cap(discs.middle[last], left[-1], right[-1], discs.travel[last])
    else:
        end = np.zeros((0, 2))
        left[-1], right[-1] = _across(discs, last)
    if not flat[0]:
        start = _cap(discs.middle[first], right[0], left[0], -discs.travel[first])
    else:
        start = np.zeros((0, 2))
        left[0], right[0] = _across(discs, first)
    ring = np.concatenate([left, end, right[::-1], start])
    apart = np.hypot(*(ring - np.roll(ring, 1, axis=0)).T) > 1e-7
    return _oriented(ring[apart], True)


def _across(discs: BrushDiscs, k: int) -> tuple[np.ndarray, np.ndarray]:
    n = np.array([discs.travel[k, 1], -discs.travel[k, 0]]) * discs.radius[k]
    return discs.middle[k] + n, discs.middle[k] - n


def _cap(centre: np.ndarray, a: np.ndarray, b: np.ndarray, tangent: np.ndarray) -> np.ndarray:
    """Points of the arc round centre from a to b through the side that `way` points to, both excluded."""
    radius = float(np.hypot(*(a - centre)))
    if radius < 1e-9:
        return np.zeros((0, 2))
    pa, pb = np.arctan2(*(a - centre)[::-1]), np.arctan2(*(b - centre)[::-1])
    pw = np.arctan2(tangent[1], tangent[0])
    to_way, to_b = (pw - pa) % (2 * np.pi), (pb - pa) % (2 * np.pi)
    sweep = to_b if to_way <= to_b else to_b - 2 * np.pi
    n = max(3, int(np.ceil(abs(sweep) / min(STEP_RAD, 2 * np.sqrt(2 * 0.0004 / radius)))))
    angles = pa + sweep * np.linspace(0.0, 1.0, n + 1)[1:-1]
    return centre + radius * np.column_stack([np.cos(angles), np.sin(angles)])


def _union_rings(discs: BrushDiscs, closed: bool, flat: tuple[bool, bool]) -> list[np.ndarray]:
    """The edge as the union of gentle stretches and of hulls of neighbouring discs."""
    import shapely

    pieces = _polygons(*_stretches(discs, closed, flat, np.inf))
    crossed = ~shapely.is_valid(pieces)
    if crossed.any():
        pieces = _polygons(*_stretches(discs, closed, flat, CHUNK_RAD))
        crossed = ~shapely.is_valid(pieces)
    pieces[crossed] = shapely.make_valid(pieces[crossed], method="structure")
    whole = shapely.unary_union(pieces[~shapely.is_empty(pieces)])
    plain = shapely.simplify(whole, SEAM_MM, preserve_topology=False)
    whole = plain if plain.is_valid else shapely.simplify(whole, SEAM_MM, preserve_topology=True)
    shapes = getattr(whole, "geoms", [whole])
    rings: list[np.ndarray] = []
    for shape in shapes:
        if shape.geom_type != "Polygon" or shape.area < _LEAST_HOLE / 100:
            continue
        rings.append(_oriented(np.asarray(shape.exterior.coords)[:-1], True))
        holes = [h for h in shape.interiors if shapely.Polygon(h).area > _LEAST_HOLE]
        rings += [_oriented(np.asarray(h.coords)[:-1], False) for h in holes]
    return rings


def _polygons(points: np.ndarray, starts: np.ndarray) -> np.ndarray:
    """Rings, one after the other, as polygons."""
    import shapely

    # A ring of shapely's repeats its first point, which it does by itself here.
    rings = shapely.linearrings(points, indices=np.repeat(np.arange(len(starts) - 1), np.diff(starts)))
    out: np.ndarray = shapely.polygons(rings)
    return out


def _stretches(
    discs: BrushDiscs, closed: bool, flat: tuple[bool, bool], most_turn: float
) -> tuple[np.ndarray, np.ndarray]:
    """(points (n, 2), starts): rings of gentle stretches and of hulls, one after the other; starts: where each begins,
    and n. most_turn: rad, after which a stretch is cut: one that turns back may cross itself."""
    tight = _tight(discs)
    compiled = kernels()
    if compiled is not None:
        ends = np.array([cut and not closed for cut in flat])
        arrays = floats(discs.middle, discs.radius, discs.travel, discs.turn)
        points, starts = compiled.stretches(*arrays, tight, ends, np.array([most_turn, WITHIN_MM, STEP_RAD, NOTCH_MM]))
        return points, starts
    n = len(tight)
    rings, start, turned = [], 0, 0.0
    for k in range(n + 1):
        cut = k == n or tight[k] or turned + abs(discs.turn[k]) > most_turn
        if cut and k > start:
            cuts = (flat[0] and start == 0 and not closed, flat[1] and k == n and not closed)
            rings.append(_strip(_part(discs, start, k), cuts))
            start, turned = k, 0.0
        if start <= k < n and tight[k]:
            last = _huddle(discs, tight, k)
            rings.append(_hull(discs, k) if last == k + 1 else _round_hull(_part(discs, k, last)))
            start, turned = last, 0.0
        elif start <= k < n:
            turned += abs(discs.turn[k])
    return np.concatenate(rings), np.cumsum([0, *map(len, rings)])


def _part(discs: BrushDiscs, a: int, b: int) -> BrushDiscs:
    return BrushDiscs(discs.middle[a : b + 1], discs.radius[a : b + 1], discs.travel[a : b + 1])


def _hull(discs: BrushDiscs, k: int) -> np.ndarray:
    """The hull of two neighbouring discs, inside them where it is round, so that it sticks out of no neighbour."""
    (c0, c1), (r0, r1) = discs.middle[k : k + 2], discs.radius[k : k + 2]
    d = c1 - c0
    long = float(np.hypot(*d))
    if long <= abs(r0 - r1) + 1e-12:
        return _disc(c0 if r0 > r1 else c1, float(max(r0, r1)), within=True)
    heading, lean = np.arctan2(d[1], d[0]), np.arccos((r0 - r1) / long)
    arcs = []
    for centre, radius, first, last in (
        (c0, r0, heading + lean, heading + 2 * np.pi - lean),
        (c1, r1, heading - lean, heading + lean),
    ):
        n = 2 + int(_disc_corners(float(radius), WITHIN_MM) * abs(last - first) / (2 * np.pi))
        angles = np.linspace(first, last, n)
        arcs.append(centre + radius * np.column_stack([np.cos(angles), np.sin(angles)]))
    return np.concatenate(arcs)


def _huddle(discs: BrushDiscs, tight: np.ndarray, k: int) -> int:
    """The last of the discs from k on that are tight and lie so near each other that the hull of them all fills no
    notch between two of them deeper than NOTCH_MM: with middles d apart a notch is d^2 / 8 r deep."""
    m, r, j = discs.middle, discs.radius, k + 1
    while j < len(tight) and tight[j]:
        thin = r[k : j + 2].min()
        if (np.hypot(*(m[j + 1] - m[k : j + 1]).T) ** 2).max() > 8.0 * thin * NOTCH_MM:
            return j
        j += 1
    return j


def _round_hull(discs: BrushDiscs) -> np.ndarray:
    """The hull of discs, inside it where it is round, so that it sticks out of no neighbour."""
    n = _disc_corners(float(discs.radius.max()), WITHIN_MM)
    angles = np.linspace(0.0, 2 * np.pi, n, endpoint=False)
    tangents = np.column_stack([np.cos(angles), np.sin(angles)])
    far = (discs.middle @ tangents.T + discs.radius[:, None]).argmax(axis=0)
    out: np.ndarray = discs.middle[far] + discs.radius[far, None] * tangents
    return out


def _disc(centre: np.ndarray, radius: float, within: bool = False) -> np.ndarray:
    """A polygon of the disc's own area; within: one that lies inside it, so that it sticks out of no neighbour."""
    n = _disc_corners(radius, WITHIN_MM if within else 0.0003)
    angles = np.linspace(0.0, 2 * np.pi, n, endpoint=False)
    reach = radius if within else radius * np.sqrt(2 * np.pi / n / np.sin(2 * np.pi / n))
    return centre + reach * np.column_stack([np.cos(angles), np.sin(angles)])


def _disc_corners(radius: float, off: float) -> int:
    """Corners of a polygon that stays within `off` mm of a circle."""
    return int(np.clip(np.ceil(np.pi / np.sqrt(2 * off / max(radius, 1e-4))), 24, 720))


def _oriented(ring: np.ndarray, outer: bool) -> np.ndarray:
    return ring if (signed_area(ring) > 0) == outer else ring[::-1]
