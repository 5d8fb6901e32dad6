"""The net of ridges as a graph: nodes where lines end or meet, edges along the lines; cleaned of what passes leave."""

import itertools
from dataclasses import dataclass, field

import numpy as np

from plain_stride.pencils.read.ridges import Kind, Ridges

_NEAR = ((0, 1), (1, 0), (0, -1), (-1, 0), (1, 1), (1, -1), (-1, -1), (-1, 1))
FAINT = 0.42
RUN_OUT_W, CORNER_DEG = 1.5, 40.0
"""Free ends up to so many W past a corner of so many degrees are run-outs."""
LOOP_W = 2.0
FAINT_SPUR_MM, BESIDE_SPUR_MM, BESIDE, SAME = 3.2, 12.0, 1.2, 1.6
"""Faint spurs up to so long go, and spurs that run within 1.2 W of the rest; of two edges within 1.6 W one stays."""


@dataclass(eq=False)
class Edge:
    """a, b: nodes; points (n, 2) mm from a to b; strength: median response along it, of the strong one."""

    a: int
    b: int
    points: np.ndarray
    strength: float

    @property
    def length(self) -> float:
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())

    def from_node(self, node: int) -> np.ndarray:
        """Its points, the ones at a node first."""
        return self.points if node == self.a else self.points[::-1]


@dataclass(eq=False)
class Graph:
    """places: mm by node; edges by number; doubled: edges that were taken for a second reading of another."""

    places: dict[int, np.ndarray] = field(default_factory=dict)
    edges: dict[int, Edge] = field(default_factory=dict)
    doubled: list[np.ndarray] = field(default_factory=list)

    def at(self) -> dict[int, list[int]]:
        """Edges by node; a loop counts twice."""
        out: dict[int, list[int]] = {node: [] for node in self.places}
        for key, edge in self.edges.items():
            out[edge.a].append(key)
            out[edge.b].append(key)
        return out


def graph_of(ridges: Ridges) -> Graph:
    """The graph of a net one pixel wide."""
    from scipy import ndimage

    net = np.pad(ridges.net, 1)
    rows, cols = np.nonzero(net)
    around = np.column_stack([net[rows + dy, cols + dx] for dy, dx in _NEAR])
    ring = around[:, [3, 7, 0, 4, 1, 5, 2, 6]]
    crossings = np.count_nonzero(ring & ~np.roll(ring, -1, axis=1), axis=1)
    count = around.sum(axis=1)
    joint = np.zeros(net.shape, bool)
    many = (crossings > 2) | (count > 3)
    joint[rows[many], cols[many]] = True
    clusters, n = ndimage.label(joint, np.ones((3, 3)))
    graph = Graph()
    if n:
        centres = ndimage.center_of_mass(joint, clusters, range(1, n + 1))
        graph.places = {k: _mm(np.array(c), ridges.per_mm) for k, c in enumerate(centres, 1)}
    _trace(graph, net & ~joint, clusters, ridges)
    return graph


def _mm(rc: np.ndarray, per_mm: float) -> np.ndarray:
    """Rows and columns of the padded net as x, y mm."""
    return (np.asarray(rc, float)[..., ::-1] - 0.5) / per_mm


def _trace(graph: Graph, paths: np.ndarray, clusters: np.ndarray, ridges: Ridges) -> None:
    """Walks every path between joints."""
    left = set(zip(*(a.tolist() for a in np.nonzero(paths)), strict=True))

    def neighbours(p: tuple[int, int]) -> list[tuple[int, int]]:
        return [q for dy, dx in _NEAR if (q := (p[0] + dy, p[1] + dx)) in left]

    touched = _touched(paths, clusters)

    def joints(p: tuple[int, int]) -> list[int]:
        return touched.get(p, [])

    starts = [p for p in sorted(left) if len(neighbours(p)) < 2 or joints(p)]
    for start in [*starts, *sorted(left)]:
        if start not in left:
            continue
        path, trail, first = [start], start, set(joints(start))
        left.discard(start)
        while ahead := neighbours(trail):
            # The pixel after the first may still touch the joint that the path comes from.
            here = set(joints(trail))
            if len(path) > 1 and (here - first or (here and len(path) > 3)):
                break
            trail = ahead[0]
            left.discard(trail)
            path.append(trail)
        _add(graph, path, joints(start), joints(trail), ridges)


def _touched(paths: np.ndarray, clusters: np.ndarray) -> dict[tuple[int, int], list[int]]:
    """The joints beside each pixel of a path that has any, each once, nearest neighbours first."""
    rows, cols = np.nonzero(paths)
    around = np.column_stack([clusters[rows + dy, cols + dx] for dy, dx in _NEAR])
    some = around.any(axis=1)
    cells = zip(rows[some].tolist(), cols[some].tolist(), around[some].tolist(), strict=True)
    return {(r, c): list(dict.fromkeys(k for k in found if k)) for r, c, found in cells}


def _add(graph: Graph, path: list[tuple[int, int]], first: list[int], last: list[int], ridges: Ridges) -> None:
    cells = np.array(path)
    points = _mm(cells, ridges.per_mm)
    strength = float(np.median(ridges.response[cells[:, 0] - 1, cells[:, 1] - 1])) / max(ridges.strong, 1e-9)
    closed = len(path) > 6 and not first and not last and np.abs(cells[0] - cells[-1]).max() <= 1
    if len(path) == 1 and len(first) > 1:
        last = first[1:]
        first = first[:1]
    for joint, place in ((first, points[0]), (last, points[-1])):
        if len(joint) > 1 and len(path) > 1:
            _bridge(graph, joint[0], joint[1], place, strength)
    ends = []
    for joint, place in ((first, points[0]), (last, points[-1])):
        if joint:
            ends.append(joint[0])
        elif closed and ends:
            ends.append(ends[0])
        else:
            node = max(graph.places, default=0) + 1
            graph.places[node] = place
            ends.append(node)
    whole = [points]
    if first:
        whole.insert(0, graph.places[ends[0]][None])
    if last or closed:
        whole.append(graph.places[ends[1]][None])
    graph.edges[len(graph.edges) + 1] = Edge(ends[0], ends[1], np.vstack(whole), strength)


def _bridge(graph: Graph, a: int, b: int, place: np.ndarray, strength: float) -> None:
    """Two joints that an end of a path touches both are next to each other."""
    if not any({e.a, e.b} == {a, b} and len(e.points) <= 3 for e in graph.edges.values()):
        points = np.vstack([graph.places[a], place, graph.places[b]])
        graph.edges[len(graph.edges) + 1] = Edge(a, b, points, strength)


def cleaned(graph: Graph, kind: Kind) -> Graph:
    """The graph without spurs, with joints that are one made one, and one edge where passes left two."""
    for _ in range(4):
        before = len(graph.edges)
        _drop_spurs(graph, kind)
        _drop_run_outs(graph, kind)
        _merge_through(graph)
        _join_near(graph, kind)
        _drop_doubled(graph, kind)
        _merge_through(graph)
        if len(graph.edges) == before:
            break
    return graph


def _drop_spurs(graph: Graph, kind: Kind) -> None:
    """Edges that end free and are short, faint, or run beside the rest."""
    at = graph.at()
    for key in [
        k for k, e in graph.edges.items() if e.a == e.b and e.length < LOOP_W * kind.width and len(at[e.a]) > 2
    ]:
        _remove_loop(graph, key, at)
    for key in sorted(graph.edges, key=lambda k: graph.edges[k].length):
        edge = graph.edges[key]
        free = [n for n in (edge.a, edge.b) if len(at[n]) == 1]
        if len(free) != 1 or edge.a == edge.b:
            continue
        joint = edge.b if free[0] == edge.a else edge.a
        if len(at[joint]) < 3:
            continue
        length = edge.length
        short = length < kind.spur or (length < FAINT_SPUR_MM and edge.strength < FAINT)
        if short or (length < BESIDE_SPUR_MM and _runs_beside(graph, key, at[joint], joint, kind)):
            _remove(graph, key, at)


def _drop_run_outs(graph: Graph, kind: Kind) -> None:
    """Where two lines meet in a corner and run past it a little, the corner is meant, not what runs past."""
    at = graph.at()
    for node, keys in list(at.items()):
        if not 3 <= len(keys) <= 4 or len(set(keys)) != len(keys):
            continue
        past = [k for k in keys if graph.edges[k].length < RUN_OUT_W * kind.width and _is_free(graph, k, node, at)]
        rest = [k for k in keys if k not in past]
        if past and len(rest) == 2 and all(graph.edges[k].length > RUN_OUT_W * kind.width for k in rest):
            tangents = [_direction_from(graph.edges[k], node, 3.0 * kind.width) for k in rest]
            if float(tangents[0] @ tangents[1]) > -np.cos(np.radians(CORNER_DEG)):
                for key in past:
                    _remove(graph, key, at)


def _is_free(graph: Graph, key: int, node: int, at: dict[int, list[int]]) -> bool:
    edge = graph.edges[key]
    return edge.a != edge.b and len(at[edge.b if edge.a == node else edge.a]) == 1


def _direction_from(edge: Edge, node: int, reach: float) -> np.ndarray:
    """The unit direction in which an edge leaves a node, over a reach in mm, past what the joint bends."""
    points = edge.from_node(node)
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    near, far = (np.array([np.interp(min(d, s[-1]), s, points[:, k]) for k in (0, 1)]) for d in (reach / 3.0, reach))
    leg = far - near
    out: np.ndarray = leg / max(float(np.hypot(*leg)), 1e-9)
    return out


def _runs_beside(graph: Graph, key: int, others: list[int], joint: int, kind: Kind) -> bool:
    """Whether all of an edge lies within 1.2 W of the others at its joint."""
    mine = graph.edges[key].points
    rest = [graph.edges[k].points for k in others if k != key]
    if not rest:
        return False
    from scipy.spatial import cKDTree

    far, _ = cKDTree(np.vstack(rest)).query(mine)
    return float(np.max(far)) < BESIDE * kind.width


def _remove_loop(graph: Graph, key: int, at: dict[int, list[int]]) -> None:
    """A loop no larger than a blot of the pencil is none."""
    node = graph.edges.pop(key).a
    at[node] = [k for k in at[node] if k != key]


def _remove(graph: Graph, key: int, at: dict[int, list[int]]) -> None:
    edge = graph.edges.pop(key)
    for node in (edge.a, edge.b):
        at[node].remove(key)
        if not at[node]:
            graph.places.pop(node, None)


def _merge_through(graph: Graph) -> None:
    """Joints of which only two edges are left are none."""
    at = graph.at()
    for node in list(graph.places):
        keys = at[node]
        if len(keys) != 2 or keys[0] == keys[1]:
            continue
        one, two = (graph.edges[k] for k in keys)
        points = np.vstack([one.from_node(node)[::-1], two.from_node(node)[1:]])
        a = one.b if one.a == node else one.a
        b = two.b if two.a == node else two.a
        share = one.length / max(one.length + two.length, 1e-9)
        graph.edges[keys[0]] = Edge(a, b, points, share * one.strength + (1.0 - share) * two.strength)
        del graph.edges[keys[1]]
        at[b] = [keys[0] if k == keys[1] else k for k in at[b]]
        at.pop(node)
        graph.places.pop(node)


def _join_near(graph: Graph, kind: Kind) -> None:
    """Joints closer than W along an edge are one."""
    at = graph.at()
    for key in sorted(graph.edges, key=lambda k: graph.edges[k].length):
        edge = graph.edges.get(key)
        if edge is None or edge.a == edge.b or edge.length >= kind.width:
            continue
        if len(at[edge.a]) >= 3 and len(at[edge.b]) >= 3:
            _make_one(graph, key, edge, at, kind)


def _make_one(graph: Graph, key: int, edge: Edge, at: dict[int, list[int]], kind: Kind) -> None:
    """Two joints become the one between them."""
    kept, gone = edge.a, edge.b
    place = (graph.places[kept] + graph.places[gone]) / 2.0
    del graph.edges[key]
    at[kept] = [k for k in [*at[kept], *at.pop(gone)] if k != key]
    graph.places.pop(gone)
    graph.places[kept] = place
    for other in set(at[kept]):
        e = graph.edges[other]
        e.a, e.b = (kept if n == gone else n for n in (e.a, e.b))
        points = e.points.copy()
        if e.a == kept:
            points[0] = place
        if e.b == kept:
            points[-1] = place
        e.points = points
        if e.a == e.b and e.length < 2.0 * kind.width:
            del graph.edges[other]
            at[kept] = [k for k in at[kept] if k != other]


def _drop_doubled(graph: Graph, kind: Kind) -> None:
    """Of two edges between the same nodes that run within 1.6 W of each other, the stronger stays."""
    from scipy.spatial import cKDTree

    pairs: dict[tuple[int, int], list[int]] = {}
    for key, edge in graph.edges.items():
        pairs.setdefault((min(edge.a, edge.b), max(edge.a, edge.b)), []).append(key)
    for keys in pairs.values():
        for one, two in itertools.combinations(keys, 2):
            if one in graph.edges and two in graph.edges:
                a, b = graph.edges[one], graph.edges[two]
                if max(cKDTree(b.points).query(a.points)[0].max(), cKDTree(a.points).query(b.points)[0].max()) < (
                    SAME * kind.width
                ):
                    weak = one if a.strength * a.length < b.strength * b.length else two
                    graph.doubled.append(graph.edges[weak].points)
                    del graph.edges[weak]
    used = {n for e in graph.edges.values() for n in (e.a, e.b)}
    graph.places = {n: p for n, p in graph.places.items() if n in used}
