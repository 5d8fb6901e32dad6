"""X marks: how pencillers say that an area is to be filled black; which area that is."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from plain_stride.pencils.read.reading import ReadLine

STRAIGHT, LEAST_MM, MOST_MM = 0.93, 2.5, 60.0
"""Chord against length, and the lengths, of a stroke of an X."""
MIDDLE, LEAST_DEG, ALIKE = (0.2, 0.8), 30.0, 2.5
"""Where on either stroke the crossing lies, how steep it is, how much longer one may be."""
FREE_MM, LEAST_FREE = 0.8, 3
PER_MM, BRIDGE_MM, MOST_TIMES = 4.0, 0.75, 40.0
"""Of the picture in which areas are looked for: pixels a mm, how far lines are thickened so that gaps close, how many
times as large as the X's own box an area may be."""
SIMPLE_MM = 0.15


@dataclass(frozen=True, eq=False)
class XMark:
    """x, y: the crossing, mm; strokes: numbers of the two lines; outline (n, 2) mm of the area it stands in."""

    x: float
    y: float
    strokes: tuple[int, int]
    outline: np.ndarray


def x_marks(lines: Sequence[ReadLine]) -> list[XMark]:
    """The X marks among read lines that stand in an area that other lines enclose."""
    pairs = _crossed(lines)
    if not pairs:
        return []
    strokes = {k for pair, _ in pairs for k in pair}
    room = _Room([line.points for k, line in enumerate(lines) if k not in strokes])
    out = []
    for pair, at in pairs:
        ends = np.vstack([lines[k].points[[0, -1]] for k in pair])
        outline = room.round_place(at, MOST_TIMES * float(np.prod(np.ptp(ends, axis=0))))
        if outline is not None:
            out.append(XMark(float(at[0]), float(at[1]), pair, outline))
    return _one_an_area(out)


def _crossed(lines: Sequence[ReadLine]) -> list[tuple[tuple[int, int], np.ndarray]]:
    """((number, number), crossing) of strokes that make an X."""
    from scipy.spatial import cKDTree

    some = [k for k, line in enumerate(lines) if _is_stroke(line)]
    if len(some) < 2:
        return []
    own = np.concatenate([np.full(len(line.points), k) for k, line in enumerate(lines)])
    points = np.vstack([line.points for line in lines])
    tree = cKDTree(points)
    out = []
    for i, a in enumerate(some):
        for b in some[i + 1 :]:
            at = _crossing(lines[a].points, lines[b].points)
            if at is None:
                continue
            ends = np.vstack([lines[a].points[[0, -1]], lines[b].points[[0, -1]]])
            free = sum(all(own[n] in (a, b) for n in near) for near in tree.query_ball_point(ends, FREE_MM))
            if free >= LEAST_FREE:
                out.append(((a, b), at))
    return out


def _is_stroke(line: ReadLine) -> bool:
    p = line.points
    if line.closed or len(p) < 4:
        return False
    length = float(np.hypot(*np.diff(p, axis=0).T).sum())
    return LEAST_MM <= length <= MOST_MM and float(np.hypot(*(p[-1] - p[0]))) >= STRAIGHT * length


def _crossing(p: np.ndarray, q: np.ndarray) -> np.ndarray | None:
    """Where two strokes, taken as straight, cross in their middles at a steep angle."""
    a, u, b, v = p[0], p[-1] - p[0], q[0], q[-1] - q[0]
    long = float(np.hypot(*u)), float(np.hypot(*v))
    sine = float(u[0] * v[1] - u[1] * v[0])
    if abs(sine) < np.sin(np.radians(LEAST_DEG)) * long[0] * long[1] or max(long) > ALIKE * min(long):
        return None
    s = float((b - a)[0] * v[1] - (b - a)[1] * v[0]) / sine
    t = float((b - a)[0] * u[1] - (b - a)[1] * u[0]) / sine
    if not (MIDDLE[0] <= s <= MIDDLE[1] and MIDDLE[0] <= t <= MIDDLE[1]):
        return None
    out: np.ndarray = a + s * u
    return out


class _Room:
    """The areas that lines enclose, small gaps bridged."""

    def __init__(self, lines: Sequence[np.ndarray]) -> None:
        from PIL import Image, ImageDraw
        from scipy import ndimage

        points = np.vstack(lines) if lines else np.zeros((1, 2))
        self._origin = points.min(axis=0) - 4.0
        w, h = np.ceil((points.max(axis=0) + 4.0 - self._origin) * PER_MM).astype(int)
        image = Image.new("L", (int(w), int(h)), 0)
        pen = ImageDraw.Draw(image)
        wide = max(1, round(2.0 * BRIDGE_MM * PER_MM))
        for line in lines:
            pen.line([tuple(p) for p in (line - self._origin) * PER_MM], fill=1, width=wide, joint="curve")
        self._areas, n = ndimage.label(np.asarray(image) == 0)
        self._size = ndimage.sum_labels(np.ones(self._areas.shape), self._areas, range(n + 1)) if n else np.zeros(1)

    def round_place(self, at: np.ndarray, most: float) -> np.ndarray | None:
        """The outline of the area round a place; None where it is open, or larger than `most` mm2."""
        x, y = ((at - self._origin) * PER_MM).astype(int)
        h, w = self._areas.shape
        if not (0 <= x < w and 0 <= y < h):
            return None
        label = int(self._areas[y, x])
        if not label or label == self._areas[0, 0] or self._size[label] > most * PER_MM**2:
            return None
        return self._outline(label)

    def _outline(self, label: int) -> np.ndarray | None:
        import shapely

        mask = np.pad(self._areas == label, 1)
        edges = np.diff(mask.astype(np.int8), axis=1)
        starts, ends = np.argwhere(edges > 0), np.argwhere(edges < 0)
        rows = [shapely.box(a, y - 1, b, y) for (y, a), (_, b) in zip(starts, ends, strict=True)]
        # What the lines' thickness took is given back: the area ends in their middles.
        area = shapely.union_all(rows).buffer(BRIDGE_MM * PER_MM, quad_segs=4)
        whole = max(shapely.get_parts(area), key=lambda part: part.area)
        ring = shapely.get_coordinates(whole.simplify(SIMPLE_MM * PER_MM).exterior)[:-1]
        return ring / PER_MM + self._origin if len(ring) > 2 else None


def _one_an_area(marks: list[XMark]) -> list[XMark]:
    """Connected Xs stand in one area: the first of them tells it."""
    out: list[XMark] = []
    for mark in marks:
        if all(mark.outline.shape != o.outline.shape or not np.allclose(mark.outline, o.outline) for o in out):
            out.append(mark)
    return out
