"""What was done in a job and when, read off its history: sittings, lines that were finished, the time they took."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from plain_stride.job.change_context import CHANGES
from plain_stride.job.history import RowChange, Step
from plain_stride.job.job import Job
from plain_stride.job.records import LineRecord
from plain_stride.order.forecasting import Done
from plain_stride.order.pauses import PAUSE_S, SITTING_S
from plain_stride.order.working_time import Act, Sitting, active_seconds, sittings, went_back

STATIONS = {
    "board_changes": "Board", "frame_changes": "Board", "pencil_changes": "Pencils", "again_changes": "Pull",
    "line_changes": "Pull", "shape_changes": "Pull", "weight_changes": "Weigh", "role_changes": "Weigh",
    "tone_changes": "Tone", "black_changes": "Tone", "proof_changes": "Proof", "hand_over_changes": "Hand over",
    "ink_changes": "Hand over", "log_changes": "Log",
}  # fmt: skip
"""Where a named change belongs, by its module; all others mend."""
TABLES = {"board": "Board", "frames": "Board", "targets": "Board", "pencils": "Pencils", "areas": "Pencils",
          "passes": "Pencils", "plan": "Weigh", "tones": "Tone", "blacks": "Tone", "meant": "Proof",
          "manners": "Proof", "remarks": "Proof", "inks": "Hand over", "finishes": "Hand over", "flats": "Hand over",
          "deliveries": "Hand over", "notes": "Log", "work_order": "Log", "schedule": "Log"}  # fmt: skip
PULL, MEND = "Pull", "Mend"


@dataclass(frozen=True)
class Work:
    """One step of the history. step: its number; act: when, and how long the pen was down; active: seconds of work it
    stands for; station: where it belongs; name: of its change; parts: keys of the parts of what it changed; pulls: how
    many it brought; mm: of new pulls; new: keys of lines that it brought; takes: pulls that were another try; back:
    whether it was taken back."""

    step: int
    act: Act
    active: float
    station: str
    name: str
    parts: tuple[str, ...]
    pulls: int
    mm: float
    new: tuple[str, ...]
    takes: int
    back: bool


@dataclass(frozen=True)
class Worked:
    """works: all steps, in the order in which they were made, those that were taken back among them; sittings: runs of
    them; clock_back: (number of the work, seconds) where the clock went back."""

    works: tuple[Work, ...]
    sittings: tuple[Sitting, ...]
    clock_back: tuple[tuple[int, float], ...]

    def of(self, sitting: Sitting) -> tuple[Work, ...]:
        return self.works[sitting.first : sitting.last + 1]

    @property
    def active(self) -> float:
        """Seconds of work, all together."""
        return sum(work.active for work in self.works)


def worked(job: Job, pause: float = PAUSE_S, apart: float = SITTING_S) -> Worked:
    """All that was done. pause: seconds of nothing that do not count; apart: that part sittings. Linear in the
    history."""
    steps = [job.history.steps[number] for number in sorted(job.history.steps)]
    kept = _standing(job)
    known: set[str] = set()
    acts, told = [], []
    for step in steps:
        pulls = _new_pulls(step, known)
        made = [job.blobs.pull(key) for key in pulls]
        acts.append(Act(_seconds(step.made), sum(pull.seconds for pull in made)))
        told.append((step, pulls, sum(pull.mm for pull in made)))
    active = active_seconds(acts, pause)
    works = tuple(_work(step, act, float(time), pulls, mm, step.id not in kept)
                  for (step, pulls, mm), act, time in zip(told, acts, active, strict=True))  # fmt: skip
    return Worked(works, tuple(sittings(acts, pause, apart)), tuple(went_back(acts)))


def done_lines(job: Job, found: Worked) -> Done:
    """The lines that were pulled and still are there, in order, each with all the work since the one before: tries,
    what was taken back, mends."""
    seconds, mm, hour, day = [], [], [], []
    since, today, hours = 0.0, None, 0.0
    for work in found.works:
        date = datetime.fromtimestamp(work.act.end).date()
        if date != today:
            today, hours = date, 0.0
        since += work.active
        mine = [key for key in work.new if key in job.rows.lines]
        if mine and work.pulls and not work.back:
            for _ in mine:
                seconds.append(since / len(mine))
                mm.append(work.mm / len(mine))
                hour.append(hours)
                day.append(date.toordinal())
            since = 0.0
        hours += work.active / 3600.0
    return Done(np.array(seconds), np.array(mm), np.array(hour), np.array(day, int))


def by_station(works: Sequence[Work]) -> dict[str, float]:
    """Seconds of work by station, the longest first."""
    return _longest_first(_summed((work.station, work.active) for work in works))


def by_change(works: Sequence[Work]) -> dict[str, float]:
    """Seconds of work by the kind of it, the named change that was made, the longest first."""
    return _longest_first(_summed((work.name, work.active) for work in works))


def by_part(job: Job, works: Sequence[Work]) -> dict[str, float]:
    """Seconds of work by the name of the part; what is of several is shared, what is of none is left out."""
    names = {part.id: part.name for part in job.parts()}
    return _longest_first(_summed((names[part], work.active / len(work.parts))
                                  for work in works for part in work.parts if part in names))  # fmt: skip


def _summed(some: Iterable[tuple[str, float]]) -> dict[str, float]:
    out: dict[str, float] = {}
    for name, seconds in some:
        out[name] = out.get(name, 0.0) + seconds
    return out


def _longest_first(seconds: dict[str, float]) -> dict[str, float]:
    return dict(sorted(seconds.items(), key=lambda item: -item[1]))


@dataclass(frozen=True)
class Pace:
    """Of lines that stand: mm and lines an hour of work; pulls for each, those that were taken back among them."""

    lines: int
    mm: float
    mm_an_hour: float
    lines_an_hour: float
    takes_a_line: float


def pace_of(works: Sequence[Work]) -> Pace:
    """Of lines that were pulled and stand: another try of a line is none of its own. 0 where there is nothing to divide
    by."""
    standing = [work for work in works if work.pulls and work.new and not work.back]
    lines, mm = sum(len(work.new) for work in standing), sum(work.mm for work in standing)
    hours, pulls = sum(work.active for work in works) / 3600.0, sum(work.pulls for work in works)
    return Pace(lines, mm, _share(mm, hours), _share(lines, hours), _share(pulls, lines))


def _share(a: float, b: float) -> float:
    return a / b if b else 0.0


def taken_back(works: Sequence[Work]) -> float:
    """Of the pulls, the share that was taken back or tried again."""
    pulls = sum(work.pulls for work in works)
    return _share(sum(work.pulls if work.back else work.takes for work in works), pulls)


def _standing(job: Job) -> set[int]:
    """Steps on the way to where the job stands."""
    out, at = set(), job.history.head
    while at:
        out.add(at)
        at = job.history.steps[at].parent
    return out


def _new_pulls(step: Step, known: set[str]) -> list[str]:
    """Pulls that no step before has named."""
    out = []
    for change in step.rows:
        if isinstance(change.after, LineRecord):
            for key in change.after.tried:
                if key not in known:
                    known.add(key)
                    out.append(key)
    return out


def _work(step: Step, act: Act, active: float, pulls: list[str], mm: float, back: bool) -> Work:
    lines = [change for change in step.rows if change.table == "lines"]
    new = tuple(change.id for change in lines if change.before is None)
    parts = tuple(dict.fromkeys(row.part for change in lines for row in change.rows if isinstance(row, LineRecord)))
    return Work(step.id, act, active, _station(step), step.name, parts, len(pulls), mm, new,
                sum(_tries(change) for change in lines), back)  # fmt: skip


def _tries(change: RowChange) -> int:
    """Pulls of a line that was there already."""
    if not (isinstance(change.before, LineRecord) and isinstance(change.after, LineRecord)):
        return 0
    return len(set(change.after.tried) - set(change.before.tried))


def _station(step: Step) -> str:
    made = CHANGES.get(step.name)
    if made is not None:
        return STATIONS.get(made.__module__.rpartition(".")[2], MEND)
    for change in step.rows:
        if change.table == "lines" and change.before is None:
            return PULL
    return next((TABLES[change.table] for change in step.rows if change.table in TABLES), MEND)


def _seconds(made: str) -> float:
    """Seconds since 1970; a time that none can read counts as that."""
    try:
        return datetime.fromisoformat(made).timestamp()
    except ValueError:
        return 0.0
