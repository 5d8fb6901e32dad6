"""Rows of a job that belong to its handing over: inks, finishes, flats, deliveries, and what is set for all of them."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, ClassVar

from plain_stride.colour import checked_colour
from plain_stride.errors import StrideError
from plain_stride.finish.passes import Pass, pass_from_row
from plain_stride.form.roles import ROLES
from plain_stride.job.record_fields import Record, RecordError, json_field, numbers, real_field, text_field, wanted

Points = tuple[tuple[float, float], ...]
COLOUR, CUT = FLAT_KINDS = ("colour", "cut")
MOST_PLACES = 5000
MOST_BRIDGE_MM, MOST_SPREAD_MM, MOST_STEP = 20.0, 5.0, 100.0
HAND_OVER = "hand-over"


def _checked(make: Callable[[], object]) -> None:
    """What a row stands for can be made. Raises RecordError with its words."""
    try:
        make()
    except StrideError as fault:
        raise RecordError(str(fault)) from None


def _texts(value: Any) -> tuple[str, ...]:
    wanted(isinstance(value, list) and all(isinstance(one, str) for one in value), "its texts")
    return tuple(value)


def _points(value: Any) -> Points:
    wanted(isinstance(value, list) and len(value) <= MOST_PLACES, "its places")
    pairs = (numbers(point, 2) for point in value)
    return tuple((x, y) for x, y in pairs)


def _bounds(value: Any) -> tuple[tuple[str, ...], ...]:
    wanted(isinstance(value, list), "its bounds")
    return tuple(map(_texts, value))


def _object(value: Any) -> dict[str, Any]:
    wanted(isinstance(value, dict) and all(isinstance(key, str) for key in value), "what it was told")
    return dict(value)


@dataclass(frozen=True, kw_only=True)
class InkRecord(Record):
    """A named colour. colour: #rrggbb; roles: of lines in black parts that it is laid on, where no line and no part
    has one of its own."""

    table: ClassVar[str] = "inks"
    name: str = text_field()
    colour: str = text_field()
    roles: tuple[str, ...] = json_field(_texts, ())

    def __post_init__(self) -> None:
        _checked(lambda: checked_colour(self.colour))
        wanted(self.colour == checked_colour(self.colour), "its colour")
        wanted(set(self.roles) <= set(ROLES), "its roles")


@dataclass(frozen=True, kw_only=True)
class FinishRecord(Record):
    """A pass over the final art. place: smaller is done first; told: see `finish.passes`."""

    table: ClassVar[str] = "finishes"
    place: float = real_field()
    told: Pass = json_field(pass_from_row, encode=Pass.as_row)


@dataclass(frozen=True, kw_only=True)
class FlatRecord(Record):
    """What the inker says of the flats map. A colour: the areas that hold `places` (mm) are one, of a colour, and of a
    part where `part` names one (its key); bounds: of each place, the lines round its area then, by which it is found
    again when lines move. A cut: `places` are a line that parts areas."""

    table: ClassVar[str] = "flats"
    kind: str = text_field()
    places: Points = json_field(_points)
    bounds: tuple[tuple[str, ...], ...] = json_field(_bounds, ())
    colour: str | None = text_field(None, nullable=True)
    part: str | None = text_field(None, nullable=True)

    def __post_init__(self) -> None:
        wanted(self.kind in FLAT_KINDS and len(self.places) >= (2 if self.kind == CUT else 1), "its kind or places")
        wanted(self.kind == CUT or len(self.bounds) == len(self.places), "its bounds")
        if self.colour is not None:
            _checked(lambda: checked_colour(self.colour))


@dataclass(frozen=True, kw_only=True)
class DeliveryRecord(Record):
    """A delivery that is kept. told: as JSON has it, see `finish.delivery`."""

    table: ClassVar[str] = "deliveries"
    name: str = text_field()
    told: dict[str, Any] = json_field(_object)


@dataclass(frozen=True, kw_only=True)
class HandOverRecord(Record):
    """The one row of what is set for all. bridge: mm of a gap that areas do not leak through; spread: mm that areas
    reach under lines beyond where they meet; step: of L* by which a line is darker than the flat beside it."""

    table: ClassVar[str] = "hand_over"
    bridge: float = real_field(1.0)
    spread: float = real_field(0.2)
    step: float = real_field(20.0)

    def __post_init__(self) -> None:
        wanted(0.0 <= self.bridge <= MOST_BRIDGE_MM, "its bridged gap")
        wanted(0.0 <= self.spread <= MOST_SPREAD_MM and 0.0 < self.step <= MOST_STEP, "its spread or step")
