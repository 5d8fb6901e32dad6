"""Pencils unrolled on the strip: the passes of an undecided place over each other."""

from dataclasses import dataclass

import numpy as np

from plain_stride.errors import StrideError
from plain_stride.job.job import Job
from plain_stride.job.pencil_sheets import Raster, raster_to_read
from plain_stride.pencils.read.reading import Reading
from plain_stride.pencils.read.undecided import Place
from plain_stride.pencils.unroll import HALF_MM, stretch_near, unrolled


@dataclass(frozen=True, eq=False)
class StripPicture:
    """dark: uint8 (rows, columns), the left side uppermost; long, half: mm along, and to each side."""

    title: str
    facts: tuple[str, ...]
    dark: np.ndarray
    long: float
    half: float


_last: list[tuple[Job, int, Raster]] = []
"""The pencils that were unrolled last, kept for the next place of them."""


def picture_of_place(job: Job, reading: Reading, place: Place, title: str, words: str) -> StripPicture | None:
    """The pencils along the line that runs through a place; None where there is none."""
    points = stretch_near([line.points for line in reading.lines], place.x, place.y, place.w, place.h)
    if points is None or len(points) < 4:
        return None
    try:
        raster = _raster(job)
    except StrideError:
        return None
    x, y, w, h = raster.place
    rows, columns = raster.dark.shape

    def to_pixels(at: np.ndarray) -> np.ndarray:
        out: np.ndarray = (at - (x, y)) * (columns / w, rows / h)
        return out

    half = max(HALF_MM, min(place.measured, 6.0))
    long = float(np.hypot(*np.diff(points, axis=0).T).sum())
    size = f"{place.w:.0f} × {place.h:.0f} mm"
    return StripPicture(title, (words, size), unrolled(raster.dark, to_pixels, points, half), long, half)


def _raster(job: Job) -> Raster:
    if not _last or _last[0][0] is not job or _last[0][1] != job.version:
        _last[:] = [(job, job.version, raster_to_read(job))]
    return _last[0][2]
