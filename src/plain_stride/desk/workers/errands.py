"""The worker of errands: it reads pencils, lays out imports, writes final art. One thing after the other.

What an errand needs is imported where it is done: the window asks for errands and never needs it.
"""

from dataclasses import dataclass, replace
from multiprocessing.connection import Connection
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from plain_stride.desk.workers.standing import StandingWorker
from plain_stride.job.serving import Progress, StoppedError, serve
from plain_stride.lines.kept_outlines import KeptOutlines

if TYPE_CHECKING:
    from plain_stride.finish.pages import Rasteriser
    from plain_stride.job.art_files import Asked

MOST_PRINT_DPI = 600.0
"""More than this no desktop printer tells apart."""


def serve_errands(connection: Connection) -> None:
    """What the process does."""
    from plain_stride.compiled.ready import load_if_compiled

    load_if_compiled()
    serve(connection, ErrandsAtWork)


class ErrandsAtWork:
    """What errands are done with: they open the files that they need. outlines: of what was written before."""

    def __init__(self) -> None:
        self.outlines = KeptOutlines()

    def follow(self, change: object) -> None:
        """There is nothing that could follow."""


def errand_worker() -> StandingWorker:
    return StandingWorker(serve_errands)


@dataclass(frozen=True)
class WriteArt:
    """The final art of a job's file written to another, by its ending; gives its size in bytes."""

    job: Path
    out: Path
    asked: "Asked"

    def answered(self, at: ErrandsAtWork, progress: Progress) -> int:
        from plain_stride.finish.write import write_whole
        from plain_stride.job.art_files import art_bytes
        from plain_stride.job.job_files import opened
        from plain_stride.job.shapes import Shapes

        with opened(self.job) as (job, store):
            kind = self.out.suffix.lower()
            shapes = Shapes(job, store)
            lines = [shapes[key] for key in job.line_ids()]
            at.outlines.lend(lines)
            try:
                data = art_bytes(job, shapes, kind, self.asked, pixels, progress)
            finally:
                at.outlines.keep(lines)
        if not progress(1.0):
            raise StoppedError("stopped")
        write_whole(self.out, data)
        return len(data)


@dataclass(frozen=True)
class Pictures:
    """ink: uint8 (h, w) grey of the finished sheet; pencils: uint8 (h, w) darkness and its box x, y, w, h in mm."""

    ink: np.ndarray | None
    pencils: tuple[np.ndarray, tuple[float, float, float, float]] | None


@dataclass(frozen=True)
class PrintPictures:
    """What a job's file holds, as pictures to be printed: its ink, or the pencils that are shown, or both."""

    job: Path
    ink: bool
    pencils: bool

    def answered(self, at: ErrandsAtWork, progress: Progress) -> Pictures:
        from plain_stride.finish.pages import page_bands, whole_page
        from plain_stride.job.art import art_of
        from plain_stride.job.job_files import opened
        from plain_stride.job.pencil_sheets import raster_to_read
        from plain_stride.job.shapes import Shapes

        ink = pencils = None
        with opened(self.job) as (job, store):
            if self.pencils:
                raster = raster_to_read(job)
                pencils = raster.dark, raster.place
            if self.ink:
                page = job.page
                dpi = min(page.dpi, MOST_PRINT_DPI)
                art = art_of(job, Shapes(job, store))
                bands = page_bands(replace(art, page=replace(page, dpi=dpi)), pixels(), False, False, progress)
                ink, _ = whole_page(bands, replace(page, dpi=dpi).pixels)
        return Pictures(ink, pencils)


def pixels() -> "Rasteriser":
    """Our rasteriser."""
    from plain_stride.render.export import Pixels

    return Pixels()
