"""The log of a job, which writes itself: each sitting with what was done, how far it came, with what; marks; notes."""

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from datetime import datetime
from typing import Any

from plain_stride.job.ink_pictures import picture_at
from plain_stride.job.job import Job
from plain_stride.job.records import LineRecord
from plain_stride.job.serving import StoppedError
from plain_stride.job.shapes import Shapes
from plain_stride.job.worked import Work, Worked, by_change, by_part, by_station, pace_of, taken_back
from plain_stride.order.working_time import Sitting
from plain_stride.texts import counted, time_words

PICTURE_PX = 160_000
NO_WORK = "Nothing has been done in it yet"


def log_json(job: Job, found: Worked) -> dict[str, Any]:
    """The whole log. Times are local, ISO 8601 with their offset."""
    out = [sitting_json(job, found, sitting) for sitting in found.sittings]
    return {
        "units": "mm",
        "job": job.name,
        "sentence": sentence_of(job, found),
        "active_s": round(found.active, 1),
        "stations": _rounded(by_station(found.works)),
        "parts": _rounded(by_part(job, found.works)),
        "kinds": _rounded(by_change(found.works)),
        "pace": pace_json(found.works),
        "sittings": out,
        "marks": [{"name": name, "step": step, "made": _local(job.history.steps[step].made) if step else None}
                  for name, step in sorted(job.history.marks.items(), key=lambda item: item[1])],
        "notes": notes_json(job),
        "clock": [f"the clock went back by {time_words(back)} before step {found.works[n].step}"
                  for n, back in found.clock_back],
    }  # fmt: skip


def sitting_json(job: Job, found: Worked, sitting: Sitting) -> dict[str, Any]:
    """One sitting: when, how long, what, how far, with what."""
    works = found.of(sitting)
    pace = pace_of(works)
    marked = {step: name for name, step in job.history.marks.items()}
    return {
        "begun": _time(sitting.begun),
        "ended": _time(sitting.ended),
        "active_s": round(sitting.active, 1),
        "steps": [works[0].step, works[-1].step],
        "before": job.history.steps[works[0].step].parent,
        "after": next((w.step for w in reversed(works) if not w.back), job.history.steps[works[0].step].parent),
        "lines": pace.lines,
        "pulls": sum(w.pulls for w in works),
        "mm": round(pace.mm, 1),
        "pace": pace_json(works),
        "stations": _rounded(by_station(works)),
        "parts": _rounded(by_part(job, works)),
        "kinds": _rounded(by_change(works)),
        "nibs": _settings(job, works),
        "marks": [marked[w.step] for w in works if w.step in marked],
    }  # fmt: skip


def notes_json(job: Job) -> list[dict[str, Any]]:
    """Notes, the newest first."""
    names = {part.id: part.name for part in job.parts()}
    return [{"id": key, "words": row.words, "made": _local(row.made),
             "at": None if row.x_mm is None else [row.x_mm, row.y_mm],
             "line": row.line, "part": names.get(row.part or ""), "rule": row.rule}
            for key, row in sorted(job.rows.notes.items(), key=lambda item: item[1].made, reverse=True)]  # fmt: skip


def notes_here(
    job: Job, words: str = "", part: str = "", lines: Iterable[str] = (), rules: Iterable[str] = ()
) -> list[str]:
    """Keys of notes that hold the words, in any case; without words, of those that are pinned to the part, the lines
    or the rules in hand, or to the job alone."""
    if words:
        return [key for key, row in job.rows.notes.items() if words.casefold() in row.words.casefold()]
    mine, law = set(lines), set(rules)
    return [key for key, row in job.rows.notes.items()
            if (row.part is not None and row.part == part) or row.line in mine or row.rule in law
            or (row.part is None and row.line is None and row.rule is None and row.x_mm is None)]  # fmt: skip


def pictures_of(job: Job, shapes: Shapes, told: dict[str, Any], progress: Callable[[float], bool]) -> dict[int, bytes]:
    """PNGs by step: before and after each sitting, and at each mark. Raises StoppedError where progress says so."""
    steps = sorted({step for one in told["sittings"] for step in (one["before"], one["after"])}
                   | {mark["step"] for mark in told["marks"]})  # fmt: skip
    out = {}
    for n, step in enumerate(steps, 1):
        out[step] = picture_at(job, shapes, step, PICTURE_PX)
        if not progress(n / len(steps)):
            raise StoppedError("stopped: no log was written")
    return out


def sentence_of(job: Job, found: Worked) -> str:
    """What it comes to."""
    if not found.works:
        return f"{NO_WORK}."
    lines = sum(1 for row in job.rows.lines.values() if row.pull is not None)
    sat = counted(len(found.sittings), "sitting")
    return (f"{counted(lines, 'line')} in {sat}, {time_words(found.active)} of work;"
            f" {taken_back(found.works):.0%} of the pulls were taken back or tried again.")  # fmt: skip


def pace_json(works: Sequence[Work]) -> dict[str, float]:
    """mm and lines an hour, takes a line, the share of pulls that was taken back."""
    pace = pace_of(works)
    return {"mm_an_hour": round(pace.mm_an_hour, 1), "lines_an_hour": round(pace.lines_an_hour, 2),
            "takes_a_line": round(pace.takes_a_line, 3), "taken_back": round(taken_back(works), 4)}  # fmt: skip


def _settings(job: Job, works: tuple[Work, ...]) -> list[dict[str, Any]]:
    """Nibs and steadying that lines were pulled with, the most used first."""
    used: Counter[tuple[str, float, float, str, float | None]] = Counter()
    for work in works:
        for change in job.history.steps[work.step].rows:
            row = change.after
            if isinstance(row, LineRecord) and change.before is None and row.pull is not None:
                used[row.nib.name, row.nib.lightest, row.nib.heaviest, row.school, row.leeway] += 1
    return [{"nib": name, "lightest": light, "heaviest": heavy, "steadying": school, "leeway": leeway, "lines": count}
            for (name, light, heavy, school, leeway), count in used.most_common(9)]  # fmt: skip


def _rounded(seconds: dict[str, float]) -> dict[str, float]:
    return {name: round(value, 1) for name, value in seconds.items()}


def _time(seconds: float) -> str:
    return datetime.fromtimestamp(seconds).astimezone().isoformat(timespec="seconds")


def _local(made: str) -> str:
    try:
        return datetime.fromisoformat(made).astimezone().isoformat(timespec="seconds")
    except ValueError:
        return made
