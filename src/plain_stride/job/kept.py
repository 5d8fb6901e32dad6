"""Rows that never change once written, as typed records: pulls, forms, outlines, scans."""

import base64
import json
import math
from collections.abc import Callable
from dataclasses import dataclass, fields
from functools import lru_cache
from typing import Any, ClassVar, Self

import numpy as np

from plain_stride import plain_json
from plain_stride.errors import StrideError
from plain_stride.hand.nib import Nib, nib_from_row
from plain_stride.hand.pull import KEPT, Pull, View
from plain_stride.job.errors import DamagedError
from plain_stride.lines.black import RULES, Black, packed, unpacked
from plain_stride.lines.given import Form, GivenError
from plain_stride.lines.profile import Widths
from plain_stride.lines.shape import FixedPath
from plain_stride.measure import FARTHEST_MM


@dataclass(frozen=True)
class Kept:
    """What all of them have in common. Those that are held in memory have `made`, what they stand for, and `too_far`,
    whether they lie beyond what any way in lets by today."""

    table: ClassVar[str]
    id: str

    @classmethod
    def names(cls) -> tuple[str, ...]:
        """The columns, in the order of the file."""
        return tuple(f.name for f in fields(cls))

    def values(self) -> tuple[object, ...]:
        return tuple(getattr(self, name) for name in self.names())

    def check(self) -> None:
        """Raises StrideError, ValueError or TypeError where it stands for nothing.

        Whether places lie too far out is not looked at: such lines are set apart (`Blobs.unfit`).
        """

    def as_plain(self) -> dict[str, Any]:
        """The row without its id as JSON data, bytes as text."""
        values = zip(self.names()[1:], self.values()[1:], strict=True)
        return {c: base64.b64encode(v).decode("ascii") if isinstance(v, bytes) else v for c, v in values}

    @classmethod
    def from_plain(cls, key: str, data: Any) -> Self:
        """The row that `as_plain` gave. Raises KeyError, TypeError, ValueError or a StrideError."""
        kinds = {f.name: f.type for f in fields(cls)}
        values = {name: base64.b64decode(data[name], validate=True) if kinds[name] in (bytes, "bytes") else data[name]
                  for name in cls.names()[1:]}  # fmt: skip
        row = cls(id=key, **values)
        row.check()
        return row


def _real(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value) and abs(value) < 1e15


def _wanted(holds: bool, what: str) -> None:
    if not holds:
        raise DamagedError(what)


def _table(data: object, kind: str, columns: int) -> np.ndarray:
    _wanted(isinstance(data, bytes) and len(data) > 0, "it is empty")
    out: np.ndarray = np.frombuffer(data, kind).reshape(-1, columns)  # type: ignore[call-overload]
    return out


def _json_of(text: object) -> Any:
    try:
        return plain_json.loads(str(text))
    except (ValueError, RecursionError):
        raise DamagedError("a column holds no JSON") from None


@lru_cache(4096)
def _nib_of(text: str) -> Nib:
    """The nib that JSON says: thousands of pulls are drawn with a few."""
    return nib_from_row(_json_of(text))


def _far(places: np.ndarray) -> bool:
    return bool(np.abs(places).max(initial=0.0) > FARTHEST_MM)


@dataclass(frozen=True)
class PullRow(Kept):
    """A pull. samples: float32 rows of x, y, pressure, time, tilt; nib: JSON; scale, turn, mirror, glass: its view."""

    table: ClassVar[str] = "pulls"
    id: str
    samples: bytes
    nib: str
    scale: float
    turn: float
    mirror: int
    device: str
    clock: str
    glass_x: float | None
    glass_y: float | None

    def check(self) -> None:
        samples = _table(self.samples, KEPT, 5)
        _wanted(bool(np.isfinite(samples[:, :4]).all()), "its samples are no numbers")
        _nib_of(self.nib)
        _wanted(_real(self.scale) and self.scale > 0.0 and _real(self.turn), "its view")
        _wanted(isinstance(self.device, str) and isinstance(self.clock, str), "its device")
        _wanted(all(v is None or _real(v) for v in (self.glass_x, self.glass_y)), "its view")

    def made(self) -> Pull:
        samples = np.frombuffer(self.samples, KEPT).reshape(-1, 5).astype(float)
        origin = (self.glass_x, self.glass_y) if self.glass_x is not None and self.glass_y is not None else None
        view = View(self.scale, self.turn, bool(self.mirror), origin)
        return Pull(samples, _nib_of(self.nib), view, self.device, self.clock)

    @property
    def too_far(self) -> bool:
        return _far(np.frombuffer(self.samples, KEPT).reshape(-1, 5)[:, :2])


def pull_row(key: str, pull: Pull) -> PullRow:
    x, y = pull.view.origin if pull.view.origin is not None else (None, None)
    return PullRow(key, pull.samples.astype(KEPT).tobytes(), json.dumps(pull.nib.as_row()), pull.view.scale,
                   pull.view.turn, int(pull.view.mirror), pull.device, pull.clock, x, y)  # fmt: skip


@dataclass(frozen=True)
class FormRow(Kept):
    """A curve with widths. curve: float64 rows of 8; widths: float64 rows of arc length, left, right."""

    table: ClassVar[str] = "forms"
    id: str
    curve: bytes
    closed: int
    widths: bytes

    def check(self) -> None:
        curve, widths = _table(self.curve, "<f8", 8), _table(self.widths, "<f8", 3)
        _wanted(bool(np.isfinite(curve).all() and np.isfinite(widths).all()), "it holds what are no numbers")
        _wanted(bool((np.diff(widths[:, 0]) >= 0.0).all() and (widths >= 0.0).all()), "its widths")
        _wanted(self.closed in (0, 1), "whether it is closed")

    def made(self) -> Form:
        widths = np.frombuffer(self.widths, "<f8").reshape(-1, 3)
        curve = np.frombuffer(self.curve, "<f8").reshape(-1, 4, 2)
        return Form(curve, bool(self.closed), Widths(*widths.T))

    @property
    def too_far(self) -> bool:
        try:
            self.made()
        except GivenError:
            return True
        return False


def form_row(key: str, form: Form) -> FormRow:
    widths = np.column_stack([form.widths.s, form.widths.left, form.widths.right])
    return FormRow(key, form.curve.astype("<f8").tobytes(), int(form.closed), widths.astype("<f8").tobytes())


@dataclass(frozen=True)
class PathRow(Kept):
    """A path that stands instead of a pulled one. curve: float64 rows of 8; own: float64, see `FixedPath`."""

    table: ClassVar[str] = "paths"
    id: str
    curve: bytes
    closed: int
    own: bytes

    def check(self) -> None:
        curve, own = _table(self.curve, "<f8", 8), _table(self.own, "<f8", 1)
        _wanted(bool(np.isfinite(curve).all() and np.isfinite(own).all()), "it holds what are no numbers")
        _wanted(len(own) > 1 and bool((np.diff(own[:, 0]) >= 0.0).all()) and own[-1, 0] > own[0, 0], "its parameters")
        _wanted(self.closed in (0, 1), "whether it is closed")

    def made(self) -> FixedPath:
        curve = np.frombuffer(self.curve, "<f8").reshape(-1, 4, 2)
        return FixedPath(curve, bool(self.closed), np.frombuffer(self.own, "<f8"))

    @property
    def too_far(self) -> bool:
        return _far(np.frombuffer(self.curve, "<f8"))


def path_row(key: str, path: FixedPath) -> PathRow:
    return PathRow(key, path.curve.astype("<f8").tobytes(), int(path.closed), path.source_t.astype("<f8").tobytes())


@dataclass(frozen=True)
class OutlineRow(Kept):
    """The outlines of a black. counts: JSON, cubics of each; rule: evenodd or nonzero."""

    table: ClassVar[str] = "outlines"
    id: str
    curve: bytes
    counts: str
    rule: str

    def check(self) -> None:
        curve, counts = _table(self.curve, "<f8", 8), _json_of(self.counts)
        _wanted(bool(np.isfinite(curve).all()), "it holds what are no numbers")
        whole = isinstance(counts, list) and all(isinstance(n, int) and n > 0 for n in counts)
        _wanted(whole and sum(counts) == len(curve) and self.rule in RULES, "its outlines")

    def made(self) -> Black:
        return unpacked(self.curve, json.loads(self.counts), self.rule)

    @property
    def too_far(self) -> bool:
        return _far(np.frombuffer(self.curve, "<f8"))


def outline_row(key: str, black: Black) -> OutlineRow:
    curve, counts = packed(black)
    return OutlineRow(key, curve, json.dumps(counts), black.rule)


@dataclass(frozen=True)
class ImageRow(Kept):
    """A scan's file as it came; id: its SHA-256."""

    table: ClassVar[str] = "images"
    id: str
    bytes: bytes


KEPT_ROWS: dict[str, type[Kept]] = {kind.table: kind for kind in (PullRow, FormRow, PathRow, OutlineRow, ImageRow)}


def checked_rows(table: str, rows: list[tuple[Any, ...]]) -> dict[str, Any]:
    """Rows of a table by id, as typed records. Raises DamagedError."""
    out = {}
    for values in rows:
        row: Any = KEPT_ROWS[table](*values)
        _guarded(table, row.id, row.check)
        out[row.id] = row
    return out


def _guarded(table: str, key: object, check: Callable[[], None]) -> None:
    try:
        check()
    except (StrideError, KeyError, TypeError, ValueError, OverflowError) as fault:
        raise DamagedError(f"row '{str(key)[:40]}' of '{table}': {fault}") from None
