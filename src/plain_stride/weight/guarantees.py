"""What rules guarantee, as rows for the solver: an inner line under its outline, a nearer line over one that ends on
it, the shadow side over the lit one, a meeting over its line's middle."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plain_stride.form.junctions import STEM
from plain_stride.form.places import Places
from plain_stride.weight.light import shades
from plain_stride.weight.plan import Plan
from plain_stride.weight.rule_book import LIGHT, MEETINGS, PROMISING, ROLE, TIER
from plain_stride.weight.scene import DETAIL, INNER, OUTER, TEXTURE, Scene
from plain_stride.weight.solver import Rows, solved

KNOT_MM = 6.0
TURNED_AWAY = 0.5
"""How far a stretch is turned to count as the shadow side of a form, or as its lit one."""
LEAST_SIDE_MM = 3.0
MIDDLE_MM = 4.0
"""A line shorter than twice this has no middle of its own."""
_LEAST_NEED = -1.5
"""A row that lacks nothing by so many powers of two is not asked about."""
_THINNEST = 1e-4


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
class Promise:
    """One row before it is one: the places whose log2 of the width counts up, and those that count down, each group by
    its mean; the first is to be `margin` (powers of two) above the second. told: two places that stand for it."""

    rule: str
    up: np.ndarray
    down: np.ndarray
    need: float
    told: tuple[int, int]


@dataclass(frozen=True, eq=False)
class GaveWay:
    """A guarantee that a higher one left no room for. places: of the line that should outweigh, and of the other."""

    rule: str
    places: tuple[int, int]


def guaranteed(scene: Scene, plan: Plan, wide: np.ndarray) -> tuple[np.ndarray, list[GaveWay]]:
    """Powers of two (n,) by which widths (n,) change so that what the plan's rules guarantee holds, and what gave
    way."""
    order = [rule.name for rule in plan.rules if rule.name in PROMISING and plan.is_on(rule.name)]
    log = np.log2(np.maximum(wide, _THINNEST))
    promises = [(level, one) for level, name in enumerate(order) for one in _KINDS[name](scene, plan, log)]
    if not promises:
        return np.zeros(len(wide)), []
    knots = Knots(scene.known.places, ~scene.pinned)
    rows = _rows(knots, promises)
    answer = solved(rows, knots.count, plan.lean)
    gave = [GaveWay(one.rule, one.told) for (_, one), lost in zip(promises, answer.gave_way, strict=True) if lost]
    return _along(knots, answer.offsets), gave


def _along(knots: Knots, offsets: np.ndarray) -> np.ndarray:
    low, high, share = knots.at(np.arange(len(knots.places.s)))
    padded = np.append(offsets, 0.0)
    out: np.ndarray = padded[low] * (1.0 - share) + padded[high] * share
    return out


def _rows(knots: Knots, promises: list[tuple[int, Promise]]) -> Rows:
    parts: list[tuple[np.ndarray, np.ndarray]] = []
    for _, one in promises:
        column, share = [], []
        for places, sign in ((one.up, 1.0), (one.down, -1.0)):
            if not len(places):
                continue
            low, high, part = knots.at(places)
            each = sign / len(places)
            column += [low, high]
            share += [(1.0 - part) * each, part * each]
        parts.append(_summed(np.concatenate(column), np.concatenate(share)))
    first = np.concatenate([[0], np.cumsum([len(column) for column, _ in parts])])
    return Rows(first, np.concatenate([c for c, _ in parts]), np.concatenate([s for _, s in parts]),
                np.array([one.need for _, one in promises]), np.array([level for level, _ in promises]))  # fmt: skip


def _summed(column: np.ndarray, share: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Each column once, with the sum of its shares; none where it has none."""
    which, back = np.unique(column, return_inverse=True)
    total = np.bincount(back, share)
    there = (which >= 0) & (np.abs(total) > 1e-9)
    return which[there], total[there]


def _outlines(scene: Scene, plan: Plan, log: np.ndarray) -> list[Promise]:
    """Each stretch of an inner line between two knots under the ceiling of its part, which is held: it thins them
    alone. The heaviest place of a stretch stands for it at both its knots."""
    places, out = scene.known.places, list[Promise]()
    margin = np.log2(plan.rule(ROLE)["margin"])
    part, seen = scene.part[places.line], ~scene.known.hidden
    inner = seen & np.isin(scene.role, (INNER, DETAIL, TEXTURE))
    for k in np.unique(scene.part).tolist():
        outer = seen & (part == k) & (scene.role == OUTER)
        if not outer.any():
            continue
        ceiling = float(np.average(log[outer], weights=places.weight[outer]))
        those = np.flatnonzero(inner & (part == k))
        need = log[those] - ceiling + margin
        out += [Promise(ROLE, np.zeros(0, int), np.array([place]), float(lack), (int(np.flatnonzero(outer)[0]), place))
                for place, lack in _heaviest(places, those, need)]  # fmt: skip
    return out


def _heaviest(places: Places, those: np.ndarray, need: np.ndarray) -> list[tuple[int, float]]:
    """(place, need) of the neediest place in each stretch of half a knot's length."""
    close = need > _LEAST_NEED
    those, need = those[close], need[close]
    cell = np.floor(places.s[those] / (KNOT_MM / 2.0)).astype(int)
    order = np.lexsort((-need, cell, places.line[those]))
    line, cell = places.line[those][order], cell[order]
    first = np.ones(len(order), bool)
    first[1:] = (line[1:] != line[:-1]) | (cell[1:] != cell[:-1])
    return [(int(those[k]), float(need[k])) for k in order[first].tolist()]


def _depths(scene: Scene, plan: Plan, log: np.ndarray) -> list[Promise]:
    """A line of a nearer part over one that ends on it."""
    margin = np.log2(plan.rule(TIER)["margin"])
    found, places = scene.known.junctions, scene.known.places
    ends = found.only(found.joined & (found.kind == STEM))
    near = scene.ground_order[ends.other] < scene.ground_order[ends.line]
    near &= scene.part[ends.other] < scene.part[ends.line]
    ends = ends.only(near)
    far_at, near_at = places.at(ends.line, ends.s), places.at(ends.other, ends.other_s)
    return [Promise(TIER, np.array([b]), np.array([a]), float(margin - log[b] + log[a]), (b, a))
            for a, b in zip(far_at.tolist(), near_at.tolist(), strict=True)
            if margin - log[b] + log[a] > _LEAST_NEED]  # fmt: skip


def _lights(scene: Scene, plan: Plan, log: np.ndarray) -> list[Promise]:
    """The shadow side of each part's outline over its lit side, by their means."""
    margin = np.log2(plan.rule(LIGHT)["margin"])
    places, turned = scene.known.places, shades(scene, plan)
    part = scene.part[places.line]
    outer = ~scene.known.hidden & (scene.role == OUTER)
    out = []
    for k in np.unique(scene.part).tolist():
        dark, lit = (np.flatnonzero(outer & (part == k) & side)
                     for side in (turned > TURNED_AWAY, turned < -TURNED_AWAY))  # fmt: skip
        if min(places.weight[dark].sum(), places.weight[lit].sum()) < LEAST_SIDE_MM:
            continue
        need = margin - log[dark].mean() + log[lit].mean()
        told = int(dark[np.argmin(log[dark])]), int(lit[np.argmax(log[lit])])
        out.append(Promise(LIGHT, dark, lit, float(need), told))
    return out


def _meetings(scene: Scene, plan: Plan, log: np.ndarray) -> list[Promise]:
    """The end of a line that meets another over its middle."""
    found, places = scene.known.junctions, scene.known.places
    ends = found.only(found.joined & (found.kind == STEM) & (places.length[found.line] > 2.0 * MIDDLE_MM))
    at = places.at(ends.line, ends.s)
    middle = places.at(ends.line, places.length[ends.line] / 2.0)
    return [Promise(MEETINGS, np.array([a]), np.array([b]), float(log[b] - log[a]), (a, b))
            for a, b in zip(at.tolist(), middle.tolist(), strict=True) if log[b] - log[a] > _LEAST_NEED]  # fmt: skip


_KINDS: Mapping[str, Callable[[Scene, Plan, np.ndarray], list[Promise]]] = {
    ROLE: _outlines, TIER: _depths, LIGHT: _lights, MEETINGS: _meetings,
}  # fmt: skip
