"""The one recipe of a line: centreline -> trims -> hand width -> plan width -> swells, shaves -> slope -> ends.

A `Recipe` holds what the inker decided; `shape_of` works out the line from it, at any time, with nothing hidden.
"""

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from plain_stride.compiled.ready import floats, kernels
from plain_stride.errors import StrideError
from plain_stride.hand.nib import Nib
from plain_stride.lines.centre import Centre
from plain_stride.lines.curve import Arc, between, direction, flat_counts, parameters, point
from plain_stride.lines.grain import textured
from plain_stride.lines.outline import Nibs, edge, nibs_along
from plain_stride.lines.profile import (
    Widths,
    grid_for,
    joined,
    limited,
    point_knots,
    pointed,
    swell,
    with_knots,
)

JSON_MM = 0.004
STRIP_MM = 0.3
THINNEST_PLAN_MM = 1e-4
_ROUNDING = 1e-6


class LineError(StrideError):
    """An edit or a recipe that makes no line."""


@dataclass(frozen=True)
class End:
    """kind: pointed, round or flat; mm: its length, None for the nib's own."""

    kind: str
    mm: float | None = None


@dataclass(frozen=True)
class WidthEdit:
    """A swell (factor > 1) or a shave (< 1) between two of the line's own parameters; None reaches past the end."""

    start: float | None
    end: float | None
    factor: float
    side: str = "both"


@dataclass(frozen=True, eq=False)
class Recipe:
    """centre: the whole centreline; given: widths that came with the line instead of a pressure, along all of it.

    span: (a, b) own parameters of the stretch that is left, None for all; on a closed line b may lie past its length.
    plan_mm: the plan's width, share: how much of it (0..1).
    """

    centre: Centre
    nib: Nib
    ends: tuple[End, End]
    closed: bool = False
    given: Widths | None = None
    span: tuple[float, float] | None = None
    edits: tuple[WidthEdit, ...] = ()
    plan_mm: float | None = None
    share: float = 0.0


@dataclass(frozen=True, eq=False)
class Shape:
    """The finished line: curve (m, 4, 2), widths along it, body: widths before ends; s, own: arc length against the
    line's own parameter, rising; grain: mm of tooth in its edge, 0 for a crisp one."""

    curve: np.ndarray
    closed: bool
    widths: Widths
    body: Widths
    ends: tuple[str, str]
    s: np.ndarray
    own: np.ndarray
    arc: Arc = field(repr=False)
    grain: float = 0.0

    @property
    def length(self) -> float:
        return self.arc.length

    @cached_property
    def box(self) -> tuple[float, float, float, float]:
        """(x0, y0, x1, y1) that holds the ink: control points and the widest half-width."""
        reach = float(max(self.widths.left.max(), self.widths.right.max()))
        p = self.curve.reshape(-1, 2)
        (x0, y0), (x1, y1) = p.min(axis=0) - reach, p.max(axis=0) + reach
        return float(x0), float(y0), float(x1), float(y1)

    @cached_property
    def flat(self) -> tuple[np.ndarray, np.ndarray]:
        """(points (n, 2), arc lengths (n,)) of the centreline within 0.002 mm."""
        k, u = parameters(flat_counts(self.curve, 0.002))
        return point(self.curve, k, u), self.arc.length_at(k, u)

    def nibs(self, scale: float = 1.0) -> Nibs:
        return nibs_along(self.curve, self.arc.at_piece_ends(), self.widths, self.closed, scale)

    @cached_property
    def smooth_rings(self) -> list[np.ndarray]:
        """The line's edge as rings of points, without its grain; see `outline.edge`."""
        return edge(self.nibs(), self.closed, (self.ends[0] == "flat", self.ends[1] == "flat"))

    @cached_property
    def rings(self) -> list[np.ndarray]:
        """The edge of its ink as rings of points, its grain taken out."""
        if self.grain <= 0.0:
            return self.smooth_rings
        nibs = self.nibs()
        return textured(self.smooth_rings, nibs.middle, nibs.radius, self.grain)

    def strip(self, tolerance: float) -> np.ndarray:
        """One ring (n, 2) for the eye: both edges straight out from a centreline within `tolerance` mm. Where the line
        is tight it crosses itself; `rings` is the truth."""
        compiled = kernels()
        joints, w = self.arc.at_piece_ends(), self.widths
        if compiled is not None:
            out: np.ndarray = compiled.strip(*floats(self.curve, joints, w.s, w.left, w.right), tolerance)
            return out
        by_length = np.ceil(np.diff(joints) / STRIP_MM).astype(int)
        k, u = parameters(np.maximum(flat_counts(self.curve, tolerance), by_length))
        at, way = point(self.curve, k, u), direction(self.curve, k, u)
        left, right = w.at(self.arc.length_at(k, u))
        normal = np.column_stack([way[:, 1], -way[:, 0]])
        return np.vstack([at + normal * left[:, None], (at - normal * right[:, None])[::-1]])

    def own_at(self, s: float) -> float:
        return float(np.interp(s, self.s, self.own))

    def width_points(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """(points, left, right): the centreline within 0.01 mm with half-widths that are read linearly between.

        A closed line does not repeat its first point.
        """
        thin = self.widths.thinned(JSON_MM)
        k, u = parameters(flat_counts(self.curve, JSON_MM))
        at = joined(self.arc.length_at(k, u), thin.s)
        at = at[np.concatenate([[True], np.diff(at) > 1e-6])]
        if self.closed:
            at = at[at < self.length - 1e-6]
        return self.arc.point(at), *self.widths.at(at)


def shape_of(recipe: Recipe) -> Shape:
    """The line that a recipe makes. Raises LineError when nothing of it is left."""
    curve, own0, own1, closed = _trimmed(recipe)
    arc = Arc(curve)
    s, own = _own_parameter(recipe, arc, own0, own1)
    body = _edited(_planned(_hand(recipe, arc, s, own), recipe), recipe, s, own)
    if recipe.given is None and recipe.nib.limited:
        body = limited(body)
    widths = body if closed else _ended(body, recipe)
    kinds = (recipe.ends[0].kind, recipe.ends[1].kind)
    return Shape(curve, closed, widths, body, kinds, s, own, arc, recipe.nib.grain)


def form_recipe_centre(curve: np.ndarray) -> Centre:
    """The centre of a line that came without a pull: its own parameter is arc length."""
    ends = Arc(curve).at_piece_ends()
    return Centre(curve, ends, ends, np.ones(len(ends)))


def _ended(body: Widths, recipe: Recipe) -> Widths:
    """Pointed ends. Given widths hold their own (length 0): these come back as far as the plan has covered them."""
    reaches: dict[float, list[float]] = {}
    for k, end in enumerate(recipe.ends):
        if end.kind == "pointed":
            held = recipe.given is not None and end.mm == 0.0
            mm = recipe.nib.end_mm if end.mm is None or held else end.mm
            strength = (recipe.share if recipe.plan_mm is not None else 0.0) if held else 1.0
            reaches.setdefault(strength, [0.0, 0.0])[k] = mm
    length, widths = float(body.s[-1]), body
    for strength, reach in reaches.items():
        if strength > 0.0 and any(reach):
            widths = pointed(with_knots(widths, point_knots(length, *reach)), reach[0], reach[1], strength)
    return widths


def _trimmed(recipe: Recipe) -> tuple[np.ndarray, float, float, bool]:
    """(curve, own parameters of its ends, closed) of what the trims leave."""
    centre = recipe.centre
    if recipe.span is None:
        return centre.curve, float(centre.own[0]), float(centre.own[-1]), recipe.closed
    a, b = recipe.span
    arc = Arc(centre.curve)
    if recipe.closed and b > arc.length:
        parts = [between(arc, a, arc.length), between(arc, 0.0, b - arc.length)]
        return np.concatenate(parts), a, b, False
    s0, s1 = (float(np.interp(v, centre.own, centre.s)) for v in (a, b))
    if s1 - s0 < 1e-4:
        raise LineError("nothing would be left of that line: delete it instead")
    return between(arc, s0, s1), a, b, False


def _own_parameter(recipe: Recipe, arc: Arc, own0: float, own1: float) -> tuple[np.ndarray, np.ndarray]:
    """Arc length of the trimmed line against its own parameter, both rising, ends exact."""
    centre = recipe.centre
    inside = (centre.own > own0) & (centre.own < own1)
    start = float(np.interp(own0, centre.own, centre.s))
    s = np.concatenate([[0.0], centre.s[inside] - start, [arc.length]])
    own = np.concatenate([[own0], centre.own[inside], [own1]])
    if own1 > centre.own[-1]:
        s, own = np.array([0.0, arc.length]), np.array([own0, own1])
    return np.clip(np.maximum.accumulate(s), 0.0, arc.length), own


def _hand(recipe: Recipe, arc: Arc, s: np.ndarray, own: np.ndarray) -> Widths:
    """Widths from the hand: pressure through the nib, or the widths that came with the line."""
    grid = grid_for(arc.length)
    if recipe.given is not None:
        return _given(recipe.given, arc, s, own)
    rising = s + np.arange(len(s)) * 1e-10
    pressure = np.interp(own, recipe.centre.own, recipe.centre.pressure)
    nib = recipe.nib
    half = nib.width(np.interp(grid, rising, pressure)) / 2.0
    widths = Widths(grid, half, half)
    return limited(widths) if nib.limited else widths


def _given(given: Widths, arc: Arc, s: np.ndarray, own: np.ndarray) -> Widths:
    """Widths that came with the line, on what its trims have left; past the seam of a closed line they go round."""
    total = float(given.s[-1])
    knots = given.s
    if own[-1] > total + _ROUNDING:
        knots = np.where(knots < own[0], knots + total, knots)
    here = np.interp(knots[(knots > own[0]) & (knots < own[-1])], own, s)
    grid = joined(grid_for(arc.length), here)
    at = np.interp(grid, s, own)
    return Widths(grid, *given.at(np.where(at > total + _ROUNDING, at - total, at)))


def _planned(hand: Widths, recipe: Recipe) -> Widths:
    """hand^(1 - share) x plan^share; the plan acts on the full width, both sides in proportion."""
    if recipe.plan_mm is None or recipe.share <= 0.0:
        return hand
    full = np.maximum(hand.full, THINNEST_PLAN_MM)
    wanted = full ** (1.0 - recipe.share) * recipe.plan_mm**recipe.share
    left = np.where(hand.full > THINNEST_PLAN_MM, hand.left / full, 0.5)
    return Widths(hand.s, wanted * left, wanted * (1.0 - left))


def _edited(widths: Widths, recipe: Recipe, s: np.ndarray, own: np.ndarray) -> Widths:
    for edit in recipe.edits:
        ends = [None if v is None else float(np.interp(v, own, s)) for v in (edit.start, edit.end)]
        inside = [v is not None and own[0] < v < own[-1] for v in (edit.start, edit.end)]
        knots = [v + d for v in ends if v is not None for d in (-1e-6, 0.0, 1e-6)]
        fine = with_knots(widths, np.array(knots)) if knots else widths
        widths = swell(fine, ends[0], ends[1], edit.factor, edit.side, (inside[0], inside[1]))
    return widths
