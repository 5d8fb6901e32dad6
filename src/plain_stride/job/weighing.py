"""The plan laid on a job: its profile for each line, worked out from the whole drawing as the hands left it.

A line's weight hangs on what lies round it. So profiles are worked out for all lines together, when one of them is
asked for and something has changed since; while a change is being made, and where that is left to a worker beside
the window, lines keep the profile that they had until the new ones are taken over.
"""

import os
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from plain_stride.form.drawing import DrawingKeeper, DrawnLine, DrawnPart
from plain_stride.form.junctions import Tables
from plain_stride.form.known import known_of, sides_of
from plain_stride.form.outside import Outside
from plain_stride.form.places import along_of
from plain_stride.job.covers import Covers
from plain_stride.job.records import LineRecord
from plain_stride.job.rows import JobRows, Part
from plain_stride.lines.recipe import PlanProfile, Worked, even_profile
from plain_stride.lines.shape import Path, Shape
from plain_stride.weight.plan import Plan
from plain_stride.weight.scene import HALO, LEFT, LOOK_MM, RIGHT, Scene
from plain_stride.weight.weighing import Weighed, weighed

WITHIN_MM = 0.002


class HandLines(Protocol):
    """The lines of a job as the hand alone has them."""

    def by_hand(self, line: str) -> Worked: ...


class _Shapes:
    """The same for those who ask for shapes."""

    def __init__(self, shapes: HandLines) -> None:
        self._shapes = shapes

    def __getitem__(self, line: str) -> Shape:
        return self._shapes.by_hand(line).shape


class Sides:
    """What is outside of parts, kept while their lines lie as they did."""

    def __init__(self) -> None:
        self._kept: dict[frozenset[Path], dict[Path, Outside]] = {}
        self._used: set[frozenset[Path]] = set()

    def __call__(self, paths: Sequence[Path]) -> list[Outside]:
        key = frozenset(paths)
        if key not in self._kept:
            self._kept[key] = dict(zip(paths, sides_of(paths), strict=True))
        self._used.add(key)
        return [self._kept[key][path] for path in paths]

    def forget_unused(self) -> None:
        """Forgets what was not asked for since the last time."""
        self._kept = {key: value for key, value in self._kept.items() if key in self._used}
        self._used = set()


Generation = tuple[int, int]
"""(process, how often it had been weighed there)."""


@dataclass(frozen=True)
class Changes:
    """Profiles that are others now, and on which side each line's form lies."""

    generation: Generation
    profiles: dict[str, PlanProfile]
    sides: dict[str, str]


class JobWeighing:
    """beside: whether new profiles come from a worker, by `take`; sides: where the form of each line lies ('left' or
    'right'), as told last."""

    def __init__(self, job: JobRows, shapes: HandLines) -> None:
        self.job, self.beside = job, False
        self._shapes, self._covers = shapes, Covers(job, _Shapes(shapes))
        self._keeper, self._sides, self._tables = DrawingKeeper(), Sides(), Tables()
        self._laid: dict[str, tuple[LineRecord, Worked]] = {}
        self._hidden: set[str] = set()
        self._profiles: dict[str, PlanProfile] = {}
        self._evens: dict[float, PlanProfile] = {}
        self.sides: dict[str, str] = {}
        self._shown: dict[str, PlanProfile] = {}
        self._told: list[tuple[str, ...]] = []
        self._weighed: Weighed | None = None
        self._version, self._held = -1, 0

    def profile(self, line: str) -> PlanProfile:
        """What the plan wants along a line."""
        row, plan = self.job.rows.lines[line], self.job.plan
        if row.weight.pinned is not None:
            return row.weight.pinned
        if not plan.is_even and not self._held and not self.beside and plan_counts(self.job):
            self._bring_up_to_date()
        kept = None if plan.is_even else self._shown.get(line) or self._profiles.get(line)
        # Until the whole is weighed, or where a line does not count: what its role and its depth give.
        return kept or self._even(plan.width(row.role, self.job.rows.parts[row.part].tier))

    def _even(self, mm: float) -> PlanProfile:
        """One profile for each width: the same profile means the same line."""
        if mm not in self._evens:
            self._evens[mm] = even_profile(mm)
        return self._evens[mm]

    def leave_to_worker(self) -> None:
        """From now on new profiles come by `take`."""
        self.beside = True

    def settle(self) -> None:
        """Works out what is not, where that is not a worker's to do."""
        if not self.beside and not self.job.plan.is_even:
            self._bring_up_to_date()

    def form_side(self, line: str) -> str:
        """On which side of a line the form lies for the most part; by its bend where nothing tells."""
        self.settle()
        return self.sides.get(line) or convex_side(self._shapes.by_hand(line).path)

    @contextmanager
    def held(self) -> Iterator[None]:
        """Lines keep their profiles while a change is being made."""
        self._held += 1
        try:
            yield
        finally:
            self._held -= 1

    def now(self) -> Weighed:
        """The whole, as the job stands."""
        self._bring_up_to_date()
        assert self._weighed is not None
        return self._weighed

    def changes_since(self, known: Generation) -> Changes:
        """What is otherwise than when it was asked last; all, where that was asked of another process."""
        self._bring_up_to_date()
        process, generation = known
        if process == os.getpid() and generation <= len(self._told):
            keys = {key for told in self._told[generation:] for key in told}
        else:
            keys = set(self._profiles)
        own = {key: self._profiles[key] for key in keys if key in self._profiles and key in self.job.rows.lines}
        return Changes((os.getpid(), len(self._told)), own, dict(self.sides))

    def tried(self, plan: Plan) -> dict[str, PlanProfile]:
        """What another plan would want of each line, which is not kept."""
        return profiles_of(weighed(self.now().scene, plan))

    def show(self, profiles: Mapping[str, PlanProfile]) -> list[str]:
        """Shows lines with other profiles for the moment, until none are given; gives the lines that are others."""
        before, self._shown = self._shown, dict(profiles)
        return [key for key in before.keys() | profiles.keys() if before.get(key) != self._shown.get(key)]

    def take(self, profiles: Mapping[str, PlanProfile], sides: Mapping[str, str]) -> list[str]:
        """Takes over what a worker found; gives the lines that are others by it."""
        changed = [key for key, new in profiles.items() if self._profiles.get(key) != new]
        self._profiles |= {key: profiles[key] for key in changed}
        self._told.append(tuple(changed))
        self.sides |= sides
        return changed

    def of_state(self, job: JobRows, shapes: HandLines) -> "JobWeighing":
        """That of the same job as it was, which is only looked at: lines have the profiles that they have now."""
        then = JobWeighing(job, shapes)
        then._profiles, then._evens, then.beside = dict(self._profiles), self._evens, True
        return then

    def _bring_up_to_date(self) -> None:
        if self._version == self.job.version and self._weighed is not None:
            return
        self._version = self.job.version
        scene, before = self._scene(), self._weighed
        self._weighed = weighed(scene, self.job.plan)
        self.take(profiles_of(self._weighed, before), sides_told(scene))
        self._sides.forget_unused()

    def _scene(self) -> Scene:
        rows = self.job.rows.lines
        now = {key: (row, self._shapes.by_hand(key)) for key, row in rows.items()}
        gone = [key for key in self._laid if key not in now]
        hidden = {part.id for part in self.job.parts() if part.hidden}
        turned = hidden ^ self._hidden
        new = [key for key, laid in now.items() if laid[0].part in turned or not _is_same(self._laid.get(key), laid)]
        self._laid, self._hidden = now, hidden
        parts = tuple(drawn_part(part) for part in self.job.parts())
        drawing = self._keeper.change(parts, dict(self._covers.now()), [(self._drawn(key), now[key][1]) for key in new],
                                      gone)  # fmt: skip
        says = {key: row.weight.says for key, row in rows.items()}
        return Scene(drawing, known_of(drawing, self._sides, self._tables), says)

    def _drawn(self, line: str) -> DrawnLine:
        row, worked = self._laid[line]
        return DrawnLine(line, row.part, row.place, row.roles, worked.path, worked.hand, row.family or "", row.draft)


def sides_told(scene: Scene) -> dict[str, str]:
    """On which side of each line the form lies for the most part: the convex one where nothing tells."""
    places = scene.known.places
    sums = np.bincount(places.line, scene.form, minlength=len(places.lines))
    turns = np.bincount(places.line, scene.turning(LOOK_MM), minlength=len(places.lines))
    right = np.where(sums != 0.0, sums < 0.0, turns > 0.0)
    return {key: RIGHT if there else LEFT for key, there in zip(places.lines, right.tolist(), strict=True)}


def convex_side(path: Path) -> str:
    """On which side of a line the form lies by its bend alone."""
    way = along_of(path).way
    return RIGHT if float((way[:-1, 0] * way[1:, 1] - way[:-1, 1] * way[1:, 0]).sum()) > 0.0 else LEFT


def drawn_part(part: Part) -> DrawnPart:
    """A part of a job as a drawing has it."""
    return DrawnPart(part.id, part.name, part.order, part.tier, part.hidden, part.ink, part.inside or "")


def plan_counts(job: JobRows) -> bool:
    """Whether the plan changes any line: some share of it is laid, on the whole, a part or a line."""
    return bool(job.plan.share or any(part.share for part in job.rows.parts.values())
                or any(row.weight.share for row in job.rows.lines.values()))  # fmt: skip


def profiles_of(whole: Weighed, before: Weighed | None = None) -> dict[str, PlanProfile]:
    """The profile of each line, in as few knots as tell its widths within WITHIN_MM. before: what was told already:
    lines that are as they were there are left out."""
    import shapely

    places, drawing = whole.scene.known.places, whole.scene.drawing
    new = _changed(whole, before) if before is not None else np.arange(len(places.lines))
    if not len(new):
        return {}
    on = np.isin(places.line, new)
    courses = shapely.linestrings(np.column_stack([places.s, whole.wide])[on], indices=np.repeat(
        np.arange(len(new)), places.counts[new]))  # fmt: skip
    coordinates, line = shapely.get_coordinates(shapely.simplify(courses, WITHIN_MM), return_index=True)
    firsts = np.searchsorted(line, np.arange(len(new) + 1))
    out = {}
    for n, k in enumerate(new.tolist()):
        s, wide = coordinates[firsts[n] : firsts[n + 1]].T
        key = places.lines[k]
        path = drawing.lines[key].path
        rising = path.s + np.arange(len(path.s)) * 1e-10
        source_t = np.maximum.accumulate(np.interp(s, rising, path.source_t))
        half = tuple((wide / 2.0).tolist())
        out[key] = PlanProfile(tuple(source_t.tolist()), half, half, True, _ends(whole, k))
    return out


def _changed(whole: Weighed, before: Weighed) -> np.ndarray:
    """Which lines (k,) lie otherwise, or are to weigh otherwise, than before."""
    places, old = whole.scene.known.places, before.scene.known.places
    out = []
    for k, key in enumerate(places.lines):
        was = old.row.get(key)
        same = was is not None and whole.scene.drawing.lines[key].path is before.scene.drawing.lines[key].path
        same = same and np.array_equal(whole.wide[places.of(k)], before.wide[old.of(int(was or 0))])
        same = same and _ends(whole, k) == _ends(before, int(was or 0))
        if not same:
            out.append(k)
    return np.array(out, int)


def _ends(whole: Weighed, k: int) -> tuple[float, float] | None:
    """mm over which a line's ends are drawn out; None where the plan leaves them, as those of a halo."""
    if whole.ends is None or whole.scene.role[whole.scene.known.places.starts[k]] == HALO:
        return None
    return float(whole.ends[k, 0]), float(whole.ends[k, 1])


def _is_same(a: tuple[LineRecord, Worked] | None, b: tuple[LineRecord, Worked]) -> bool:
    return a is not None and a[0] is b[0] and a[1] is b[1]
