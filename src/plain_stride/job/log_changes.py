"""Named changes of planning and the log: notes, the order of work, until when it is to be done."""

from dataclasses import replace
from typing import Any

from plain_stride.errors import StrideError
from plain_stride.job.change_context import ChangeContext, change, flag, number, place_of
from plain_stride.job.commit import now
from plain_stride.job.errors import JobError
from plain_stride.job.log_records import (
    ORDER,
    SCHEDULE,
    NoteRecord,
    OrderRecord,
    ScheduleRecord,
    checked_days,
    checked_ids,
)
from plain_stride.job.rows import JobRows
from plain_stride.order.steps import HALVES


def order_row(job: JobRows) -> OrderRecord:
    """The order of work as it is set."""
    return job.rows.work_order.get(ORDER) or OrderRecord()


def schedule_row(job: JobRows) -> ScheduleRecord:
    """Until when, and how much a day, as it is set."""
    return job.rows.schedule.get(SCHEDULE) or ScheduleRecord()


# Notes


@change
def note(
    m: ChangeContext,
    words: str,
    at: list[float] | None = None,
    line: str | None = None,
    part: str | None = None,
    rule: str | None = None,
    made: str | None = None,
) -> str:
    """Leaves a note, pinned to a place [x, y] mm, a line, a part, a rule of the plan, or to the job alone; made: UTC,
    now by default. Gives its id. Raises JobError."""
    x, y = place_of(at).tolist() if at is not None else (None, None)
    if line is not None and line not in m.job.rows.lines:
        raise JobError(f"there is no line '{line}'")
    key = m.job.new_id("k")
    m.draft.put(key, _made(lambda: NoteRecord(words=words, made=made or now(), x_mm=x, y_mm=y, line=line,
                                              part=m.part_named(part), rule=rule)))  # fmt: skip
    return key


@change
def note_set(m: ChangeContext, note: str, words: str) -> None:
    """Gives a note other words. Raises JobError."""
    m.draft.put(note, _made(lambda: replace(_note(m, note), words=words)))


@change
def note_delete(m: ChangeContext, notes: list[str]) -> None:
    """Takes notes away. Raises JobError."""
    if not isinstance(notes, list) or not notes:
        raise JobError("which notes? A list of their ids")
    for key in dict.fromkeys(notes):
        _note(m, key)
        m.draft.remove("notes", key)


def _note(m: ChangeContext, key: Any) -> NoteRecord:
    if not isinstance(key, str) or key not in m.job.rows.notes:
        raise JobError(f"there is no note '{key}'")
    return m.job.rows.notes[key]


# The order of work


@change
def order(
    m: ChangeContext, school: str | None = None, sequence: list[str] | None = None, first: list[str] | None = None
) -> None:
    """Orders the work by a school, or by the inker's own sequence of steps (ids); first: parts, by name, that come
    before all others. A school that is chosen lets the own sequence go. Raises JobError."""
    row = order_row(m.job)
    if school is not None:
        row = _made(lambda: replace(row, school=school, sequence=()))
    if sequence is not None:
        row = _made(lambda: replace(row, sequence=checked_ids(sequence)))
    if first is not None:
        keys = tuple(str(m.part_named(str(name))) for name in first)
        row = _made(lambda: replace(row, first=keys))
    m.draft.put(ORDER, row)


@change
def step_aside(m: ChangeContext, step: str, aside: bool = True) -> None:
    """Sets a step of the work aside, or takes it up again. Raises JobError."""
    row = order_row(m.job)
    left = tuple(key for key in row.aside if key != step)
    m.draft.put(ORDER, replace(row, aside=(*left, str(step)) if flag(aside, "aside") else left))


@change
def step_split(m: ChangeContext, step: str, axis: str | None = None, at: float | None = None) -> None:
    """Parts a step of the work in two, at `at` mm along an axis, 'x' or 'y'; without them it is whole again. Raises
    JobError."""
    row = order_row(m.job)
    splits = [one for one in row.splits if one[0] != step]
    if axis is not None:
        if axis not in ("x", "y"):
            raise JobError("a step is parted along 'x' or 'y', at a place in mm")
        splits.append((str(step), axis, number(at, "where a step is parted, mm")))
    known = tuple(f"{step}/{half}" for half in HALVES)
    sequence = tuple(key for key in row.sequence if key not in known)
    m.draft.put(ORDER, _made(lambda: replace(row, splits=tuple(splits), sequence=sequence)))


@change
def schedule(m: ChangeContext, deadline: Any = "as it is", hours: Any = None, days: list[int] | None = None) -> None:
    """Sets until when the job is to be done (ISO 8601 with its offset from UTC, None for no deadline), hours of work on
    a working day, and which days of the week these are (0 is Monday). Raises JobError."""
    row = schedule_row(m.job)
    if deadline != "as it is":
        row = _made(lambda: replace(row, deadline=deadline))
    if hours is not None:
        row = _made(lambda: replace(row, hours=float(hours)))
    if days is not None:
        row = _made(lambda: replace(row, days=checked_days(days)))
    m.draft.put(SCHEDULE, row)


def _made(make: Any) -> Any:
    try:
        return make()
    except (StrideError, TypeError, ValueError) as fault:
        raise JobError(f"that cannot be: {fault}") from None
