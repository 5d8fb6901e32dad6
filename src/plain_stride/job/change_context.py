"""What named changes are made of: the registry, the step, the checks at the door."""

import inspect
import json
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from plain_stride.errors import StrideError
from plain_stride.hand.nib import Nib, nib_from_row
from plain_stride.job.commit import Commit
from plain_stride.job.draft import Draft
from plain_stride.job.errors import JobError
from plain_stride.job.holding import follow, found_again
from plain_stride.job.job import Job
from plain_stride.job.names import MOST_LETTERS, checked_name
from plain_stride.job.records import BlackRecord, LineRecord, PartRecord
from plain_stride.job.releasing import released
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.weight.plan import check_tier

DEFAULT_PART, DEFAULT_ROLE, DEFAULT_TIER = "Lines", "inner", "middle"


@dataclass
class ChangeContext:
    """What a change works on: the job, its shapes, the rows put so far."""

    job: Job
    shapes: Shapes
    draft: Draft

    def line(self, key: object) -> LineRecord:
        """The row of a line that may be changed. Raises JobError for an unknown or a locked one."""
        row = self.job.rows.lines.get(key) if isinstance(key, str) else None
        if row is None:
            black = isinstance(key, str) and key in self.job.rows.blacks
            raise JobError(f"'{key}' is a black: that goes with lines only" if black else f"there is no line '{key}'")
        self._open(row.part)
        return row

    def ink(self, key: object) -> LineRecord | BlackRecord:
        """The row of a line or a black that may be changed. Raises JobError."""
        if not isinstance(key, str) or key not in self.job.rows.blacks:
            return self.line(key)
        row = self.job.rows.blacks[key]
        self._open(row.part)
        return row

    def _open(self, part: str) -> None:
        row = self.job.rows.parts[part]
        if row.locked:
            raise JobError(f"part '{row.name}' is locked: unlock it to change its lines")

    def part(self, name: object, tier: str | None = None) -> str:
        """The key of the part of this name, made (farthest of its tier) where there is none. Raises JobError."""
        found = self.job.part_named(checked_name(name, "a part's name"))
        if found is not None:
            if tier is not None and tier != found.tier:
                raise JobError(f"part '{name}' is {found.tier}, not {tier}: change the part's tier first")
            return found.id
        key = self.job.new_id("g")
        place = max((p.place for p in self.job.rows.parts.values()), default=0.0) + 1.0
        self.draft.put(key, PartRecord(name=str(name), tier=check_tier(tier or DEFAULT_TIER), place=place))
        return key

    def part_named(self, name: str | None) -> str | None:
        """The key of a part that is there, None for none. Raises JobError for an unknown name."""
        if name is None:
            return None
        found = self.job.part_named(name)
        if found is None:
            raise JobError(f"there is no part '{name}'")
        return found.id

    def open_part(self, name: object, tier: str | None = None) -> str:
        """As `part`; raises JobError when it is locked."""
        key = self.part(name, tier)
        if self.job.rows.parts[key].locked:
            raise JobError(f"part '{name}' is locked: unlock it to ink in it")
        return key

    def add_line(self, row: LineRecord, wanted: object = None) -> str:
        """Puts a new line on top of its part, under the wanted id where that is free, and works it out once."""
        key = self.free_id(wanted, "l")
        self.draft.put(key, replace(row, place=self.job.top_place(row.part) + 1.0))
        _ = self.shapes[key]
        return key

    def add_black(self, row: BlackRecord, wanted: object = None) -> str:
        """Puts a new black on top of its part."""
        key = self.free_id(wanted, "b")
        self.draft.put(key, replace(row, place=self.job.top_place(row.part) + 1.0))
        return key

    def remove(self, key: str) -> None:
        """Takes a line or a black away. Lines that are made from it become lines of their own."""
        for member in self.job.members_of(key):
            self.release(member)
        row = self.job.inked_rows()[key]
        if row.tone in self.job.rows.tones and isinstance(row, LineRecord):
            self._note_gone(key, str(row.tone))
        self.draft.remove(row.table, key)
        if isinstance(row, LineRecord):
            self._leave(row.family)
        if row.tone in self.job.rows.tones and not self.job.tone_ink(str(row.tone)):
            self.draft.remove("tones", str(row.tone))

    def _note_gone(self, line: str, tone: str) -> None:
        """A stroke that is taken away by itself stays away when its tone is laid anew."""
        shape = self.shapes[line]
        x, y = np.round(shape.middle, 3).tolist()
        before = self.job.rows.tones[tone]
        self.draft.put(tone, replace(before, gone=(*before.gone, (x, y))))

    def release(self, key: str) -> None:
        """Makes a line of a family one of its own, as the hand has it. What was done to it stays."""
        family = self.job.rows.lines[key].family
        row, form = released(self.shapes, key)
        self.draft.put(key, replace(row, form=self.draft.add_form(form)))
        self._leave(family)

    def _leave(self, family: str | None) -> None:
        """A family goes with the last of its lines."""
        if family is not None and not self.job.family_lines(family):
            self.draft.remove("families", family)

    def free_id(self, wanted: object, letter: str) -> str:
        """The wanted id where it was never given, else a new one. Raises JobError for one that is no name."""
        key = wanted if isinstance(wanted, str) and 0 < len(wanted) <= MOST_LETTERS else ""
        if key:
            checked_name(key, "an id")
        while not key or not self.job.is_free(key):
            key = self.job.new_id(letter)
        return key


Change = Callable[..., object]
CHANGES: dict[str, Change] = {}


def change(function: Change) -> Change:
    """Registers a function as a named change."""
    CHANGES[function.__name__.rstrip("_").replace("_", "-")] = function
    return function


@dataclass(frozen=True)
class Made:
    """results: what each change gave (ids of new lines, mostly); commit: what to write, None if nothing changed."""

    results: list[Any]
    commit: Commit | None


def make(job: Job, shapes: Shapes, name: str, *arguments: dict[str, Any]) -> Made:
    """Makes one change, or the same one with several sets of arguments, as one step. Raises JobError, job unchanged."""
    return make_all(job, shapes, [(name, a) for a in (arguments or ({},))])


def make_all(
    job: Job,
    shapes: Shapes,
    wanted: Sequence[tuple[str, dict[str, Any]]],
    words: str = "",
    progress: Callable[[float], bool] | None = None,
) -> Made:
    """Makes several changes as one step: all or nothing. progress: told the share done after each; where it answers
    False all is taken back. Linear in the number of changes. Raises JobError."""
    for name, arguments in wanted:
        _check(name, arguments)
    kept = [(name, {k: v for k, v in a.items() if _is_plain(v)}) for name, a in wanted]
    title = words or (wanted[0][0] if wanted else "nothing")
    # Lines keep what the plan gives them until all is made: each change would have the whole weighed anew.
    with shapes.weighing.held(), job.step(wanted[0][0] if len(wanted) == 1 else title, title, kept) as draft:
        making = ChangeContext(job, shapes, draft)
        results = []
        for name, arguments in wanted:
            results.append(CHANGES[name](making, **_python_names(arguments)))
            if progress is not None and not progress(len(results) / len(wanted)):
                raise JobError("stopped: the job is as it was")
        _keep_held(making)
        _check_members(job, shapes, draft)
    return Made(results, draft.commit)


def _keep_held(m: ChangeContext) -> None:
    """Lets what is held to changed lines go along with them. Raises JobError where it cannot."""
    job, seen = m.job, 0
    while job.rows.holds and seen < len(m.draft.rows):
        fresh, seen = m.draft.rows[seen:], len(m.draft.rows)
        first = {change.id: change.before for change in reversed(fresh) if isinstance(change.before, LineRecord)}
        changed = [key for key in job.touched(fresh) if key in job.rows.lines or key in first]
        for key, hold in found_again(m.shapes, job.rows.holds, changed, first).items():
            if hold is None:
                m.draft.remove("holds", key)
            else:
                m.draft.put(key, hold)
        moved = follow(m.shapes, job.rows.holds, [key for key in changed if key in job.rows.lines], {})
        for key, row in [*moved.rows.items(), *moved.holds.items()]:
            m.draft.put(key, row)


def _check_members(job: Job, shapes: Shapes, draft: Draft) -> None:
    """Raises JobError where a line that is made from a changed one could not go along with it."""
    for key in job.touched(draft.rows) if job.rows.families else ():
        row = job.rows.lines.get(key)
        if row is not None and row.family is not None:
            try:
                _ = shapes[key]
            except StrideError as fault:
                raise JobError(f"line '{key}' is made from another and cannot go along ({fault}): release it") from None


_TO_PYTHON = {"from": "from_"}


def _python_names(arguments: dict[str, Any]) -> dict[str, Any]:
    return {_TO_PYTHON.get(k, k): v for k, v in arguments.items()}


def argument_names(name: str) -> list[str]:
    """The arguments of a change as edits write them."""
    back = {v: k for k, v in _TO_PYTHON.items()}
    return [back.get(p, p) for p in list(inspect.signature(CHANGES[name]).parameters)[1:]]


def _check(name: str, arguments: dict[str, Any]) -> None:
    if name not in CHANGES:
        raise JobError(f"there is no change '{name}'; there are: {', '.join(sorted(CHANGES))}")
    known = argument_names(name)
    back = {v: k for k, v in _TO_PYTHON.items()}
    needed = [
        back.get(p.name, p.name)
        for p in list(inspect.signature(CHANGES[name]).parameters.values())[1:]
        if p.default is inspect.Parameter.empty
    ]
    unknown, lacking = [k for k in arguments if k not in known], [k for k in needed if k not in arguments]
    if unknown:
        raise JobError(f"change '{name}' knows no '{unknown[0]}'; it takes: {', '.join(known)}")
    if lacking:
        raise JobError(f"change '{name}' lacks '{lacking[0]}'")


def _is_plain(value: object) -> bool:
    """Whether a value goes into the history's words; samples, bytes and forms are stored as rows of their own."""
    try:
        return len(json.dumps(value)) < 20_000
    except (TypeError, ValueError):
        return False


def number(value: object, what: str, low: float = -1e6, high: float = 1e6) -> float:
    # Whole numbers of hundreds of digits are no float at all: they are held against the bounds as they are.
    """A finite number between two limits, in the unit of what it stands for. Raises JobError."""
    if (
        isinstance(value, bool)
        or not isinstance(value, int | float)
        or (isinstance(value, float) and not math.isfinite(value))
    ):
        raise JobError(f"{what} is a number, not {value!r}")
    if not low <= value <= high:
        raise JobError(f"{what} goes from {low:g} to {high:g}, not {value:g}")
    return float(value)


def flag(value: object, what: str) -> bool:
    """A truth value. Raises JobError."""
    if not isinstance(value, bool):
        raise JobError(f"{what} is true or false, not {value!r}")
    return value


def line_list(lines: object) -> list[str]:
    """Ids of lines, each once, one at least. Raises JobError."""
    if not isinstance(lines, list) or not lines or not all(isinstance(k, str) for k in lines):
        raise JobError("lines are a list of ids")
    return list(dict.fromkeys(lines))


def place_of(at: object) -> np.ndarray:
    """(2,) mm of a place [x, y]. Raises JobError."""
    if not isinstance(at, list | tuple) or len(at) != 2:
        raise JobError("a place is [x, y] in mm")
    return np.array([number(v, "a place") for v in at])


def nib_named(job: JobRows, nib: Any) -> Nib:
    """A nib by its key, or of its values. Raises JobError."""
    if isinstance(nib, dict):
        return nib_from_row(nib)
    nibs = job.nibs()
    if str(nib) not in nibs:
        raise JobError(f"there is no nib {nib}; there are: {', '.join(nibs)}")
    return nibs[str(nib)]
