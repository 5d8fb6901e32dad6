"""A job in memory: rows, the step that changes them, undo and redo. The file follows through `Commit`s."""

import copy
import hashlib
import json
import os
from collections import ChainMap
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from plain_stride.board.page import Page
from plain_stride.hand.nib import Nib, standard_nibs
from plain_stride.hand.pull import Pull
from plain_stride.job.blobs import BLOB_TABLES, Blobs, blob_keys
from plain_stride.job.commit import Commit, Forgetting, Whole, now
from plain_stride.job.errors import DamagedError, JobError, job_error
from plain_stride.job.history import History, RowChange, merged
from plain_stride.job.kept import ImageRow, Kept, form_row, outline_row, path_row, pull_row
from plain_stride.job.records import (
    RECORDS,
    BlackRecord,
    BoardRecord,
    FamilyRecord,
    LineRecord,
    NibRecord,
    PartRecord,
    PencilRecord,
    PlanRecord,
    Record,
    Tables,
)
from plain_stride.job.store import Store, create_store, open_store
from plain_stride.lines.black import Black
from plain_stride.lines.given import Form
from plain_stride.lines.shape import FixedPath
from plain_stride.texts import counted
from plain_stride.weight.plan import TIERS, Plan

MOST_DEEP = 40
"""Lines made from lines made from lines, and so on: so many at most."""
BOARD, PLAN = "board", "plan"
INKED = ("lines", "blacks")
"""Tables of what is inked: each row has a part, and a place in it."""


@dataclass(frozen=True)
class Part:
    """A named group of lines. order: 1 is nearest; cover: whether it hides what lies behind it, cover_gap (mm) round it
    as well; over_frames: its lines are not clipped by frames."""

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


class Job:
    """All rows of a job by table and id. Read freely; change only through `job.changes.make`, `undo` and `redo`.

    version: grows with every row that is set. marks: steps by the name that was given to them. apart: rows of lines and
    blacks that lie farther out than any may; they are kept, and neither shown nor worked out.
    """

    def __init__(self, store: Store) -> None:
        self.path, self.schema = store.path, store.schema
        self.version = 0
        self._parts: list[Part] = []
        self._order: list[str] | None = None
        self._plan: tuple[PlanRecord, Plan] | None = None
        self._tops: dict[str, float] = {}
        self._families: dict[str, dict[str, None]] = {}
        self._used: set[str] | None = None
        self._blobs = Blobs(store)
        self.rows = Tables()
        self.apart: dict[str, LineRecord | BlackRecord] = {}
        for table in RECORDS:
            for key, row in store.rows(table).items():
                self._put(table, key, row)
        self.version = 0
        state = store.state()
        self.history = History(store.steps(), store.marks(), int(state["head"]))
        self._next = int(state["next"])
        self._check()
        self._open: _Draft | None = None

    def _check(self) -> None:
        """Raises DamagedError where what was read does not belong together."""
        if BOARD not in self.rows.board or PLAN not in self.rows.plan:
            raise DamagedError(f"its {BOARD if BOARD not in self.rows.board else PLAN} is missing")
        if not {str(n) for n in range(1, 10)} <= set(self.rows.nibs):
            raise DamagedError("a nib is missing")
        for step in self.history.steps.values():
            for change in step.rows:
                for row in change.rows:
                    self._blobs.check(row)
        for key, inked in [*self.inked_rows().items(), *self.apart.items()]:
            if inked.part not in self.rows.parts:
                raise DamagedError(f"line '{key[:40]}' is in no part")
            if isinstance(inked, LineRecord) and inked.family is not None and inked.family not in self.rows.families:
                raise DamagedError(f"line '{key[:40]}' is of no family")
            self._blobs.check(inked)
        for key, family in self.rows.families.items():
            if family.source not in self.rows.lines or self.depth(family.source) > MOST_DEEP:
                raise DamagedError(f"family '{key[:40]}' is made from no line")
        known = [*self._blobs.keys(), *(key for table in RECORDS for key in self.rows.of(table))]
        numbers = [int(key[1:]) for key in known if key[1:].isascii() and key[1:].isdecimal() and len(key) < 18]
        # An id is never used twice, whatever the file says of the next one.
        self._next = max(self._next, *numbers, 0)

    @property
    def name(self) -> str:
        """The file's name without its ending; letters that no text can hold are shown as such."""
        return os.fsencode(self.path.stem).decode("utf-8", "replace")

    def moved_to(self, path: Path) -> None:
        """The job goes on in another file."""
        self.path = path

    # What is on the board

    @property
    def board(self) -> BoardRecord:
        return self.rows.board[BOARD]

    @property
    def page(self) -> Page:
        return self.board.page

    @property
    def plan(self) -> Plan:
        row = self.rows.plan[PLAN]
        if self._plan is None or self._plan[0] is not row:
            self._plan = (row, row.plan)
        return self._plan[1]

    def nibs(self) -> dict[str, Nib]:
        return {key: row.nib for key, row in sorted(self.rows.nibs.items())}

    def parts(self) -> list[Part]:
        """Parts from the nearest to the farthest."""
        if not self._parts:
            rows = sorted(self.rows.parts.items(), key=lambda item: (TIERS.index(item[1].tier), item[1].place))
            self._parts = [
                Part(key, r.name, r.tier, n, r.locked, r.hidden, r.ink, r.cover, r.cover_gap, r.over_frames)
                for n, (key, r) in enumerate(rows, 1)
            ]
        return list(self._parts)

    def part_named(self, name: str) -> Part | None:
        return next((part for part in self.parts() if part.name == name), None)

    def top_place(self, part: str) -> float:
        """A place in a part that no line of it has ever been above."""
        return self._tops.get(part, 0.0)

    def _raise_top(self, row: LineRecord | BlackRecord) -> None:
        self._tops[row.part] = max(row.place, self._tops.get(row.part, 0.0))

    def ink_ids(self) -> list[str]:
        """Lines and blacks in drawing order: back to front by part, in a part as they were laid."""
        if self._order is None:
            self._order = self.in_order([*self.rows.lines, *self.rows.blacks])
        return list(self._order)

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

    def is_free(self, key: str) -> bool:
        """Whether an id was never a line's or a black's, in any way of the history."""
        if self._used is None:
            self._used = {c.id for step in self.history.steps.values() for c in step.rows if c.table in INKED}
        return key not in self._used and self.inked(key) is None and key not in self.apart

    def members_of(self, line: str) -> list[str]:
        """Lines that are made from a line. Linear in families."""
        families = [key for key, row in self.rows.families.items() if row.source == line]
        return [member for family in families for member in self.family_lines(family)]

    def family_lines(self, family: str) -> list[str]:
        """The lines of a family, in the order in which they joined it."""
        return list(self._families.get(family, ()))

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
        return list(out)

    def in_order(self, keys: Iterable[str]) -> list[str]:
        """These lines and blacks in drawing order; those that are gone are left out."""
        rank = {part.id: -part.order for part in self.parts()}
        known = [(key, row) for key in keys if (row := self.inked(key)) is not None]
        return [key for key, row in sorted(known, key=lambda item: (rank[item[1].part], item[1].place))]

    def pencils(self) -> list[tuple[str, PencilRecord]]:
        return sorted(self.rows.pencils.items(), key=lambda item: item[1].place)

    # What never changes

    def pull(self, key: str) -> Pull:
        return self._blobs.pull(key)

    def has_pull(self, key: str) -> bool:
        return self._blobs.row("pulls", key) is not None

    def form(self, key: str) -> Form:
        return self._blobs.form(key)

    def fixed_path(self, key: str) -> FixedPath:
        return self._blobs.path(key)

    def kept_row(self, table: str, key: str) -> Any:
        """A row of what never changes but scans, as the file has it."""
        return self._blobs.row(table, key)

    def outline(self, key: str) -> Black:
        """The outlines of a black as they were laid."""
        return self._blobs.outline(key)

    def image(self, key: str) -> bytes:
        """The bytes of a scan as they came."""
        return self._blobs.image(key)

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
        return len({row.pull for row in self.rows.lines.values() if row.pull})

    # History

    def undone(self, count: int) -> Commit | None:
        """Takes back so many steps at once, as far as there are any; None at the empty job."""
        return self.go_to(self.history.back(count))

    def redone(self, count: int) -> Commit | None:
        """Does so many steps again at once, on the way that redo takes."""
        return self.go_to(self.history.forward(count))

    def undo(self) -> Commit | None:
        """Takes back the last step; None at the empty job. The commit is to be written."""
        if not self.history.head:
            return None
        step = self.history.steps[self.history.head]
        return self._move(tuple(c.backwards() for c in reversed(step.rows)), step.parent)

    def redo(self) -> Commit | None:
        """Does the step again that was taken back last on this way; None when there is none."""
        step = self.history.next_step()
        return None if step is None else self._move(self.history.steps[step].rows, step)

    def go_to(self, step: int) -> Commit | None:
        """Goes to a step of any way; None where the job stands there. Raises JobError where there is no such step."""
        if step and step not in self.history.steps:
            raise JobError(f"there is no step {step} in this history")
        return None if step == self.history.head else self._move(self.history.rows_to(step), step)

    def as_at(self, step: int) -> "Job":
        """The job as it was at a step: to be looked at, never changed or written."""
        then = copy.copy(self)
        then.rows, then.apart = self.rows.copied(), dict(self.apart)
        then._order, then._parts = None, []
        then._tops = dict(self._tops)
        then._families = {family: dict(lines) for family, lines in self._families.items()}
        for change in self.history.rows_to(step):
            then._put(change.table, change.id, change.after)
        then.history = self.history.as_at(step)
        return then

    def forgetting(self, mark: str) -> Forgetting:
        """What goes when all before a mark is forgotten: steps before it and on ways that left before it, and pulls,
        forms, outlines and scans that nothing needs then. Raises JobError."""
        history = self.history
        first = history.may_forget(mark)
        later = history.later(first)
        rows = [row for table in RECORDS for row in self.rows.of(table).values()] + list(self.apart.values())
        rows += [row for n in later for change in history.steps[n].rows for row in change.rows]
        used = {key for row in rows for key in blob_keys(row)}
        gone = {table: tuple(k for k in self._blobs.known(table) if (table, k) not in used) for table in BLOB_TABLES}
        marks = tuple(name for name, n in history.marks.items() if n != first and n not in later)
        return Forgetting(first, frozenset(set(history.steps) - later), marks, gone)

    def forget(self, what: Forgetting) -> None:
        """Lets the history begin at a later step, as `Store.forget` has it in the file."""
        self.history.begin_at(what.first, what.steps, what.marks)
        for table, keys in what.kept.items():
            self._blobs.drop((table, key) for key in keys)

    def whole(self) -> Whole:
        """All of it, to be written to another file: what only memory holds is among it."""
        rows = [RowChange(table, key, None, row) for table in RECORDS for key, row in self.rows.of(table).items()]
        rows += [RowChange(row.table, key, None, row) for key, row in self.apart.items()]
        history = self.history
        steps = tuple(history.steps[n] for n in sorted(history.steps))
        state = {"head": str(history.head), "next": str(self._next)}
        return Whole(tuple(rows), steps, dict(history.marks), state, tuple(self._blobs.all()))

    def _move(self, rows: tuple[RowChange, ...], head: int) -> Commit:
        for change in rows:
            self._put(change.table, change.id, change.after)
        self.history.head = head
        return Commit(rows, {"head": str(head)})

    # Changing: used by job.changes only

    @contextmanager
    def step(self, name: str, words: str, args: object) -> Iterator["_Draft"]:
        """All that is put inside becomes one step; an error inside leaves the job as it was. `draft.commit` holds
        what is to be written; it is None when nothing changed."""
        if self._open is not None:
            raise RuntimeError("a step is already open")
        draft = self._open = _Draft(self)
        try:
            yield draft
        except BaseException:
            # Ids that were given stay given: whatever was worked out under one never stands for another thing.
            for change in reversed(draft.rows):
                self._put(change.table, change.id, change.before)
            self._blobs.drop((row.table, row.id) for row in draft.kept)
            raise
        finally:
            self._open = None
        rows = merged(draft.rows)
        if not rows:
            return
        step = self.history.add(name, words, json.dumps(args), now(), rows)
        if self._used is not None:
            self._used |= {c.id for c in rows if c.table in INKED}
        draft.commit = Commit(rows, {"head": str(step.id), "next": str(self._next)}, step, tuple(draft.kept))

    def _put(self, table: str, key: str, row: Any) -> None:
        self.version += 1
        if table == "parts" or table in INKED:
            self._order = None
        if table == "parts":
            self._parts = []
        rows = self.rows.of(table)
        if table == "lines":
            self._keep_family(key, rows.get(key), row)
        if table in INKED:
            self.apart.pop(key, None)
            if row is not None:
                self._raise_top(row)
                if self._blobs.unfit(row):
                    rows.pop(key, None)
                    self.apart[key] = row
                    return
        if row is None:
            rows.pop(key, None)
        else:
            rows[key] = row

    def _keep_family(self, key: str, before: LineRecord | None, after: LineRecord | None) -> None:
        if before is not None and before.family is not None:
            self._families[before.family].pop(key, None)
        if after is not None and after.family is not None:
            self._families.setdefault(after.family, {})[key] = None

    def new_id(self, letter: str) -> str:
        self._next += 1
        return f"{letter}{self._next}"


class _Draft:
    """The rows of a step while it is being made; kept: those of them that never change."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self.rows: list[RowChange] = []
        self.kept: list[Kept] = []
        self.commit: Commit | None = None

    def put(self, key: str, row: Record) -> None:
        """Sets a row."""
        self._set(row.table, key, row)

    def remove(self, table: str, key: str) -> None:
        """Takes a row away."""
        self._set(table, key, None)

    def change(self, table: str, key: str, **columns: Any) -> None:
        """Sets some columns of a row."""
        self._set(table, key, replace(self.job.rows.of(table)[key], **columns))

    def _set(self, table: str, key: str, row: Record | None) -> None:
        before = self.job.rows.of(table).get(key)
        if before == row:
            return
        self.rows.append(RowChange(table, key, before, row))
        self.job._put(table, key, row)

    def add_pull(self, pull: Pull) -> str:
        kept = pull.as_kept()
        return self._keep(pull_row(self.job.new_id("p"), kept), kept)

    def add_form(self, form: Form) -> str:
        return self._keep(form_row(self.job.new_id("f"), form), form)

    def add_path(self, path: FixedPath) -> str:
        return self._keep(path_row(self.job.new_id("h"), path), path)

    def add_outline(self, black: Black) -> str:
        return self._keep(outline_row(self.job.new_id("o"), black))

    def add_image(self, data: bytes) -> str:
        """The key of a scan's bytes, which are stored once however often they are placed."""
        return self._keep(ImageRow(hashlib.sha256(data).hexdigest(), data))

    def add_known(self, row: Kept) -> str:
        """The key of a row that never changes: one that is here already where it says the same, else a new one."""
        if self.job.kept_row(row.table, row.id) == row:
            return row.id
        return self._keep(replace(row, id=self.job.new_id(row.table[0])))  # type: ignore[type-var]

    def _keep(self, row: Kept, made: Any = None) -> str:
        if self.job._blobs.add(row, made):
            self.kept.append(row)
        return row.id


def new_job(path: Path, page: Page) -> None:
    """Makes the file of an empty job. Raises JobError; never overwrites."""
    w, h = page.size_mm
    plan = Plan()
    rows: list[tuple[str, Record]] = [
        (BOARD, BoardRecord(width_mm=w, height_mm=h, dpi=page.dpi, enlarge=page.enlarge)),
        (PLAN, PlanRecord(name=plan.name, base=plan.base, share=plan.share, roles=plan.roles, tiers=plan.tiers,
                          halo=plan.halo)),
    ]  # fmt: skip
    rows += [(key, NibRecord(nib=nib)) for key, nib in standard_nibs().items()]
    changes = tuple(RowChange(row.table, key, None, row) for key, row in rows)
    create_store(path, Commit(changes, {"head": "0", "next": "0"}))


@contextmanager
def opened(path: Path, write: bool = False) -> Iterator[tuple[Job, Store]]:
    """A job and its open file, closed afterwards. Raises JobError."""
    job, store = open_job(path, write)
    try:
        yield job, store
    finally:
        store.close()


def open_job(path: Path, write: bool) -> tuple[Job, Store]:
    """A job and its open file, to be closed. Raises JobError, a file that is no whole job untouched."""
    store = open_store(path, write, load)
    try:
        return load(store), store
    except BaseException:
        store.close()
        raise


def load(store: Store) -> Job:
    """The job of an open file. Raises JobError where its rows do not make one."""
    try:
        job = Job(store)
        return job if store.settled() else Job(store)
    except DamagedError as fault:
        raise job_error(store.path, fault) from None
    except (KeyError, ValueError, TypeError, OverflowError) as fault:
        raise job_error(store.path, DamagedError(str(fault))) from None
