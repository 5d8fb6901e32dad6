"""Which edges run on into each other: one line where the pencils meant one."""

import itertools
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from plain_stride.pencils.read.graph import FAINT, Edge, Graph
from plain_stride.pencils.read.ridges import Kind

UNPAIRED = np.radians(60.0) ** 2
BACK_FROM, BACK_TO_MM = 0.8, 3.0
"""Directions are read from .8 W to .8 W + 3 mm back: nearer ones are bent by the joint."""
TIP_REACH, TIP_DEG = 4.0, 35.0
MOST_AT_ONCE = 7
UNLIKE_MM, UNLIKE = 4.0, 1.6
"""A faint edge longer than this does not run on into one that is so many times as strong."""
SHARED_W, SHARED_DEG = 6.0, 35.0
"""An edge of up to 6 W may be shared by two lines that turn by less than 35 degrees each."""


@dataclass(frozen=True, eq=False)
class Chain:
    """points (n, 2) mm; joints: arc lengths at which it passes a joint; ends: whether each end lies at a joint;
    strength: of the strong response."""

    points: np.ndarray
    closed: bool
    joints: tuple[float, ...]
    ends: tuple[bool, bool]
    strength: float


End = tuple[int, int]
"""(edge, 0 for its a, 1 for its b)."""


def chains_of(graph: Graph, kind: Kind) -> list[Chain]:
    """The lines that edges make when they are linked at joints and across small gaps. Alters the graph."""
    _cross_shallow(graph, kind)
    links: dict[End, End] = {}
    at: dict[int, list[End]] = {}
    for key, edge in graph.edges.items():
        at.setdefault(edge.a, []).append((key, 0))
        at.setdefault(edge.b, []).append((key, 1))
    for ends in at.values():
        for one, two in _paired(graph, ends, kind):
            links[one], links[two] = two, one
    _link_tips(graph, at, links, kind)
    return _walked(graph, at, links)


def _cross_shallow(graph: Graph, kind: Kind) -> None:
    """Two lines that cross at a shallow angle share an edge for a while: each gets it where both go on straight."""
    at = graph.at()
    for key in sorted(graph.edges, key=lambda k: graph.edges[k].length):
        edge = graph.edges.get(key)
        if edge is None or edge.a == edge.b or edge.length > SHARED_W * kind.width:
            continue
        outer = [[(k, 0 if graph.edges[k].a == node else 1) for k in at[node] if k != key] for node in (edge.a, edge.b)]
        keys = [k for side in outer for k, _ in side]
        if [len(side) for side in outer] != [2, 2] or len(set(keys)) != 4:
            continue
        tangents = [[end_direction(graph.edges[k], e, kind) for k, e in side] for side in outer]
        turns = [max(_bend(tangents[0][0], tangents[1][j]), _bend(tangents[0][1], tangents[1][1 - j])) for j in (0, 1)]
        j = int(np.argmin(turns))
        if turns[j] < 3.0 * np.radians(SHARED_DEG) ** 2:
            for i in (0, 1):
                _join_across(graph, outer[0][i], edge, outer[1][j if i == 0 else 1 - j])
            del graph.edges[key]
            for node in (edge.a, edge.b):
                graph.places.pop(node, None)
            at = graph.at()


def _join_across(graph: Graph, one: End, shared: Edge, two: End) -> None:
    """One edge of two and the stretch that they share with others."""
    first, last = graph.edges.pop(one[0]), graph.edges.pop(two[0])
    before = first.points if one[1] == 1 else first.points[::-1]
    after = last.points if two[1] == 0 else last.points[::-1]
    a, b = (first.a if one[1] == 1 else first.b), (last.b if two[1] == 0 else last.a)
    points = np.vstack([before, shared.points[1:-1], after])
    strength = (first.strength * first.length + last.strength * last.length) / max(first.length + last.length, 1e-9)
    graph.edges[max(graph.edges, default=0) + max(one[0], two[0]) + 1] = Edge(a, b, points, strength)


def end_direction(edge: Edge, end: int, kind: Kind) -> tuple[np.ndarray, np.ndarray]:
    """(place .8 W back, unit direction towards the end) of an edge's end. Each (2,), px."""
    points = edge.points[::-1] if end == 0 else edge.points
    back = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points[::-1], axis=0).T))])
    total = float(back[-1])
    a = min(BACK_FROM * kind.width, total * 0.4)
    b = min(a + BACK_TO_MM, total)
    near, far = (np.array([np.interp(s, back, points[::-1, k]) for k in (0, 1)]) for s in (a, b))
    leg = near - far
    return near, leg / max(float(np.hypot(*leg)), 1e-9)


def _paired(graph: Graph, ends: list[End], kind: Kind) -> list[tuple[End, End]]:
    """The full matching of the ends at one joint with the least cost; an end may stay alone."""
    if len(ends) < 2:
        return []
    tangents = [end_direction(graph.edges[k], e, kind) for k, e in ends]
    cost = {(i, j): _bend(tangents[i], tangents[j]) for i, j in itertools.combinations(range(len(ends)), 2)
            if (ends[i][0] != ends[j][0] or graph.edges[ends[i][0]].length > 6.0 * kind.width)
            and not _unlike(graph.edges[ends[i][0]], graph.edges[ends[j][0]])}  # fmt: skip
    if len(ends) > MOST_AT_ONCE:
        return _greedy(ends, cost)
    best, found = np.inf, []
    for pairs in _matchings(list(range(len(ends)))):
        total = sum(cost.get(p, np.inf) for p in pairs) + UNPAIRED * (len(ends) - 2 * len(pairs))
        if total < best:
            best, found = total, pairs
    return [(ends[i], ends[j]) for i, j in found]


def _unlike(one: Edge, two: Edge) -> bool:
    """Whether one was construction and the other was meant: they never run on into each other."""
    weak, strong = sorted((one, two), key=lambda edge: edge.strength)
    return weak.strength < FAINT and weak.length > UNLIKE_MM and strong.strength > UNLIKE * weak.strength


def _greedy(ends: list[End], cost: dict[tuple[int, int], float]) -> list[tuple[End, End]]:
    out: list[tuple[End, End]] = []
    used: set[int] = set()
    for (i, j), c in sorted(cost.items(), key=lambda item: item[1]):
        if c < 2.0 * UNPAIRED and i not in used and j not in used:
            used |= {i, j}
            out.append((ends[i], ends[j]))
    return out


def _matchings(left: list[int]) -> Iterator[list[tuple[int, int]]]:
    if len(left) < 2:
        yield []
        return
    first, rest = left[0], left[1:]
    yield from _matchings(rest)
    for k, other in enumerate(rest):
        for more in _matchings(rest[:k] + rest[k + 1 :]):
            yield [(first, other), *more]


def _bend(one: tuple[np.ndarray, np.ndarray], two: tuple[np.ndarray, np.ndarray]) -> float:
    """4 (a^2 + a b + b^2) of the turns from one way to the chord and from the chord to the other: the least bending
    energy of a cubic, times its length."""
    chord = two[0] - one[0]
    long = float(np.hypot(*chord))
    if long < 1e-9:
        chord, long = one[1], 1.0
    a, b = _turn(one[1], chord / long), _turn(chord / long, -two[1])
    return 4.0 * (a * a + a * b + b * b)


def _turn(a: np.ndarray, b: np.ndarray) -> float:
    return float(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b))


def _link_tips(graph: Graph, at: dict[int, list[End]], links: dict[End, End], kind: Kind) -> None:
    """Free tips that point at each other over a small gap."""
    tips = [ends[0] for ends in at.values() if len(ends) == 1]
    if len(tips) < 2:
        return
    from scipy.spatial import cKDTree

    tangents = {tip: end_direction(graph.edges[tip[0]], tip[1], kind) for tip in tips}
    places = np.array([graph.edges[k].points[0 if e == 0 else -1] for k, e in tips])
    found = []
    for i, j in cKDTree(places).query_pairs(TIP_REACH * kind.width):
        if tips[i][0] == tips[j][0] and graph.edges[tips[i][0]].length < 8.0 * kind.width:
            continue
        if _unlike(graph.edges[tips[i][0]], graph.edges[tips[j][0]]):
            continue
        chord = places[j] - places[i]
        long = float(np.hypot(*chord))
        one, two = tangents[tips[i]][1], tangents[tips[j]][1]
        if long > 0.3 * kind.width:
            turns = max(abs(_turn(one, chord / long)), abs(_turn(chord / long, -two)))
        else:
            turns = abs(_turn(one, -two))
        if turns < np.radians(TIP_DEG):
            found.append((long * (1.0 + turns), i, j))
    for _, i, j in sorted(found):
        if tips[i] not in links and tips[j] not in links:
            links[tips[i]], links[tips[j]] = tips[j], tips[i]


def _walked(graph: Graph, at: dict[int, list[End]], links: dict[End, End]) -> list[Chain]:
    left, out = set(graph.edges), []
    starts = [(k, e) for k in graph.edges for e in (0, 1) if (k, e) not in links]
    for start in [*starts, *((k, 0) for k in graph.edges)]:
        if start[0] not in left:
            continue
        end: End = start
        pieces: list[tuple[Edge, np.ndarray]] = []
        closed = False
        while True:
            key, side = end
            left.discard(key)
            edge = graph.edges[key]
            pieces.append((edge, edge.points if side == 0 else edge.points[::-1]))
            other = (key, 1 - side)
            ahead = links.get(other)
            if ahead is None:
                break
            if ahead[0] not in left:
                closed = ahead == start
                break
            end = ahead
        out.append(_chain(graph, at, pieces, start, other, closed))
    return out


def _chain(graph: Graph, at: dict[int, list[End]], pieces: list[tuple[Edge, np.ndarray]], first: End, last: End,
           closed: bool) -> Chain:  # fmt: skip
    points = np.vstack([p for _, p in pieces])
    keep = np.concatenate([[True], np.hypot(*np.diff(points, axis=0).T) > 1e-6])
    lengths = [edge.length for edge, _ in pieces]
    strength = float(np.average([edge.strength for edge, _ in pieces], weights=np.maximum(lengths, 1e-6)))
    nodes = [graph.edges[k].a if e == 0 else graph.edges[k].b for k, e in (first, last)]
    joints = tuple(float(v) for v in np.cumsum(lengths)[:-1])
    loop = closed or (len(pieces) == 1 and pieces[0][0].a == pieces[0][0].b and len(at[nodes[0]]) == 2)
    return Chain(points[keep], loop, joints, (len(at[nodes[0]]) > 1, len(at[nodes[1]]) > 1), strength)


def is_guide(chain: Chain) -> bool:
    """Whether a chain is so faint that it was construction."""
    return chain.strength < FAINT
