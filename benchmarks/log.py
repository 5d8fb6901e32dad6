"""A year of logs, 400 jobs of 1,250 pulls each: how long a page of the log, a month, a forecast take; the log of one
large job from its history; what one pull of practice costs at its lift. Limits are those that were set beforehand."""

import tempfile
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np

from benchmarks.drawing import took
from benchmarks.proof import lay, tiled
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.job.diary import sitting_json
from plain_stride.job.job_files import opened
from plain_stride.job.ledger import Ledger, ledger
from plain_stride.job.months import month_bounds, months_json
from plain_stride.job.worked import done_lines, worked
from plain_stride.order.forecasting import Done, forecast
from plain_stride.practice.drills import drill_named
from plain_stride.practice.hand_book import hand_book
from plain_stride.practice.measuring import measured
from plain_stride.practice.simulated import practised

JOBS, LINES, SITTINGS = 400, 1250, 3
PAGE_MS, FORECAST_MS = 300.0, 100.0
BIG = 5000


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        _year(Path(folder))
        _one_job(Path(folder) / "big.stride")
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
        done = book.done_of(path)
        assert done is not None
        ahead = took(lambda: forecast(book.done_of(path) or done, 5000.0, 200))
    print(f"  {JOBS} jobs, {JOBS * LINES:,} pulls: a job's sittings {page:.0f} ms, a month {month:.0f} ms, the year"
          f" {year:.0f} ms (<= {PAGE_MS:g}); a forecast {ahead:.0f} ms (<= {FORECAST_MS:g})")  # fmt: skip


def _keep(book: Ledger, path: Path, day: datetime) -> None:
    """A job of three sittings, as a log tells it."""
    sittings = []
    for k in range(SITTINGS):
        begun = day + timedelta(days=k)
        sittings.append({
            "begun": begun.isoformat(), "ended": (begun + timedelta(hours=3)).isoformat(), "active_s": 9000.0,
            "steps": [k * 500, k * 500 + 499], "before": k * 500, "after": k * 500 + 499, "lines": LINES // SITTINGS,
            "pulls": LINES // SITTINGS + 40, "mm": 9000.0, "taken_back": 0.1, "did": {"pull": LINES // SITTINGS},
            "stations": {"Pull": 8000.0, "Mend": 1000.0}, "parts": {f"Part {n}": 450.0 for n in range(20)},
            "nibs": [{"nib": "3", "lightest": 0.2, "heaviest": 1.0, "steadying": "after", "leeway": None, "lines": 9}],
            "marks": [],
        })  # fmt: skip
    rng = np.random.default_rng(1)
    done = Done(rng.gamma(2.0, 12.0, LINES), rng.gamma(2.0, 10.0, LINES), np.linspace(0.0, 6.0, LINES) % 3.0,
                np.arange(LINES) // (LINES // SITTINGS + 1))  # fmt: skip
    told = {"job": path.stem, "sentence": "", "active_s": 27000.0, "taken_back": 0.1, "sittings": sittings}
    book.keep(str(path.resolve()), "0", told, done)


def _one_job(path: Path) -> None:
    lay(path, tiled(BIG))
    with opened(path) as (job, _):
        every = took(lambda: worked(job))
        found = worked(job)
        told = took(lambda: [sitting_json(job, found, one) for one in found.sittings])
        lines = took(lambda: done_lines(job, found))
        print(f"  the history of {BIG:,} lines: read in {every:.0f} ms, its sittings told in {told:.0f} ms, lines"
              f" for a forecast in {lines:.0f} ms")  # fmt: skip


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
