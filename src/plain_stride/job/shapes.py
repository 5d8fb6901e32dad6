"""The finished lines of a job, each worked out once from its recipe and again when something of it changes."""

import zlib
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from plain_stride.hand.nib import Steadying
from plain_stride.hand.pull import Pull
from plain_stride.job.commit import FitRow
from plain_stride.job.job import PLAN, Job
from plain_stride.job.records import BlackRecord, LineRecord, PartRecord, PlanRecord
from plain_stride.job.store import Store
from plain_stride.lines.black import Black
from plain_stride.lines.centre import CENTRE_VERSION, Centre, Following, centre_of
from plain_stride.lines.recipe import End, Recipe, Shape, form_recipe_centre, shape_of
from plain_stride.weight.plan import Plan
from plain_stride.weight.report import ceiling

MOST_SHARED = 30_000
Weight = tuple[float | None, float]
"""The plan's width of a line, mm or None, and the share it has in it."""


@dataclass(frozen=True, eq=False)
class Prepared:
    """A pull's line, worked out before its change is made. weight: the plan's width (mm or None) and share in it;
    follow: how it follows the pencils."""

    pull: Pull
    centre: Centre
    weight: Weight
    shape: Shape
    follow: Following | None = None


class Shapes:
    """Shapes by line id. `fresh_fits` collects what was fitted since it was last asked, for the file to keep."""

    def __init__(self, job: Job, store: Store | None = None) -> None:
        self.job = job
        self._kept: dict[str, tuple[tuple[LineRecord, PartRecord, PlanRecord], Weight, Shape]] = {}
        self._centres: dict[tuple[str, str, str], Centre] = {}
        self._blacks: dict[str, tuple[BlackRecord, Black]] = {}
        self._hands: dict[str, tuple[LineRecord, Shape]] = {}
        self._fresh: list[tuple[str, str, str]] = []
        self._prepared: Prepared | None = None
        self._of_states: dict[tuple[str, int, int], tuple[LineRecord, PlanRecord, Shape]] = {}
        self._shared: dict[tuple[str, int, int], tuple[LineRecord, PlanRecord, Shape]] | None = None
        if store is not None:
            for pull, school, leeway, *parts in store.fits(CENTRE_VERSION):
                self._centres[pull, school, leeway] = _centre_from_bytes(*parts)

    def __getitem__(self, line: str) -> Shape:
        """The shape of a line; KeyError for an unknown one."""
        row = self.job.rows.lines[line]
        part, plan_row = self.job.rows.parts[row.part], self.job.rows.plan[PLAN]
        kept = self._kept.get(line)
        # Rows are never changed in place, so the same rows mean the same line; a part's other columns do not matter.
        if kept is not None and kept[0][0] is row and kept[0][1] is part and kept[0][2] is plan_row:
            return kept[2]
        plan = self.job.plan
        weight = (plan.width(row.role, part.tier), plan.share_of(row.role))
        if kept is None or kept[0][0] is not row or kept[1] != weight:
            recipe = partial(self._recipe, row, part.tier, plan)
            ready = self._ready(row)
            shape = ready.shape if ready is not None and ready.weight == weight else self._worked(line, row, recipe)
        else:
            shape = kept[2]
        self._kept[line] = ((row, part, plan_row), weight, shape)
        return shape

    def _worked(self, line: str, row: LineRecord, recipe: Callable[[], Recipe]) -> Shape:
        """A line worked out; states of a job that are only looked at share what they worked out."""
        if self._shared is None:
            return shape_of(recipe())
        plan_row = self.job.rows.plan[PLAN]
        key = (line, id(row), id(plan_row))
        if key not in self._shared:
            if len(self._shared) > MOST_SHARED:
                self._shared.clear()
            # The rows are kept with it, so that their ids stay theirs.
            self._shared[key] = (row, plan_row, shape_of(recipe()))
        return self._shared[key][2]

    def hand_only(self, line: str) -> Shape:
        """The line as the hand alone would have it, the plan lifted off."""
        row = self.job.rows.lines[line]
        kept = self._hands.get(line)
        if kept is None or kept[0] is not row:
            kept = self._hands[line] = (row, shape_of(self._recipe(row, "middle", None)))
        return kept[1]

    def black(self, key: str) -> Black:
        """A black where it lies now; KeyError for an unknown one."""
        row = self.job.rows.blacks[key]
        kept = self._blacks.get(key)
        if kept is None or kept[0] is not row:
            black = self.job.outline(row.outline)
            kept = self._blacks[key] = (row, black.moved(*row.shift) if row.shift else black)
        return kept[1]

    def ink(self, key: str) -> Shape | Black:
        """A line or a black."""
        return self[key] if key in self.job.rows.lines else self.black(key)

    def of_state(self, job: Job) -> "Shapes":
        """Shapes of the same job as it was: what has not changed since is not worked out again."""
        then = Shapes(job)
        then._kept, then._blacks, then._centres = dict(self._kept), dict(self._blacks), self._centres
        then._shared = self._of_states
        return then

    def visible(self) -> list[str]:
        """Lines that are seen, back to front."""
        hidden = {part.id for part in self.job.parts() if part.hidden}
        return [key for key in self.job.line_ids() if self.job.rows.lines[key].part not in hidden]

    def centre(self, row: LineRecord) -> Centre:
        """The centreline of a line before its trims."""
        if row.form is not None:
            return form_recipe_centre(self.job.form(row.form).curve)
        setting, following = row.steadying, row.follow
        key = (str(row.pull), setting.school, _leeway_key(setting) + _follow_key(following))
        if key not in self._centres:
            ready = self._ready(row)
            pull = self.job.pull(key[0])
            self._centres[key] = ready.centre if ready is not None else centre_of(pull, setting, following)
            self._fresh.append(key)
        return self._centres[key]

    def placed_centre(self, row: LineRecord) -> Centre:
        """The centreline of a line before its trims, where the line lies now."""
        centre = self.centre(row)
        return replace(centre, curve=centre.curve + np.array(row.shift)) if row.shift else centre

    def preparing(self, pull: Pull, role: str, tier: str, follow: Following | None = None) -> Callable[[], Prepared]:
        """What works out the line of a pull without the job, in another thread. follow: how it follows the pencils."""
        plan, pull = self.job.plan, pull.as_kept()
        weight = (plan.width(role, tier), plan.share_of(role))

        def prepare() -> Prepared:
            centre = centre_of(pull, pull.nib.steadying, follow)
            end = End(pull.nib.ends)
            shape = shape_of(Recipe(centre, pull.nib, (end, end), plan_mm=weight[0], share=weight[1]))
            _ = shape.rings, shape.flat
            return Prepared(pull, centre, weight, shape, follow)

        return prepare

    def expect(self, prepared: Prepared | None) -> None:
        """The line that is laid next, where it has been worked out already."""
        self._prepared = prepared

    def _ready(self, row: LineRecord) -> Prepared | None:
        """What was prepared for a line as its pull alone makes it."""
        ready = self._prepared
        changed = row.span is not None or row.edits or row.shift
        if ready is None or row.pull is None or changed or row.follow != ready.follow:
            return None
        nib, kept = ready.pull.nib, self.job.pull(row.pull)
        plain = row.ends == (End(nib.ends), End(nib.ends)) and row.steadying == nib.steadying
        same = kept.nib == nib and kept.view == ready.pull.view
        return ready if plain and same and np.array_equal(kept.samples, ready.pull.samples, equal_nan=True) else None

    def ceiling_of(self, part: str) -> float | None:
        """The geometric mean width (mm) of a part's outer lines; None while it has none."""
        return ceiling(
            self[key] for key, row in self.job.rows.lines.items()
            if row.part == part and row.role == "outer" and not row.draft
        )  # fmt: skip

    def fresh_fits(self) -> tuple[FitRow, ...]:
        """Rows for the file's table of kept fits; asking empties it."""
        # A pull of a step that failed is in no file, and must not be named there.
        rows = tuple(_fit_row(key, self._centres[key]) for key in self._fresh if self.job.has_pull(key[0]))
        self._fresh.clear()
        return rows

    def _recipe(self, row: LineRecord, tier: str, plan: Plan | None) -> Recipe:
        form = self.job.form(row.form) if row.form is not None else None
        return Recipe(
            centre=self.placed_centre(row),
            nib=row.nib,
            ends=row.ends,
            closed=form is not None and form.closed,
            given=form.widths if form is not None else None,
            span=row.span,
            edits=row.edits,
            plan_mm=plan.width(row.role, tier) if plan is not None else None,
            share=plan.share_of(row.role) if plan is not None else 0.0,
        )


def _follow_key(following: Following | None) -> str:
    if following is None:
        return ""
    return f" follow {following.share:g} {zlib.crc32(following.line.tobytes()):08x}"


def _leeway_key(setting: Steadying) -> str:
    words = "auto" if setting.leeway is None else repr(setting.leeway)
    return f"{words} less in bends" if setting.less_in_bends else words


def _fit_row(key: tuple[str, str, str], centre: Centre) -> FitRow:
    track = np.column_stack([centre.s, centre.own, centre.pressure])
    figures = np.array([centre.tremor_mm, centre.moved_mm, centre.own_leeway_mm])
    curve, track_bytes, figure_bytes = (a.astype("<f8").tobytes() for a in (centre.curve, track, figures))
    return FitRow(*key, CENTRE_VERSION, curve, track_bytes, figure_bytes)


def _centre_from_bytes(curve: bytes, track: bytes, figures: bytes) -> Centre:
    columns = np.frombuffer(track, "<f8").reshape(-1, 3).T
    numbers = np.frombuffer(figures, "<f8").tolist()
    return Centre(np.frombuffer(curve, "<f8").reshape(-1, 4, 2), *columns, *numbers)
