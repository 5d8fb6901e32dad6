"""The flats map of a job: its areas with colours, names and what the inker said of them; where it leaks."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from plain_stride import colour
from plain_stride.finish.art import ArtFlats
from plain_stride.form.flat_leaks import FlatLeak, leaks_of
from plain_stride.form.flats import Bound, FlatArea, FlatsMap, flats_map
from plain_stride.job.board_facts import edges_of, frames_of
from plain_stride.job.covers import Covers
from plain_stride.job.hand_over_records import COLOUR, CUT, FlatRecord
from plain_stride.job.inks import hand_over_of
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.job.thin_lines import thin_width
from plain_stride.lines.shape import Shape

NO_BOUNDS = ("texture", "halo")
"""Roles of lines that bound no area."""
OUTER = "outer"
ALIKE, LEAST_ALIKE = 0.5, 0.34
"""Of the lines round an area, how many are those of a kept one where it is surely it, and where it may be."""
PALE, CHROMA, TURN_DEG = 82.0, 30.0, 137.508
"""Of flats that nobody has chosen: lightness, chroma, and how far their hues lie apart from part to part."""
NOBODY = "#efeae0"
BESIDE_LEAK_MM = 3.0
"""A gap that was said to be meant is known again so near."""


@dataclass(frozen=True, eq=False)
class Flat:
    """One flat: some areas of the map, by number; part: its name, '' for none; says: the key of what the inker said of
    it; bounds: lines round it."""

    id: str
    part: str
    colour: str
    areas: tuple[int, ...]
    area: Any
    bounds: tuple[str, ...]
    open: bool
    says: str = ""


@dataclass(frozen=True, eq=False)
class Flats:
    """flats: in the order of the map; lost: keys of what was said of areas that are there no more; leaks: where an area
    would close if a gap did."""

    map: FlatsMap
    flats: tuple[Flat, ...]
    lost: tuple[str, ...]
    leaks: tuple[FlatLeak, ...]

    def at(self, x: float, y: float) -> Flat | None:
        """The flat that holds a place, mm."""
        number = int(self.map.at(np.array([[x, y]]))[0])
        return next((one for one in self.flats if number in one.areas), None)

    def colours_at(self, points: np.ndarray) -> list[str | None]:
        """The colours at places (n, 2) mm; none on the open sheet."""
        of = {k: None if one.open else one.colour for one in self.flats for k in one.areas}
        return [of.get(k) for k in self.map.at(points).tolist()]


def flats_of(
    job: JobRows, shapes: Shapes, gap: float | None = None, with_leaks: bool = True, covers: Covers | None = None
) -> Flats:
    """The map as the drawing and what the inker said make it. gap: mm that is bridged, None as the job has it; covers:
    of this job, where somebody keeps them."""
    covers = covers or Covers(job, shapes)
    set_ = hand_over_of(job)
    bridge = set_.bridge if gap is None else gap
    bounds, size, bleed = bounds_of(job, shapes, covers), job.page.size_mm, edges_of(job).bleed
    sheet = (-bleed, -bleed, size[0] + bleed, size[1] + bleed)
    cuts = [np.array(row.places) for row in job.rows.flats.values() if row.kind == CUT]
    order = [part.id for part in job.parts()]
    regions = {part: cover.area for part, cover in covers.of_all().items()}
    found = flats_map(bounds, order, sheet, bridge, cuts, regions)
    flats, lost = _said(job, found)
    leaks = leaks_of(found, bounds, bridge) if with_leaks else ()
    return Flats(found, flats, lost, tuple(one for one in leaks if not _is_meant(job, one)))


def bounds_of(job: JobRows, shapes: Shapes, covers: Covers) -> list[Bound]:
    """What bounds areas: lines that are seen, but for textures, halos and strokes of tones; edges of blacks; frames."""
    shown = {part.id: part for part in job.parts() if not part.hidden}
    out: list[Bound] = []
    for key in job.ink_ids():
        row = job.inked_rows()[key]
        part = shown.get(row.part)
        if part is None or part.ink != "black" or row.tone is not None:
            continue
        if key in job.rows.blacks:
            rings = shapes.black(key).rings
            out += [Bound(key, part.id, np.vstack([ring, ring[:1]])) for ring in rings]
            continue
        line = job.rows.lines[key]
        if not line.draft and line.role not in NO_BOUNDS:
            shape = shapes[key]
            half = thin_width(shape) / 2.0
            out += [Bound(key, part.id, points, half, line.role == OUTER)
                    for points in _seen(shape, covers, part.id)]  # fmt: skip
    for k, frame in frames_of(job).items():
        x0, y0, x1, y1 = frame.box
        ring = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1], [x0, y0]])
        out.append(Bound(f"frame {k}", "", ring, 0.0, False))
    return out


def _seen(shape: Shape, covers: Covers, part: str) -> list[np.ndarray]:
    """The stretches of a line's middle (n, 2) mm that nothing hides."""
    import shapely

    points = shape.flat_ring
    hiding = covers.hiding(part, shape)
    if not hiding:
        return [points]
    left = shapely.difference(shapely.LineString(points), shapely.union_all([cover.area for cover in hiding]))
    left = shapely.line_merge(left)
    return [shapely.get_coordinates(one) for one in shapely.get_parts(left)
            if one.geom_type == "LineString" and not one.is_empty]  # fmt: skip


def part_colour(job: JobRows, part: str) -> str:
    """The colour of a part's flats where nobody has chosen one: as the parts come, by turns of hue."""
    keys = sorted(job.rows.parts)
    if part not in keys:
        return NOBODY
    return _pale(keys.index(part))


def _pale(k: int) -> str:
    angle = np.radians(k * TURN_DEG)
    return colour.from_lab(PALE, CHROMA * float(np.cos(angle)), CHROMA * float(np.sin(angle)))


def _said(job: JobRows, found: FlatsMap) -> tuple[tuple[Flat, ...], tuple[str, ...]]:
    """Flats: areas that the inker said something of, and all others, each for itself; keys of what is lost."""
    taken: dict[int, str] = {}
    said: list[tuple[str, FlatRecord, list[int]]] = []
    lost = []
    for key, row in job.rows.flats.items():
        if row.kind != COLOUR:
            continue
        mine = [k for place, bounds in zip(row.places, row.bounds, strict=True)
                if (k := found_again(found, place, bounds)) is not None]  # fmt: skip
        mine = [k for k in dict.fromkeys(mine) if k not in taken]
        if not mine:
            lost.append(key)
            continue
        taken |= dict.fromkeys(mine, key)
        said.append((key, row, mine))
    out = [_flat(job, found, (k,)) for k in range(len(found.areas)) if k not in taken]
    for key, row, mine in said:
        flat = _flat(job, found, tuple(mine))
        name = job.rows.parts[row.part].name if row.part in job.rows.parts else flat.part
        out.append(replace(flat, part=name, colour=row.colour or flat.colour, says=key,
                           open=flat.open and row.colour is None))  # fmt: skip
    out.sort(key=lambda one: one.areas)
    return tuple(out), tuple(lost)


def _flat(job: JobRows, found: FlatsMap, areas: tuple[int, ...]) -> Flat:
    import shapely

    first = found.areas[areas[0]]
    whole = first.area if len(areas) == 1 else shapely.union_all([found.areas[k].area for k in areas])
    name = job.rows.parts[first.part].name if first.part in job.rows.parts else ""
    bounds = tuple(dict.fromkeys(line for k in areas for line in found.areas[k].bounds))
    own = part_colour(job, first.part)
    return Flat(_id(first), name, own, areas, whole, bounds, all(found.areas[k].is_sheet for k in areas))


def _id(area: FlatArea) -> str:
    """Of a place that lies in it: the same as long as the area stays."""
    import shapely

    x, y = shapely.get_coordinates(shapely.point_on_surface(area.area))[0]
    return f"a{round(x * 10)}_{round(y * 10)}"


def found_again(found: FlatsMap, place: tuple[float, float], bounds: Sequence[str]) -> int | None:
    """The area that a place was in when these lines were round it, in a map of another moment: the one that holds the
    place where it has most of those lines, else the one that has most of them."""
    held = int(found.at(np.array([place]))[0])
    wanted = {line for line in bounds if line}

    def alike(k: int) -> float:
        own = set(found.areas[k].bounds)
        return len(own & wanted) / max(len(own | wanted), 1)

    if not wanted:
        return held if held >= 0 else None
    if held >= 0 and alike(held) >= ALIKE:
        return held
    some = [k for k, area in enumerate(found.areas) if wanted.intersection(area.bounds)]
    best = max(some, key=alike, default=None)
    if best is not None and alike(best) >= ALIKE:
        return best
    if held >= 0 and wanted.intersection(found.areas[held].bounds):
        return held
    return best if best is not None and alike(best) >= LEAST_ALIKE else None


def _is_meant(job: JobRows, leak: FlatLeak) -> bool:
    """Whether the inker has said that what leaks is open on purpose."""
    for row in job.rows.meant.values():
        if row.kind not in ("gap", ""):
            continue
        lines = set(row.ink)
        if row.scope == "kind" or (row.scope == "part" and leak.part in lines) or (
                row.scope == "line" and lines & set(leak.lines)):  # fmt: skip
            return True
        if row.scope == "finding" and np.hypot(row.x_mm - leak.at[0], row.y_mm - leak.at[1]) < BESIDE_LEAK_MM:
            return True
    return False


def art_flats(job: JobRows, found: Flats, trapped: bool) -> ArtFlats:
    """The flats as final art has them, the open sheet left out. trapped: carried on under the lines, as drawn curves
    need it; pixels have one colour each."""
    import shapely

    areas = found.map.trapped(hand_over_of(job).spread) if trapped else [one.area for one in found.map.areas]
    out = []
    for one in found.flats:
        if not one.open:
            whole = areas[one.areas[0]] if len(one.areas) == 1 else shapely.union_all([areas[k] for k in one.areas])
            out.append((one.part or one.id, one.colour, whole))
    return ArtFlats(tuple(out))


def told_flats(found: Flats) -> dict[str, Any]:
    """As JSON has it: mm, rings of [x, y], the outer one first."""
    return {
        "units": "mm",
        "areas": [_told(one) for one in found.flats],
        "leaks": [{"x": round(one.at[0], 3), "y": round(one.at[1], 3), "gap": round(one.gap, 3),
                   "area_mm2": None if one.area is None else round(one.area, 2), "lines": list(one.lines)}
                  for one in found.leaks],
        "lost": list(found.lost),
    }  # fmt: skip


def _told(one: Flat) -> dict[str, Any]:
    import shapely

    polygons = [piece for piece in shapely.get_parts(one.area) if piece.geom_type == "Polygon"]
    rings = [ring for piece in polygons for ring in (piece.exterior, *piece.interiors)]
    outline = [np.round(shapely.get_coordinates(ring)[:-1], 4).tolist() for ring in rings]
    return {"id": one.id, "part": one.part or None, "colour": one.colour, "outline": outline,
            "area_mm2": round(float(shapely.area(one.area)), 4), "open": one.open, "said": one.says or None,
            "bounds": list(one.bounds)}  # fmt: skip
