"""What rules guarantee, as rows for the solver: an inner line under its outline, a nearer line over one that ends on
it, the shadow side over the lit one, a meeting over its line's middle."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property, partial

import numpy as np

from plain_stride.form.junctions import STEM, end_of
from plain_stride.form.places import Places
from plain_stride.weight.light import LEAST_SIDE_MM, dark_and_lit, shades
from plain_stride.weight.plan import Plan
from plain_stride.weight.rule_book import LIGHT, MEETINGS, PROMISING, ROLE, TIER
from plain_stride.weight.scene import DETAIL, INNER, OUTER, TEXTURE, Scene
from plain_stride.weight.solver import Rows, solved

KNOT_MM = 6.0
MIDDLE_MM = 4.0
"""A line shorter than twice this has no middle of its own."""
_LEAST_NEED = -1.5
"""A row that lacks nothing by so many powers of two is not asked about."""
_THINNEST = 1e-4


_Kind = Callable[[Scene, Plan, np.ndarray], "Promises"]


@dataclass(frozen=True, eq=False)
class Knots:
    """Knots along the lines of a drawing, KNOT_MM apart or less; between two of them an offset goes over softly."""

    places: Places
    free: np.ndarray

    @cached_property
    def counts(self) -> np.ndarray:
        """Knots of each line (m,); those of a closed one go round."""
        most = np.ceil(self.places.length / KNOT_MM).astype(int) + 1
        return np.maximum(most, 3) * self.free

    @cached_property
    def starts(self) -> np.ndarray:
        """Where the knots of each line begin (m + 1,)."""
        return np.concatenate([[0], np.cumsum(self.counts)])

    @property
    def count(self) -> int:
        return int(self.starts[-1])

    def at(self, place: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """(knot, next, share of the next): each (k,) for places (k,); knots -1 where a line has none."""
        line = self.places.line[place]
        n, length = self.counts[line], np.maximum(self.places.length[line], 1e-9)
        gaps = np.maximum(n - 1, 1)
        u = self.places.s[place] / length * gaps
        low = np.clip(np.floor(u).astype(int), 0, gaps - 1)
        share = (1.0 - np.cos(np.pi * np.clip(u - low, 0.0, 1.0))) / 2.0
        high = low + 1
        high = np.where(self.places.closed[line] & (high == gaps), 0, high)
        none = n == 0
        return (np.where(none, -1, self.starts[line] + low), np.where(none, -1, self.starts[line] + high), share)


@dataclass(frozen=True, eq=False)
class Promises:
    """What one rule wants. Row r wants the sum of share x log2 of the width over its places to come up to what lacks:
    row, place, share (k,): which places count how much in which row; need (m,): powers of two that it lacks as things
    are; told (m, 2): for each row the place that should outweigh, and the other one."""

    rule: str
    row: np.ndarray
    place: np.ndarray
    share: np.ndarray
    need: np.ndarray
    told: np.ndarray


def _pairs(rule: str, heavy: np.ndarray, light: np.ndarray, need: np.ndarray) -> Promises:
    """Rows of one place (m,) over another (m,), without those that lack nothing by far."""
    close = need > _LEAST_NEED
    heavy, light, need = heavy[close], light[close], need[close]
    row, one = np.arange(len(need)), np.ones(len(need))
    return Promises(rule, np.concatenate([row, row]), np.concatenate([heavy, light]), np.concatenate([one, -one]), need,
                    np.column_stack([heavy, light]))  # fmt: skip


@dataclass(frozen=True, eq=False)
class GaveWay:
    """A guarantee that a higher one left no room for. places: of the line that should outweigh, and of the other."""

    rule: str
    places: tuple[int, int]


@dataclass(frozen=True, eq=False)
class Strained:
    """What promises weighed in a solution: rule (m,), told (m, 2) as of `Promises`, weight (m,)."""

    rule: np.ndarray
    told: np.ndarray
    weight: np.ndarray

    def carried(self, were: np.ndarray, rule: np.ndarray, told: np.ndarray) -> np.ndarray:
        """The weights (k,) of the same promises of a later drawing, nought for others. were (n,): which place of this
        drawing each of that one was; rule (k,), told (k, 2): its promises."""
        count = int(max(self.told.max(initial=0), were.max(initial=0))) + 1
        then = were[told]
        key = _key(rule, then, count)
        own = _key(self.rule, self.told, count)
        order = np.argsort(own, kind="stable")
        at = np.minimum(np.searchsorted(own[order], key), len(own) - 1)
        found = (own[order][at] == key) & (then >= 0).all(axis=1) if len(own) else np.zeros(len(key), bool)
        return np.where(found, self.weight[order][at] if len(own) else 0.0, 0.0)


def _key(rule: np.ndarray, told: np.ndarray, count: int) -> np.ndarray:
    return (rule * count + told[:, 0]) * count + told[:, 1]


@dataclass(frozen=True, eq=False)
class Guaranteed:
    """offsets (n,): powers of two by which widths change so that what the plan's rules guarantee holds; what gave way;
    strained: what the promises weighed, None where there were none."""

    offsets: np.ndarray
    gave_way: list[GaveWay]
    strained: Strained | None = None


def guaranteed(
    scene: Scene,
    plan: Plan,
    wide: np.ndarray,
    turned: np.ndarray | None = None,
    before: tuple[Strained, np.ndarray] | None = None,
) -> Guaranteed:
    """What widths (n,) change by. turned (n,): of `shades`, where it is known; before: what promises weighed in a
    solution of nearly the same drawing, and which place (n,) of that each one was: it is soon there from these."""
    names = [rule.name for rule in plan.rules if rule.name in PROMISING and plan.is_on(rule.name)]
    log = np.log2(np.maximum(wide, _THINNEST))
    kinds: dict[str, _Kind] = {**_KINDS, LIGHT: partial(_lights, turned=turned)}
    promises = [kinds[name](scene, plan, log) for name in names]
    if not any(len(one.need) for one in promises):
        return Guaranteed(np.zeros(len(wide)), [])
    knots = Knots(scene.known.places, ~scene.pinned)
    told = np.concatenate([one.told for one in promises])
    rule = np.repeat([PROMISING.index(name) for name in names], [len(one.need) for one in promises])
    start = None if before is None else before[0].carried(before[1], rule, told)
    answer = solved(_rows(knots, promises), knots.count, plan.lean, start)
    gave = [GaveWay(PROMISING[rule[k]], (int(told[k, 0]), int(told[k, 1]))) for k in np.flatnonzero(answer.gave_way)]
    return Guaranteed(_along(knots, answer.offsets), gave, Strained(rule, told, answer.weight))


def _along(knots: Knots, offsets: np.ndarray) -> np.ndarray:
    low, high, share = knots.at(np.arange(len(knots.places.s)))
    padded = np.append(offsets, 0.0)
    out: np.ndarray = padded[low] * (1.0 - share) + padded[high] * share
    return out


def _rows(knots: Knots, promises: list[Promises]) -> Rows:
    """The rows of all rules, the first highest, each knot once in a row."""
    counts = [len(one.need) for one in promises]
    firsts = np.cumsum([0, *counts])
    row = np.concatenate([one.row + first for one, first in zip(promises, firsts, strict=False)])
    low, high, part = knots.at(np.concatenate([one.place for one in promises]))
    share = np.concatenate([one.share for one in promises])
    row, column = np.concatenate([row, row]), np.concatenate([low, high])
    share = np.concatenate([share * (1.0 - part), share * part])
    there = column >= 0
    key, back = np.unique(row[there] * (knots.count + 1) + column[there], return_inverse=True)
    total = np.bincount(back, share[there])
    key, total = key[np.abs(total) > 1e-9], total[np.abs(total) > 1e-9]
    row, column = np.divmod(key, knots.count + 1)
    first = np.searchsorted(row, np.arange(firsts[-1] + 1))
    return Rows(
        first, column, total, np.concatenate([one.need for one in promises]), np.repeat(np.arange(len(counts)), counts)
    )


def _outlines(scene: Scene, plan: Plan, log: np.ndarray) -> Promises:
    """Each stretch of an inner line between two knots under the ceiling of its part, which is held: it thins them
    alone. The heaviest place of a stretch stands for it at both its knots."""
    places = scene.known.places
    part, seen = scene.part[places.line], ~scene.known.hidden
    outer = seen & (scene.role == OUTER)
    count = len(scene.drawing.parts)
    length = np.bincount(part[outer], places.weight[outer], minlength=count)
    ceiling = np.bincount(part[outer], (log * places.weight)[outer], minlength=count) / np.maximum(length, _THINNEST)
    first = np.full(count, -1)
    first[part[outer][::-1]] = np.flatnonzero(outer)[::-1]
    inner = np.flatnonzero(seen & np.isin(scene.role, (INNER, DETAIL, TEXTURE)) & (length[part] > 0.0))
    need = log[inner] - ceiling[part[inner]] + np.log2(plan.rule(ROLE)["margin"])
    worst = _neediest(places, inner, need)
    here, need = inner[worst], need[worst]
    return Promises(ROLE, np.arange(len(here)), here, -np.ones(len(here)), need,
                    np.column_stack([first[part[here]], here]))  # fmt: skip


def _neediest(places: Places, those: np.ndarray, need: np.ndarray) -> np.ndarray:
    """Which of some places (k,) are the neediest in their stretch of half a knot's length (m,)."""
    close = np.flatnonzero(need > _LEAST_NEED)
    cell = np.floor(places.s[those[close]] / (KNOT_MM / 2.0)).astype(int)
    order = np.lexsort((-need[close], cell, places.line[those[close]]))
    line, cell = places.line[those[close]][order], cell[order]
    first = np.ones(len(order), bool)
    first[1:] = (line[1:] != line[:-1]) | (cell[1:] != cell[:-1])
    out: np.ndarray = close[order[first]]
    return out


def _depths(scene: Scene, plan: Plan, log: np.ndarray) -> Promises:
    """A line of a nearer part over one that ends on it, where neither part is attached to the other."""
    found, places = scene.known.junctions, scene.known.places
    ends = found.only(found.joined & (found.kind == STEM))
    nearer = scene.ground_order[ends.other] < scene.ground_order[ends.line]
    nearer &= scene.part[ends.other] < scene.part[ends.line]
    ends = ends.only(nearer & ~scene.attached(scene.part[ends.line], scene.part[ends.other]))
    met = np.column_stack([places.at(ends.line, ends.s), places.at(ends.other, ends.other_s)])
    far, near = np.unique(met, axis=0).T
    return _pairs(TIER, near, far, np.log2(plan.rule(TIER)["margin"]) - log[near] + log[far])


def _lights(scene: Scene, plan: Plan, log: np.ndarray, turned: np.ndarray | None) -> Promises:
    """The shadow side of each part's outline over its lit side, by their means."""
    if turned is None:
        turned = shades(scene, plan)
    places, sides = scene.known.places, dark_and_lit(scene, turned)
    part, count = scene.part[places.line], len(scene.drawing.parts)
    length = [np.bincount(part[side], places.weight[side], minlength=count) for side in sides]
    forms = np.flatnonzero(np.minimum(*length) >= LEAST_SIDE_MM)
    row_of = np.full(count, -1)
    row_of[forms] = np.arange(len(forms))
    rows, spots, shares, means = [], [], [], []
    for side, sign in zip(sides, (1.0, -1.0), strict=True):
        those = np.flatnonzero(side & (row_of[part] >= 0))
        each = np.bincount(part[those], minlength=count)
        rows.append(row_of[part[those]])
        spots.append(those)
        shares.append(sign / each[part[those]])
        means.append((np.bincount(part[those], log[those], minlength=count) / np.maximum(each, 1))[forms])
    need = np.log2(plan.rule(LIGHT)["margin"]) - means[0] + means[1]
    told = np.column_stack([_extreme(spots[0], rows[0], log), _extreme(spots[1], rows[1], -log)])
    return Promises(LIGHT, np.concatenate(rows), np.concatenate(spots), np.concatenate(shares), need, told)


def _extreme(spots: np.ndarray, rows: np.ndarray, log: np.ndarray) -> np.ndarray:
    """The place (m,) of the least value in each row."""
    order = np.lexsort((log[spots], rows))
    _, first = np.unique(rows[order], return_index=True)
    out: np.ndarray = spots[order[first]]
    return out


def _meetings(scene: Scene, plan: Plan, log: np.ndarray) -> Promises:
    """The end of a line that meets another over its middle."""
    found, places = scene.known.junctions, scene.known.places
    ends = found.only(found.joined & (found.kind == STEM) & (places.length[found.line] > 2.0 * MIDDLE_MM))
    # An end that meets several lines is one: where the innermost of them is.
    which = end_of(places, ends.line, ends.s)
    inside = np.where(which == 1, places.length[ends.line] - ends.s, ends.s)
    order = np.lexsort((-inside, which, ends.line))
    first = np.unique(np.column_stack([ends.line, which])[order], axis=0, return_index=True)[1]
    line, end = ends.line[order[first]], places.at(ends.line, ends.s)[order[first]]
    middle = places.at(line, places.length[line] / 2.0)
    return _pairs(MEETINGS, end, middle, log[middle] - log[end])


_KINDS: Mapping[str, _Kind] = {
    ROLE: _outlines, TIER: _depths, MEETINGS: _meetings,
}  # fmt: skip
