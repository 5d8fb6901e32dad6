"""A year of logs, 400 jobs of 1,250 pulls each: how long a page of the log and a month take; the log and the forecast
of one of them from its history; what one pull of practice costs at its lift. Limits were set beforehand."""

import tempfile
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np

from benchmarks.drawing import took
from plain_stride.board.page import Page
from plain_stride.hand.pull import Pull
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.job.changes import make
from plain_stride.job.diary import log_json
from plain_stride.job.job_files import new_job, opened
from plain_stride.job.ledger import Ledger, ledger
from plain_stride.job.months import month_bounds, months_json
from plain_stride.job.shapes import Shapes
from plain_stride.job.worked import done_lines, worked
from plain_stride.order.forecasting import forecast
from plain_stride.practice.drills import drill_named
from plain_stride.practice.hand_book import hand_book
from plain_stride.practice.measuring import measured
from plain_stride.practice.simulated import practised

JOBS, LINES, SITTINGS = 400, 1250, 3
PAGE_MS, FORECAST_MS = 300.0, 100.0


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        _year(Path(folder))
        _one_job(Path(folder) / "one.stride")
        _practice(Path(folder) / "hand-book.db")


def _year(folder: Path) -> None:
    begin = datetime(2026, 1, 1, 9).astimezone()
    with ledger(folder / "ledger.db") as book:
        for n in range(JOBS):
            _keep(book, folder / f"page {n}.stride", begin + timedelta(days=n * 365.0 / JOBS))
        month = took(lambda: months_json(book.between(*month_bounds("2026-06"))))
        year = took(lambda: months_json(book.between(datetime(2026, 1, 1), datetime(2027, 2, 1))))
        path = folder / "page 17.stride"
        page = took(lambda: book.between(datetime(2026, 1, 1), datetime(2027, 2, 1), [path]))
    print(f"  {JOBS} jobs, {JOBS * LINES:,} pulls: a job's sittings {page:.0f} ms, a month {month:.0f} ms, the year"
          f" {year:.0f} ms (<= {PAGE_MS:g})")  # fmt: skip


def _keep(book: Ledger, path: Path, day: datetime) -> None:
    """A job of three sittings, as a log tells it."""
    sittings = []
    for k in range(SITTINGS):
        begun = day + timedelta(days=k)
        sittings.append({
            "begun": begun.isoformat(), "ended": (begun + timedelta(hours=3)).isoformat(), "active_s": 9000.0,
            "steps": [k * 500, k * 500 + 499], "before": k * 500, "after": k * 500 + 499, "lines": LINES // SITTINGS,
            "pulls": LINES // SITTINGS + 40, "mm": 9000.0, "kinds": {"pull": 8000.0, "bend": 1000.0},
            "pace": {"mm_an_hour": 3600.0, "lines_an_hour": 166.0, "takes_a_line": 1.1, "taken_back": 0.1},
            "stations": {"Pull": 8000.0, "Mend": 1000.0}, "parts": {f"Part {n}": 450.0 for n in range(20)},
            "nibs": [{"nib": "3", "lightest": 0.2, "heaviest": 1.0, "steadying": "after", "leeway": None, "lines": 9}],
            "marks": [],
        })  # fmt: skip
    told = {"job": path.stem, "sentence": "", "active_s": 27000.0, "sittings": sittings}
    book.keep(str(path.resolve()), "0", told)


def _one_job(path: Path) -> None:
    """A job of the year, each of its lines a step with a pull of its own."""
    _pull_all(path)
    with opened(path) as (job, _):
        fresh = took(lambda: forecast(done_lines(job, worked(job)), 5000.0, 200))
    with opened(path) as (job, _):
        steps, found = len(job.history.steps), worked(job)
        page = took(lambda: log_json(job, found))
        again = took(lambda: forecast(done_lines(job, worked(job)), 5000.0, 200))
    print(f"  one job, {steps:,} pulls: all of its log told in {page:.0f} ms (<= {PAGE_MS:g}); its forecast after a"
          f" change {again:.0f} ms (<= {FORECAST_MS:g}), the first one after it was opened {fresh:.0f} ms")  # fmt: skip


def _pull_all(path: Path) -> None:
    new_job(path, Page((240.0, 160.0), 600.0))
    rng = np.random.default_rng(1)
    with opened(path, write=True) as (job, store):
        shapes = Shapes(job, store)
        for n in range(LINES):
            at = rng.uniform((20.0, 20.0), (200.0, 140.0))
            samples = pulled(at + [[0.0, 0.0], [12.0, 5.0], [25.0, 3.0]], HANDS["average"], "normal", n)
            store.commit(make(job, shapes, "pull", {"pull": Pull(samples), "part": f"Part {n % 20}"}).commit)


def _practice(path: Path) -> None:
    drill = drill_named("the same stroke")
    target = drill.target(0)
    samples = pulled(target.points, HANDS["average"], "normal", 1)
    at_lift = took(lambda: measured(samples, target))
    with hand_book(path) as book:
        for kept in practised(drill, "average", 200, 1, "me"):
            book.add(kept)
        (one,) = practised(drill, "average", 1, 2, "me")
        kept_in = took(lambda: book.add(one))
        every = took(lambda: book.pulls("me"))
    told = f"measured in {at_lift:.1f} ms, kept in {kept_in:.1f} ms; 200 pulls read in {every:.1f} ms"
    print(f"  a pull of practice: {told}")
