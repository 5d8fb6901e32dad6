"""A job in memory: rows, the step that changes them, undo and redo. The file follows through `Commit`s."""

import copy
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from plain_stride.job.blobs import BLOB_TABLES, blob_keys
from plain_stride.job.commit import Commit, Forgetting, Whole, now
from plain_stride.job.draft import Draft
from plain_stride.job.errors import DamagedError, JobError
from plain_stride.job.history import History, RowChange, merged
from plain_stride.job.records import (
    RECORDS,
    LineRecord,
    written_json,
)
from plain_stride.job.rows import BOARD, INKED, MOST_DEEP, PLAN, JobRows
from plain_stride.job.sent import sent_of
from plain_stride.job.store import Store


class Job(JobRows):
    """Its rows with their history. Read freely; change only through `job.changes.make`, `undo` and `redo`.

    path, schema: of its file. history: its steps, and marks on them. sent: deliveries that were made.
    """

    def __init__(self, store: Store) -> None:
        super().__init__(store)
        self.path, self.schema = store.path, store.schema
        state = store.state()
        self.history = History(store.steps(), store.marks(), int(state["head"]))
        self.sent = [sent_of(row) for row in store.delivered()]
        self._next = int(state["next"])
        self._check()
        self._open: Draft | None = None
        self._used: set[str] | None = None

    def _check(self) -> None:
        """Raises DamagedError where what was read does not belong together."""
        if BOARD not in self.rows.board or PLAN not in self.rows.plan:
            raise DamagedError(f"its {BOARD if BOARD not in self.rows.board else PLAN} is missing")
        if not {str(n) for n in range(1, 10)} <= set(self.rows.nibs):
            raise DamagedError("a nib is missing")
        for step in self.history.steps.values():
            for change in step.rows:
                for row in change.rows:
                    self.blobs.check(row)
        for key, inked in [*self.inked_rows().items(), *self.apart.items()]:
            if inked.part not in self.rows.parts:
                raise DamagedError(f"line '{key[:40]}' is in no part")
            if isinstance(inked, LineRecord) and inked.family is not None and inked.family not in self.rows.families:
                raise DamagedError(f"line '{key[:40]}' is of no family")
            if inked.tone is not None and inked.tone not in self.rows.tones:
                raise DamagedError(f"line '{key[:40]}' is of no tone")
            self.blobs.check(inked)
        for key, family in self.rows.families.items():
            if family.source not in self.rows.lines or self.depth(family.source) > MOST_DEEP:
                raise DamagedError(f"family '{key[:40]}' is made from no line")
        known = [*self.blobs.keys(), *(key for table in RECORDS for key in self.rows.of(table))]
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

    def is_free(self, key: str) -> bool:
        """Whether an id was never a line's or a black's, in any way of the history."""
        if self._used is None:
            self._used = {c.id for step in self.history.steps.values() for c in step.rows if c.table in INKED}
        return key not in self._used and self.inked(key) is None and key not in self.apart

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
        then._corners = {line: dict(keys) for line, keys in self._corners.items()}
        then._families = {family: dict(lines) for family, lines in self._families.items()}
        then._tones = {tone: dict(ink) for tone, ink in self._tones.items()}
        for change in self.history.rows_to(step):
            then.put(change.table, change.id, change.after)
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
        gone = {table: tuple(k for k in self.blobs.known(table) if (table, k) not in used) for table in BLOB_TABLES}
        marks = tuple(name for name, n in history.marks.items() if n != first and n not in later)
        return Forgetting(first, frozenset(set(history.steps) - later), marks, gone)

    def forget(self, what: Forgetting) -> None:
        """Lets the history begin at a later step, as `Store.forget` has it in the file."""
        self.history.begin_at(what.first, what.steps, what.marks)
        for table, keys in what.kept.items():
            self.blobs.drop((table, key) for key in keys)

    def whole(self) -> Whole:
        """All of it, to be written to another file: what only memory holds is among it."""
        rows = [RowChange(table, key, None, row) for table in RECORDS for key, row in self.rows.of(table).items()]
        rows += [RowChange(row.table, key, None, row) for key, row in self.apart.items()]
        history = self.history
        steps = tuple(history.steps[n] for n in sorted(history.steps))
        state = {"head": str(history.head), "next": str(self._next)}
        sent = tuple((one.made, one.name, one.step, written_json(one.manifest)) for one in self.sent)
        return Whole(tuple(rows), steps, dict(history.marks), state, tuple(self.blobs.all()), sent)

    def _move(self, rows: tuple[RowChange, ...], head: int) -> Commit:
        for change in rows:
            self.put(change.table, change.id, change.after)
        self.history.head = head
        return Commit(rows, {"head": str(head)})

    # Changing: used by job.changes only

    @contextmanager
    def step(self, name: str, words: str, args: object) -> Iterator[Draft]:
        """All that is put inside becomes one step; an error inside leaves the job as it was. `draft.commit` holds
        what is to be written; it is None when nothing changed. Raises RuntimeError inside another step."""
        if self._open is not None:
            raise RuntimeError("a step is already open")
        draft = self._open = Draft(self, self.new_id)
        try:
            yield draft
            told = written_json(args)
        except BaseException:
            # Ids that were given stay given: whatever was worked out under one never stands for another thing.
            for change in reversed(draft.rows):
                self.put(change.table, change.id, change.before)
            self.blobs.drop((row.table, row.id) for row in draft.kept)
            raise
        finally:
            self._open = None
        rows = merged(draft.rows)
        if not rows:
            return
        step = self.history.add(name, words, told, now(), rows)
        if self._used is not None:
            self._used |= {c.id for c in rows if c.table in INKED}
        draft.commit = Commit(rows, {"head": str(step.id), "next": str(self._next)}, step, tuple(draft.kept))

    @property
    def last_number(self) -> int:
        """The last that was given to an id."""
        return self._next

    def new_id(self, letter: str) -> str:
        """An id that was never given, with a letter before its number."""
        self._next += 1
        return f"{letter}{self._next}"
