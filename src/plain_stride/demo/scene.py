"""The demo's drawing: the lock keeper, a heron with lantern and crank, by the balance beam of a canal lock, at dusk.

Things are listed from the nearest to the farthest. Each has lines and, where it is solid, covers. In the pencils the
lines of what lies behind are cut at the covers before it; in ink they run on whole, and the covers of the job hide
them. All in mm on a sheet of 240 x 160.
"""

import numpy as np

from plain_stride.demo.draw import SceneLine, Thing, cross, straight
from plain_stride.demo.far import bridge, cloud, cottage, dusk, land, poplars, sky
from plain_stride.demo.keeper import keeper
from plain_stride.demo.lock import beam, cat, gate, gear, lockside, water

SIZE_MM = (240.0, 160.0)
LEAST_MM = 1.2
"""Shorter rests of a cut line are left out."""


def scene() -> list[Thing]:
    """The things, near to far, their lines whole."""
    return [*keeper(), cat(), beam(), lockside(), gear(), gate(), water(), cottage(), poplars(), bridge(), land(),
            cloud(), sky(), dusk()]  # fmt: skip


def seen(things: list[Thing]) -> list[Thing]:
    """The things with their lines cut at the silhouettes before them and at the edge of the sheet."""
    return [_cut(thing, things[:n]) for n, thing in enumerate(things)]


def crosses(things: list[Thing]) -> list[np.ndarray]:
    """The strokes of all X marks."""
    return [stroke for thing in things for at in thing.crosses for stroke in cross(*at)]


def guides() -> list[np.ndarray]:
    """Construction lines under the pencils: horizon, beam, the keeper's lean, the lantern's axis."""
    return [
        straight((4, 97.8), (236, 97.2)), straight((6, 118.4), (224, 100.4)), straight((96, 20), (66, 152)),
        straight((139, 58), (139, 124)), straight((78, 62), (146, 55)), straight((170, 45), (236, 45)),
    ]  # fmt: skip


def _cut(thing: Thing, nearer: list[Thing]) -> Thing:
    import shapely

    hidden = shapely.unary_union([shapely.make_valid(shapely.Polygon(c)) for t in nearer for c in t.covers])
    sheet = shapely.box(0.0, 0.0, *SIZE_MM)
    out = Thing(thing.part, thing.tier, thing.inked, [], thing.covers)
    for line in thing.lines:
        seen = shapely.intersection(shapely.LineString(line.points), sheet)
        seen = shapely.difference(seen, hidden)
        seen = shapely.line_merge(seen) if seen.geom_type == "MultiLineString" else seen
        for piece in getattr(seen, "geoms", [seen]):
            if piece.geom_type == "LineString" and piece.length >= LEAST_MM:
                points = np.asarray(piece.coords)
                out.lines.append(SceneLine(points, line.role, line.nib, line.pressure, line.pace, line.inked))
    return out
