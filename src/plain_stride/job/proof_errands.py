"""Work of seconds of the proof that another process does for the window: its sheets written, finished inks read."""

from dataclasses import dataclass
from pathlib import Path

from plain_stride.finish.write import write_whole
from plain_stride.job.inks_in import InksFound, inks_of
from plain_stride.job.job_files import opened
from plain_stride.job.proof_sheets import proof_bytes
from plain_stride.job.proof_told import WITHOUT_PENCILS, proof_of_job, told_proof
from plain_stride.job.reading import read_bytes
from plain_stride.job.serving import Progress
from plain_stride.job.shapes import Shapes


@dataclass(frozen=True)
class WriteProof:
    """The proof of a job's file written as a sheet or a table, by the ending of `out`; how many bytes it has.
    of_pencils: the ink is held against the pencils as well, which are read for it."""

    path: Path
    out: Path
    of_pencils: bool = False

    def answered(self, at: object, progress: Progress) -> int:
        with opened(self.path) as (job, store):
            shapes = Shapes(job, store)
            proof = proof_of_job(job, shapes, () if self.of_pencils else WITHOUT_PENCILS, progress)
            told = told_proof(job, shapes, proof)
            data = proof_bytes(job, shapes, proof, self.out.suffix.lower(), told, progress)
        write_whole(self.out, data)
        return len(data)


@dataclass(frozen=True, eq=False)
class ReadInksOf:
    """What is inked in a picture's bytes. dpi: where it does not say it."""

    data: bytes
    dpi: float | None = None

    def answered(self, at: object, progress: Progress) -> InksFound:
        return inks_of(self.data, self.dpi, progress)


@dataclass(frozen=True)
class ReadInks:
    """What is inked in a picture. dpi: where it does not say it."""

    picture: Path
    dpi: float | None = None

    def answered(self, at: object, progress: Progress) -> InksFound:
        return ReadInksOf(read_bytes(self.picture), self.dpi).answered(at, progress)
