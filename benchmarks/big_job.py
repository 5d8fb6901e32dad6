"""A full page for the benchmarks: an A3 at 600 dpi with pencils beneath, 5,000 lines of 200 samples in 40 parts."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import platformdirs

from plain_stride.board.page import Page
from plain_stride.compiled import ready
from plain_stride.hand.pull import Pull, View
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.job.changes import make, make_all
from plain_stride.job.job_files import new_job, opened
from plain_stride.job.schema import SCHEMA_VERSION
from plain_stride.job.shapes import Shapes
from plain_stride.lines.centre import CENTRE_VERSION
from plain_stride.pencils.scanner import scan
from tests.targets import flowing

SIZE_MM, DPI, SCAN_DPI = (297.0, 420.0), 600.0, 150.0
LINES, SAMPLES, PARTS, SEED = 5000, 200, 40, 11
SHORTER = 0.42
"""The flowing curves of the tests at a length that takes about a second to pull."""


def big_job() -> Path:
    """The job, made once for this user (a minute or two) and kept in the cache; to be copied before it is changed."""
    path = Path(platformdirs.user_cache_dir("plain-stride")) / f"bench-{CENTRE_VERSION}-{SCHEMA_VERSION}-{LINES}.stride"
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        ready.load()
        part = path.with_suffix(".part.stride")
        part.unlink(missing_ok=True)
        _draw(part)
        part.rename(path)
    return path


def _draw(path: Path) -> None:
    new_job(path, Page(SIZE_MM, DPI))
    rng = np.random.default_rng(SEED)
    curves = [flowing(n) * SHORTER for n in range(200)]
    places = rng.uniform((10.0, 10.0), (SIZE_MM[0] - 30.0, SIZE_MM[1] - 30.0), (LINES, 2))
    targets = [curves[n % 200] - curves[n % 200].min(axis=0) + places[n] for n in range(LINES)]
    with opened(path, write=True) as (job, store):
        shapes, nibs = Shapes(job, store), job.nibs()
        picture = scan(targets[::8], SIZE_MM, SCAN_DPI, SEED)
        store.commit(make(job, shapes, "pencils-add", {"data": picture, "name": "page"}).commit)
        for first in range(0, LINES, 250):
            wanted = []
            for n in range(first, first + 250):
                samples = pulled(targets[n], HANDS["average"], "normal", [SEED, n])[:SAMPLES]
                pull = Pull(samples, nibs[str(1 + n % 5)], View(), "simulated")
                role = "outer" if n % 3 else "inner"
                wanted.append(("pull", {"pull": pull, "part": f"part {n % PARTS}", "role": role}))
            made = make_all(job, shapes, wanted, "page")
            store.commit(replace(made.commit, fits=shapes.fresh_fits()))
