"""Drawings made of plain points, for tests of what is known of them and of what a plan wants of them."""

import numpy as np

from plain_stride.form.cover import drawn_cover
from plain_stride.form.drawing import Drawing, DrawingKeeper, DrawnLine, DrawnPart
from plain_stride.form.known import known_of
from plain_stride.form.roles import whole_role
from plain_stride.hand.nib import standard_nibs
from plain_stride.lines.curve import circle
from plain_stride.lines.edits import End
from plain_stride.lines.given import form_from_points
from plain_stride.lines.profile import Widths
from plain_stride.lines.recipe import Recipe, given_centreline, worked
from plain_stride.weight.scene import LineSays, Scene

EVEN_NIB = standard_nibs()["6"]


def disc(x, y, radius, wide=0.3, **more):
    """A circle, as a line of `drawing_of`."""
    return {"curve": circle(np.array([x, y], float), radius), "closed": True, "wide": wide, **more}


def stroke(*points, wide=0.3, **more):
    """A line through points, straight between two of them, as a line of `drawing_of`."""
    points = np.array(points, float)
    if len(points) == 2:
        points = points[0] + np.linspace(0, 1, 9)[:, None] * (points[1] - points[0])
    return {"curve": form_from_points(points, np.ones(len(points)), np.ones(len(points)), False).curve, "wide": wide,
            **more}  # fmt: skip


def drawing_of(lines, parts=(("A", "middle"),), covers=(), hidden=(), inside=None) -> Drawing:
    """lines: by id, of `disc` and `stroke` (role, by, part, draft); parts: (name, tier), nearest first; covers: rings by
    part; inside: of which part another is, by name."""
    made = []
    for place, (key, line) in enumerate(lines.items()):
        centre, closed = given_centreline(line["curve"]), line.get("closed", False)
        length = float(centre.s[-1])
        half = np.full(2, line["wide"] / 2.0)
        recipe = Recipe(
            centre, EVEN_NIB, (End("round"), End("round")), closed, Widths(np.array([0.0, length]), half, half)
        )
        now = worked(recipe)
        roles = whole_role(line.get("role", "inner"), line.get("by", "hand"))
        made.append((DrawnLine(key, line.get("part", parts[0][0]), float(place), roles, now.path, now.hand, "",
                               line.get("draft", False)), now))  # fmt: skip
    drawn = tuple(DrawnPart(name, name, n, tier, name in hidden, "black", (inside or {}).get(name, ""))
                  for n, (name, tier) in enumerate(parts, 1))  # fmt: skip
    held = {part: drawn_cover([np.array(ring, float)], []) for part, ring in dict(covers).items()}
    return DrawingKeeper().change(drawn, held, made, ())


def scene_of(lines, says=None, **more) -> Scene:
    """The same as a plan sees it. says: what the inker said of lines, as of `LineSays`."""
    drawing = drawing_of(lines, **more)
    said = {key: LineSays(**one) for key, one in (says or {}).items()}
    return Scene(drawing, known_of(drawing), said)


def along(scene, key, values):
    """(arc lengths, values) of one line, of values at all places of a scene."""
    places = scene.known.places
    on = places.of(places.row[key])
    return places.s[on], values[on]


def at(scene, key, values, point):
    """The value of a line at its place nearest to a point."""
    places = scene.known.places
    on = places.of(places.row[key])
    return float(values[on][np.hypot(*(places.points[on] - point).T).argmin()])
