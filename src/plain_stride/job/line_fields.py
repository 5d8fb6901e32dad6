"""Fields of a line that hold more than one value: between what they stand for and the JSON of the file."""

from collections.abc import Callable
from typing import Any

import numpy as np

from plain_stride.form.roles import GIVEN_BY, RoleStretch, check_role
from plain_stride.hand.nib import END_KINDS
from plain_stride.job.record_fields import FARTHEST_SOURCE, maybe_number, numbers, pair, wanted
from plain_stride.lines.affine import Affine, moved
from plain_stride.lines.bending import (
    LEAST_REACH_MM,
    MOST_GROWN_MM,
    MOST_REACH_MM,
    Bend,
    EndTurn,
    Give,
    Growth,
    Push,
)
from plain_stride.lines.centre import Following
from plain_stride.lines.edits import SIDES, End, Profile, SetWidth, Span, Swell, WidthEdit
from plain_stride.measure import FARTHEST_MM, WIDEST_MM

MOST_EDITS = 20_000
MOST_BENDS, MOST_PROFILE = 500, 1000
MOST_PUSHES = 400
"""Points of one push."""


def read_roles(value: Any) -> tuple[RoleStretch, ...]:
    """Stretches by their JSON [[from, to, role, given by]]. Raises RecordError."""
    stretches = []
    for start, end, role, *by in value:
        wanted(not by or (len(by) == 1 and by[0] in GIVEN_BY), "its role")
        stretches.append(RoleStretch(maybe_number(start), maybe_number(end), check_role(role), *by))
    return tuple(stretches)


def plain_roles(stretches: tuple[RoleStretch, ...]) -> list[list[Any]]:
    """The same as JSON holds it."""
    return [[s.start, s.end, s.role] if s.by == GIVEN_BY[0] else [s.start, s.end, s.role, s.by] for s in stretches]


def _swell(start: Any, end: Any, factor: Any, side: Any) -> Swell:
    wanted(side in SIDES and 1e-3 < numbers((factor,))[0] < 1e3, "a swell")
    return Swell(maybe_number(start), maybe_number(end), float(factor), side)


def _set_width(at: Any, mm: Any, reach: Any, side: Any) -> SetWidth:
    place, wide, far = numbers((at, mm, reach))
    wanted(side in SIDES and 0.0 < wide <= 2.0 * WIDEST_MM and 0.0 < far <= FARTHEST_MM, "a width")
    return SetWidth(place, wide, far, side)


def _profile(left: Any, right: Any) -> Profile:
    halves = numbers(left), numbers(right)
    fits = 2 <= len(halves[0]) == len(halves[1]) <= MOST_PROFILE
    wanted(fits and all(0.0 <= v <= WIDEST_MM for half in halves for v in half), "a profile")
    return Profile(*halves)


_EDIT_TAGS: dict[str, Callable[..., WidthEdit]] = {"swell": _swell, "width": _set_width, "profile": _profile}


def read_edits(value: Any) -> tuple[WidthEdit, ...]:
    """Edits of widths by their JSON, tagged rows. Raises RecordError."""
    wanted(len(value) <= MOST_EDITS, "it has too many swells")
    # Before schema 6 all edits were swells, and had no tag.
    tagged = (item if isinstance(item[0], str) else ["swell", *item] for item in value)
    return tuple(_EDIT_TAGS[tag](*values) for tag, *values in tagged)


def plain_edits(edits: tuple[WidthEdit, ...]) -> list[list[Any]]:
    """The same as JSON holds it."""
    return [_plain_edit(edit) for edit in edits]


def _plain_edit(e: WidthEdit) -> list[Any]:
    if isinstance(e, Profile):
        return ["profile", list(e.left), list(e.right)]
    if isinstance(e, SetWidth):
        return ["width", e.at, e.mm, e.reach, e.side]
    return ["swell", e.start, e.end, e.factor, e.side]


def read_bends(value: Any) -> tuple[Give, ...]:
    """Bends by their JSON: [at, dx, dy, reach], ["push", reach, x, y, x, y, ..] or ["turn", at, at its end (0 or 1),
    dx, dy, reach]. Raises RecordError."""
    wanted(len(value) <= MOST_BENDS, "it has too many bends")
    out: list[Give] = []
    for row in value:
        if row and row[0] == "push":
            out.append(_read_push(row[1:]))
            continue
        if row and row[0] == "turn":
            out.append(_read_turn(row[1:]))
            continue
        at, dx, dy, reach = numbers(row, 4)
        fits = max(abs(dx), abs(dy)) <= FARTHEST_MM and LEAST_REACH_MM <= reach <= MOST_REACH_MM
        wanted(fits, "a bend")
        out.append(Bend(at, (dx, dy), reach))
    return tuple(out)


def _read_push(row: Any) -> Push:
    reach, *places = numbers(row)
    wanted(LEAST_REACH_MM <= reach <= MOST_REACH_MM and 4 <= len(places) <= 2 * MOST_PUSHES, "a push")
    wanted(len(places) % 2 == 0, "a push")
    return Push(tuple(zip(places[::2], places[1::2], strict=True)), reach)


def _read_turn(row: Any) -> EndTurn:
    at, at_end, dx, dy, reach = numbers(row, 5)
    fits = at_end in (0.0, 1.0) and max(abs(dx), abs(dy)) > 1e-9 and LEAST_REACH_MM <= reach <= MOST_REACH_MM
    wanted(fits, "a turn")
    return EndTurn(at, bool(at_end), (dx, dy), reach)


def plain_bends(bends: tuple[Give, ...]) -> list[list[Any]]:
    """The same as JSON holds it."""
    return [_plain_bend(bend) for bend in bends]


def _plain_bend(bend: Give) -> list[Any]:
    if isinstance(bend, Push):
        return ["push", bend.reach, *(v for place in bend.path for v in place)]
    if isinstance(bend, EndTurn):
        return ["turn", bend.at, int(bend.at_end), *bend.way, bend.reach]
    return [bend.at, *bend.by, bend.reach]


def read_growth(value: Any) -> Growth:
    """How far a line goes on beyond its ends: [start, end] mm. Raises RecordError."""
    start, end = numbers(value, 2)
    wanted(0.0 <= start <= MOST_GROWN_MM and 0.0 <= end <= MOST_GROWN_MM, "how far it is carried on")
    return Growth(start, end)


def plain_growth(growth: Growth) -> list[float]:
    """The same as JSON holds it."""
    return [growth.start, growth.end]


def read_matrix(value: Any) -> Affine:
    # Before schema 6 lines could only be moved: two numbers.
    """A map by six numbers, or by a shift of two (mm). Raises RecordError."""
    return moved(*pair(value)) if len(value) == 2 else Affine(*numbers(value, 6))


def plain_matrix(matrix: Affine) -> list[float]:
    """Six numbers, the last two in mm."""
    return list(matrix.row)


def read_ends(value: Any) -> tuple[End, ...]:
    """Both ends: kinds, or kinds with lengths in mm. Raises RecordError."""
    out = []
    for kind, mm in value:
        wanted(kind in END_KINDS and (mm is None or numbers((mm,), 1, 1e4)[0] >= 0.0), "its ends")
        out.append(End(kind, None if mm is None else float(mm)))
    wanted(len(out) == 2, "its ends")
    return tuple(out)


def plain_ends(ends: tuple[End, End]) -> list[list[Any]]:
    """The same as JSON holds it."""
    return [[end.kind, end.mm] for end in ends]


def read_span(value: Any) -> Span:
    """What trims have left, from and to in the own unit of the line. Raises RecordError."""
    start, end = numbers(value, 2, FARTHEST_SOURCE)
    wanted(start < end, "its span")
    return Span(start, end)


def plain_span(span: Span) -> list[float]:
    """From and to, in the own unit of the line."""
    return [span.start, span.end]


def read_takes(value: Any) -> tuple[str, ...]:
    """Keys of pulls. Raises RecordError."""
    wanted(all(isinstance(v, str) for v in value), "its takes")
    return tuple(value)


def read_follow(value: Any) -> Following | None:
    """How a pull follows a pencil line. Raises RecordError."""
    if not value:
        return None
    points = [pair(point) for point in value["line"]]
    share = numbers((value["share"],))[0]
    wanted(0.0 <= share <= 1.0 and len(points) >= 3, "what it follows")
    return Following(share, np.array(points), bool(value.get("strict", False)))


def plain_follow(follow: Following) -> dict[str, Any]:
    """The same as JSON holds it."""
    strict = {"strict": True} if follow.strict else {}
    return {"share": follow.share, "line": follow.line.tolist(), **strict}
