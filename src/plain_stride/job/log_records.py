"""Rows of a job that belong to its planning and its log: notes, the order of work, until when it is to be done."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, ClassVar

from plain_stride.job.record_fields import Record, json_field, maybe_number, numbers, real_field, text_field, wanted
from plain_stride.order.steps import SCHOOLS, OwnOrder, Split
from plain_stride.weight.rule_book import RULES

ORDER, SCHEDULE = "order", "schedule"
MOST_WORDS, MOST_STEPS = 4000, 5000
WEEK = 7
Splits = tuple[tuple[str, str, float], ...]


def checked_ids(value: Any) -> tuple[str, ...]:
    wanted(isinstance(value, list) and len(value) <= MOST_STEPS and all(isinstance(v, str) for v in value), "its ids")
    return tuple(value)


def _splits(value: Any) -> Splits:
    wanted(isinstance(value, list) and len(value) <= MOST_STEPS, "its splits")
    out = []
    for told in value:
        wanted(isinstance(told, list) and len(told) == 3 and told[1] in ("x", "y"), "a split")
        out.append((str(told[0]), str(told[1]), numbers(told[2:], 1)[0]))
    return tuple(out)


def checked_days(value: Any) -> tuple[int, ...]:
    wanted(isinstance(value, list) and set(value) <= set(range(WEEK)), "its days")
    return tuple(sorted(set(value)))


@dataclass(frozen=True, kw_only=True)
class NoteRecord(Record):
    """Words to be found again. made: UTC; pinned to a place (mm), a line, a part (keys), a rule of the plan, or to
    nothing but the job."""

    table: ClassVar[str] = "notes"
    words: str = text_field()
    made: str = text_field()
    x_mm: float | None = real_field(None, nullable=True)
    y_mm: float | None = real_field(None, nullable=True)
    line: str | None = text_field(None, nullable=True)
    part: str | None = text_field(None, nullable=True)
    rule: str | None = text_field(None, nullable=True)

    def __post_init__(self) -> None:
        wanted(len(self.words.strip()) > 0 and len(self.words) <= MOST_WORDS, f"its words: 1 to {MOST_WORDS} letters")
        wanted((self.x_mm is None) == (self.y_mm is None), "its place")
        wanted(self.x_mm is None or all(maybe_number(v) is not None for v in (self.x_mm, self.y_mm)), "its place")
        wanted(self.rule is None or self.rule in RULES, f"its rule: {', '.join(RULES)}")
        wanted(_is_time(self.made), "its time")


@dataclass(frozen=True, kw_only=True)
class OrderRecord(Record):
    """The one row of the order of work: see `order.steps.OwnOrder`. splits: of a step's id, an
    axis and a place along it; first: keys of parts."""

    table: ClassVar[str] = "work_order"
    school: str = text_field("big to small")
    sequence: tuple[str, ...] = json_field(checked_ids, ())
    aside: tuple[str, ...] = json_field(checked_ids, ())
    splits: Splits = json_field(_splits, ())
    first: tuple[str, ...] = json_field(checked_ids, ())

    def __post_init__(self) -> None:
        wanted(self.school in SCHOOLS, f"its order: {', '.join(SCHOOLS)}")

    @property
    def own(self) -> OwnOrder:
        splits = {key: Split(axis, at) for key, axis, at in self.splits}
        return OwnOrder(self.school, self.sequence, self.aside, splits, self.first)


@dataclass(frozen=True, kw_only=True)
class ScheduleRecord(Record):
    """The one row of until when, and how much a day. deadline: ISO 8601 with its offset from UTC, None for none; hours:
    of work on a working day; days: of the week, 0 is Monday."""

    table: ClassVar[str] = "schedule"
    deadline: str | None = text_field(None, nullable=True)
    hours: float = real_field(6.0)
    days: tuple[int, ...] = json_field(checked_days, (0, 1, 2, 3, 4))

    def __post_init__(self) -> None:
        wanted(self.deadline is None or _is_time(self.deadline), "its deadline: a time with its offset from UTC")
        wanted(0.1 <= self.hours <= 24.0, "its hours a day: 0.1 to 24")
        wanted(len(self.days) > 0, "its days: one of the week at least")


def _is_time(text: str) -> bool:
    try:
        return datetime.fromisoformat(text).tzinfo is not None
    except ValueError:
        return False
