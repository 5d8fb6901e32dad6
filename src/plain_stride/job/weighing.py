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
from plain_stride.form.known import known_of, sides_of_parts
from plain_stride.form.outside import Outside
from plain_stride.form.places import Places, places_of
from plain_stride.job.covers import Covers
from plain_stride.job.records import LineRecord
from plain_stride.job.rows import JobRows
from plain_stride.lines.recipe import PlanProfile, Worked, even_profile
from plain_stride.lines.shape import Path, Shape
from plain_stride.weight.plan import Plan
from plain_stride.weight.scene import HALO, LEFT, RIGHT, Scene
from plain_stride.weight.weighing import Weighed, weighed

WITHIN_MM, SAME_MM = 0.0015, 0.0005
"""Within what profiles tell widths; a width that differs by less from what was told is not told again."""


class HandLines(Protocol):
    """The lines of a job as the hand alone has them."""

    def by_hand(self, line: str) -> Worked: ...


class ByHand:
    """The same for those who ask for shapes: what they find hangs on no plan."""

    def __init__(self, shapes: HandLines) -> None:
        self._shapes = shapes

    def __getitem__(self, line: str) -> Shape:
        return self._shapes.by_hand(line).shape


class Sides:
    """What is outside of parts, kept while their lines lie as they did."""

    def __init__(self) -> None:
        self._kept: dict[frozenset[Path], dict[Path, Outside]] = {}
        self._used: set[frozenset[Path]] = set()

    def __call__(self, parts: Sequence[Sequence[Path]]) -> list[list[Outside]]:
        keys = [frozenset(paths) for paths in parts]
        new = [(key, paths) for key, paths in zip(keys, parts, strict=True) if key not in self._kept]
        for (key, paths), told in zip(new, sides_of_parts([paths for _, paths in new]), strict=True):
            self._kept[key] = dict(zip(paths, told, strict=True))
        self._used |= set(keys)
        return [[self._kept[key][path] for path in paths] for key, paths in zip(keys, parts, strict=True)]

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
        self._shapes, self._covers = shapes, Covers(job, ByHand(shapes))
        self._keeper, self._sides, self._tables = DrawingKeeper(), Sides(), Tables()
        self._laid: dict[str, tuple[LineRecord, Worked]] = {}
        self._hidden: set[str] = set()
        self._profiles: dict[str, PlanProfile] = {}
        self._evens: dict[float, PlanProfile] = {}
        self.sides: dict[str, str] = {}
        self._shown: dict[str, PlanProfile] = {}
        self._told: list[tuple[str, ...]] = []
        self._weighed: Weighed | None = None
        self._last: Told | None = None
        self._version, self._held = -1, 0
        self._counted = (-1, False)
        self._known: tuple[int, Scene] | None = None

    def profile(self, line: str) -> PlanProfile:
        """What the plan wants along a line."""
        row, plan = self.job.rows.lines[line], self.job.plan
        if row.weight.pinned is not None:
            return row.weight.pinned
        if row.tone is not None:
            return self._even(plan.width(row.role, self.job.rows.parts[row.part].tier))
        if not plan.is_even and not self._held and not self.beside and self._plan_counts():
            self._bring_up_to_date()
        kept = None if plan.is_even else self._shown.get(line) or self._profiles.get(line)
        # Until the whole is weighed, or where a line does not count: what its role and its depth give.
        return kept or self._even(plan.width(row.role, self.job.rows.parts[row.part].tier))

    def _plan_counts(self) -> bool:
        """Whether the plan changes any line; looked at once for a state of the job, as this is asked of each line."""
        if self._counted[0] != self.job.version:
            self._counted = (self.job.version, plan_counts(self.job))
        return self._counted[1]

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
        now = self.now()
        return profiles_of(weighed(now.scene, plan, now))

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
        scene, before = self.scene(), self._weighed
        self._weighed = weighed(scene, self.job.plan, before)
        self._last, others = told_by(self._weighed, self._last)
        self.take(profiles_of(self._weighed, others), sides_told(scene))
        self._sides.forget_unused()

    def scene(self) -> Scene:
        """All that is known of the drawing as the job stands, before any plan; worked out once for a state of it."""
        if self._known is None or self._known[0] != self.job.version:
            self._known = (self.job.version, self._scene())
        return self._known[1]

    def _scene(self) -> Scene:
        rows = self.job.rows.lines
        now = {key: (row, self._shapes.by_hand(key)) for key, row in rows.items() if row.tone is None}
        gone = [key for key in self._laid if key not in now]
        hidden = {part.id for part in self.job.parts() if part.hidden}
        turned = hidden ^ self._hidden
        new = [key for key, laid in now.items() if laid[0].part in turned or not _is_same(self._laid.get(key), laid)]
        self._laid, self._hidden = now, hidden
        parts = drawn_parts(self.job)
        drawing = self._keeper.change(parts, dict(self._covers.now()), [(self._drawn(key), now[key][1]) for key in new],
                                      gone)  # fmt: skip
        says = {key: rows[key].weight.says for key in now}
        return Scene(drawing, known_of(drawing, self._sides, self._tables), says)

    def _drawn(self, line: str) -> DrawnLine:
        row, worked = self._laid[line]
        return DrawnLine(line, row.part, row.place, row.roles, worked.path, worked.hand, row.family or "", row.draft)


def sides_told(scene: Scene) -> dict[str, str]:
    """On which side of each line the form lies for the most part: the convex one where nothing tells."""
    places = scene.known.places
    sums = np.bincount(places.line, scene.form, minlength=len(places.lines))
    right = np.where(sums != 0.0, sums < 0.0, _turns(places) > 0.0)
    return {key: RIGHT if there else LEFT for key, there in zip(places.lines, right.tolist(), strict=True)}


def convex_side(path: Path) -> str:
    """On which side of a line the form lies by its bend alone."""
    return RIGHT if _turns(places_of([("", path)]))[0] > 0.0 else LEFT


def _turns(places: Places) -> np.ndarray:
    """How far each line turns in all (m,), above 0 from the x axis to the y axis."""
    way, ahead = places.way, places.way[places.shifted(1)]
    return np.bincount(places.line, way[:, 0] * ahead[:, 1] - way[:, 1] * ahead[:, 0], minlength=len(places.lines))


def drawn_parts(job: JobRows) -> tuple[DrawnPart, ...]:
    """The parts of a job as a drawing has them, nearest first."""
    toned = job.parts_of_tones()
    return tuple(DrawnPart(part.id, part.name, part.order, part.tier, part.hidden, part.ink, part.inside or "",
                           part.id in toned) for part in job.parts())  # fmt: skip


def plan_counts(job: JobRows) -> bool:
    """Whether the plan changes any line: some share of it is laid, on the whole, a part or a line."""
    return bool(job.plan.share or any(part.share for part in job.rows.parts.values())
                or any(row.weight.share for row in job.rows.lines.values()))  # fmt: skip


@dataclass(frozen=True, eq=False)
class Told:
    """What was told of the lines of a drawing: wide (n,) and ends (m, 2) mm, as of `Weighed`; nan where ends are
    left alone."""

    scene: Scene
    wide: np.ndarray
    ends: np.ndarray


def told_by(whole: Weighed, before: Told | None = None) -> tuple[Told, np.ndarray]:
    """(what is told now, lines (k,) of which that is another than before). Changes that nobody could see are not."""
    places, ends = whole.scene.known.places, _ends(whole)
    if before is None:
        return Told(whole.scene, whole.wide, ends), np.arange(len(places.lines))
    old, lines = before.scene.known.places, whole.scene.drawing.lines
    was = np.array([_row_of(before.scene, key, lines[key].path) for key in places.lines], int)
    wide = np.append(before.wide, np.nan)[np.where(was[places.line] >= 0, places.were(old), -1)]
    near = np.abs(wide - whole.wide) <= SAME_MM
    others = np.bincount(places.line[~near], minlength=len(places.lines)) > 0
    old_ends = np.vstack([before.ends, np.full(2, np.nan)])[was]
    others |= ~((old_ends == ends) | (np.isnan(old_ends) & np.isnan(ends))).all(axis=1)
    return Told(whole.scene, np.where(others[places.line], whole.wide, wide), ends), np.flatnonzero(others)


def _row_of(scene: Scene, key: str, path: Path) -> int:
    """Which line of a scene has an id and lies along a path; -1 for none."""
    row = scene.known.places.row.get(key, -1)
    return row if row >= 0 and scene.drawing.lines[key].path is path else -1


def profiles_of(whole: Weighed, lines: np.ndarray | None = None) -> dict[str, PlanProfile]:
    """The profile of each line, in as few knots as tell its widths within WITHIN_MM. lines (k,): of these alone."""
    import shapely

    places, drawing, ends = whole.scene.known.places, whole.scene.drawing, _ends(whole)
    new = np.arange(len(places.lines)) if lines is None else lines
    if not len(new):
        return {}
    on = places.index_of(new)
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
        own = None if np.isnan(ends[k, 0]) else (float(ends[k, 0]), float(ends[k, 1]))
        out[key] = PlanProfile(tuple(source_t.tolist()), half, half, True, own)
    return out


def _ends(whole: Weighed) -> np.ndarray:
    """mm over which ends are drawn out (m, 2); nan where the plan leaves them, as those of a halo."""
    places = whole.scene.known.places
    if whole.ends is None:
        return np.full((len(places.lines), 2), np.nan)
    halo = whole.scene.role[places.starts[:-1]] == HALO
    return np.where(halo[:, None], np.nan, whole.ends)


def _is_same(a: tuple[LineRecord, Worked] | None, b: tuple[LineRecord, Worked]) -> bool:
    return a is not None and a[0] is b[0] and a[1] is b[1]
