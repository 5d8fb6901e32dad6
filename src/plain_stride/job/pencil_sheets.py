"""The sheets of pencils of a job as pictures: placed, cleaned, and merged into the one that is read."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.errors import StrideError
from plain_stride.job.job import Job
from plain_stride.job.pencil_records import FINAL_ART, PencilRecord
from plain_stride.pencils.cleaning import cleaned
from plain_stride.pencils.pencil_passes import drawn_passes
from plain_stride.pencils.placing import UNIT, Placing, homography, mapped, warped
from plain_stride.pencils.read.flat import lessened

SCANS = ("rough", "clean-up", "layout", "reference", FINAL_ART)
PASSES_PER_MM = 12.0
"""Pixels a mm at which pencil passes are read where there is no scan under them."""

MARK, LEAST_MARKS = 24.0, 1e-4
"""Darker than the paper by so much is pencil; with less of it than that the scan is blank."""


@dataclass(frozen=True, eq=False)
class Raster:
    """darkness uint8 (h, w); place (x, y, w, h) mm: the upright rectangle on the sheet that it fills."""

    dark: np.ndarray
    place: tuple[float, float, float, float]

    @property
    def per_mm(self) -> float:
        return self.dark.shape[1] / self.place[2]


def prepared(data: bytes, row: PencilRecord) -> np.ndarray:
    """The darkness (uint8 (h, w)) of a scan, cleaned and squared up, filling its upright rectangle."""
    dark = cleaned(data, row.cleaning, row.per_mm)
    return dark if row.corners is None else squared(dark, row.placing)


def squared(dark: np.ndarray, placing: Placing) -> np.ndarray:
    """A photo drawn anew with its four corners in those of the rectangle. corners: (4, 2) shares of its width and
    height."""
    h, w = dark.shape
    assert placing.corners is not None
    across = max(float(np.hypot(*(np.subtract(a, b) * (w, h)))) for a, b in _level_sides(placing.corners))
    size = (max(8, round(across)), max(8, round(across * placing.h / placing.w)))
    new = UNIT * size
    return warped(dark, size, homography(new, np.array(placing.corners) * (w, h)))


def _level_sides(corners: tuple[tuple[float, float], ...]) -> tuple[Any, Any]:
    a, b, c, d = corners
    return (a, b), (d, c)


def strokes_of(job: Job, sheet: str) -> list[np.ndarray]:
    """The strokes (n, 3) of a sheet of passes, in the order they were drawn."""
    rows = [row for row in job.rows.passes.values() if row.sheet == sheet]
    return [np.array(row.points) for row in sorted(rows, key=lambda row: row.place)]


def sheets_to_read(job: Job) -> tuple[PencilRecord | None, list[str]]:
    """(the row of the scan that is read or None, keys of the shown sheets of passes over it): the uppermost shown
    clean-up, else the uppermost shown rough. Raises StrideError where nothing is shown."""
    shown = [(key, row) for key, row in job.pencils() if not row.hidden]
    passes = [key for key, row in shown if row.places_passes and strokes_of(job, key)]
    for kind in ("clean-up", "rough"):
        scans = [row for _, row in shown if row.kind == kind]
        if scans:
            return scans[-1], passes
    if passes:
        return None, passes
    if any(row.kind in ("rough", "clean-up", "passes") for _, row in job.pencils()):
        raise StrideError("all pencils of this job are hidden: show those that should be read")
    raise StrideError("this job has no pencils: place a scan first")


def raster_to_read(job: Job) -> Raster:
    """The darkness of the pencils that are read. Raises StrideError."""
    row, passes = sheets_to_read(job)
    if row is not None:
        placing = row.placing
        # What is read is read at a working size: nothing later sees a scan of hundreds of megapixels.
        dark = lessened(prepared(job.image(str(row.image)), row), row.per_mm)
        raster = Raster(dark, (placing.x, placing.y, placing.w, placing.h))
        if placing.turn or placing.crop is not None:
            raster = _upright(dark, placing)
    else:
        w, h = job.page.size_mm
        size = (max(24, round(w * PASSES_PER_MM)), max(24, round(h * PASSES_PER_MM)))
        raster = Raster(np.zeros(size[::-1], np.uint8), (0.0, 0.0, w, h))
    return _with_passes(raster, [stroke for key in passes for stroke in strokes_of(job, key)])


def _upright(dark: np.ndarray, placing: Placing) -> Raster:
    """A turned or cropped sheet drawn anew on the upright box of what is kept of it."""
    corners = placing.outline()
    (x0, y0), (x1, y1) = corners.min(axis=0), corners.max(axis=0)
    per_mm = dark.shape[1] / placing.w
    size = (max(24, round((x1 - x0) * per_mm)), max(24, round((y1 - y0) * per_mm)))
    place = (float(x0), float(y0), float(x1 - x0), float(y1 - y0))
    new = UNIT * size
    old = placing.from_sheet(UNIT * place[2:] + place[:2]) * (dark.shape[1], dark.shape[0])
    out = warped(dark, size, homography(new, old))
    if placing.crop is not None:
        kept = np.full(dark.shape, 255, np.uint8)
        left, top, right, bottom = placing.crop
        h, w = dark.shape
        kept[: round(top * h)] = 0
        kept[round(bottom * h) :] = 0
        kept[:, : round(left * w)] = 0
        kept[:, round(right * w) :] = 0
        # Beyond a crop there is paper, as light as what is kept of it.
        paper = np.uint8(np.percentile(out[::8, ::8], 30))
        out = np.where(warped(kept, size, homography(new, old)) > 127, out, paper)
    return Raster(out, place)


def _with_passes(raster: Raster, strokes: list[np.ndarray]) -> Raster:
    if not strokes:
        return raster
    h, w = raster.dark.shape
    own = drawn_passes(strokes, raster.place[:2], (w, h), raster.per_mm)
    # As dark as the scan's own pencil: beside firmer lines it would be taken for construction.
    paper = float(np.percentile(raster.dark[::4, ::4], 50))
    marks = raster.dark[raster.dark > paper + MARK]
    firm = float(np.percentile(marks, 90)) if marks.size > LEAST_MARKS * raster.dark.size else 255.0
    return Raster(np.maximum(raster.dark, (own * (firm / 255.0)).astype(np.uint8)), raster.place)


def picture_to_sheet(row: PencilRecord, shares: np.ndarray) -> np.ndarray:
    """mm on the sheet of places (n, 2) in shares of a scan's own sides, however it is squared up and turned."""
    placing = row.placing
    if placing.corners is None:
        return placing.to_sheet(shares)
    return placing.to_sheet(mapped(homography(np.array(placing.corners), UNIT), np.asarray(shares, float)))


def sheet_to_picture(row: PencilRecord, points: np.ndarray) -> np.ndarray:
    """Shares of a scan's own sides of places (n, 2) in mm on the sheet."""
    placing = row.placing
    return placing.picture_place(placing.from_sheet(points))
