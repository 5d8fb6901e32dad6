"""What is asked of a drawing's weight beside the window: what lines measure, where they clash, what each rule adds."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from plain_stride.errors import StrideError
from plain_stride.form.roles import ROLES
from plain_stride.job.job_files import opened
from plain_stride.job.questions import DrawingAtWork
from plain_stride.job.reports import inked_of, likeness
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.job.weighing import Changes, Generation
from plain_stride.lines.recipe import PlanProfile
from plain_stride.weight.hierarchy import (
    Clash,
    Extremes,
    Inked,
    by_role,
    by_tier,
    clashes,
    extremes,
    histogram,
    inked_scene,
)  # fmt: skip
from plain_stride.weight.lamps import Lamp
from plain_stride.weight.learning import Learned, learned
from plain_stride.weight.plan import TIERS, PlanError
from plain_stride.weight.report import Spread
from plain_stride.weight.suggested_tiers import Suggestion, suggested_tiers
from plain_stride.weight.white import ClosedPair, closed_pairs

Progress = Callable[[float], bool]
HIDDEN = -1
CLASS_EDGES = np.array([0.0, 0.13, 0.18, 0.25, 0.35, 0.5, 0.7, 1.0, 1.4, 100.0])
"""Classes of width: the ladder of ISO 128."""


@dataclass(frozen=True)
class ProfilesNow:
    """What the plan wants of lines that it wanted otherwise when it was asked last."""

    known: Generation

    def answered(self, at: DrawingAtWork, progress: Progress) -> Changes:
        return at.shapes.weighing.changes_since(self.known)


@dataclass(frozen=True)
class LampsTried:
    """What the plan would want of each line with other lamps."""

    lamps: tuple[Lamp, ...]

    def answered(self, at: DrawingAtWork, progress: Progress) -> dict[str, PlanProfile]:
        return at.shapes.weighing.tried(replace(at.job.plan, lamps=self.lamps))


@dataclass(frozen=True)
class Group:
    """A tier or a role: its lines, by the role of most of each; what they measure, None without any; its share of all
    length, 0 to 1."""

    name: str
    lines: tuple[str, ...]
    measured: Spread | None
    share: float


@dataclass(frozen=True)
class GivenUp:
    """A guarantee that a higher one left no room for: the rule, the lines (heavy, light), where (mm)."""

    rule: str
    lines: tuple[str, str]
    at: tuple[float, float]


@dataclass(frozen=True)
class Weights:
    """groups: by tier, then by role; lengths: mm of line in each class of width; extremes: by part; gave_way, closed:
    what the plan could not do."""

    groups: tuple[Group, ...]
    clashes: tuple[Clash, ...]
    gave_way: tuple[GivenUp, ...]
    closed: tuple[ClosedPair, ...]
    extremes: dict[str, Extremes]
    lengths: tuple[float, ...]


@dataclass(frozen=True)
class WeightsNow:
    """What lines measure by tier and by role, who outweighs whom, what the plan could not do."""

    def answered(self, at: DrawingAtWork, progress: Progress) -> Weights:
        inked, whole = inked_of(at.job, at.shapes), at.shapes.weighing.now()
        places = inked.scene.known.places
        gave = tuple(GivenUp(one.rule, (_line(inked, one.places[0]), _line(inked, one.places[1])),
                             _xy(places.points[one.places[1]])) for one in whole.gave_way)  # fmt: skip
        lengths = tuple(histogram(inked, CLASS_EDGES).tolist()) if len(places.s) else ()
        return Weights(_groups(inked), tuple(clashes(inked)), gave, tuple(closed_pairs(inked.scene, whole.closed)),
                       extremes(inked), lengths)  # fmt: skip


@dataclass(frozen=True, eq=False)
class Seen:
    """All places of what is seen: starts (m + 1,) of each of its lines, points (n, 2) mm, role (n,) as places among
    ROLES, -1 where a part in front hides it, outward (n, 2): away from the form, nought where its side is not known,
    wide (n,) mm."""

    lines: tuple[str, ...]
    starts: np.ndarray
    points: np.ndarray
    role: np.ndarray
    outward: np.ndarray
    wide: np.ndarray


@dataclass(frozen=True)
class SeenNow:
    """The places of a drawing, to be marked on the sheet."""

    def answered(self, at: DrawingAtWork, progress: Progress) -> Seen:
        inked = inked_of(at.job, at.shapes)
        places = inked.scene.known.places
        role = np.where(inked.seen, inked.scene.role, HIDDEN).astype(np.int8)
        outward = (places.left * -inked.scene.form[:, None]).astype(np.float32)
        return Seen(places.lines, places.starts, places.points.astype(np.float32), role, outward,
                    inked.wide.astype(np.float32))  # fmt: skip


@dataclass(frozen=True, eq=False)
class Bands:
    """What each rule adds along a line: s (n,) mm; steps of sqrt 2 (n,) by rule; guarantees (n,); rest (n,): what
    white, slope and smoothing make of it; base: mm."""

    s: np.ndarray
    steps: dict[str, np.ndarray]
    guarantees: np.ndarray
    rest: np.ndarray
    base: float


@dataclass(frozen=True)
class BandsOf:
    """What each rule adds along one line; None for one that the plan does not weigh."""

    line: str

    def answered(self, at: DrawingAtWork, progress: Progress) -> Bands | None:
        whole = at.shapes.weighing.now()
        places = whole.scene.known.places
        if self.line not in places.row:
            return None
        on = places.of(places.row[self.line])
        steps = {name: every[on] for name, every in whole.bands.items() if np.abs(every[on]).max() > 0.02}
        guarantees = whole.guarantees[on]
        wanted = 2.0 * np.log2(np.maximum(whole.wide[on], 1e-4) / whole.plan.base)
        rest = wanted - guarantees - sum((every for every in steps.values()), np.zeros(len(wanted)))
        return Bands(places.s[on], steps, guarantees, rest, whole.plan.base)


@dataclass(frozen=True)
class LearnPlan:
    """The plan that the hand's own widths follow; a sentence where there is too little to learn from."""

    def answered(self, at: DrawingAtWork, progress: Progress) -> Learned | str:
        try:
            return learned_of(at.job, at.shapes, progress)
        except PlanError as fault:
            return str(fault)


@dataclass(frozen=True)
class LikeJob:
    """How the weights lie against those of another job's file; a sentence where that cannot be read."""

    path: Path

    def answered(self, at: DrawingAtWork, progress: Progress) -> list[dict[str, Any]] | str:
        try:
            with opened(self.path) as (job, store):
                there = inked_of(job, Shapes(job, store))
        except StrideError as fault:
            return str(fault)
        return likeness(inked_of(at.job, at.shapes), there)


@dataclass(frozen=True)
class TiersSuggested:
    """Depths that the drawing suggests for its parts."""

    def answered(self, at: DrawingAtWork, progress: Progress) -> tuple[Suggestion, ...]:
        scene = at.shapes.weighing.now().scene
        return tuple(suggested_tiers(scene.drawing, scene.known))


def learned_of(job: JobRows, shapes: Shapes, progress: Progress = lambda share: True) -> Learned:
    """The plan that the hand's widths of a job follow. Raises PlanError."""
    scene = shapes.weighing.now().scene
    inked = inked_scene(scene, job.plan, {key: scene.drawing.lines[key].hand for key in scene.known.places.lines})
    return learned(scene, inked.wide, job.plan, progress)


def _groups(inked: Inked) -> tuple[Group, ...]:
    places = inked.scene.known.places
    tables = [np.bincount(places.line, places.weight * (inked.scene.role == k), minlength=len(places.lines))
              for k in range(len(ROLES))]  # fmt: skip
    main = np.argmax(tables, axis=0)
    out = []
    for names, of_line, told in ((TIERS, inked.scene.tier, by_tier(inked)), (ROLES, main, by_role(inked))):
        for k, name in enumerate(names):
            lines = tuple(places.lines[n] for n in np.flatnonzero(of_line == k).tolist())
            spread, share = told.get(name, (None, 0.0))
            if spread is not None or names is TIERS:
                out.append(Group(name.capitalize() if names is TIERS else name, lines, spread, share))
    return tuple(out)


def _line(inked: Inked, place: int) -> str:
    places = inked.scene.known.places
    return places.lines[int(places.line[place])]


def _xy(point: np.ndarray) -> tuple[float, float]:
    return float(point[0]), float(point[1])
