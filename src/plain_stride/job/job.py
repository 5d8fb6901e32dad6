"""A job in memory: rows, the step that changes them, undo and redo. The file follows through `Commit`s."""

import copy
import hashlib
import json
import os
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from plain_stride.board.page import Page
from plain_stride.hand.nib import Nib, nib_from_row, standard_nibs
from plain_stride.hand.pull import KEPT, Pull
from plain_stride.job.blobs import BLOB_TABLES, Blobs, blob_keys
from plain_stride.job.checking import DamagedError, check_row, check_steps
from plain_stride.job.errors import JobError
from plain_stride.job.names import checked_name
from plain_stride.job.schema import ADDED, TABLES, Row
from plain_stride.job.store import (
    Commit,
    Forgetting,
    RowChange,
    Step,
    Store,
    Whole,
    create_store,
    job_error,
    now,
    open_store,
)
from plain_stride.lines.black import Black, packed
from plain_stride.lines.given import Form
from plain_stride.texts import counted
from plain_stride.weight.plan import TIERS, Plan

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
        self.steps, self.marks = store.steps(), store.marks()
        self.version = 0
        self._parts: list[Part] = []
        self._order: list[str] | None = None
        self._tops: dict[object, float] = {}
        self._children: dict[int, list[int]] = {}
        self._used: set[str] | None = None
        self._blobs = Blobs({table: store.blob_rows(table) for table in ("pulls", "forms", "outlines")}, store)
        self.rows: dict[str, dict[str, Row]] = {table: {} for table in TABLES}
        self.apart: dict[str, Row] = {}
        for table in TABLES:
            for key, row in store.rows(table).items():
                check_row(table, key, row)
                self._put(table, key, row)
        self.version = 0
        state = store.state()
        self.head, self._next = int(state["head"]), int(state["next"])
        self._check()
        for number in sorted(self.steps):
            self._children.setdefault(self.steps[number].parent, []).append(number)
        self._open: _Draft | None = None

    def _check(self) -> None:
        """Raises DamagedError where what was read does not belong together."""
        check_steps(self.steps, self.head, self.marks)
        if BOARD not in self.rows["board"] or PLAN not in self.rows["plan"]:
            raise DamagedError(f"its {BOARD if BOARD not in self.rows['board'] else PLAN} is missing")
        if not {str(n) for n in range(1, 10)} <= set(self.rows["nibs"]):
            raise DamagedError("a nib is missing")
        for step in self.steps.values():
            for change in step.rows:
                for row in (change.before, change.after):
                    if row is not None:
                        check_row(change.table, change.id, row)
                        self._blobs.check(change.table, row)
        for key, row in [(k, r) for t in INKED for k, r in self.rows[t].items()] + list(self.apart.items()):
            if row["part"] not in self.rows["parts"]:
                raise DamagedError(f"line '{key[:40]}' is in no part")
            self._blobs.check("lines" if "pull" in row else "blacks", row)
        known = [*self._blobs.keys(), *(key for rows in self.rows.values() for key in rows)]
        numbers = [int(key[1:]) for key in known if key[1:].isascii() and key[1:].isdecimal() and len(key) < 18]
        # An id is never used twice, whatever the file says of the next one.
        self._next = max(self._next, *numbers, 0)

    @property
    def name(self) -> str:
        """The file's name without its ending; letters that no text can hold are shown as such."""
        return os.fsencode(self.path.stem).decode("utf-8", "replace")

    # What is on the board

    @property
    def page(self) -> Page:
        row: Any = self.rows["board"][BOARD]
        return Page((row["width_mm"], row["height_mm"]), row["dpi"], row["enlarge"])

    @property
    def plan(self) -> Plan:
        row: Any = self.rows["plan"][PLAN]
        return Plan(row["name"], row["base"], dict(row["roles"]), dict(row["tiers"]), row["halo"], row["share"])

    def nibs(self) -> dict[str, Nib]:
        return {key: nib_from_row(row["nib"]) for key, row in sorted(self.rows["nibs"].items())}  # type: ignore[arg-type]

    def parts(self) -> list[Part]:
        """Parts from the nearest to the farthest."""
        if not self._parts:
            self._parts = self._sorted_parts()
        return list(self._parts)

    def _sorted_parts(self) -> list[Part]:
        rows: list[tuple[str, Any]] = list(self.rows["parts"].items())
        rows.sort(key=lambda item: (TIERS.index(item[1]["tier"]), item[1]["place"]))
        return [
            Part(
                key,
                r["name"],
                r["tier"],
                n,
                bool(r["locked"]),
                bool(r["hidden"]),
                r["ink"],
                bool(r["cover"]),
                r["cover_gap"],
                bool(r["over_frames"]),
            )
            for n, (key, r) in enumerate(rows, 1)
        ]

    def part_named(self, name: str) -> Part | None:
        return next((part for part in self.parts() if part.name == name), None)

    def top_place(self, part: str) -> float:
        """A place in a part that no line of it has ever been above."""
        return self._tops.get(part, 0.0)

    def _raise_top(self, row: Row) -> None:
        place: Any = row["place"]
        self._tops[row["part"]] = max(place, self._tops.get(row["part"], 0.0))

    def ink_ids(self) -> list[str]:
        """Lines and blacks in drawing order: back to front by part, in a part as they were laid."""
        if self._order is None:
            self._order = self.in_order([*self.rows["lines"], *self.rows["blacks"]])
        return list(self._order)

    def line_ids(self) -> list[str]:
        """The lines alone, in drawing order."""
        lines = self.rows["lines"]
        return [key for key in self.ink_ids() if key in lines]

    def inked(self, key: str) -> Any:
        """The row of a line or a black; None where there is neither."""
        return self.rows["lines"].get(key) or self.rows["blacks"].get(key)

    def is_free(self, key: str) -> bool:
        """Whether an id was never a line's or a black's, in any way of the history."""
        if self._used is None:
            self._used = {c.id for step in self.steps.values() for c in step.rows if c.table in INKED}
        return key not in self._used and self.inked(key) is None and key not in self.apart

    def in_order(self, keys: Iterable[str]) -> list[str]:
        """These lines and blacks in drawing order; those that are gone are left out."""
        rank = {part.id: -part.order for part in self.parts()}
        known = [(key, row) for key in keys if (row := self.inked(key)) is not None]
        return [key for key, row in sorted(known, key=lambda item: (rank[item[1]["part"]], item[1]["place"]))]

    def pencils(self) -> list[tuple[str, Row]]:
        return sorted(self.rows["pencils"].items(), key=lambda item: item[1]["place"])  # type: ignore[arg-type, return-value]

    # What never changes

    def pull(self, key: str) -> Pull:
        return self._blobs.pull(key)

    def has_pull(self, key: str) -> bool:
        return key in self._blobs.rows["pulls"]

    def form(self, key: str) -> Form:
        return self._blobs.form(key)

    def blob_row(self, table: str, key: str) -> Row:
        """A row of pulls, forms or outlines as the file has it."""
        return self._blobs.rows[table][key]

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
        return sum(1 for row in self.rows["lines"].values() if not row["draft"])

    @property
    def pull_count(self) -> int:
        return len({row["pull"] for row in self.rows["lines"].values() if row["pull"]})

    # History

    def undo_count(self) -> int:
        count, at = 0, self.head
        while at:
            count, at = count + 1, self.steps[at].parent
        return count

    def redo_count(self) -> int:
        count, at = 0, self._child(self.head)
        while at is not None:
            count, at = count + 1, self._child(at.id)
        return count

    def undone(self, count: int) -> Commit | None:
        """Takes back so many steps at once, as far as there are any; None at the empty job."""
        at = self.head
        for _ in range(count):
            at = self.steps[at].parent if at else 0
        return self.go_to(at)

    def redone(self, count: int) -> Commit | None:
        """Does so many steps again at once, on the way that redo takes."""
        at = self.head
        for _ in range(count):
            child = self._child(at)
            at = child.id if child is not None else at
        return self.go_to(at)

    def undo(self) -> Commit | None:
        """Takes back the last step; None at the empty job. The commit is to be written."""
        if not self.head:
            return None
        step = self.steps[self.head]
        rows = tuple(RowChange(c.table, c.id, c.after, c.before) for c in reversed(step.rows))
        return self._move(rows, step.parent)

    def redo(self) -> Commit | None:
        """Does the step again that was taken back last on this way; None when there is none."""
        step = self._child(self.head)
        return None if step is None else self._move(step.rows, step.id)

    def way_to(self, step: int) -> list[Step]:
        """The steps from the empty job to a step, the first one first."""
        out = []
        while step:
            out.append(self.steps[step])
            step = self.steps[step].parent
        return out[::-1]

    def rows_to(self, step: int) -> tuple[RowChange, ...]:
        """What changes when the job goes from where it stands to another step, on its way or off it."""
        here, there = self.way_to(self.head), self.way_to(step)
        same = 0
        while same < min(len(here), len(there)) and here[same].id == there[same].id:
            same += 1
        rows = [RowChange(c.table, c.id, c.after, c.before) for s in here[same:][::-1] for c in reversed(s.rows)]
        rows += [c for s in there[same:] for c in s.rows]
        return _merged(rows)

    def go_to(self, step: int) -> Commit | None:
        """Goes to a step of any way; None where the job stands there. Raises JobError where there is no such step."""
        if step and step not in self.steps:
            raise JobError(f"there is no step {step} in this history")
        return None if step == self.head else self._move(self.rows_to(step), step)

    def as_at(self, step: int) -> "Job":
        """The job as it was at a step: to be looked at, never changed or written."""
        then = copy.copy(self)
        then.rows = {table: dict(rows) for table, rows in self.rows.items()}
        then.apart = dict(self.apart)
        then._order, then._parts = None, []
        then._tops = dict(self._tops)
        for change in self.rows_to(step):
            then._put(change.table, change.id, change.after)
        then.head = step
        return then

    def forget_newest(self) -> None:
        """Takes the newest step back as if it had never been made: for a change that is only tried, never written. The
        change must not bring rows that never change."""
        step = self.steps.pop(self.head)
        self._children[step.parent].remove(step.id)
        for change in reversed(step.rows):
            self._put(change.table, change.id, change.before)
        self.head = step.parent

    def set_mark(self, name: str) -> int:
        """Names the moment the job stands at; gives its step, for the file. Raises JobError."""
        self.marks[checked_name(name, "a mark's name")] = self.head
        return self.head

    def may_forget(self, mark: str) -> int:
        """The step of a mark before which all can be forgotten. Raises JobError where the job does not stand at the
        mark or after it."""
        if mark not in self.marks:
            raise JobError(f"there is no mark '{mark}'; there are: {', '.join(self.marks) or 'none'}")
        first = self.marks[mark]
        if not first:
            raise JobError(f"nothing lies before mark '{mark}'")
        if self.head != first and self.head not in self._after(first):
            raise JobError(f"the job does not stand at mark '{mark}' or after it: go there first")
        return first

    def forgetting(self, mark: str) -> Forgetting:
        """What goes when all before a mark is forgotten: steps before it and on ways that left before it, and pulls,
        forms, outlines and scans that nothing needs then. Raises JobError."""
        first = self.may_forget(mark)
        later = self._after(first)
        used: dict[str, set[object]] = {table: set() for table in BLOB_TABLES}
        rows = [(t, row) for t, of_table in self.rows.items() for row in of_table.values()]
        rows += [("lines" if "pull" in row else "blacks", row) for row in self.apart.values()]
        rows += [(c.table, row) for n in later for c in self.steps[n].rows for row in (c.before, c.after) if row]
        for table, row in rows:
            for blobs, key in blob_keys(table, row):
                used[blobs].add(key)
        gone = {table: tuple(k for k in self._blobs.known(table) if k not in used[table]) for table in BLOB_TABLES}
        marks = tuple(name for name, n in self.marks.items() if n != first and n not in later)
        return Forgetting(first, frozenset(set(self.steps) - later), marks, gone)

    def forget(self, what: Forgetting) -> None:
        """Lets the history begin at a later step, as `Store.forget` has it in the file."""
        self.steps = {n: replace(s, parent=s.parent if s.parent != what.first else 0)
                      for n, s in self.steps.items() if n not in what.steps}  # fmt: skip
        self._children = {}
        for number in sorted(self.steps):
            self._children.setdefault(self.steps[number].parent, []).append(number)
        self.marks = {name: 0 if n == what.first else n for name, n in self.marks.items() if name not in what.marks}
        self.head = 0 if self.head == what.first else self.head
        for table, keys in what.blobs.items():
            self._blobs.drop((table, key) for key in keys)

    def whole(self) -> Whole:
        """All of it, to be written to another file: what only memory holds is among it."""
        rows = [
            RowChange(table, key, None, row) for table, of_table in self.rows.items() for key, row in of_table.items()
        ]
        rows += [RowChange("lines" if "pull" in row else "blacks", key, None, row) for key, row in self.apart.items()]
        steps = tuple(self.steps[n] for n in sorted(self.steps))
        state = {"head": str(self.head), "next": str(self._next)}
        return Whole(tuple(rows), steps, dict(self.marks), state, tuple(self._blobs.all()))

    def _after(self, first: int) -> set[int]:
        """Steps that were made on a step, or on such a one."""
        later: set[int] = set()
        ahead = list(self._children.get(first, ()))
        while ahead:
            number = ahead.pop()
            later.add(number)
            ahead += self._children.get(number, ())
        return later

    def next_step(self, at: int | None = None) -> int | None:
        """The step that redo would go to from a step (from where the job stands by default)."""
        child = self._child(self.head if at is None else at)
        return child.id if child is not None else None

    def _child(self, at: int) -> Step | None:
        """The newest step made on step `at`: the way that redo takes."""
        children = self._children.get(at)
        return self.steps[max(children)] if children else None

    def _move(self, rows: tuple[RowChange, ...], head: int) -> Commit:
        for change in rows:
            self._put(change.table, change.id, change.after)
        self.head = head
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
            self._blobs.drop(draft.new_blobs())
            raise
        finally:
            self._open = None
        rows = _merged(draft.rows)
        if not rows:
            return
        number = max(self.steps, default=0) + 1
        step = Step(number, self.head, name, words, json.dumps(args), now(), rows)
        self.steps[number] = step
        self._children.setdefault(self.head, []).append(number)
        if self._used is not None:
            self._used |= {c.id for c in rows if c.table in INKED}
        self.head = number
        draft.commit = Commit(rows, {"head": str(number), "next": str(self._next)}, step, tuple(draft.blobs))

    def _put(self, table: str, key: str, row: Row | None) -> None:
        self.version += 1
        if table == "parts" or table in INKED:
            self._order = None
        if table == "parts":
            self._parts = []
        elif table in INKED and row is not None:
            self._raise_top(row)
        if table in INKED:
            self.apart.pop(key, None)
            if row is not None and self._blobs.unfit(table, row):
                self.rows[table].pop(key, None)
                self.apart[key] = row
                return
        if row is None:
            self.rows[table].pop(key, None)
        else:
            self.rows[table][key] = row

    def new_id(self, letter: str) -> str:
        self._next += 1
        return f"{letter}{self._next}"


class _Draft:
    """The rows and blobs of a step while it is being made."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self.rows: list[RowChange] = []
        self.blobs: list[tuple[str, Row]] = []
        self.commit: Commit | None = None

    def put(self, table: str, key: str, row: Row | None) -> None:
        """Sets a row (None takes it away)."""
        before = self.job.rows[table].get(key)
        if before == row:
            return
        self.rows.append(RowChange(table, key, before, row))
        self.job._put(table, key, row)

    def change(self, table: str, key: str, **columns: object) -> None:
        """Sets some columns of a row."""
        self.put(table, key, {**self.job.rows[table][key], **columns})

    def add_pull(self, pull: Pull) -> str:
        key = self.job.new_id("p")
        row: Row = {
            "id": key,
            "samples": pull.samples.astype(KEPT).tobytes(),
            "nib": json.dumps(pull.nib.as_row()),
            "scale": pull.view.scale,
            "turn": pull.view.turn,
            "mirror": int(pull.view.mirror),
            "device": pull.device,
            "clock": pull.clock,
            "glass_x": pull.view.origin[0] if pull.view.origin is not None else None,
            "glass_y": pull.view.origin[1] if pull.view.origin is not None else None,
        }
        self._add_blob("pulls", key, row)
        return key

    def add_form(self, form: Form) -> str:
        key = self.job.new_id("f")
        widths = np.column_stack([form.widths.s, form.widths.left, form.widths.right])
        row: Row = {
            "id": key,
            "curve": form.curve.astype("<f8").tobytes(),
            "closed": int(form.closed),
            "widths": widths.astype("<f8").tobytes(),
        }
        self._add_blob("forms", key, row)
        self.job._blobs.keep("forms", key, form)
        return key

    def add_outline(self, black: Black) -> str:
        key = self.job.new_id("o")
        curve, counts = packed(black)
        row: Row = {"id": key, "curve": curve, "counts": json.dumps(counts), "rule": black.rule}
        self._add_blob("outlines", key, row)
        return key

    def add_image(self, data: bytes) -> str:
        """The key of a scan's bytes, which are stored once however often they are placed."""
        key = hashlib.sha256(data).hexdigest()
        if self.job._blobs.add_image(key, data):
            self.blobs.append(("images", {"id": key, "bytes": data}))
        return key

    def add_known(self, table: str, key: str, row: Row) -> str:
        """The key of a row that never changes: one that is here already where it says the same, else a new one."""
        here = self.job._blobs.rows[table].get(key)
        if here is not None and all(here[c] == v for c, v in row.items()):
            return key
        new = self.job.new_id(table[0])
        self._add_blob(table, new, {"id": new, **row})
        return new

    def new_blobs(self) -> list[tuple[str, str]]:
        return [(table, str(row["id"])) for table, row in self.blobs]

    def _add_blob(self, table: str, key: str, row: Row) -> None:
        self.blobs.append((table, row))
        self.job._blobs.rows[table][key] = row


def _merged(rows: list[RowChange]) -> tuple[RowChange, ...]:
    """One change a row: from what it was before the step to what it is after."""
    out: dict[tuple[str, str], RowChange] = {}
    for change in rows:
        at = (change.table, change.id)
        out[at] = replace(out[at], after=change.after) if at in out else change
    return tuple(change for change in out.values() if change.before != change.after)


def new_job(path: Path, page: Page) -> None:
    """Makes the file of an empty job. Raises JobError; never overwrites."""
    w, h = page.size_mm
    plan = Plan()
    rows: list[tuple[str, str, Row]] = [
        ("board", BOARD, {"width_mm": w, "height_mm": h, "dpi": page.dpi, "enlarge": page.enlarge, **ADDED["board"]}),
        (
            "plan",
            PLAN,
            {
                "name": plan.name,
                "base": plan.base,
                "share": plan.share,
                "roles": plan.roles,
                "tiers": plan.tiers,
                "halo": plan.halo,
            },
        ),
    ]
    rows += [("nibs", key, {"nib": nib.as_row()}) for key, nib in standard_nibs().items()]
    changes = tuple(RowChange(table, key, None, row) for table, key, row in rows)
    create_store(path, Commit(changes, {"head": "0", "next": "0"}))


@contextmanager
def opened(path: Path, write: bool = False) -> Iterator[tuple[Job, Store]]:
    """A job and its open file, closed afterwards. Raises JobError."""
    store = open_store(path, write)
    try:
        yield load(store), store
    finally:
        store.close()


def load(store: Store) -> Job:
    """The job of an open file. Raises JobError where its rows do not make one."""
    try:
        job = Job(store)
        return job if store.settled() else Job(store)
    except DamagedError as fault:
        raise job_error(store.path, fault) from None
    except (KeyError, ValueError, TypeError, OverflowError) as fault:
        raise job_error(store.path, DamagedError(str(fault))) from None
