"""The flats map: the areas between lines, gaps bridged, each with the part that it belongs to.

Lines are noded once; every piece between two nodes knows its line and the areas on its two sides. What a part encloses
is what cannot be reached from outside without crossing its lines. n log n in the pieces, and linear in the parts times
the areas.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from plain_stride.form.bridges import between_ends, bridged
from plain_stride.form.cover import GRID_MM, SIMPLE_MM

LEAST_MM2, SLIVER_MM = 0.05, 0.12
"""A smaller area, or one that is thinner in the mean, belongs to the one beside it: it lies under ink."""
DOWNWARD, BELOW_MM = 0.5, 0.02
"""A contour that encloses nothing has its form below it: of an edge that runs this level or more; how far below."""
MOST = 0.5
"""Of an area, that what a part goes round has to hold."""
SHEET, BRIDGE, CUT = -1, -2, -3


@dataclass(frozen=True, eq=False)
class Bound:
    """What bounds areas. points (n, 2) mm of a middle, as far as it is seen; half: mm of its ink to each side, where it
    is thin; outer: whether it is an outer line of its part."""

    line: str
    part: str
    points: np.ndarray
    half: float = 0.0
    outer: bool = True


@dataclass(frozen=True, eq=False)
class FlatArea:
    """area: a Shapely polygon, mm, that ends on middles of lines; bounds: lines round it, the longest shared edge
    first; part: its key, '' for none; edge: whether it reaches the edge of the sheet."""

    area: Any = field(repr=False)
    bounds: tuple[str, ...]
    part: str
    edge: bool

    @property
    def is_sheet(self) -> bool:
        """Whether it is the sheet round the drawing."""
        return self.edge and not self.part


@dataclass(frozen=True, eq=False)
class Piece:
    """A piece of a line between two areas: points (n, 2) mm; half: mm of ink to each side; sides: the areas, by number,
    -1 for none."""

    line: Any = field(repr=False)
    half: float
    sides: tuple[int, int]


@dataclass(frozen=True, eq=False)
class FlatsMap:
    """areas, none over another; pieces between them; joined: for each bound, as they were given, a number that lines
    which hang together share."""

    areas: tuple[FlatArea, ...]
    pieces: tuple[Piece, ...]
    joined: np.ndarray = field(repr=False)

    def at(self, points: np.ndarray) -> np.ndarray:
        """The number of the area that holds each place (n, 2) mm; -1 where none does."""
        import shapely

        tree = shapely.STRtree([one.area for one in self.areas])
        place, area = tree.query(shapely.points(points), predicate="intersects")
        out = np.full(len(points), -1)
        # On an edge between two, the first one has it.
        out[place[::-1]] = area[::-1]
        return out

    def trapped(self, spread: float) -> list[Any]:
        """Each area, carried on under the ink round it by `spread` mm, as far as that is covered."""
        import shapely

        reach = np.array([min(spread, 0.9 * one.half) for one in self.pieces])
        bands = shapely.buffer([one.line for one in self.pieces], np.maximum(reach, 0.0), quad_segs=4)
        mine: list[list[Any]] = [[one.area] for one in self.areas]
        for piece, band, far in zip(self.pieces, bands, reach, strict=True):
            for side in set(piece.sides) - {-1}:
                if far > 0.0 and piece.sides[0] != piece.sides[1]:
                    mine[side].append(band)
        return [shapely.union_all(some) if len(some) > 1 else some[0] for some in mine]


def flats_map(
    bounds: Sequence[Bound],
    order: Sequence[str],
    sheet: tuple[float, float, float, float],
    gap: float,
    cuts: Sequence[np.ndarray] = (),
    regions: Mapping[str, Any] | None = None,
) -> FlatsMap:
    """order: keys of parts, nearest first; sheet: box (x0, y0, x1, y1) that the areas fill; gap: mm of white in a line
    that does not open an area; cuts: lines (n, 2) that part areas; regions: what parts are known to go round, as
    Shapely areas, what of it is hidden among it. All in mm."""
    import shapely

    known = [bound for bound in bounds if len(bound.points) > 1]
    lines = list(shapely.simplify([shapely.LineString(one.points) for one in known], SIMPLE_MM)) if known else []
    half = np.array([one.half for one in known])
    frame = shapely.LinearRing(shapely.box(*sheet).exterior)
    bridges = _bridges(lines, half, gap, frame)
    drawn = shapely.union_all([*lines, *bridges, frame, *map(shapely.LineString, cuts)], grid_size=GRID_MM)
    return _map(drawn, _Sources(lines, known, bridges, frame), order, sheet, regions or {})


def _bridges(lines: list[Any], half: np.ndarray, gap: float, frame: Any) -> list[Any]:
    """What closes gaps, as Shapely lines: between ends and lines, ends and ends, ends and the edge of the sheet."""
    import shapely

    if not lines or gap <= 0.0:
        return []
    # The edge of the sheet is a line that ends may meet; it has none of its own.
    straight, _ = bridged([*lines, frame], gap, np.append(half, 0.0))
    ends = between_ends([shapely.get_coordinates(one) for one in lines], gap)
    return [shapely.LineString(one) for one in (*straight, *ends)]


class _Sources:
    """Which line each piece is of."""

    def __init__(self, lines: list[Any], bounds: Sequence[Bound], bridges: list[Any], frame: Any) -> None:
        self.bounds = bounds
        self._lines, self._bridges, self._frame = lines, bridges, frame

    def of(self, pieces: Any) -> np.ndarray:
        """(n,) the number of the bound that a piece lies on, or SHEET, BRIDGE, CUT."""
        import shapely

        middles = shapely.line_interpolate_point(pieces, 0.5, normalized=True)
        on = np.full(len(middles), CUT)
        reach = 20.0 * GRID_MM + SIMPLE_MM
        for label, group in ((BRIDGE, self._bridges), (SHEET, [self._frame])):
            if group:
                on[shapely.STRtree(group).query(middles, predicate="dwithin", distance=reach)[0]] = label
        if self._lines:
            piece, line = shapely.STRtree(self._lines).query(middles, predicate="dwithin", distance=reach)
            # Of two lines on each other the one that was drawn last, which lies on top.
            order = np.argsort(line, kind="stable")
            on[piece[order]] = line[order]
        return on


def _map(
    drawn: Any,
    sources: _Sources,
    order: Sequence[str],
    sheet: tuple[float, float, float, float],
    regions: Mapping[str, Any],
) -> FlatsMap:
    import shapely

    pieces = np.asarray(shapely.get_parts(drawn))
    box = shapely.box(*sheet)
    faces = np.asarray(shapely.get_parts(shapely.polygonize([drawn])))
    inside = shapely.contains_properly(shapely.buffer(box, 1e-3), shapely.point_on_surface(faces))
    faces = faces[inside] if len(faces) else faces
    sides = _sides(pieces, faces)
    source, long = sources.of(pieces), shapely.length(pieces)
    group = _merged(faces, sides, long)
    shown = np.unique(group)
    number = np.full(len(faces) + 1, -1)
    number[shown] = np.arange(len(shown))
    sides = np.where(sides >= 0, number[group[np.maximum(sides, 0)]], -1)
    ranked = np.argsort(group, kind="stable")
    together = np.split(ranked, np.searchsorted(group[ranked], shown)[1:]) if len(shown) else []
    whole = [faces[some[0]] if len(some) == 1 else shapely.union_all(faces[some]) for some in together]
    edge = np.zeros(len(shown), bool)
    at_edge = sides[source == SHEET]
    edge[at_edge[at_edge >= 0]] = True
    parts = _parts(sides, source, long, pieces, sources.bounds, order, whole, edge, regions)
    bounds = _bounds(sides, source, long, len(shown), sources.bounds)
    areas = tuple(FlatArea(a, b, p, bool(e)) for a, b, p, e in zip(whole, bounds, parts, edge, strict=True))
    kept = np.flatnonzero((source >= 0) & (sides >= 0).any(axis=1))
    between = tuple(Piece(pieces[k], sources.bounds[source[k]].half, (int(sides[k, 0]), int(sides[k, 1])))
                    for k in kept)  # fmt: skip
    return FlatsMap(areas, between, _joined(pieces, source, len(sources.bounds)))


def _joined(pieces: np.ndarray, source: np.ndarray, many: int) -> np.ndarray:
    """(many,) a number for each bound that it shares with those it hangs together with."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    ends = np.stack([_nth(pieces, 0), _nth(pieces, -1)], axis=1).reshape(-1, 2)
    _, node = np.unique(np.rint(ends / GRID_MM).astype(np.int64), axis=0, return_inverse=True)
    a, b = node.reshape(-1, 2).T
    graph = coo_matrix((np.ones(len(a)), (a, b)), (len(ends), len(ends)))
    _, label = connected_components(graph, directed=False)
    out = np.full(many, -1)
    on = source >= 0
    out[source[on]] = label[a[on]]
    return out


def _sides(pieces: np.ndarray, faces: np.ndarray) -> np.ndarray:
    """(n, 2) the faces on the two sides of each piece, -1 where there is none."""
    import shapely

    keys = _keys(_nth(pieces, 0), _nth(pieces, 1))
    rings, face = shapely.get_rings(faces, return_index=True)
    points, ring = shapely.get_coordinates(rings, return_index=True)
    same = ring[1:] == ring[:-1]
    segments, owner = _keys(points[:-1][same], points[1:][same]), face[ring[:-1][same]]
    out = np.full((len(pieces), 2), -1)
    rank = np.argsort(keys, kind="stable")
    at = np.clip(np.searchsorted(keys[rank], segments), 0, max(len(keys) - 1, 0))
    found = keys[rank][at] == segments if len(keys) else np.zeros(len(segments), bool)
    for k, one in zip(rank[at[found]].tolist(), owner[found].tolist(), strict=True):
        out[k, 0 if out[k, 0] < 0 else 1] = one
    return out


def _nth(pieces: np.ndarray, n: int) -> np.ndarray:
    """(k, 2) the nth point of each piece."""
    import shapely

    out: np.ndarray = shapely.get_coordinates(shapely.get_point(pieces, n))
    return out


def _keys(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """A number for each segment (n, 2), (n, 2), the same in both directions."""
    p, q = (np.rint(v / GRID_MM).astype(np.int64).view(np.uint64) for v in (np.ascontiguousarray(a),
                                                                           np.ascontiguousarray(b)))  # fmt: skip
    mixed = [(v[:, 0] * np.uint64(0x9E3779B97F4A7C15)) ^ (v[:, 1] * np.uint64(0xC2B2AE3D27D4EB4F)) for v in (p, q)]
    mixed = [(v ^ (v >> np.uint64(29))) * np.uint64(0xBF58476D1CE4E5B9) for v in mixed]
    return np.asarray(mixed[0] + mixed[1])


def _merged(faces: np.ndarray, sides: np.ndarray, long: np.ndarray) -> np.ndarray:
    """(n,) the face that each belongs to: itself, or, for a sliver, the one along its longest edge. n log n in the
    pieces."""
    import shapely

    area = shapely.area(faces)
    thin = (area < LEAST_MM2) | (2.0 * area < SLIVER_MM * shapely.length(faces))
    between = (sides >= 0).all(axis=1) & (sides[:, 0] != sides[:, 1])
    both = np.vstack([sides[between], sides[between][:, ::-1]])
    order = np.argsort(both[:, 0], kind="stable")
    other, shared = both[order, 1], np.tile(long[between], 2)[order]
    starts = np.searchsorted(both[order, 0], np.arange(len(faces) + 1))
    group = np.arange(len(faces))
    for k in np.flatnonzero(thin)[np.argsort(area[thin], kind="stable")].tolist():
        mine = slice(starts[k], starts[k + 1])
        beside, which = np.unique(other[mine], return_inverse=True)
        if len(beside):
            longest = int(beside[np.bincount(which, shared[mine]).argmax()])
            group[_root(group, k)] = _root(group, longest)
    while (group != group[group]).any():
        group = group[group]
    return group


def _root(group: np.ndarray, k: int) -> int:
    """The face that all of a group belong to so far."""
    while group[k] != k:
        group[k] = group[group[k]]
        k = int(group[k])
    return k


def _parts(
    sides: np.ndarray,
    source: np.ndarray,
    long: np.ndarray,
    pieces: np.ndarray,
    bounds: Sequence[Bound],
    order: Sequence[str],
    areas: Sequence[Any],
    edge: np.ndarray,
    regions: Mapping[str, Any],
) -> list[str]:
    """The key of the part that each area belongs to, '' for none: the nearest that encloses it; else the one whose
    outer lines bound most of it, where these enclose nothing on their other side."""
    import shapely

    owner = np.array([bounds[k].part if k >= 0 else "" for k in source.tolist()], dtype=object)
    owner[source == BRIDGE] = _of_bridges(pieces, owner, source)
    ways = _Ways(sides, len(areas))
    inside = {part: ways.enclosed(owner == part) for part in order}
    x, y = shapely.get_coordinates(shapely.point_on_surface(list(areas))).T
    for part, region in regions.items():
        shapely.prepare(region)
        for k in np.flatnonzero(shapely.intersects_xy(region, x, y) & ~inside[part]).tolist():
            inside[part][k] = shapely.area(shapely.intersection(areas[k], region)) > MOST * areas[k].area
    out = [""] * len(areas)
    for part in reversed(order):
        for k in np.flatnonzero(inside[part]).tolist():
            out[k] = part
    outer = np.array([k >= 0 and bounds[k].outer for k in source.tolist()], bool)
    votes = _votes(sides, owner, outer, long, pieces, inside, edge, order, areas)
    for k in range(len(areas)):
        if not out[k] and votes[k].any():
            out[k] = order[int(votes[k].argmax())]
    return out


def _of_bridges(pieces: np.ndarray, owner: np.ndarray, source: np.ndarray) -> list[str]:
    """Bridges are of the part whose lines they meet."""
    import shapely

    drawn = np.flatnonzero(source >= 0)
    if not len(drawn):
        return [""] * int((source == BRIDGE).sum())
    tree = shapely.STRtree(pieces[drawn])
    near = tree.query_nearest(pieces[source == BRIDGE], all_matches=False)
    out = [""] * int((source == BRIDGE).sum())
    for k, to in near.T.tolist():
        out[k] = owner[drawn[to]]
    return out


class _Ways:
    """The ways from area to area over their bounds, sorted once for all parts. Outside is one more area."""

    def __init__(self, sides: np.ndarray, many: int) -> None:
        self._many = many
        ways = np.where(sides < 0, many, sides)
        self._rank = np.argsort(ways[:, 0], kind="stable")
        self._to = ways[self._rank, 1].astype(np.int32)
        self._starts = np.searchsorted(ways[self._rank, 0], np.arange(many + 2))

    def enclosed(self, walls: np.ndarray) -> np.ndarray:
        """(many,) which areas cannot be reached from outside without crossing a wall. walls: (n,) of the bounds."""
        from scipy.sparse import csr_matrix
        from scipy.sparse.csgraph import connected_components

        if not walls.any():
            return np.zeros(self._many, bool)
        open_ = ~walls[self._rank]
        starts = np.concatenate([[0], np.cumsum(open_)])[self._starts].astype(np.int32)
        to = self._to[open_]
        graph = csr_matrix((np.ones(len(to)), to, starts), (self._many + 1, self._many + 1))
        _, label = connected_components(graph, directed=False)
        return np.asarray(label[: self._many] != label[self._many])


def _votes(
    sides: np.ndarray,
    owner: np.ndarray,
    outer: np.ndarray,
    long: np.ndarray,
    pieces: np.ndarray,
    inside: Mapping[str, np.ndarray],
    edge: np.ndarray,
    order: Sequence[str],
    areas: Sequence[Any],
) -> np.ndarray:
    """(areas, parts) mm of outer lines of each part that bound an area and enclose nothing on their other side; at the
    edge of the sheet, only those of parts that enclose nothing anywhere, and have it below them."""
    votes = np.zeros((len(edge), len(order)))
    number = {part: k for k, part in enumerate(order)}
    for k in np.flatnonzero(outer & (sides >= 0).any(axis=1) & (sides[:, 0] != sides[:, 1])).tolist():
        part = str(owner[k])
        if part not in number:
            continue
        for one, other in (sides[k], sides[k][::-1]):
            if one < 0 or (other >= 0 and inside[part][other]):
                continue
            if edge[one] and (inside[part].any() or not _is_below(pieces[k], areas[one])):
                continue
            votes[one, number[part]] += long[k]
    return votes


def _is_below(piece: Any, area: Any) -> bool:
    """Whether an area lies below a piece that runs level or nearly so."""
    import shapely

    points = shapely.get_coordinates(piece)
    way = points[-1] - points[0]
    x, y = shapely.get_coordinates(shapely.line_interpolate_point(piece, 0.5, normalized=True))[0]
    return bool(abs(way[0]) > DOWNWARD * np.hypot(*way) and shapely.intersects_xy(area, x, y + BELOW_MM))


def _bounds(
    sides: np.ndarray, source: np.ndarray, long: np.ndarray, many: int, bounds: Sequence[Bound]
) -> list[tuple[str, ...]]:
    """Lines round each area, the longest shared edge first."""
    shared: list[dict[str, float]] = [{} for _ in range(many)]
    for k in np.flatnonzero((source >= 0) & (sides[:, 0] != sides[:, 1])).tolist():
        line = bounds[source[k]].line
        for one in set(sides[k].tolist()) - {-1}:
            shared[one][line] = shared[one].get(line, 0.0) + float(long[k])
    return [tuple(sorted(lines, key=lambda line: (-lines[line], line))) for lines in shared]
