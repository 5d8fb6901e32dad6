"""The demo job: scanned pencils of our own scene, about half of it inked by the simulated hand."""

import os
from dataclasses import replace
from pathlib import Path
from typing import Any

import platformdirs

from plain_stride.board.page import Page
from plain_stride.hand.pull import Pull, View
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.job.changes import Made, make, make_all
from plain_stride.job.demo_scene import SIZE_MM, Thing, scene, seen
from plain_stride.job.job import Job, new_job, opened
from plain_stride.job.shapes import Shapes
from plain_stride.job.store import Store
from plain_stride.pencils.scanner import scan

DEMO_NAME = "Lock keeper"
DPI, SCAN_DPI = 600.0, 200.0
SEED = 7
SHARE, GAP_MM = 55.0, 0.5


def demo_path() -> Path:
    """Where the demo is kept for this user."""
    return Path(platformdirs.user_data_dir("plain-stride")) / "demo" / f"{DEMO_NAME}.stride"


def ensure_demo(path: Path) -> Path:
    """Makes the demo where it is not there yet; what was done in it is never overwritten."""
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        make_demo(path)
    return path


def make_demo(path: Path) -> None:
    """Draws the demo into a new job; it appears under its name only when it is whole."""
    part = path.with_name(f".{path.stem}-{os.getpid()}.stride")
    part.unlink(missing_ok=True)
    try:
        new_job(part, Page(SIZE_MM, DPI))
        with opened(part, write=True) as (job, store):
            _draw(job, store)
        os.link(part, path)
    finally:
        for end in ("", "-wal", "-shm", "-lock"):
            Path(f"{part}{end}").unlink(missing_ok=True)


def _draw(job: Job, store: Store) -> None:
    shapes = Shapes(job, store)

    def keep(made: Made) -> None:
        if made.commit is not None:
            store.commit(replace(made.commit, fits=shapes.fresh_fits()))

    things = scene()
    sheet = scan([line.points for thing in seen(things) for line in thing.lines], SIZE_MM, SCAN_DPI, SEED)
    keep(make(job, shapes, "pencils-add", {"data": sheet, "name": "Heron, rough"}))
    keep(make_all(job, shapes, [("part", {"name": t.part, "tier": t.tier}) for t in things], "parts"))
    keep(make_all(job, shapes, [("cover", _cover(thing)) for thing in things if thing.covers], "covers"))
    nibs = job.nibs()
    for n, thing in enumerate(t for t in things if t.inked):
        for k, line in enumerate(thing.lines):
            samples = pulled(line.points, HANDS["calm"], line.pace, [SEED, n, k], pressure=line.pressure)
            pull = Pull(samples, nibs[line.nib], View(), "simulated")
            keep(make(job, shapes, "pull", {"pull": pull, "part": thing.part, "role": line.role}))
    keep(make(job, shapes, "plan", {"share": SHARE}))


def _cover(thing: Thing) -> dict[str, Any]:
    """Drawn round the pencils; the heron's is found from its ink, with a little white round it."""
    if thing.part == "Heron":
        return {"name": thing.part, "on": True, "gap": GAP_MM}
    return {"name": thing.part, "on": True, "shape": [outline.tolist() for outline in thing.covers]}
