"""What is known of a drawing: which stretches are outside of their part, on which side the form lies, what hides what,
and where lines meet."""

from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from weakref import WeakKeyDictionary

import numpy as np

from plain_stride.form.cover import SIMPLE_MM, Cover
from plain_stride.form.drawing import STRAND_MM, Drawing
from plain_stride.form.hatching_rows import hatching_rows
from plain_stride.form.junctions import Junctions, Tables, junctions_of
from plain_stride.form.outside import Outside, outside_of
from plain_stride.form.places import Places, along_of, places_of
from plain_stride.lines.curve import flatten
from plain_stride.lines.shape import Path

AT_ONCE = 2
ON_FORMS = ("texture", "halo")
"""Roles of lines that lie on forms and make none."""
SHORT_RUN_MM, CONTOUR_MM = 2.0, 20.0
"""A stretch that changes sides for less than this is taken for what lies round it; a line of a part that encloses
nothing which is longer than the second is an outline of its own, as those of a row of hills."""


@dataclass(frozen=True, eq=False)
class Known:
    """At every place: outside (n,): of its part; form (n,): 1 where the form lies to the left, -1 to the right, 0 on
    both sides or none; hidden (n,): under a part in front. contour (m,): long lines of parts that enclose nothing."""

    places: Places
    outside: np.ndarray
    form: np.ndarray
    hidden: np.ndarray
    contour: np.ndarray
    junctions: Junctions

    def only(self, lines: np.ndarray, rows: np.ndarray) -> "Known":
        """Of some lines (j,), in their order, with some junctions (k,) of theirs."""
        on = self.places.index_of(lines)
        return Known(self.places.only(lines), self.outside[on], self.form[on], self.hidden[on], self.contour[lines],
                     self.junctions.only(rows).among(lines))  # fmt: skip


Sides = Callable[[Sequence[Sequence[Path]]], list[list[Outside]]]


def sides_of(paths: Sequence[Path]) -> list[Outside]:
    """What is outside of the lines of one part, at the places along each; no stretch of it is a short one."""
    told = outside_of([_flat(path) for path in paths], [along_of(path) for path in paths])
    places = places_of((str(k), path) for k, path in enumerate(paths))
    found = np.concatenate([side.outside for side in told]).astype(float) if told else np.zeros(0)
    # A stretch that changes sides for a little is taken for what lies round it.
    outside = places.smoothed(found, 2.0 * SHORT_RUN_MM) > 0.5
    return [replace(side, outside=outside[places.of(k)]) for k, side in enumerate(told)]


def sides_of_parts(parts: Sequence[Sequence[Path]]) -> list[list[Outside]]:
    """The same for several parts, two at a time: the geometry library lets go of the interpreter."""
    if len(parts) < 2:
        return [sides_of(paths) for paths in parts]
    with ThreadPoolExecutor(AT_ONCE) as pool:
        return list(pool.map(sides_of, parts))


_flats: WeakKeyDictionary[Path, np.ndarray] = WeakKeyDictionary()


def _flat(path: Path) -> np.ndarray:
    """Points (n, 2) of a path within STRAND_MM, a closed one repeating its first; kept as long as it."""
    import shapely

    kept = _flats.get(path)
    if kept is None:
        points = flatten(path.curve, STRAND_MM)
        ring = np.vstack([points, points[:1]]) if path.closed else points
        kept = _flats[path] = shapely.get_coordinates(shapely.simplify(shapely.LineString(ring), SIMPLE_MM))
    return kept


def known_of(drawing: Drawing, sides: Sides = sides_of_parts, tables: Tables | None = None) -> Known:
    """All that is known of the ink that is seen in a drawing. sides: what tells of the lines of each part what is
    outside; it may keep what it told, and so may tables of junctions."""
    lines = sorted((key for key in drawing.lines if drawing.is_seen(key)),
                   key=lambda key: _by_place(drawing.lines[key].path))  # fmt: skip
    places = places_of((key, drawing.lines[key].path) for key in lines)
    outside, form = np.zeros(len(places.s), bool), np.zeros(len(places.s), int)
    # Texture is on a form and encloses none; a page of hatching would take minutes to be noded.
    rows = hatching_rows([drawing.lines[key].path for key in lines])
    forming = [key for key, row in zip(lines, rows, strict=True) if not row and drawing.lines[key].role not in ON_FORMS]
    parts = list(_by_part(drawing, forming).values())
    for keys, all_told in zip(parts, sides([[drawing.lines[key].path for key in keys] for keys in parts]), strict=True):
        for key, told in zip(keys, all_told, strict=True):
            on = places.of(places.row[key])
            outside[on], form[on] = told.outside, told.form
    hidden = _hidden(drawing, places)
    junctions = junctions_of(places, drawing.contacts, tables)
    seen = ~hidden[places.at(junctions.line, junctions.s)] & ~hidden[places.at(junctions.other, junctions.other_s)]
    return Known(places, outside, form, hidden, _contours(drawing, places, outside), junctions.only(seen))


def _contours(drawing: Drawing, places: Places, outside: np.ndarray) -> np.ndarray:
    at = {part.id: k for k, part in enumerate(drawing.parts)}
    part = np.array([at[drawing.lines[key].part] for key in places.lines], int)
    encloses = np.zeros(len(at), bool)
    encloses[part[places.line[outside]]] = True
    return np.asarray(~encloses[part] & (places.length >= CONTOUR_MM))


_orders: WeakKeyDictionary[Path, tuple[float, ...]] = WeakKeyDictionary()


def _by_place(path: Path) -> tuple[float, ...]:
    """An order of lines that tells nothing of when they were drawn, nor of what they are called; kept as long as they
    are."""
    kept = _orders.get(path)
    if kept is None:
        ends = path.curve[0].ravel().tolist(), path.curve[-1].ravel().tolist()
        kept = _orders[path] = (*ends[0], float(path.arc.length), *ends[1])
    return kept


def _by_part(drawing: Drawing, lines: Sequence[str]) -> Mapping[str, list[str]]:
    out: dict[str, list[str]] = {}
    for key in lines:
        out.setdefault(drawing.lines[key].part, []).append(key)
    return out


def _hidden(drawing: Drawing, places: Places) -> np.ndarray:
    order = {part.id: part.order for part in drawing.parts}
    of = np.array([order[drawing.lines[key].part] for key in places.lines], float)[places.line]
    hidden = np.zeros(len(places.s), bool)
    for part, cover in drawing.covers.items():
        hidden |= (of > order[part]) & _on(cover, places.points)
    return hidden


def _on(cover: Cover, points: np.ndarray) -> np.ndarray:
    x0, y0, x1, y1 = cover.box
    near = (points[:, 0] >= x0) & (points[:, 0] <= x1) & (points[:, 1] >= y0) & (points[:, 1] <= y1)
    out = np.zeros(len(points), bool)
    out[near] = cover.holds(points[near])
    return out
