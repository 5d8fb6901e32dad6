"""The worker of errands: it reads pencils, lays out imports, writes final art. One thing after the other.

What an errand needs is imported where it is done: the window asks for errands and never needs it.
"""

from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path
from typing import TYPE_CHECKING

from plain_stride.desk.workers.standing import StandingWorker
from plain_stride.finish.choices import Choices
from plain_stride.job.serving import Progress, StoppedError, serve
from plain_stride.lines.kept_outlines import KeptOutlines

if TYPE_CHECKING:
    from plain_stride.finish.writers import Rasteriser


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
    """The final art of a job's file written to another, by its ending; gives its size in bytes. bleed: with the bleed
    round the finished sheet."""

    job: Path
    out: Path
    choices: Choices
    bleed: bool = False

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
                data = art_bytes(job, shapes, kind, self.choices, self.bleed, _pixels, progress)
            finally:
                at.outlines.keep(lines)
        if not progress(1.0):
            raise StoppedError("stopped")
        write_whole(self.out, data)
        return len(data)


def _pixels() -> "Rasteriser":
    from plain_stride.render.export import Pixels

    return Pixels()
