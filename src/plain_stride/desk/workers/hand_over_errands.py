"""Work of seconds of handing over: deliveries, the blue sheet, a scan of it read back, the flats as a file."""

from dataclasses import dataclass
from pathlib import Path

from plain_stride.desk.workers.errands import pixels
from plain_stride.finish.delivery import Delivery
from plain_stride.finish.write import write_whole
from plain_stride.job.art_files import Asked
from plain_stride.job.delivering import Delivered, deliver
from plain_stride.job.flat_files import flats_bytes
from plain_stride.job.job_files import opened
from plain_stride.job.paper_way import ScanBack, blue_sheet, scan_back
from plain_stride.job.reading import read_bytes
from plain_stride.job.serving import Progress
from plain_stride.job.shapes import Shapes


@dataclass(frozen=True)
class Deliver:
    """A delivery of a job's file, written and opened again."""

    path: Path
    wanted: Delivery
    out: Path

    def answered(self, at: object, progress: Progress) -> Delivered:
        with opened(self.path) as (job, store):
            return deliver(job, Shapes(job, store), self.wanted, self.out, pixels, progress)


@dataclass(frozen=True)
class WriteFlats:
    """The flats map as a file, by its ending; gives its size in bytes."""

    path: Path
    out: Path

    def answered(self, at: object, progress: Progress) -> int:
        with opened(self.path) as (job, store):
            data = flats_bytes(job, Shapes(job, store), self.out.suffix.lower(), Asked(), None)
        write_whole(self.out, data)
        return len(data)


@dataclass(frozen=True)
class WriteBlue:
    """The pencils in pale blue, with register marks, as a PDF; gives its size in bytes."""

    path: Path
    out: Path

    def answered(self, at: object, progress: Progress) -> int:
        with opened(self.path) as (job, _):
            data = blue_sheet(job)
        write_whole(self.out, data)
        return len(data)


@dataclass(frozen=True)
class ReadBack:
    """A scan of the blue sheet, inked, squared up and without its blue."""

    picture: Path
    size_mm: tuple[float, float]

    def answered(self, at: object, progress: Progress) -> ScanBack:
        return scan_back(read_bytes(self.picture), self.size_mm)
