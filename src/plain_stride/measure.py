"""Units: mm, in, pt, px, dpi, and what an eye can see. All geometry of a job is in mm of the finished piece."""

import math
import re

from plain_stride.errors import StrideError

MM_PER_INCH = 25.4
"""Exact by definition of the inch (1959)."""

LADDER = (0.13, 0.18, 0.25, 0.35, 0.5, 0.7, 1.0, 1.4, 2.0)
"""Line widths of ISO 128 in mm; each step is about sqrt 2."""

FARTHEST_MM, WIDEST_MM, LONGEST_MM = 100_000.0, 1000.0, 1_000_000.0
"""How far from the board a place may lie, half of how wide a line may be, how long one: whatever way it came in by."""
MAX_SIDE_MM = 5000.0
MAX_DPI = 4800.0
MAX_PIXELS = 2_000_000_000

_SIZE = re.compile(r"^\s*([\d.]+)\s*[x×]\s*([\d.]+)\s*(mm|cm|in|px)\s*$", re.IGNORECASE)
_UNIT_MM = {"mm": 1.0, "cm": 10.0, "in": MM_PER_INCH}


class MeasureError(StrideError):
    """A size, a resolution or a length that cannot be used."""


def px_from_mm(mm: float, dpi: float) -> float:
    """Pixels (not rounded) that `mm` takes at `dpi`."""
    return mm / MM_PER_INCH * dpi


def mm_from_px(px: float, dpi: float) -> float:
    """mm of so many pixels at a resolution in dpi."""
    return px * MM_PER_INCH / dpi


def pt_from_mm(mm: float) -> float:
    """Points, of 1/72 in each."""
    return mm / MM_PER_INCH * 72.0


def page_pixels(size_mm: tuple[float, float], dpi: float) -> tuple[int, int]:
    """Whole pixels of a page: each side rounded to the nearest, at least 1."""
    w, h = (max(1, math.floor(px_from_mm(side, dpi) + 0.5)) for side in size_mm)
    return w, h


def thinnest_visible_mm(distance_mm: float) -> float:
    """Width that subtends one minute of arc at `distance_mm`, the usual limit of a normal eye."""
    return distance_mm * math.tan(math.radians(1.0 / 60.0))


def parse_size(text: str, dpi: float | None = None) -> tuple[float, float]:
    """(width, height) in mm from '120x90mm', '12x9cm' or '8x10in'; at a known dpi from '1417x1063px' as well.

    Raises MeasureError when the text is not such a size, or a side is not above 0 and at most 5,000 mm.
    """
    match = _SIZE.match(text.replace(",", "."))
    if not match:
        raise MeasureError(f"'{text}' is not a size: write it like 120x90mm or 8x10in")
    factor = _unit_mm(match[3], dpi)
    try:
        w, h = float(match[1]) * factor, float(match[2]) * factor
    except ValueError:
        raise MeasureError(f"'{text}' is not a size: write it like 120x90mm or 8x10in") from None
    return check_size((round(w, 6), round(h, 6)))


def check_size(size_mm: tuple[float, float]) -> tuple[float, float]:
    """Raises MeasureError for a side, mm, that no board has."""
    for side in size_mm:
        if not (math.isfinite(side) and 0.0 < side <= MAX_SIDE_MM):
            raise MeasureError(f"a side of {side:g} mm is not possible: above 0 and at most {MAX_SIDE_MM:g} mm")
    return size_mm


def check_dpi(dpi: float) -> float:
    """Raises MeasureError for a resolution, dpi, that no export has."""
    if not (math.isfinite(dpi) and 1.0 <= dpi <= MAX_DPI):
        raise MeasureError(f"{dpi:g} dpi is not possible: from 1 to {MAX_DPI:g}")
    return dpi


def check_page(size_mm: tuple[float, float], dpi: float) -> None:
    """Raises MeasureError when the page would have more pixels than an export can hold."""
    w, h = page_pixels(check_size(size_mm), check_dpi(dpi))
    if w * h > MAX_PIXELS:
        raise MeasureError(f"{w:,} x {h:,} pixels are too many for one page: lower the size or the dpi")


def parse_length_mm(text: str, dpi: float | None = None) -> float:
    """A length typed by hand in mm: '0.3', '0,3', '0.3 mm', '0.012 in'; at a known dpi '1417 px' as well. Raises
    MeasureError."""
    match = re.match(r"^\s*(-?[\d]*[.,]?\d+)\s*(mm|cm|in|px)?\s*$", text, re.IGNORECASE)
    if not match:
        raise MeasureError(f"'{text.strip()}' is not a length: write it like 0.3 mm or 0.012 in")
    return float(match[1].replace(",", ".")) * _unit_mm(match[2] or "mm", dpi)


def parse_times(text: str) -> float:
    """How many times as large, typed by hand: '2', '1,5 times' or '200 %'. No unit. Raises MeasureError."""
    match = re.match(r"^\s*(\d+(?:[.,]\d+)?)\s*(%|times|x)?\s*$", text, re.IGNORECASE)
    if not match:
        raise MeasureError(f"'{text.strip()}' is not an enlargement: write it like 2 or 200 %")
    return float(match[1].replace(",", ".")) / (100.0 if match[2] == "%" else 1.0)


def _unit_mm(unit: str, dpi: float | None) -> float:
    """mm of one of a unit."""
    if unit.lower() != "px":
        return _UNIT_MM[unit.lower()]
    if dpi is None:
        raise MeasureError("pixels are no length here: write it in mm, cm or in")
    return mm_from_px(1.0, check_dpi(dpi))
