"""The rows of a job as they are now, and what they say together: parts in their order, ink in drawing order."""

from collections import ChainMap
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from plain_stride.board.page import Page
from plain_stride.hand.nib import Nib
from plain_stride.hand.pull import Pull
from plain_stride.job.blobs import Blobs
from plain_stride.job.commit import Commit
from plain_stride.job.drawing_order import DrawingOrder
from plain_stride.job.history import RowChange
from plain_stride.job.part_order import in_front_first
from plain_stride.job.pencil_records import PencilRecord
from plain_stride.job.plan_record import PlanRecord
from plain_stride.job.records import (
    RECORDS,
    BlackRecord,
    BoardRecord,
    FamilyRecord,
    HoldRecord,
    LineRecord,
    PartRecord,
    Tables,
)
from plain_stride.job.store import Store
from plain_stride.lines.black import Black
from plain_stride.lines.corner_joins import ROUND
from plain_stride.lines.given import Form
from plain_stride.lines.shape import FixedPath
from plain_stride.texts import counted
from plain_stride.weight.plan import Plan

MOST_DEEP = 40
"""Lines made from lines made from lines, and so on: so many at most."""
BOARD, PLAN = "board", "plan"
INKED = ("lines", "blacks")
"""Tables of what is inked: each row has a part, and a place in it."""


@dataclass(frozen=True)
class Part:
    """A named group of lines. order: 1 is nearest; cover: whether it hides what lies behind it, cover_gap (mm) round it
    as well; over_frames: its lines are not clipped by frames; inside: the id of the part that it is in."""

    id: str
    name: str
    tier: str
    order: int
    locked: bool
    hidden: bool
    ink: str
    cover: bool
    cover_gap: float
    over_frames: bool = False
    inside: str | None = None


class JobRows:
    """Read freely; only a step of the job changes them.

    version: grows with every row that is set. apart: rows of lines and blacks that lie farther out than any may: kept,
    and neither shown nor worked out.
    """

    def __init__(self, store: Store) -> None:
        self.version = 0
        self._parts: list[Part] = []
        self._order: DrawingOrder | None = None
        self._plan: tuple[PlanRecord, Plan] | None = None
        self._tops: dict[str, float] = {}
        self._families: dict[str, dict[str, None]] = {}
        self._tones: dict[str, dict[str, None]] = {}
        self._corners: dict[str, dict[str, None]] = {}
        self.blobs = Blobs(store)
        self.rows = Tables()
        self.apart: dict[str, LineRecord | BlackRecord] = {}
        for table in RECORDS:
            for key, row in store.rows(table).items():
                self.put(table, key, row)
        self.version = 0

    # What is on the board

    @property
    def board(self) -> BoardRecord:
        """The row of the board."""
        return self.rows.board[BOARD]

    @property
    def page(self) -> Page:
        """The finished page, mm and dpi."""
        return self.board.page

    @property
    def plan(self) -> Plan:
        """The plan that is laid."""
        row = self.rows.plan[PLAN]
        if self._plan is None or self._plan[0] is not row:
            self._plan = (row, row.plan)
        return self._plan[1]

    def nibs(self) -> dict[str, Nib]:
        """Nibs by the number key that takes them."""
        return {key: row.nib for key, row in sorted(self.rows.nibs.items())}

    def parts(self) -> list[Part]:
        """Parts from the nearest to the farthest."""
        if not self._parts:
            rows = ((key, self.rows.parts[key]) for key in in_front_first(self.rows.parts))
            self._parts = [
                Part(key, r.name, r.tier, n, r.locked, r.hidden, r.ink, r.cover, r.cover_gap, r.over_frames, r.inside)
                for n, (key, r) in enumerate(rows, 1)
            ]
        return list(self._parts)

    def part_named(self, name: str) -> Part | None:
        """The part of a name, None where there is none."""
        return next((part for part in self.parts() if part.name == name), None)

    def top_place(self, part: str) -> float:
        """A place in a part that no line of it has ever been above."""
        return self._tops.get(part, 0.0)

    def _raise_top(self, row: LineRecord | BlackRecord) -> None:
        self._tops[row.part] = max(row.place, self._tops.get(row.part, 0.0))

    def ink_ids(self) -> list[str]:
        """Lines and blacks in drawing order: back to front by part, in a part as they were laid."""
        if self._order is None:
            ranks = self._ranks()
            lines, blacks = self.rows.lines.items(), self.rows.blacks.items()
            ranked = [((ranks[row.part], row.place), key) for key, row in lines]
            ranked += [((ranks[row.part], row.place), key) for key, row in blacks]
            self._order = DrawingOrder(ranked)
        return self._order.keys

    def _ranks(self) -> dict[str, float]:
        """Of parts, the nearest last."""
        return {part.id: float(-part.order) for part in self.parts()}

    def line_ids(self) -> list[str]:
        """The lines alone, in drawing order."""
        lines = self.rows.lines
        return [key for key in self.ink_ids() if key in lines]

    def inked(self, key: str) -> LineRecord | BlackRecord | None:
        """The row of a line or a black; None where there is neither."""
        return self.rows.lines.get(key) or self.rows.blacks.get(key)

    def part_of(self, key: str) -> PartRecord:
        """The part of a line or a black; KeyError for an unknown one."""
        return self.rows.parts[self.inked_rows()[key].part]

    def inked_rows(self) -> Mapping[str, LineRecord | BlackRecord]:
        """Rows of lines and blacks by id."""
        return ChainMap(self.rows.lines, self.rows.blacks)  # type: ignore[arg-type]

    def members_of(self, line: str) -> list[str]:
        """Lines that are made from a line. Linear in families."""
        families = [key for key, row in self.rows.families.items() if row.source == line]
        return [member for family in families for member in self.family_lines(family)]

    def family_lines(self, family: str) -> list[str]:
        """The lines of a family, in the order in which they joined it."""
        return list(self._families.get(family, ()))

    def tone_ink(self, tone: str) -> list[str]:
        """The lines and blacks of a tone, in the order in which they joined it."""
        return list(self._tones.get(tone, ()))

    def parts_of_tones(self) -> set[str]:
        """Parts that hold ink of tones and no other. Linear in the ink."""
        if not self.rows.tones:
            return set()
        toned = {row.part for row in self.inked_rows().values() if row.tone is not None}
        return toned - {row.part for row in self.inked_rows().values() if row.tone is None}

    def corners_of(self, line: str) -> list[HoldRecord]:
        """Holds by which a line makes a corner in ink with another one."""
        keys = self._corners.get(line, ())
        holds = [self.rows.holds[key] for key in keys]
        return [hold for hold in holds if hold.other in self.rows.lines]

    def depth(self, line: str) -> int:
        """How many lines a line is made from, one from another; more than MOST_DEEP where they go round in a ring."""
        count, row = 0, self.rows.lines[line]
        while row.family is not None and count <= MOST_DEEP:
            count, row = count + 1, self.rows.lines[self.rows.families[row.family].source]
        return count

    def touched(self, rows: Iterable[RowChange]) -> list[str]:
        """Lines and blacks that look otherwise after rows have changed, those that are made from them among them."""
        out: dict[str, None] = {}
        for change in rows:
            if change.table in INKED:
                out |= dict.fromkeys([change.id, *self.members_of(change.id)])
            elif isinstance(change.after, FamilyRecord):
                out |= dict.fromkeys(self.members_of(change.after.source))
            elif change.table == "holds":
                out |= dict.fromkeys(hold.line for hold in (change.before, change.after) if hold is not None)
        for line in [line for line, keys in self._corners.items() if keys and line not in out]:
            if any(hold.other in out for hold in self.corners_of(line)):
                out[line] = None
        return list(out)

    def in_order(self, keys: Iterable[str]) -> list[str]:
        """These lines and blacks in drawing order; those that are gone are left out."""
        rank = {part.id: -part.order for part in self.parts()}
        known = [(key, row) for key in keys if (row := self.inked(key)) is not None]
        return [key for key, row in sorted(known, key=lambda item: (rank[item[1].part], item[1].place))]

    def pencils(self) -> list[tuple[str, PencilRecord]]:
        """(key, row) of all sheets of pencils, the lowest first."""
        return sorted(self.rows.pencils.items(), key=lambda item: item[1].place)

    # What never changes

    def pull(self, key: str) -> Pull:
        """A pull by its key; KeyError for an unknown one."""
        return self.blobs.pull(key)

    def has_pull(self, key: str) -> bool:
        """Whether there is a pull of this key."""
        return self.blobs.row("pulls", key) is not None

    def form(self, key: str) -> Form:
        """A form by its key; KeyError for an unknown one."""
        return self.blobs.form(key)

    def fixed_path(self, key: str) -> FixedPath:
        """A fixed path by its key; KeyError for an unknown one."""
        return self.blobs.path(key)

    def kept_row(self, table: str, key: str) -> Any:
        """A row of what never changes but scans, as the file has it."""
        return self.blobs.row(table, key)

    def outline(self, key: str) -> Black:
        """The outlines of a black as they were laid."""
        return self.blobs.outline(key)

    def image(self, key: str) -> bytes:
        """The bytes of a scan as they came."""
        return self.blobs.image(key)

    def apart_words(self) -> str:
        """What is said of lines that are set apart; '' where none are."""
        if not self.apart:
            return ""
        what = counted(len(self.apart), "line or black lies", "lines and blacks lie")
        return f"{what} farther out than any may: kept in the file, set apart, and neither shown nor exported"

    @property
    def line_count(self) -> int:
        """Lines that are ink: without drafts."""
        return sum(1 for row in self.rows.lines.values() if not row.draft)

    @property
    def pull_count(self) -> int:
        """Pulls that lines are made of."""
        return len({row.pull for row in self.rows.lines.values() if row.pull})

    def follow(self, commit: Commit) -> None:
        """Takes over what was done to the job elsewhere: rows alone."""
        for row in commit.kept:
            self.blobs.add(row)
        for change in commit.rows:
            self.put(change.table, change.id, change.after)

    # Set by steps

    def put(self, table: str, key: str, row: Any) -> None:
        """Sets a row, None to take it away; all that is kept beside the rows goes along."""
        self.version += 1
        rows = self.rows.of(table)
        if table == "parts":
            self._order, self._parts = None, []
        if table == "lines":
            self._keep_family(key, rows.get(key), row)
        if table in INKED:
            self._keep_tone(key, rows.get(key), row)
        if table == "holds":
            self._keep_corner(key, rows.get(key), row)
        if table in INKED:
            self.apart.pop(key, None)
            unfit = row is not None and self.blobs.unfit(row)
            if row is not None:
                self._raise_top(row)
            self._keep_order(key, rows.get(key), None if unfit else row)
            if unfit:
                rows.pop(key, None)
                self.apart[key] = row
                return
        if row is None:
            rows.pop(key, None)
        else:
            rows[key] = row

    def _keep_order(
        self, key: str, before: LineRecord | BlackRecord | None, after: LineRecord | BlackRecord | None
    ) -> None:
        if self._order is None:
            return
        ranks = self._ranks()
        if any(row is not None and row.part not in ranks for row in (before, after)):
            # Its part comes, or is gone, in the same step: all is sorted when that is asked for.
            self._order = None
            return
        old, new = (None if row is None else (ranks[row.part], row.place) for row in (before, after))
        self._order.put(key, old, new)

    def _keep_corner(self, key: str, before: HoldRecord | None, after: HoldRecord | None) -> None:
        if before is not None:
            self._corners.get(before.line, {}).pop(key, None)
        if after is not None and after.corner != ROUND and after.other_end:
            self._corners.setdefault(after.line, {})[key] = None

    def _keep_tone(
        self, key: str, before: LineRecord | BlackRecord | None, after: LineRecord | BlackRecord | None
    ) -> None:
        old, new = (None if row is None else row.tone for row in (before, after))
        if old is not None and old != new:
            self._tones[old].pop(key, None)
        if new is not None and old != new:
            self._tones.setdefault(new, {})[key] = None

    def _keep_family(self, key: str, before: LineRecord | None, after: LineRecord | None) -> None:
        if before is not None and before.family is not None:
            self._families[before.family].pop(key, None)
        if after is not None and after.family is not None:
            self._families.setdefault(after.family, {})[key] = None
