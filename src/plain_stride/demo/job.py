"""The demo job: scanned pencils of our own scene, about half of it inked by the simulated hand."""

import itertools
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np
import platformdirs

from plain_stride.board.page import Page
from plain_stride.demo.draw import SceneLine, Thing
from plain_stride.demo.evenings import Evenings
from plain_stride.demo.meeting import Ends, ends_of, pulled_through
from plain_stride.demo.scene import SIZE_MM, crosses, guides, scene, seen
from plain_stride.demo.small import FIGURE_NAME, FRAMES_NAME, make_figure, make_frames
from plain_stride.demo.tones import LANTERN, tones
from plain_stride.form.contacts import CORNER, contacts_between
from plain_stride.form.drawing import strand_of
from plain_stride.form.meetings import meetings_of
from plain_stride.hand.nib import Nib
from plain_stride.hand.pull import Pull, View
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.job.changes import Made, make, make_all
from plain_stride.job.commit import as_kept
from plain_stride.job.job import Job
from plain_stride.job.job_files import new_job, opened
from plain_stride.job.kept import PullRow
from plain_stride.job.shapes import Shapes
from plain_stride.job.store import Store
from plain_stride.job.whole_files import made_whole
from plain_stride.lines.black import black_of_rings
from plain_stride.pencils.scanner import Scanning, scan

DEMO_NAME = "Lock keeper"
DPI, SCAN_DPI = 600.0, 200.0
SEED = 7
SHARE, BASE_MM, GAP_MM = 85.0, 0.42, 0.35
BLEED_MM, MARGIN_MM = 3.0, 8.0
SCANNED = Scanning(passes=2, wander_mm=0.24, broken=0.15, overrun_mm=1.2)
BEYOND_MM = 1.5
FREE_ROLES = ("detail", "texture")
NOTES: tuple[dict[str, Any], ...] = (
    {"words": "Light from the lock lamp: undersides and the far side of the coat heavy.", "rule": "light"},
    {"words": "The heron stays calm: long feathers from the elbow, no hatching.", "part": "Heron"},
    {"words": "Leave the water open here, the almanac's title lies over it.", "at": [40.0, 150.0]},
)
DUE_IN, EVENING_H = timedelta(days=4), 1.5
ENLARGED = ((10.0, 6.0), (22.0, 3.0))
"""Things below so many mm are inked so much enlarged."""
MARK_AFTER = 5
"""Index of the last of the keeper's things."""


def demo_path() -> Path:
    """Where the demo is kept for this user."""
    return Path(platformdirs.user_data_dir("plain-stride")) / "demo" / f"{DEMO_NAME}.stride"


def examples() -> dict[str, Callable[[], Path]]:
    """Jobs to try things on, by what they are; each is drawn where it is not there yet, and kept as it was left."""
    return {
        "the lock keeper, half inked": lambda: ensure_demo(demo_path()),
        "three frames with X marks": lambda: ensure_demo(demo_path().with_name(f"{FRAMES_NAME}.stride"), make_frames),
        "one figure, nothing inked": lambda: ensure_demo(demo_path().with_name(f"{FIGURE_NAME}.stride"), make_figure),
    }


def ensure_demo(path: Path, make: Callable[[Path], object] | None = None) -> Path:
    """Makes the demo, or another job, where it is not there yet; what was done in it is never overwritten."""
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        (make or make_demo)(path)
    return path


def make_demo(path: Path, finished: bool = False) -> None:
    """Draws the demo into a new job; it appears under its name only when it is whole. finished: inked to the end."""
    with made_whole(path) as part:
        new_job(part, Page(SIZE_MM, DPI))
        with opened(part, write=True) as (job, store):
            _Drawing(job, store, finished).draw()


class _Drawing:
    """The demo as it comes into being: pencils, parts and covers, then ink from the near to the far."""

    def __init__(self, job: Job, store: Store, finished: bool) -> None:
        self._job, self._store, self._finished = job, store, finished
        self._shapes, self._nibs = Shapes(job, store), job.nibs()
        self._clock = Evenings(datetime.now().astimezone(), SEED)

    def draw(self) -> None:
        things = scene()
        self._do("board", bleed_mm=BLEED_MM, margin_mm=MARGIN_MM)
        self._do("job-sheet", purpose="the December page", ink="black and white", finish="for print")
        self._pencils(things)
        self._do_all([("part", {"name": t.part, "tier": t.tier}) for t in things], "parts")
        self._do_all([("cover", _cover(thing)) for thing in things if thing.covers], "covers")
        for n, thing in enumerate(things):
            if thing.inked or self._finished:
                self._ink(n, thing)
            if n == MARK_AFTER:
                self._mark("The keeper stands")
        laid = tones([thing for thing in things if thing.inked or self._finished])
        if laid:
            self._do_all(laid, "tones")
        self._do("plan", plan="Standard", light=LANTERN, share=SHARE, base=BASE_MM)
        self._do_all([("note", note) for note in NOTES], "notes")
        due = datetime.now().astimezone().replace(microsecond=0) + DUE_IN
        self._do("schedule", deadline=due.isoformat(), hours=EVENING_H, days=list(range(7)))

    def _pencils(self, things: list[Thing]) -> None:
        lines = [line.points for thing in seen(things) for line in thing.lines]
        sheet = scan([*lines, *crosses(things)], SIZE_MM, SCAN_DPI, SEED, SCANNED, guides())
        self._do("pencils-add", data=sheet, name="Lock keeper, rough")

    def _ink(self, n: int, thing: Thing) -> None:
        for outline in thing.blacks:
            self._do("black", black=black_of_rings([outline]), part=thing.part)
        ends: dict[Ends, list[str]] = {}
        drawn = [(k, line, points) for k, line in enumerate(thing.lines)
                 if (points := _on_sheet(line.points)) is not None]  # fmt: skip
        kinds = ends_of([points for _, _, points in drawn], [line.role in FREE_ROLES for _, line, _ in drawn])
        for (k, line, points), kind in zip(drawn, kinds, strict=True):
            pull = _pulled(pulled_through(points, kind), line, [SEED, n, k], self._nibs[line.nib])
            ends.setdefault(kind, []).append(self._do("pull", pull=pull, part=thing.part, role=line.role))
        free = (self._nibs["3"].ends, self._nibs["3"].ends)
        met = [("set", {"lines": keys, "ends": list(kind)}) for kind, keys in ends.items() if kind != free]
        if met:
            self._do_all(met, "ends that meet")
        if thing.tier == "near":
            self._hold([key for keys in ends.values() for key in keys])

    def _hold(self, lines: list[str]) -> None:
        """Holds the corners of a near thing together: caps, cuffs and chins stay closed when one of their lines is
        bent."""
        strands = [strand_of(key, self._shapes.worked(key)) for key in lines]
        lengths = {key: self._shapes[key].length for key in lines}
        contacts = [c for a, b in itertools.combinations(strands, 2) for c in contacts_between(a, b)]
        found = [one for one in meetings_of(contacts, lengths) if one.kind == CORNER and len(set(one.lines)) == 2]
        corners = [("hold", {"lines": list(one.lines), "at": [round(v, 3) for v in one.at]}) for one in found]
        if corners:
            self._do_all(corners, "hold")

    def _mark(self, name: str) -> None:
        self._store.mark(name, self._job.history.set_mark(name))

    def _do(self, change: str, **arguments: Any) -> Any:
        made = make(self._job, self._shapes, change, arguments)
        self._keep(made)
        return made.results[0]

    def _do_all(self, wanted: list[tuple[str, dict[str, Any]]], words: str) -> None:
        self._keep(make_all(self._job, self._shapes, wanted, words))

    def _keep(self, made: Made) -> None:
        if made.commit is not None and made.commit.step is not None:
            took = sum(float(row.made().samples[-1, 3]) for row in made.commit.kept if isinstance(row, PullRow))
            step = replace(made.commit.step, made=as_kept(self._clock.after(took)))
            self._store.commit(replace(made.commit, step=step, fits=self._shapes.fresh_fits()))


def _pulled(points: np.ndarray, line: SceneLine, seed: list[int], nib: Nib) -> Pull:
    """A pull along points (n, 2) mm; small things are inked enlarged, as anybody would."""
    size = float(np.ptp(points, axis=0).max())
    glass = next((times for below, times in ENLARGED if size < below), 1.0)
    samples = pulled(points, HANDS["calm"], line.pace, seed, glass=glass, pressure=line.pressure)
    return Pull(samples, nib, View(scale=glass), "simulated")


def _on_sheet(points: np.ndarray) -> np.ndarray | None:
    """A line without what runs far beyond the sheet: nobody pulls there."""
    low, high = np.array(SIZE_MM) * 0.0 - BEYOND_MM, np.array(SIZE_MM) + BEYOND_MM
    inside = ((points >= low) & (points <= high)).all(axis=1)
    return points[inside] if np.count_nonzero(inside) > 1 else None


def _cover(thing: Thing) -> dict[str, Any]:
    """Drawn round the pencils; near things have a little white round them."""
    gap = GAP_MM if thing.tier == "near" else 0.0
    return {"name": thing.part, "on": True, "gap": gap, "shape": [outline.tolist() for outline in thing.covers]}
