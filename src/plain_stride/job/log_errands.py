"""Work of seconds of planning and the log that another process does for the window."""

from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from plain_stride.finish.write import write_whole
from plain_stride.job.calendar import calendar_of
from plain_stride.job.ink_pictures import picture_at
from plain_stride.job.job_files import opened
from plain_stride.job.job_forecast import forecasts_of
from plain_stride.job.ledger import ledger
from plain_stride.job.log_files import folder_log, job_log, jobs_of
from plain_stride.job.places import ledger_path
from plain_stride.job.red_review import give_out
from plain_stride.job.serving import Progress
from plain_stride.job.shapes import Shapes
from plain_stride.job.versions import take_out

PICTURE_PX = 60_000


@dataclass(frozen=True)
class ReadFolder:
    """The log of all jobs of a folder; written where a file is wanted. pause: seconds that do not count as work."""

    folder: Path
    pause: float
    out: Path | None = None

    def answered(self, at: object, progress: Progress) -> dict[str, Any]:
        with ledger(ledger_path(), self.pause) as book:
            return folder_log(book, jobs_of(self.folder), self.out, progress)


@dataclass(frozen=True)
class WriteLog:
    """The log of a job's file, written; gives what it comes to, in a sentence."""

    path: Path
    pause: float
    out: Path

    def answered(self, at: object, progress: Progress) -> str:
        with opened(self.path) as (job, store):
            return str(job_log(job, Shapes(job, store), self.pause, self.out, progress)["sentence"])


@dataclass(frozen=True)
class WriteCalendar:
    """What is left of all jobs of a folder as one calendar, their pencils read anew; gives a sentence for each."""

    folder: Path
    pause: float
    out: Path

    def answered(self, at: object, progress: Progress) -> list[str]:
        now = datetime.now().astimezone()
        told, faults = forecasts_of(jobs_of(self.folder), self.pause, now, progress)
        write_whole(self.out, calendar_of(told, now))
        return [f"{one['job']}: {one['sentence']}" for one in told] + faults


@dataclass(frozen=True)
class PictureAt:
    """A PNG of a job's file as it was at a step."""

    path: Path
    step: int

    def answered(self, at: object, progress: Progress) -> bytes:
        with opened(self.path) as (job, store):
            return picture_at(job, Shapes(job, store), self.step, PICTURE_PX)


@dataclass(frozen=True)
class TakeOut:
    """A job as it was at a mark, as a job of its own."""

    path: Path
    mark: str
    out: Path

    def answered(self, at: object, progress: Progress) -> None:
        take_out(self.path, self.mark, self.out)


@dataclass(frozen=True)
class GiveOut:
    """A copy of a job for a senior, with a PDF only to look at."""

    path: Path
    out: Path

    def answered(self, at: object, progress: Progress) -> None:
        give_out(self.path, self.out)
