"""The finished lines of a job, each worked out once from its recipe and again when something of it changes."""

import zlib
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

import numpy as np

from plain_stride.hand.nib import Steadying
from plain_stride.hand.pull import Pull
from plain_stride.job.board_facts import floor_of_job
from plain_stride.job.commit import FitRow
from plain_stride.job.record_fields import FARTHEST_PLACE_MM, FARTHEST_SOURCE
from plain_stride.job.records import PARALLELS, BlackRecord, HoldRecord, LineRecord
from plain_stride.job.rows import PLAN, JobRows
from plain_stride.job.store import Store
from plain_stride.job.weighing import JobWeighing
from plain_stride.lines.black import Black
from plain_stride.lines.centre import CENTRE_VERSION, Centreline, Following, centreline_of
from plain_stride.lines.corner_joins import corner_rings
from plain_stride.lines.edits import End
from plain_stride.lines.family import Member, mapped_member, parallel_member
from plain_stride.lines.given import Form
from plain_stride.lines.recipe import Recipe, Worked, even_profile, fixed_centreline, given_centreline, worked
from plain_stride.lines.shape import FixedPath, Shape
from plain_stride.weight.report import ceiling

MOST_SHARED = 30_000
Token = tuple[object, ...]
"""The rows that a line is made of. Rows are never changed in place: the same rows mean the same line."""


@dataclass(frozen=True, eq=False)
class Prepared:
    """A pull's line, worked out before its change is made. follow: how it follows the pencils."""

    pull: Pull
    worked: Worked
    follow: Following | None = None


class Shapes:
    """Shapes by line id. `fresh_fits` collects what was fitted since it was last asked, for the file to keep."""

    def __init__(self, job: JobRows, store: Store | None = None) -> None:
        self.job = job
        self._kept: dict[str, tuple[Token, Worked]] = {}
        self._centres: dict[tuple[str, str, str], Centreline] = {}
        self._fixed: dict[str, tuple[Centreline, Centreline]] = {}
        self._cornered: dict[str, tuple[Token, Worked]] = {}
        self._members: dict[str, tuple[Token, Member]] = {}
        self._blacks: dict[str, tuple[BlackRecord, Black]] = {}
        self._hands: dict[str, tuple[Token, Worked]] = {}
        self._fresh: list[tuple[str, str, str]] = []
        self._prepared: Prepared | None = None
        self._laid: dict[int, tuple[Pull | Form, Worked]] = {}
        self._of_states: dict[tuple[int, ...], tuple[Token, Worked]] = {}
        self._shared: dict[tuple[int, ...], tuple[Token, Worked]] | None = None
        self._floored = (-1, 0.0)
        self.weighing = JobWeighing(job, self)
        if store is not None:
            for pull, school, leeway, *parts in store.fits(CENTRE_VERSION):
                centre = _centre_from_bytes(*parts)
                if _is_usable(centre):
                    self._centres[pull, school, leeway] = centre

    def __getitem__(self, line: str) -> Shape:
        """The shape of a line; KeyError for an unknown one."""
        return self.worked(line).shape

    def worked(self, line: str) -> Worked:
        """A line with all stages of its recipe, and the corners that it makes; KeyError for an unknown one."""
        now = self._alone(line)
        holds = self.job.corners_of(line)
        return self._with_corners(line, now, holds) if holds else now

    def _with_corners(self, line: str, now: Worked, holds: list[HoldRecord]) -> Worked:
        others = [self._alone(hold.other) for hold in holds]
        token: Token = (now, *holds, *others)
        kept = self._cornered.get(line)
        if kept is None or not _same(kept[0], token):
            ends = ((hold, other.shape) for hold, other in zip(holds, others, strict=True))
            rings = [
                ring
                for hold, other in ends
                for ring in corner_rings(now.shape, hold.line_end, other, hold.other_end, hold.corner)
            ]
            made = replace(now, shape=replace(now.shape, corners=tuple(rings)))
            kept = self._cornered[line] = (token, made)
        return kept[1]

    def _alone(self, line: str) -> Worked:
        """A line by its own recipe."""
        token = self._token(line)
        kept = self._kept.get(line)
        if kept is not None and _same(kept[0], token):
            return kept[1]
        if self._shared is None:
            now = worked(self._recipe(line), kept[1] if kept is not None else self._ready(line))
        else:
            now = self._shared_worked(line, token)
        self._kept[line] = (token, now)
        return now

    def _ready(self, line: str) -> Worked | None:
        """What was worked out for a new line already, to be taken over as far as it is the same."""
        row = self.job.rows.lines[line]
        laid = self._laid_of(row)
        return laid or (self._prepared.worked if self._prepared is not None else None)

    def _laid_of(self, row: LineRecord) -> Worked | None:
        if not self._laid or row.family is not None:
            return None
        source = self.job.pull(row.pull) if row.pull is not None else self.job.form(str(row.form))
        kept = self._laid.get(id(source))
        return kept[1] if kept is not None and kept[0] is source else None

    def _token(self, line: str) -> Token:
        row = self.job.rows.lines[line]
        parts = (self.job.rows.parts[row.part], self.job.rows.plan[PLAN], self.weighing.profile(line))
        return (*self._hand_token(line), *parts, self._floor(row))

    def _floor(self, row: LineRecord) -> float:
        """mm that a line is nowhere thinner than, where the plan asks for that; a halo has its own width."""
        if not self.job.plan.floor or row.role == "halo" or row.tone is not None:
            return 0.0
        if self._floored[0] != self.job.version:
            self._floored = (self.job.version, floor_of_job(self.job).mm)
        return self._floored[1]

    def _hand_token(self, line: str) -> Token:
        row = self.job.rows.lines[line]
        if row.family is None:
            return (row,)
        family = self.job.rows.families[row.family]
        return (row, family, *self._hand_token(family.source))

    def _shared_worked(self, line: str, token: Token) -> Worked:
        """States of a job that are only looked at share what they worked out."""
        assert self._shared is not None
        key = tuple(map(id, token))
        if key not in self._shared:
            if len(self._shared) > MOST_SHARED:
                self._shared.clear()
            # The rows are kept with it, so that their ids stay theirs.
            self._shared[key] = (token, worked(self._recipe(line)))
        return self._shared[key][1]

    def tried(self, line: str, row: LineRecord) -> Shape:
        """The shape that a line would have with another row, which is not kept."""
        return worked(self._recipe_of(line, row), self._alone(line)).shape

    def tried_path(self, line: str, path: FixedPath) -> Shape:
        """The shape that a line would have with another middle, which is not kept."""
        now = self.worked(line)
        centre = fixed_centreline(path, now.recipe.centre)
        return worked(replace(now.recipe, centre=centre, closed=path.closed, bends=(), growth=None)).shape

    def by_hand(self, line: str) -> Worked:
        """The line as the hand alone would have it, the plan lifted off, without the corners that it makes."""
        token = self._hand_token(line)
        kept = self._hands.get(line)
        if kept is None or not _same(kept[0], token):
            before = self._kept[line][1] if line in self._kept else self._ready(line)
            recipe = self._hand_recipe(line, self.job.rows.lines[line])
            kept = self._hands[line] = (token, worked(recipe, kept[1] if kept is not None else before))
        return kept[1]

    def hand_only(self, line: str) -> Shape:
        """The shape of `by_hand`, with the corners that it makes."""
        corners = self[line].corners
        shape = self.by_hand(line).shape
        return replace(shape, corners=corners) if corners else shape

    def member(self, line: str) -> Member:
        """What a line of a family is made of, before its own edits."""
        row = self.job.rows.lines[line]
        family = self.job.rows.families[str(row.family)]
        source = self.by_hand(family.source)
        token = (row.member, family, source)
        kept = self._members.get(line)
        if kept is None or not _same(kept[0], token):
            if family.kind == PARALLELS:
                made = parallel_member(source, family.gap * row.member)
            else:
                made = mapped_member(source, family.symmetry.maps()[row.member - 1])
            kept = self._members[line] = (token, made)
        return kept[1]

    def black(self, key: str) -> Black:
        """A black where it lies now; KeyError for an unknown one."""
        row = self.job.rows.blacks[key]
        kept = self._blacks.get(key)
        if kept is None or kept[0] is not row:
            black = self.job.outline(row.outline)
            kept = self._blacks[key] = (row, black.mapped(row.matrix) if row.matrix is not None else black)
        return kept[1]

    def ink(self, key: str) -> Shape | Black:
        """A line or a black."""
        return self[key] if key in self.job.rows.lines else self.black(key)

    def of_state(self, job: JobRows) -> "Shapes":
        """Shapes of the same job as it was: what has not changed since is not worked out again."""
        then = Shapes(job)
        then._kept, then._blacks, then._centres = dict(self._kept), dict(self._blacks), self._centres
        then._shared = self._of_states
        then.weighing = self.weighing.of_state(job, then)
        return then

    def visible(self) -> list[str]:
        """Lines that are seen, back to front."""
        hidden = {part.id for part in self.job.parts() if part.hidden}
        return [key for key in self.job.line_ids() if self.job.rows.lines[key].part not in hidden]

    def centre(self, row: LineRecord) -> Centreline:
        """The centreline of a line as it was laid, before it was moved or trimmed. KeyError for one of a family."""
        centre = self._pulled(row) if row.pull is not None else self._given(row)
        if row.fixed is None:
            return centre
        kept = self._fixed.get(row.fixed)
        if kept is None or kept[0] is not centre:
            kept = self._fixed[row.fixed] = (centre, fixed_centreline(self.job.fixed_path(row.fixed), centre))
        return kept[1]

    def _given(self, row: LineRecord) -> Centreline:
        key = (str(row.form), "form", "")
        if key not in self._centres:
            laid = self._laid_of(row)
            self._centres[key] = laid.recipe.centre if laid else given_centreline(self.job.form(key[0]).curve)
        return self._centres[key]

    def _pulled(self, row: LineRecord) -> Centreline:
        setting, following = row.steadying, row.follow
        key = (str(row.pull), setting.school, _leeway_key(setting) + _follow_key(following))
        if key not in self._centres:
            ready, pull = self._prepared, self.job.pull(key[0])
            laid = self._laid_of(row) if following is None and setting == pull.nib.steadying else None
            if laid is not None:
                self._centres[key] = laid.recipe.centre
            elif ready is not None and _is_of(ready, row, pull):
                self._centres[key] = ready.worked.recipe.centre
            else:
                self._centres[key] = centreline_of(pull, setting, following)
            self._fresh.append(key)
        return self._centres[key]

    def preparing(self, pull: Pull, role: str, tier: str, follow: Following | None = None) -> Callable[[], Prepared]:
        """What works out the line of a pull without the job, in another thread. follow: how it follows the pencils."""
        plan, pull = self.job.plan, pull.as_kept()
        profile, share = even_profile(plan.width(role, tier)), plan.share_of(role)

        def prepare() -> Prepared:
            centre = centreline_of(pull, pull.nib.steadying, follow)
            end = End(pull.nib.ends)
            now = worked(Recipe(centre, pull.nib, (end, end), plan=profile, share=share))
            _ = now.shape.rings, now.shape.flat
            return Prepared(pull, now, follow)

        return prepare

    def expect_all(self, laid: Iterable[tuple[Pull | Form, Worked | None]]) -> None:
        """Lines that are laid next, by what they are made of, where they have been worked out already."""
        self._laid = {id(source): (source, line) for source, line in laid if line is not None}

    def expect(self, prepared: Prepared | None) -> None:
        """The line that is laid next, where it has been worked out already."""
        self._prepared = prepared

    def ceiling_of(self, part: str) -> float | None:
        """The geometric mean width (mm) of a part's outer lines; None while it has none."""
        return ceiling(
            self[key] for key, row in self.job.rows.lines.items()
            if row.part == part and row.role == "outer" and not row.draft
        )  # fmt: skip

    def know_fits(self, fits: Iterable[FitRow]) -> None:
        """Takes over what was fitted elsewhere."""
        for fit in fits:
            self._centres[fit.pull, fit.school, fit.leeway] = _centre_from_bytes(fit.curve, fit.track, fit.figures)

    def fresh_fits(self) -> tuple[FitRow, ...]:
        """Rows for the file's table of kept fits; asking empties it."""
        # A pull of a step that failed is in no file, and must not be named there.
        rows = tuple(_fit_row(key, self._centres[key]) for key in self._fresh if self.job.has_pull(key[0]))
        self._fresh.clear()
        return rows

    def _recipe(self, line: str) -> Recipe:
        return self._recipe_of(line, self.job.rows.lines[line])

    def _recipe_of(self, line: str, row: LineRecord) -> Recipe:
        plan, share = self.weighing.profile(line), self.share_of(row)
        return replace(self._hand_recipe(line, row), plan=plan, share=share, floor=self._floor(row))

    def share_of(self, row: LineRecord) -> float:
        """How much of the plan a line has (0..1): its own share, its part's, the job's; a tone's keeps its widths."""
        if row.tone is not None:
            return 0.0
        given = (row.weight.pinned_share, row.weight.share, self.job.rows.parts[row.part].share)
        own = next((share for share in given if share is not None), None)
        return self.job.plan.share_of(row.role, own)

    def _hand_recipe(self, line: str, row: LineRecord) -> Recipe:
        member = self.member(line) if row.family is not None else None
        form = self.job.form(row.form) if row.form is not None else None
        given = form or member
        closed = self.job.fixed_path(row.fixed).closed if row.fixed is not None else given is not None and given.closed
        return Recipe(
            centre=member.centre if member is not None else self.centre(row),
            nib=row.nib,
            ends=row.ends,
            closed=closed,
            given=given.widths if given is not None else None,
            matrix=row.matrix,
            scale_widths=row.scale_widths,
            bends=row.bends,
            growth=row.growth,
            span=row.span,
            edits=row.edits,
        )


def _same(a: Token, b: Token) -> bool:
    return len(a) == len(b) and all(
        x is y or (isinstance(x, int | float) and x == y) for x, y in zip(a, b, strict=True)
    )


def _is_of(ready: Prepared, row: LineRecord, pull: Pull) -> bool:
    """Whether what was prepared is the centreline of a line that is made of a pull."""
    same = pull.nib == ready.pull.nib and pull.view == ready.pull.view and row.follow == ready.follow
    same = same and row.steadying == ready.pull.nib.steadying
    return same and np.array_equal(pull.samples, ready.pull.samples, equal_nan=True)


def _follow_key(following: Following | None) -> str:
    if following is None:
        return ""
    return f" follow {following.share:g} {zlib.crc32(following.line.tobytes()):08x}"


def _leeway_key(setting: Steadying) -> str:
    words = "auto" if setting.leeway is None else repr(setting.leeway)
    return f"{words} less in bends" if setting.less_in_bends else words


def _fit_row(key: tuple[str, str, str], centre: Centreline) -> FitRow:
    track = np.column_stack([centre.s, centre.source_t, centre.pressure])
    figures = np.array([centre.tremor_mm, centre.moved_mm, centre.own_leeway_mm])
    curve, track_bytes, figure_bytes = (a.astype("<f8").tobytes() for a in (centre.curve, track, figures))
    return FitRow(*key, CENTRE_VERSION, curve, track_bytes, figure_bytes)


def _is_usable(centre: Centreline) -> bool:
    """Whether a kept centreline can be one: a file's cache may hold anything, and is done without then."""
    track = np.concatenate([centre.s, centre.source_t, centre.pressure])
    near = bool((np.abs(centre.curve) <= FARTHEST_PLACE_MM).all() and (np.abs(track) <= FARTHEST_SOURCE).all())
    return near and bool((np.diff(centre.s) >= 0.0).all())


def _centre_from_bytes(curve: bytes, track: bytes, figures: bytes) -> Centreline:
    columns = np.frombuffer(track, "<f8").reshape(-1, 3).T
    numbers = np.frombuffer(figures, "<f8").tolist()
    return Centreline(np.frombuffer(curve, "<f8").reshape(-1, 4, 2), *columns, *numbers)
