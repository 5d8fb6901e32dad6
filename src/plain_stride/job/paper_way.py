"""Paper on the way: pencils out in pale blue, the inked sheet back by its marks, squared up, the blue taken out."""

import io
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PIL import Image

from plain_stride.finish.blue_print import blue_pdf
from plain_stride.job.errors import JobError
from plain_stride.job.inks_in import inks_of
from plain_stride.job.job import Job
from plain_stride.job.pencil_sheets import raster_to_read
from plain_stride.job.reading import Wanted
from plain_stride.measure import MM_PER_INCH
from plain_stride.pencils.blue_out import without_blue
from plain_stride.pencils.picture import colours
from plain_stride.pencils.placing import mapped, warped
from plain_stride.pencils.register_marks import found_marks
from plain_stride.texts import counted

LEAST_DPI, LEAST_SIDE_PX, MOST_DPI = 300.0, 1000, 1200.0
"""Common practice of the trade: a scan that is final art has 300 dpi and 1,000 pixels a side at least."""
LEAST_TONE, PAPER_NOISE = 24.0, 6.0
"""Of 255: what pencils are darker than their paper at least; what paper differs by in itself."""


def blue_sheet(job: Job) -> bytes:
    """The PDF of the pencils that are shown. Raises StrideError where there are none."""
    raster = raster_to_read(job)
    return blue_pdf(f"{job.name}, to be inked", job.page.size_mm, _without_paper(raster.dark), raster.place)


def _without_paper(dark: np.ndarray) -> np.ndarray:
    """Pencils alone, the darkest of them full: the paper of a scan is not to be printed."""
    paper, full = np.percentile(dark[::4, ::4], (50.0, 99.8))
    if full - paper < LEAST_TONE:
        return dark
    return np.rint(np.clip((dark - paper - PAPER_NOISE) / (full - paper - PAPER_NOISE), 0.0, 1.0) * 255.0).astype(
        np.uint8
    )


@dataclass(frozen=True, eq=False)
class ScanBack:
    """png: grey of the finished sheet, ink alone, its dpi written in; words: what was found, and what it is fit for."""

    png: bytes
    dpi: float
    words: tuple[str, ...]


def scan_back(data: bytes, size_mm: tuple[float, float]) -> ScanBack:
    """A scan or photo of the inked sheet, on the finished size. Raises StrideError, saying which marks are missing."""
    rgb = np.asarray(colours(data))
    grey = np.asarray(Image.fromarray(rgb).convert("L"))
    marks = found_marks(grey, size_mm)
    middle = mapped(np.linalg.inv(marks.to_sheet), np.array([size_mm]) / 2.0)[0]
    steps = mapped(marks.to_sheet, middle + np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]]))
    per_mm = 1.0 / float(np.sqrt(abs(np.linalg.det(steps[1:] - steps[0]))))
    dpi = per_mm * MM_PER_INCH
    if not 20.0 <= dpi <= 10_000.0:
        raise JobError("the marks lie too near or too far apart for this board: scan the whole sheet")
    kept = min(dpi, MOST_DPI) / MM_PER_INCH
    size = (round(size_mm[0] * kept), round(size_mm[1] * kept))
    to_mm = np.array([[size_mm[0] / size[0], 0.0, 0.0], [0.0, size_mm[1] / size[1], 0.0], [0.0, 0.0, 1.0]])
    to_scan = np.linalg.inv(marks.to_sheet) @ to_mm
    planes = [warped(rgb[:, :, c], size, to_scan) for c in range(3)]
    dark = without_blue(np.dstack(planes))
    out = io.BytesIO()
    Image.fromarray(255 - dark).save(out, "PNG", dpi=(kept * MM_PER_INCH, kept * MM_PER_INCH))
    return ScanBack(out.getvalue(), kept * MM_PER_INCH, _words(dpi, size, marks.missing))


def _words(dpi: float, size: tuple[int, int], missing: tuple[str, ...]) -> tuple[str, ...]:
    out = [f"{counted(4 - len(missing), 'register mark')} found, {dpi:.0f} dpi on the sheet"]
    if missing:
        out.append(f"the {missing[0]} mark was not found: the sheet was taken to lie flat")
    if dpi < LEAST_DPI:
        out.append(f"{dpi:.0f} dpi are few for final art: {LEAST_DPI:.0f} are the usual floor, scan it finer")
    if min(size) < LEAST_SIDE_PX:
        out.append(f"its short side has {min(size):,} pixels: {LEAST_SIDE_PX:,} are the usual floor for final art")
    return tuple(out)


def back_changes(
    back: ScanBack, job: Job, final: bool, name: str, progress: Callable[[float], bool]
) -> tuple[Wanted, tuple[str, ...]]:
    """(changes, words): what lays a scan as final art, or the lines that are read of it."""
    if final:
        w, h = job.page.size_mm
        return [("final-art", {"data": back.png, "name": name, "place": [0.0, 0.0, w, h]})], back.words
    found = inks_of(back.png, back.dpi, progress)
    return found.wanted, (*back.words, found.sentence)
