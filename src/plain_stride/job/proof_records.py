"""Rows of a job that belong to its proof: what is meant so, house manners, remarks."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, ClassVar

from plain_stride.errors import StrideError
from plain_stride.job.record_fields import (
    Record,
    RecordError,
    flag_field,
    json_field,
    numbers,
    real_field,
    text_field,
    wanted,
)
from plain_stride.proof.intent import Meant
from plain_stride.proof.limits import Manners, manners_from_row
from plain_stride.proof.remarks import Remark, Strokes


def _texts(value: Any) -> tuple[str, ...]:
    wanted(isinstance(value, list) and all(isinstance(one, str) for one in value), "its texts")
    return tuple(value)


def _strokes(value: Any) -> Strokes:
    wanted(isinstance(value, list) and all(isinstance(one, list) for one in value), "its strokes")
    return tuple(tuple(_sample(point) for point in stroke) for stroke in value)


def _sample(value: Any) -> tuple[float, float, float]:
    x, y, pressure = numbers(value, 3)
    return x, y, min(max(pressure, 0.0), 1.0)


def _checked(make: Callable[[], object]) -> None:
    """What a row stands for can be made. Raises RecordError with its words."""
    try:
        make()
    except StrideError as fault:
        raise RecordError(str(fault)) from None


@dataclass(frozen=True, kw_only=True)
class MeantRecord(Record):
    """What the inker says is meant so: see `proof.intent.Meant`. x, y: mm."""

    table: ClassVar[str] = "meant"
    scope: str = text_field()
    kind: str = text_field("")
    ink: tuple[str, ...] = json_field(_texts, ())
    x_mm: float = real_field(0.0)
    y_mm: float = real_field(0.0)
    measured: float = real_field(0.0)
    reason: str = text_field("")

    def __post_init__(self) -> None:
        _checked(self.meant)

    def meant(self) -> Meant:
        """As the proof has it."""
        return Meant(self.scope, self.kind, self.ink, (self.x_mm, self.y_mm), self.measured, self.reason)


@dataclass(frozen=True, kw_only=True)
class MannersRecord(Record):
    """The one row of house manners: limits and severities that are not the usual ones, by kind."""

    table: ClassVar[str] = "manners"
    manners: Manners = json_field(manners_from_row, encode=Manners.as_row)


@dataclass(frozen=True, kw_only=True)
class RemarkRecord(Record):
    """A red remark of the reviewer's own: see `proof.remarks.Remark`. x, y: mm."""

    table: ClassVar[str] = "remarks"
    x_mm: float = real_field()
    y_mm: float = real_field()
    words: str = text_field("")
    strokes: Strokes = json_field(_strokes, ())
    author: str = text_field("")
    answer: str = text_field("")
    done: bool = flag_field(False)

    def __post_init__(self) -> None:
        _checked(self.remark)

    def remark(self) -> Remark:
        """As the proof has it."""
        return Remark((self.x_mm, self.y_mm), self.words, self.strokes, self.author, self.answer, self.done)
