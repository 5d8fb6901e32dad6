"""The history of a job: steps as a tree, marks, ways that were left. It knows rows, not what they stand for."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

from plain_stride.job.errors import DamagedError, JobError
from plain_stride.job.names import checked_name
from plain_stride.job.record_fields import Record


@dataclass(frozen=True)
class RowChange:
    """One row before and after; None where it was not there."""

    table: str
    id: str
    before: Any
    after: Any

    @property
    def rows(self) -> tuple[Record, ...]:
        """Those of before and after that are there."""
        return tuple(row for row in (self.before, self.after) if row is not None)

    def backwards(self) -> "RowChange":
        """The same change the other way."""
        return RowChange(self.table, self.id, self.after, self.before)


@dataclass(frozen=True)
class Step:
    """One step of history. parent: the step it was made on, 0 for the empty job; args: JSON; made: UTC."""

    id: int
    parent: int
    name: str
    words: str
    args: str
    made: str
    rows: tuple[RowChange, ...]


def merged(rows: Iterable[RowChange]) -> tuple[RowChange, ...]:
    """One change a row: from what it was first to what it is last; rows that end as they began are left out."""
    out: dict[tuple[str, str], RowChange] = {}
    for change in rows:
        at = (change.table, change.id)
        out[at] = replace(out[at], after=change.after) if at in out else change
    return tuple(change for change in out.values() if change.before != change.after)


class History:
    """Steps by number, marks (steps by name), and head, the step the job stands on (0: where the history begins)."""

    def __init__(self, steps: dict[int, Step], marks: dict[str, int], head: int) -> None:
        """Raises DamagedError where the steps are no tree, or head or a mark stands nowhere in it."""
        self.steps, self.marks, self.head = steps, marks, head
        self._check()
        self._children: dict[int, list[int]] = {}
        self._find_children()

    def _check(self) -> None:
        for number, step in self.steps.items():
            if not isinstance(number, int) or number <= 0 or not isinstance(step.parent, int):
                raise DamagedError("a step of its history has no number")
            if step.parent and (step.parent not in self.steps or step.parent >= number):
                raise DamagedError(
                    f"step {number} of its history stands on step {step.parent}, which does not come before it"
                )
        for place in (self.head, *self.marks.values()):
            if place and place not in self.steps:
                raise DamagedError(f"step {place} of its history is missing")

    def _find_children(self) -> None:
        self._children = {}
        for number in sorted(self.steps):
            self._children.setdefault(self.steps[number].parent, []).append(number)

    def as_at(self, head: int) -> "History":
        """The same history, standing at another step: to be looked at."""
        then = object.__new__(History)
        then.__dict__.update(self.__dict__, head=head)
        return then

    def undo_count(self) -> int:
        """How many steps can be taken back. Linear in them."""
        count, at = 0, self.head
        while at:
            count, at = count + 1, self.steps[at].parent
        return count

    def redo_count(self) -> int:
        """How many steps can be done again, on the way that redo takes. Linear in them."""
        count, at = 0, self._newest_on(self.head)
        while at:
            count, at = count + 1, self._newest_on(at)
        return count

    def back(self, count: int) -> int:
        """The step that lies so many before head, as far as there are any."""
        at = self.head
        for _ in range(count):
            at = self.steps[at].parent if at else 0
        return at

    def forward(self, count: int) -> int:
        """The step that lies so many after head, on the way that redo takes, as far as there are any."""
        at = self.head
        for _ in range(count):
            at = self._newest_on(at) or at
        return at

    def next_step(self, at: int | None = None) -> int | None:
        """The step that redo would go to from a step, from head by default."""
        return self._newest_on(self.head if at is None else at)

    def _newest_on(self, at: int) -> int | None:
        children = self._children.get(at)
        return max(children) if children else None

    def way_to(self, step: int) -> list[Step]:
        """The steps from the empty job to a step, the first one first."""
        out = []
        while step:
            out.append(self.steps[step])
            step = self.steps[step].parent
        return out[::-1]

    def rows_to(self, step: int) -> tuple[RowChange, ...]:
        """What changes when the job goes from head to another step, on its way or off it."""
        here, there = self.way_to(self.head), self.way_to(step)
        same = 0
        while same < min(len(here), len(there)) and here[same].id == there[same].id:
            same += 1
        rows = [c.backwards() for s in here[same:][::-1] for c in reversed(s.rows)]
        return merged(rows + [c for s in there[same:] for c in s.rows])

    def add(self, name: str, words: str, args: str, made: str, rows: tuple[RowChange, ...]) -> Step:
        """A new step on head, which becomes head."""
        step = Step(max(self.steps, default=0) + 1, self.head, name, words, args, made, rows)
        self.steps[step.id] = step
        self._children.setdefault(self.head, []).append(step.id)
        self.head = step.id
        return step

    def later(self, first: int) -> set[int]:
        """Steps that were made on a step, or on such a one."""
        later: set[int] = set()
        ahead = list(self._children.get(first, ()))
        while ahead:
            number = ahead.pop()
            later.add(number)
            ahead += self._children.get(number, ())
        return later

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
        if self.head != first and self.head not in self.later(first):
            raise JobError(f"the job does not stand at mark '{mark}' or after it: go there first")
        return first

    def begin_at(self, first: int, gone: frozenset[int], marks: tuple[str, ...]) -> None:
        """Lets the history begin at a step; the steps and marks that are named go."""
        self.steps = {n: replace(s, parent=s.parent if s.parent != first else 0)
                      for n, s in self.steps.items() if n not in gone}  # fmt: skip
        self.marks = {name: 0 if n == first else n for name, n in self.marks.items() if name not in marks}
        self.head = 0 if self.head == first else self.head
        self._find_children()
