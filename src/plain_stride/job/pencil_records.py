"""Rows of a job that belong to its pencils: sheets, the inker's own passes, areas marked on them."""

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from plain_stride.job.record_fields import (
    Points,
    Record,
    RecordError,
    column_field,
    flag_field,
    json_field,
    points_of,
    real_field,
    text_field,
    wanted,
)
from plain_stride.pencils.cleaning import Cleaning, cleaning_from_row
from plain_stride.pencils.pencil_passes import checked_stroke
from plain_stride.pencils.placing import Placing, checked_corners, checked_crop

FINAL_ART = "final art"
SHEET_KINDS = ("rough", "clean-up", "layout", "passes", "reference", FINAL_ART)
AREA_KINDS = NO_NEED, FILL, AGAIN, TO_HATCH = ("no-need", "fill", "again", "hatch")
MOST_OUTLINE = 5000


def _corners(value: Any) -> Points:
    checked_corners(value)
    return points_of(value)


def _crop(value: Any) -> tuple[float, ...]:
    return tuple(checked_crop(value))


@dataclass(frozen=True, kw_only=True)
class PencilRecord(Record):
    """A sheet of pencils. image: key of the scan, None for a sheet of passes; x, y, w, h: mm; px_w, px_h: the scan's
    own size; fade 0..1; turn: degrees clockwise; corners, crop: see `Placing`."""

    table: ClassVar[str] = "pencils"
    name: str = text_field()
    image: str | None = text_field(None, nullable=True)
    x_mm: float = real_field()
    y_mm: float = real_field()
    w_mm: float = real_field()
    h_mm: float = real_field()
    px_w: int = column_field("int")
    px_h: int = column_field("int")
    fade: float = real_field()
    tint: str = text_field()
    hidden: bool = flag_field(False)
    place: float = real_field()
    kind: str = text_field("rough", since=4)
    turn: float = real_field(0.0, since=4)
    corners: Points | None = json_field(_corners, None, since=4, nullable=True)
    crop: tuple[float, float, float, float] | None = json_field(_crop, None, since=4, nullable=True)
    locked: bool = flag_field(False, since=4)
    clean: Cleaning | None = json_field(cleaning_from_row, None, since=4, nullable=True, encode=Cleaning.as_row)

    def __post_init__(self) -> None:
        wanted(self.kind in SHEET_KINDS and (self.image is None) == (self.kind == "passes"), "its kind")
        wanted(0.0 <= self.fade <= 1.0 and self.w_mm > 0.0 and self.h_mm > 0.0, "its fade or size")
        wanted(0 <= self.px_w <= 10**6 and 0 <= self.px_h <= 10**6, "its pixels")

    @property
    def placing(self) -> Placing:
        return Placing(self.x_mm, self.y_mm, self.w_mm, self.h_mm, self.turn, self.corners, self.crop)

    @property
    def lies(self) -> tuple[str | None, str, Placing]:
        """What is seen where: while it is the same, what was read of the sheet lies where it was read."""
        return self.image, self.kind, self.placing

    @property
    def cleaning(self) -> Cleaning:
        return self.clean or Cleaning()

    @property
    def per_mm(self) -> float:
        """Pixels of the scan for a mm of the sheet."""
        return self.px_w / self.w_mm

    @property
    def places_passes(self) -> bool:
        """Whether it is a sheet of the inker's own pencil strokes."""
        return self.kind == "passes"


def _stroke(value: Any) -> tuple[tuple[float, ...], ...]:
    return tuple(map(tuple, checked_stroke(value).tolist()))


@dataclass(frozen=True, kw_only=True)
class PassRecord(Record):
    """A pencil stroke of the inker's own: (x mm, y mm, pressure) on a sheet."""

    table: ClassVar[str] = "passes"
    sheet: str = text_field()
    points: tuple[tuple[float, float, float], ...] = json_field(_stroke)
    place: float = real_field()


def checked_outline(outline: object) -> Points:
    """An outline of (x, y) mm, to a thousandth, of three points at least. Raises RecordError."""
    try:
        points = np.array(outline, float)
    except (TypeError, ValueError):
        points = np.zeros(0)
    if points.ndim != 2 or points.shape[1] != 2 or not 3 <= len(points) <= MOST_OUTLINE:
        raise RecordError(f"an area's outline is a list of 3 to {MOST_OUTLINE} [x, y] in mm")
    if not np.isfinite(points).all() or np.abs(points).max() > 1e5:
        raise RecordError("an area's outline lies far off the sheet")
    return tuple(map(tuple, np.round(points, 3).tolist()))


@dataclass(frozen=True, kw_only=True)
class AreaRecord(Record):
    """An area of the sheet that needs no ink, is to be filled black, or is to be drawn again; found: an X in the
    pencils told it."""

    table: ClassVar[str] = "areas"
    kind: str = text_field()
    outline: Points = json_field(checked_outline)
    found: bool = flag_field(False)

    def __post_init__(self) -> None:
        wanted(self.kind in AREA_KINDS, "its kind")
