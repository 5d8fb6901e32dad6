"""How long a job still takes, and whether that is enough until its deadline."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from plain_stride.errors import StrideError
from plain_stride.job.job import Job
from plain_stride.job.job_files import opened
from plain_stride.job.log_changes import schedule_row
from plain_stride.job.log_records import ScheduleRecord
from plain_stride.job.pencil_reading import read_job
from plain_stride.job.serving import Progress, StoppedError
from plain_stride.job.shapes import Shapes
from plain_stride.job.work_order import left_to_ink, pieces_of
from plain_stride.job.worked import Worked, done_lines, worked
from plain_stride.order.errors import OrderError
from plain_stride.order.forecasting import Forecast, forecast
from plain_stride.order.pieces import DETAILS, HATCHING, INNER, Piece
from plain_stride.order.steps import Step
from plain_stride.pencils.errors import PencilsError
from plain_stride.texts import counted, time_words

MOST_DAYS = 3660


@dataclass(frozen=True)
class JobForecast:
    """mm, lines: that are left; hours_left: of working days before the deadline, None without one."""

    mm: float
    lines: int
    found: Forecast
    hours_left: float | None
    deadline: str | None

    @property
    def short_by(self) -> float | None:
        """Hours that are too few, as the pace so far has it; 0 where they are enough."""
        if self.hours_left is None or self.found.hours is None:
            return None
        return max(0.0, self.found.hours - self.hours_left)


def forecast_of(job: Job, found: Worked, pieces: list[Piece], today: datetime) -> JobForecast:
    """today: with its zone."""
    row, (mm, lines) = schedule_row(job), left_to_ink(pieces)
    took = done_lines(job, found)
    left = hours_until(row, today) if row.deadline else None
    a_day = row.hours if job.rows.schedule else None
    return JobForecast(mm, lines, forecast(took, mm, lines, a_day), left, row.deadline)


def forecasts_of(
    paths: Sequence[Path], pause: float, today: datetime, progress: Progress
) -> tuple[list[dict[str, Any]], list[str]]:
    """(forecasts of jobs as JSON, sentences of those that cannot be opened). Raises StoppedError."""
    told, faults = [], []
    for n, path in enumerate(paths):

        def one(share: float, n: int = n) -> bool:
            return progress((n + share) / len(paths))

        try:
            told.append(forecast_of_file(path, pause, today, one))
        except StoppedError:
            raise
        except StrideError as fault:
            faults.append(f"{path.name}: {fault}")
        if not one(1.0):
            raise StoppedError("stopped: nothing was written")
    return told, faults


def forecast_of_file(path: Path, pause: float, today: datetime, progress: Progress) -> dict[str, Any]:
    """The forecast of a job's file as JSON, its pencils read anew. Raises StrideError."""
    with opened(path) as (job, store):
        pieces = pieces_read(job, Shapes(job, store), progress)
        return forecast_json(job, forecast_of(job, worked(job, pause), pieces, today))


def pieces_read(job: Job, shapes: Shapes, progress: Progress) -> list[Piece]:
    """All there is to ink, the pencils read anew where there are any that can be read. Raises StoppedError."""
    reading = None
    if job.rows.pencils:
        try:
            reading = read_job(job, progress)
        except StoppedError:
            raise
        except PencilsError:
            reading = None
    return pieces_of(job, shapes, reading)


def hours_until(row: ScheduleRecord, now: datetime) -> float:
    """Hours of work on working days between now and the deadline; the part of a day that is left counts by its share
    of the day, 0 after the deadline. Raises OrderError for a deadline too far off to be one."""
    end = datetime.fromisoformat(str(row.deadline))
    now = now.astimezone(end.tzinfo)
    if end - now > timedelta(days=MOST_DAYS):
        raise OrderError("the deadline is more than ten years off: set one that is meant")
    hours, day = 0.0, now.replace(hour=0, minute=0, second=0, microsecond=0)
    while day < end:
        after = day + timedelta(days=1)
        inside = (min(after, end) - max(day, now)).total_seconds()
        if day.weekday() in row.days and inside > 0.0:
            # Nobody works all night: what is left of a day is left of its hours, up to all of them.
            hours += min(row.hours, inside / 3600.0)
        day = after
    return hours


def hours_by_step(told: JobForecast, steps: list[Step]) -> dict[str, float | None]:
    """Hours of work by the step's id, as the whole forecast shares out; None while there is none."""
    if told.found.hours is None:
        return {step.id: None for step in steps}
    each = told.mm / max(told.lines, 1)
    work = {step.id: step.mm_left + each * step.lines_left for step in steps}
    every = sum(work.values())
    return {key: told.found.hours * mm / every if every > 0.0 else 0.0 for key, mm in work.items()}


def forecast_json(job: Job, told: JobForecast) -> dict[str, Any]:
    """The forecast as the command line tells it."""
    row = schedule_row(job)
    out: dict[str, Any] = {
        "units": "mm",
        "job": job.name,
        "sentence": sentence_of(told),
        "left": {"mm": round(told.mm, 1), "lines": told.lines},
        "hours": _hours(told.found.hours), "low": _hours(told.found.low), "high": _hours(told.found.high),
        "from_lines": told.found.from_lines,
        "hours_a_day": row.hours, "days": list(row.days),
        "deadline": None,
    }  # fmt: skip
    if told.deadline is not None:
        short = told.short_by
        out["deadline"] = {"at": told.deadline, "enough": None if short is None else short == 0.0,
                           "short_by_hours": _hours(short), "hours_left": _hours(told.hours_left)}  # fmt: skip
    return out


def sentence_of(told: JobForecast) -> str:
    """What it comes to, with its interval and where it is from; whether it is enough, and what would help."""
    found = told.found
    if not told.lines and told.mm < 1.0:
        return "Nothing is left to ink that is known: no pencils without ink, nothing marked to be drawn."
    left = f"{counted(told.lines, 'line')}, {told.mm:,.0f} mm are left"
    if found.hours is None:
        return f"{left}. No line was pulled yet: there is no pace to tell how long they take."
    said = f"{left}: {_words(found.hours)}"
    if found.low is None or found.high is None:
        return f"{said}, a guess: from {counted(found.from_lines, 'line')} no interval can be told yet." + _until(told)
    between = f"{_words(found.low)} to {_words(found.high)}"
    return f"{said}, {between}, from your last {found.from_lines} lines." + _until(told)


def _until(told: JobForecast) -> str:
    if told.deadline is None or told.short_by is None or told.hours_left is None:
        return ""
    if told.hours_left <= 0.0:
        return " The deadline is over."
    if told.short_by == 0.0:
        unsure = told.found.high is not None and told.found.high > told.hours_left
        return f" Until the deadline there are {_words(told.hours_left)}: enough" + (
            ", if nothing goes badly." if unsure else ".")  # fmt: skip
    return f" Until the deadline there are {_words(told.hours_left)}: {_words(told.short_by)} too few."


def what_would_help(job: Job, told: JobForecast, steps: Sequence[Step]) -> list[str]:
    """Where the hours are too few: more of them a day, or parts that may stay rougher, the farthest and the finest
    first, until it is enough."""
    if not told.short_by or not told.hours_left or told.found.hours is None:
        return []
    out, row = [], schedule_row(job)
    names = {part.id: part.name for part in job.parts()}
    each = row.hours * told.found.hours / told.hours_left
    if each <= MOST_A_DAY:
        out.append(f"{each:.1f} hours a working day in place of {row.hours:g}")
    hours = hours_by_step(told, list(steps))
    left, saved = told.short_by, []
    for step in sorted((s for s in steps if s.kind in ROUGHER and not s.ticked), key=lambda s: (-s.order, -s.mm_left)):
        if left <= 0.0:
            break
        # Rougher is half the work: common practice has no figure.
        left -= (hours[step.id] or 0.0) / 2.0
        saved.append(f"{step.kind} of {names[step.part]}" if step.part in names else f"{step.kind} of no part yet")
    if saved:
        out.append("leave rougher: " + ", ".join(saved) + ("" if left <= 0.0 else ", and still it is too little"))
    return out


MOST_A_DAY = 14.0
ROUGHER = (DETAILS, HATCHING, INNER)


def _words(hours: float) -> str:
    return time_words(hours * 3600.0)


def _hours(value: float | None) -> float | None:
    return None if value is None else round(value, 3)
