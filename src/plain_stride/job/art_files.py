"""The bytes of a file of final art, by its kind."""

import json
from collections.abc import Callable
from dataclasses import dataclass, field, replace

from plain_stride.finish.art import Art
from plain_stride.finish.choices import Choices
from plain_stride.finish.pages import Rasteriser
from plain_stride.finish.writers import WRITERS, kind_of
from plain_stride.job import reports
from plain_stride.job.board_facts import edges_of
from plain_stride.job.errors import JobError
from plain_stride.job.finished import finished_art
from plain_stride.job.job import Job
from plain_stride.job.line_table import line_table
from plain_stride.job.shapes import Shapes
from plain_stride.measure import MM_PER_INCH

DATA, TABLE = ".json", ".csv"
KINDS = (*WRITERS, DATA, TABLE)
CURVES = (".svg", ".pdf")
MOST_SIDE_PX = 60_000
Progress = Callable[[float], bool]


@dataclass(frozen=True)
class Asked:
    """What a file of final art is to be like. bleed: with the bleed round the finished sheet; dpi, or width in pixels
    of the finished sheet: where they are not the board's; plain: without the finishes; flats, pencils: with them."""

    choices: Choices = field(default_factory=Choices)
    bleed: bool = False
    dpi: float | None = None
    width: int | None = None
    plain: bool = False
    flats: bool = False
    pencils: bool = False


def art_bytes(
    job: Job, shapes: Shapes, kind: str, asked: Asked, rasteriser: Callable[[], Rasteriser], progress: Progress
) -> bytes:
    """kind: one of KINDS; rasteriser: makes what writes pixels; progress: told the share done, False stops. Raises
    StrideError."""
    if kind == DATA:
        return (json.dumps(reports.lines(job, shapes), ensure_ascii=False) + "\n").encode()
    if kind == TABLE:
        return line_table(job, shapes, progress)
    art = art_asked(job, shapes, asked, curves=kind in CURVES)
    return WRITERS[kind_of(kind)].write(art, asked.choices, rasteriser(), progress)


def art_asked(job: Job, shapes: Shapes, asked: Asked, curves: bool = False) -> Art:
    """The final art at the size that is asked. curves: for a file of curves, whose flats reach under the lines. Raises
    JobError."""
    bleed = edges_of(job).bleed if asked.bleed else 0.0
    art = finished_art(job, shapes, bleed, plain=asked.plain, flats=asked.flats, trapped=curves, pencils=asked.pencils)
    page = replace(art.page, dpi=dpi_asked(job, asked))
    if max(replace(art, page=page).whole.pixels) > MOST_SIDE_PX:
        raise JobError(f"{page.pixels[0]:,} × {page.pixels[1]:,} px are more than a file holds: ask for fewer dpi")
    return replace(art, page=page)


def dpi_asked(job: Job, asked: Asked) -> float:
    """The resolution of a file, dpi."""
    if asked.width is not None:
        return asked.width / job.page.size_mm[0] * MM_PER_INCH
    return job.page.dpi if asked.dpi is None else asked.dpi
