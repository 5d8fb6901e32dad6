"""The hierarchy of a drawing as it is inked: what roles, depths and parts weigh, and where a line outweighs one that it
should not.

All by length, before ends, of what is seen. A place counts as one where an inner line outweighs its outline when it
does so over LEAST_MM; the outline's weight is the ceiling, the geometric mean of the part's outer stretches.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plain_stride.form.junctions import AT_CORNER, STEM
from plain_stride.form.roles import ROLES
from plain_stride.lines.profile import Widths
from plain_stride.weight.light import LEAST_SIDE_MM, dark_and_lit, shades
from plain_stride.weight.plan import TIERS, Plan
from plain_stride.weight.report import Spread, spread_of
from plain_stride.weight.scene import DETAIL, INNER, OUTER, TEXTURE, Scene

LEAST_MM, AROUND_MM = 2.0, 4.0
SAME = 1.02
"""Widths that differ by less than this factor weigh the same."""
OVER_OUTLINE, OVER_NEARER, OVER_SHADOW = "weight-inversion", "tier-inversion", "light-inversion"
_THINNEST = 1e-4


@dataclass(frozen=True)
class Cure:
    """What would set a clash right: stretches (line, from, to: mm along it), all times a factor; in words."""

    stretches: tuple[tuple[str, float, float], ...]
    factor: float
    says: str


@dataclass(frozen=True)
class Clash:
    """lines: the one that weighs too much, and the one that it should not outweigh; measured: mm of each; at: mm;
    cures: the second thicker, or the first thinner."""

    kind: str
    at: tuple[float, float]
    lines: tuple[str, str]
    measured: tuple[float, float]
    cures: tuple[Cure, Cure]


@dataclass(frozen=True)
class Extremes:
    """The lightest and the heaviest place of a part: mm, and where (mm)."""

    lightest: float
    lightest_at: tuple[float, float]
    heaviest: float
    heaviest_at: tuple[float, float]


@dataclass(frozen=True, eq=False)
class Inked:
    """A scene with the widths that its lines really have. wide (n,): full widths in mm before ends at every place."""

    scene: Scene
    plan: Plan
    wide: np.ndarray

    @cached_property
    def log(self) -> np.ndarray:
        """log2 of the widths (n,)."""
        return np.log2(np.maximum(self.wide, _THINNEST))

    @cached_property
    def seen(self) -> np.ndarray:
        """Whether each place is seen (n,)."""
        return ~self.scene.known.hidden

    @cached_property
    def part(self) -> np.ndarray:
        """The part of each place (n,)."""
        return self.scene.part[self.scene.known.places.line]

    def spread(self, those: np.ndarray) -> Spread | None:
        """What some places (n,) weigh; None without any."""
        weight = self.scene.known.places.weight
        return spread_of(self.wide[those], weight[those])

    def share(self, those: np.ndarray) -> float:
        """How much of all length is some places' (n,)."""
        weight = self.scene.known.places.weight * self.seen
        return float(weight[those].sum() / max(weight.sum(), _THINNEST))


def inked_scene(scene: Scene, plan: Plan, bodies: Mapping[str, Widths]) -> Inked:
    """A scene with the widths of its lines. bodies: by line, before ends."""
    places = scene.known.places
    parts = [np.interp(places.s[places.of(k)], bodies[key].s, bodies[key].full) for k, key in enumerate(places.lines)]
    return Inked(scene, plan, np.concatenate(parts) if parts else np.zeros(0))


def by_role(inked: Inked) -> dict[str, tuple[Spread, float]]:
    """(what it weighs, its share of the length) of each role that is there."""
    return _by_name(inked, ROLES, inked.scene.role)


def by_tier(inked: Inked) -> dict[str, tuple[Spread, float]]:
    """(what it weighs, its share of the length) of each tier that has lines."""
    return _by_name(inked, TIERS, inked.scene.tier[inked.scene.known.places.line])


def _by_name(inked: Inked, names: Sequence[str], which: np.ndarray) -> dict[str, tuple[Spread, float]]:
    """The same for places (n,) that are each of one of some names."""
    found = {}
    for k, name in enumerate(names):
        those = inked.seen & (which == k)
        if (spread := inked.spread(those)) is not None:
            found[name] = (spread, inked.share(those))
    return found


def extremes(inked: Inked) -> dict[str, Extremes]:
    """The lightest and heaviest place of each part that is seen, by its id."""
    out, points = {}, inked.scene.known.places.points
    for k, part in enumerate(inked.scene.drawing.parts):
        those = np.flatnonzero(inked.seen & (inked.part == k))
        if len(those):
            thin, thick = those[np.argmin(inked.wide[those])], those[np.argmax(inked.wide[those])]
            out[part.id] = Extremes(float(inked.wide[thin]), _xy(points[thin]), float(inked.wide[thick]),
                                    _xy(points[thick]))  # fmt: skip
    return out


def histogram(inked: Inked, edges: np.ndarray) -> np.ndarray:
    """mm of line in each class of width. edges (k + 1,) mm; what lies beyond them counts to the outermost (k,)."""
    at = np.clip(np.searchsorted(edges, inked.wide, side="right") - 1, 0, len(edges) - 2)
    weight = inked.scene.known.places.weight * inked.seen
    return np.bincount(at, weight, minlength=len(edges) - 1)


def clashes(inked: Inked) -> list[Clash]:
    """Every place where a line outweighs one that it should not, the worst first."""
    found = [*_over_outlines(inked), *_over_nearer(inked), *_over_shadow(inked)]
    return sorted(found, key=lambda clash: (-clash.measured[0] / clash.measured[1], clash.at))


def _over_outlines(inked: Inked) -> Iterator[Clash]:
    from scipy.spatial import cKDTree

    scene, places = inked.scene, inked.scene.known.places
    inner = inked.seen & np.isin(scene.role, (INNER, DETAIL, TEXTURE))
    for k in np.unique(inked.part[inner]).tolist():
        outer = np.flatnonzero(inked.seen & (inked.part == k) & (scene.role == OUTER))
        if not len(outer):
            continue
        ceiling = float(2.0 ** np.average(inked.log[outer], weights=places.weight[outer]))
        over = inner & (inked.part == k) & (inked.wide > ceiling * SAME)
        tree = cKDTree(places.points[outer])
        for line in np.unique(places.line[over]).tolist():
            run = np.flatnonzero(over & (places.line == line))
            if places.weight[run].sum() >= LEAST_MM:
                worst = int(run[np.argmax(inked.wide[run])])
                nearest = int(outer[tree.query(places.points[worst])[1]])
                measured = float(inked.wide[worst]), ceiling
                # The ceiling is all of the outline: one line of it made heavier would not lift it.
                yield _clash(inked, OVER_OUTLINE, (worst, nearest), measured, (run, outer), LEAST_MM)


def _over_nearer(inked: Inked) -> Iterator[Clash]:
    scene, places, found = inked.scene, inked.scene.known.places, inked.scene.known.junctions
    met = found.only(found.joined & ((found.kind == STEM) | (found.kind == AT_CORNER)))
    nearer = (scene.part[met.other] < scene.part[met.line]) & (scene.tier[met.other] < scene.tier[met.line])
    met = met.only(nearer & ~scene.attached(scene.part[met.line], scene.part[met.other]))
    told = set[tuple[int, int]]()
    ends = places.at(met.line, met.s).tolist(), places.at(met.other, met.other_s).tolist()
    for here, there in zip(*ends, strict=True):
        pair = int(places.line[here]), int(places.line[there])
        if inked.wide[here] > inked.wide[there] * SAME and pair not in told:
            told.add(pair)
            measured = float(inked.wide[here]), float(inked.wide[there])
            yield _clash(inked, OVER_NEARER, (here, there), measured, (np.array([here]), np.array([there])), AROUND_MM)


def _over_shadow(inked: Inked) -> Iterator[Clash]:
    scene, places = inked.scene, inked.scene.known.places
    if not inked.plan.lamps or not len(places.s):
        return
    sides = dark_and_lit(scene, shades(scene, inked.plan))
    for k in np.unique(inked.part[sides[0]]).tolist():
        dark, lit = (np.flatnonzero(side & (inked.part == k)) for side in sides)
        if min(places.weight[dark].sum(), places.weight[lit].sum()) < LEAST_SIDE_MM:
            continue
        shadow, light = (float(2.0 ** np.average(inked.log[on], weights=places.weight[on])) for on in (dark, lit))
        if light > shadow * SAME:
            worst, thin = int(lit[np.argmax(inked.wide[lit])]), int(dark[np.argmin(inked.wide[dark])])
            yield _clash(inked, OVER_SHADOW, (worst, thin), (light, shadow), (lit, dark), AROUND_MM)


def _clash(
    inked: Inked,
    kind: str,
    at: tuple[int, int],
    measured: tuple[float, float],
    runs: tuple[np.ndarray, np.ndarray],
    around: float,
) -> Clash:
    """at: the place that weighs too much, and the one that it should not outweigh; runs: the places that would be
    thinned, and those that would be thickened instead, and `around` mm round each of them."""
    places = inked.scene.known.places
    heavy, light = (places.lines[int(places.line[place])] for place in at)
    # A swell fades in and out inside its ends, which takes some of it away.
    factor = measured[0] / measured[1] * SAME * SAME
    thick = _cure(inked, runs[1], factor, around, f"thicken {light}", measured[1])
    thin = _cure(inked, runs[0], 1.0 / factor, around, f"thin {heavy}", measured[0])
    return Clash(kind, _xy(places.points[at[0]]), (heavy, light), measured, (thick, thin))


def _cure(inked: Inked, run: np.ndarray, factor: float, around: float, verb: str, before: float) -> Cure:
    places, out = inked.scene.known.places, []
    for line in np.unique(places.line[run]).tolist():
        s, length = places.s[run[places.line[run] == line]], float(places.length[line])
        for piece in np.split(s, np.flatnonzero(np.diff(s) > 2.0 * around) + 1):
            start, end = max(float(piece.min()) - around, 0.0), min(float(piece.max()) + around, length)
            out.append((places.lines[line], round(start, 3), round(end, 3)))
    others = "" if len(out) == 1 else f" and {len(out) - 1} more stretches"
    _, start, end = out[0]
    return Cure(tuple(out), factor, f"{verb}{others} from {before:.2f} to {before * factor:.2f} mm,"
                                    f" {start:.1f} to {end:.1f} mm along it")  # fmt: skip


def _xy(point: np.ndarray) -> tuple[float, float]:
    return float(point[0]), float(point[1])
