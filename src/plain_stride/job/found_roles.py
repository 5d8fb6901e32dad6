"""Roles found from the drawing: a line that is mostly outside of its part is outer, one within it inner."""

from plain_stride.form.known import sides_of
from plain_stride.form.roles import FOUND
from plain_stride.job.shapes import Shapes

MOSTLY = 0.5
OUTER, INNER = "outer", "inner"
FoundRole = tuple[str, str]
"""(line, role)."""


def found_roles(shapes: Shapes, parts: list[str]) -> list[FoundRole]:
    """What the lines of some parts whose role nobody gave are likelier to be. All ink of a part is looked at, and
    nothing is said of a part that encloses nothing. n log n in the points of each part."""
    out: list[FoundRole] = []
    for part in parts:
        keys = [key for key, row in shapes.job.rows.lines.items() if row.part == part and not row.draft]
        sides = sides_of([shapes[key].path for key in keys])
        if not any(side.outside.any() for side in sides):
            continue
        out += [(key, OUTER if side.share > MOSTLY else INNER) for key, side in zip(keys, sides, strict=True)
                if shapes.job.rows.lines[key].roles[0].by == FOUND]  # fmt: skip
    return out
