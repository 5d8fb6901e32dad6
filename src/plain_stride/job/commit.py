"""What goes to a job's file in one transaction."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime

from plain_stride.job.history import RowChange, Step
from plain_stride.job.kept import Kept


@dataclass(frozen=True)
class FitRow:
    """A kept result of steadying and fitting: a cache. leeway: a key of settings; curve, track, figures: float64."""

    pull: str
    school: str
    leeway: str
    version: int
    curve: bytes
    track: bytes
    figures: bytes


@dataclass(frozen=True)
class Commit:
    """A change: its rows, what of the state it sets, the step it makes, rows that never change, kept results."""

    rows: tuple[RowChange, ...]
    state: dict[str, str]
    step: Step | None = None
    kept: tuple[Kept, ...] = ()
    fits: tuple[FitRow, ...] = field(default=())


@dataclass(frozen=True)
class Forgetting:
    """What goes for good when the history begins at step `first`: steps, marks by name, and rows that never change."""

    first: int
    steps: frozenset[int]
    marks: tuple[str, ...]
    kept: Mapping[str, tuple[str, ...]]


@dataclass(frozen=True)
class Whole:
    """All of a job, to be written to a file of its own. state: head and next among it; sent: (made, name, step,
    manifest as JSON) of deliveries that were made."""

    rows: tuple[RowChange, ...]
    steps: tuple[Step, ...]
    marks: Mapping[str, int]
    state: dict[str, str]
    kept: tuple[Kept, ...]
    sent: tuple[tuple[str, str, int, str], ...] = ()


def now() -> str:
    """The time as the file keeps it: UTC to the second."""
    return as_kept(datetime.now(UTC))


def as_kept(time: datetime) -> str:
    """A time, with its zone, as the file keeps it."""
    return time.astimezone(UTC).isoformat(timespec="seconds")
