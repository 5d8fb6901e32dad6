"""The one recipe of a line, and the stages by which it becomes a shape.

    centreline -> bends and growth -> where it lies -> span -> hand widths -> mixed with the plan -> width edits
    -> slope -> ends

A `Recipe` holds what the inker decided. Each stage is a function of its own inputs; `worked` goes through them, and
takes over from an earlier recipe of the same line every stage whose inputs are the same. Nothing else is hidden.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from plain_stride.hand.nib import Nib
from plain_stride.lines.affine import Affine
from plain_stride.lines.bending import Course, Give, Growth, bent, grown
from plain_stride.lines.centre import Centreline
from plain_stride.lines.curve import Arc, between
from plain_stride.lines.edges import edge_of
from plain_stride.lines.edits import End, Profile, SetWidth, Span, Swell, WidthEdit
from plain_stride.lines.errors import LinesError
from plain_stride.lines.loose_ends import loosened, reach_of
from plain_stride.lines.profile import THIRD, Widths, grid_for, joined, limited, point_knots, pointed, swell, with_knots
from plain_stride.lines.shape import FixedPath, Path, Shape

THINNEST_PLAN_MM = 1e-4
PLAN_ENDS = 0.5
"""How much of a line a plan's end takes at most."""
LEAST_LEFT_MM = 1e-4
_ROUNDING = 1e-6


class LineError(LinesError):
    """An edit or a recipe that makes no line."""


@dataclass(frozen=True)
class PlanProfile:
    """What the plan wants along a line: half-widths (mm) on its left and right at rising source parameters, read
    linearly between them; even: it has no sides of its own, they follow the hand's; ends: mm over which it draws out
    its start and its end, None where it leaves them as the hand has them."""

    source_t: tuple[float, ...]
    left: tuple[float, ...]
    right: tuple[float, ...]
    even: bool = False
    ends: tuple[float, float] | None = None


def even_profile(mm: float) -> PlanProfile:
    """One full width, mm, from end to end."""
    return PlanProfile((0.0,), (mm / 2.0,), (mm / 2.0,), True)


@dataclass(frozen=True, eq=False)
class Recipe:
    """centre: the whole centreline; matrix: where it lies, None where it was laid; given: widths that came with the
    line instead of a pressure, along all of it; scale_widths: whether the hand's widths grow with the line.

    bends, growth: how it was bent and carried on, before it was moved. plan: None where no plan acts; share: how much
    of it (0..1); floor: mm that it is nowhere thinner than, but for its ends.
    """

    centre: Centreline
    nib: Nib
    ends: tuple[End, End]
    closed: bool = False
    given: Widths | None = None
    matrix: Affine | None = None
    scale_widths: bool = False
    bends: tuple[Give, ...] = ()
    growth: Growth | None = None
    span: Span | None = None
    edits: tuple[WidthEdit, ...] = ()
    plan: PlanProfile | None = None
    share: float = 0.0
    floor: float = 0.0

    def by_hand(self) -> "Recipe":
        """The same line as the hand alone would have it."""
        return replace(self, plan=None, share=0.0, floor=0.0)


@dataclass(frozen=True, eq=False)
class Worked:
    """What a recipe became, stage by stage."""

    recipe: Recipe
    path: Path
    hand: Widths
    mixed: Widths
    body: Widths
    shape: Shape


Key = Callable[[Recipe], tuple[object, ...]]


def _path_key(r: Recipe) -> tuple[object, ...]:
    return r.centre, r.bends, r.growth, r.matrix, r.closed, r.span


def _hand_key(r: Recipe) -> tuple[object, ...]:
    return (*_path_key(r), r.given, r.scale_widths, r.nib)


def _mixed_key(r: Recipe) -> tuple[object, ...]:
    return (*_hand_key(r), r.plan, r.share)


def _body_key(r: Recipe) -> tuple[object, ...]:
    return (*_mixed_key(r), r.edits, r.floor)


def _shape_key(r: Recipe) -> tuple[object, ...]:
    return (*_body_key(r), r.ends)


def worked(recipe: Recipe, before: Worked | None = None) -> Worked:
    """All stages of a recipe. before: of an earlier recipe of the same line, itself where nothing differs. Raises
    LineError when nothing is left."""

    def known(key: Key) -> Worked | None:
        return before if before is not None and key(before.recipe) == key(recipe) else None

    if (same := known(_shape_key)) is not None:
        return same
    old = known(_path_key)
    path = old.path if old is not None else path_of(recipe)
    old = known(_hand_key)
    hand = old.hand if old is not None else hand_widths(recipe, path)
    old = known(_mixed_key)
    mixed = old.mixed if old is not None else mixed_with_plan(hand, recipe, path)
    old = known(_body_key)
    body = old.body if old is not None else body_of(mixed, recipe, path)
    widths = body if path.closed else ended(body, recipe)
    kinds = (recipe.ends[0].kind, recipe.ends[1].kind)
    return Worked(recipe, path, hand, mixed, body, Shape(path, widths, body, kinds, edge_of(recipe.nib.grain)))


def shape_of(recipe: Recipe) -> Shape:
    """The line that a recipe makes. Raises LineError when nothing of it is left."""
    return worked(recipe).shape


def given_centreline(curve: np.ndarray) -> Centreline:
    """The centreline of a line that came without a pull: its source parameter is arc length. curve: (m, 4, 2) mm."""
    ends = Arc(curve).at_piece_ends()
    return Centreline(curve, ends, ends, np.ones(len(ends)))


def fixed_centreline(path: FixedPath, before: Centreline) -> Centreline:
    """A path instead of a centreline, which keeps its pressure and its figures."""
    s = np.linspace(0.0, Arc(path.curve).length, len(path.source_t))
    pressure = np.interp(path.source_t, before.source_t, before.pressure)
    return replace(before, curve=path.curve, s=s, source_t=path.source_t, pressure=pressure)


def path_of(recipe: Recipe) -> Path:
    """The centreline where it lies, and what the trims leave of it. Raises CurveError where nothing is left."""
    course = course_of(recipe)
    curve = course.curve if recipe.matrix is None else recipe.matrix.of(course.curve)
    arc = Arc(curve)
    # A map may stretch a line in one direction only: places along it go with the share of its length, piece by piece.
    s = course.s if recipe.matrix is None or not len(course.s) else _stretched(course, arc)
    if recipe.span is None:
        return _path(curve, recipe.closed, s, course.source_t, arc)
    a, b = recipe.span.start, recipe.span.end
    if recipe.closed:
        return _opened(curve, s, course.source_t, arc, a, b)
    s0, s1 = (float(np.interp(v, course.source_t, s)) for v in (a, b))
    if s1 - s0 < LEAST_LEFT_MM:
        raise LineError("nothing would be left of that line: delete it instead")
    inside = (course.source_t > a) & (course.source_t < b)
    part = between(arc, s0, s1)
    left = Arc(part)
    source_t = np.concatenate([[a], course.source_t[inside], [b]])
    return _path(part, False, np.concatenate([[0.0], s[inside] - s0, [left.length]]), source_t, left)


def _path(curve: np.ndarray, closed: bool, s: np.ndarray, source_t: np.ndarray, arc: Arc) -> Path:
    s = np.concatenate([[0.0], s[1:-1], [arc.length]])
    return Path(curve, closed, np.minimum(np.maximum(np.maximum.accumulate(s), 0.0), arc.length), source_t, arc)


def course_of(recipe: Recipe) -> Course:
    """The centreline with its bends and carried on past its ends, before it is moved."""
    centre = recipe.centre
    course = Course(centre.curve, centre.s, centre.source_t)
    course = bent(course, recipe.bends, recipe.closed) if recipe.bends else course
    return grown(course, recipe.growth) if recipe.growth is not None and not recipe.closed else course


def _stretched(course: Course, arc: Arc) -> np.ndarray:
    """Arc lengths on a mapped curve of places on the curve before."""
    before, after = Arc(course.curve).at_piece_ends(), arc.at_piece_ends()
    return np.interp(course.s, before, after)


def _opened(curve: np.ndarray, s: np.ndarray, source_t: np.ndarray, arc: Arc, a: float, b: float) -> Path:
    """The stretch a to b (source parameters) of a closed curve; b may lie past its last."""
    around = float(source_t[-1])
    if b <= around:
        s0, s1 = (float(np.interp(v, source_t, s)) for v in (a, b))
        curves = [between(arc, s0, s1)]
    else:
        s0, s1 = float(np.interp(a, source_t, s)), float(np.interp(b - around + source_t[0], source_t, s)) + arc.length
        curves = [between(arc, s0, arc.length), between(arc, 0.0, s1 - arc.length)]
    part = np.concatenate(curves)
    left = Arc(part)
    twice_s, twice_t = (
        np.concatenate([s, s[1:] + arc.length]),
        np.concatenate([source_t, source_t[1:] + around - source_t[0]]),
    )
    inside = (twice_t > a) & (twice_t < b)
    at = np.concatenate([[0.0], twice_s[inside] - s0, [left.length]])
    return _path(part, False, at, np.concatenate([[a], twice_t[inside], [b]]), left)


def hand_widths(recipe: Recipe, path: Path) -> Widths:
    """Widths from the hand: pressure through the nib, or the widths that came with the line."""
    nib, length = recipe.nib, path.arc.length
    if recipe.given is not None:
        widths = _given(recipe.given, path, recipe.closed)
    else:
        rising = path.s + np.arange(len(path.s)) * 1e-10
        grid = grid_for(length)
        pressure = np.interp(path.source_t, recipe.centre.source_t, recipe.centre.pressure)
        half = nib.width(np.interp(grid, rising, pressure)) / 2.0
        widths = Widths(grid, half, half)
    if recipe.matrix is not None:
        widths = Widths(widths.s, widths.right, widths.left) if recipe.matrix.mirrors else widths
        widths = widths.scaled(recipe.matrix.scale) if recipe.scale_widths else widths
    return limited(widths) if recipe.given is None and nib.limited else widths


def _given(given: Widths, path: Path, closed: bool) -> Widths:
    """Widths that came with the line, on what its trims have left; past the seam of a closed line they go round."""
    total, (s, source_t) = float(given.s[-1]), (path.s, path.source_t)
    knots = given.s
    if closed and source_t[-1] > total + _ROUNDING:
        knots = np.where(knots < source_t[0], knots + total, knots)
    here = np.interp(knots[(knots > source_t[0]) & (knots < source_t[-1])], source_t, s)
    grid = joined(grid_for(path.arc.length), here)
    at = np.interp(grid, s, source_t)
    return Widths(grid, *given.at(np.where(at > total + _ROUNDING, at - total, at) if closed else at))


def mixed_with_plan(hand: Widths, recipe: Recipe, path: Path) -> Widths:
    """hand^(1 - share) x plan^share, of full widths. Each side keeps its part of the hand's width, and comes to have
    that of the plan's as the share grows, where the plan has sides of its own."""
    plan, share = recipe.plan, recipe.share
    if plan is None or share <= 0.0:
        return hand
    source_t = np.interp(hand.s, path.s, path.source_t) if len(plan.source_t) > 1 else hand.s
    left, right = np.interp(source_t, plan.source_t, plan.left), np.interp(source_t, plan.source_t, plan.right)
    full = np.maximum(hand.full, THINNEST_PLAN_MM)
    wanted = full ** (1.0 - share) * np.maximum(left + right, THINNEST_PLAN_MM) ** share
    leaning = np.where(hand.full > THINNEST_PLAN_MM, hand.left / full, 0.5)
    if not plan.even:
        leaning = leaning * (1.0 - share) + left / np.maximum(left + right, THINNEST_PLAN_MM) * share
    return Widths(hand.s, wanted * leaning, wanted * (1.0 - leaning))


def body_of(mixed: Widths, recipe: Recipe, path: Path) -> Widths:
    """Widths with the inker's edits, in the order in which they were made, held to the swell limit and to the floor;
    before ends."""
    widths = mixed
    for edit in recipe.edits:
        widths = _EDITS[type(edit)](widths, edit, path)
    # What the hand pressed is held to the limit already.
    by_hand = not recipe.edits and (recipe.plan is None or recipe.share <= 0.0)
    if recipe.given is None and recipe.nib.limited and not by_hand:
        widths = limited(widths)
    return widths if recipe.floor <= 0.0 else _floored(widths, recipe.floor)


def _floored(widths: Widths, floor: float) -> Widths:
    """Widths nowhere below a floor, mm; both sides grow in proportion, alike where there is nothing of either."""
    full = widths.full
    if full.min() >= floor:
        return widths
    thin, nothing = np.maximum(full, THINNEST_PLAN_MM), full < THINNEST_PLAN_MM
    gain = np.maximum(floor / thin, 1.0)
    half = floor / 2.0
    return Widths(widths.s, np.where(nothing, half, widths.left * gain), np.where(nothing, half, widths.right * gain))


def _swelled(widths: Widths, edit: Swell, path: Path) -> Widths:
    s, source_t = path.s, path.source_t
    ends = [None if v is None else float(np.interp(v, source_t, s)) for v in (edit.start, edit.end)]
    inside = [v is not None and source_t[0] < v < source_t[-1] for v in (edit.start, edit.end)]
    knots = [v + d for v in ends if v is not None for d in (-1e-6, 0.0, 1e-6)]
    fine = with_knots(widths, np.array(knots)) if knots else widths
    return swell(fine, ends[0], ends[1], edit.factor, edit.side, (inside[0], inside[1]))


def _set_width(widths: Widths, edit: SetWidth, path: Path) -> Widths:
    """The width at a place, and a soft way back to what it was on both sides."""
    s = float(np.interp(edit.at, path.source_t, path.s))
    fine = with_knots(widths, s + edit.reach * np.linspace(-1.0, 1.0, 41))
    left, right = (float(v[0]) for v in fine.at(np.array([s])))
    share = (1.0 - np.clip(np.abs(fine.s - s) / edit.reach, 0.0, 1.0) ** 2) ** 2
    if edit.side == "both":
        gain = (edit.mm / max(left + right, THINNEST_PLAN_MM)) ** share
        return fine.scaled(gain)
    own, other = (left, right) if edit.side == "left" else (right, left)
    gain = (max(edit.mm - other, THINNEST_PLAN_MM) / max(own, THINNEST_PLAN_MM)) ** share
    if edit.side == "left":
        return Widths(fine.s, fine.left * gain, fine.right)
    return Widths(fine.s, fine.left, fine.right * gain)


def _profiled(widths: Widths, edit: Profile, path: Path) -> Widths:
    """The widths of a profile."""
    share = np.linspace(0.0, 1.0, len(edit.left))
    fine = with_knots(widths, share * path.arc.length)
    at = fine.s / max(path.arc.length, 1e-9)
    return Widths(fine.s, np.interp(at, share, edit.left), np.interp(at, share, edit.right))


_EDITS: dict[type, Callable[[Widths, Any, Path], Widths]] = {
    Swell: _swelled, SetWidth: _set_width, Profile: _profiled
}  # fmt: skip


def ended(body: Widths, recipe: Recipe) -> Widths:
    """Pointed, broken and stuttering ends. Given widths hold their own (length 0): these come back as far as the plan
    has covered them. A plan that draws ends out has its way with those that no hand has set."""
    plan = recipe.plan.ends if recipe.plan is not None and recipe.share > 0.0 else None
    most = THIRD if plan is None else PLAN_ENDS
    reaches: dict[float, list[float]] = {}
    for k in (0, 1):
        mm, strength = _reach(recipe, k, None if plan is None else plan[k])
        reaches.setdefault(strength, [0.0, 0.0])[k] = mm
    length, widths = float(body.s[-1]), body
    first, last = recipe.ends
    for strength, (start, stop) in reaches.items():
        if strength > 0.0 and (start or stop):
            widths = pointed(with_knots(widths, point_knots(length, start, stop, most)), start, stop, strength, most)
    return loosened(widths, (first.kind, last.kind), _loose_reaches(body, recipe))


def _reach(recipe: Recipe, k: int, planned: float | None) -> tuple[float, float]:
    """(mm, strength) of the point at one end. planned: mm that the plan draws it out, None where it leaves it."""
    end, share = recipe.ends[k], recipe.share if recipe.plan is not None else 0.0
    held = recipe.given is not None and end.mm == 0.0
    if end.kind == "pointed":
        if end.mm is not None and not held:
            return end.mm, 1.0
        if held:
            return (recipe.nib.end_mm if planned is None else planned), share
        return (recipe.nib.end_mm if planned is None else recipe.nib.end_mm * (1.0 - share) + planned * share), 1.0
    if end.kind == "round" and planned is not None and not end.mm:
        return planned, share
    return 0.0, 1.0


def _loose_reaches(body: Widths, recipe: Recipe) -> tuple[float, float]:
    """mm of each end, where it is loose."""
    width = float(np.median(body.full))
    first, last = (reach_of(end.mm, recipe.nib.end_mm, width) for end in recipe.ends)
    return first, last
