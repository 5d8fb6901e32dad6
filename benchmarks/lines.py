"""A pull of 1,000 samples to a finished line, stage by stage; and the covers of the demo, each worked out anew."""

import tempfile
import time
from pathlib import Path

import numpy as np

from benchmarks.curves import fresh_seeds
from benchmarks.idle import counted
from plain_stride.compiled import ready
from plain_stride.demo.job import make_demo
from plain_stride.hand.nib import DEFAULT_NIB, Steadying
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.hand.steady import steady
from plain_stride.job.covers import Covers
from plain_stride.job.job_files import opened
from plain_stride.job.shapes import Shapes
from plain_stride.lines.centre import fitted
from plain_stride.lines.edits import End
from plain_stride.lines.recipe import Recipe, shape_of
from tests.targets import flowing

SAMPLES, LINES, LARGE = 1000, 24, 6.5
LINE_MS, COVER_MS = 12.0, 100.0


def main() -> None:
    ready.load()
    pulls = [pulled(flowing(seed) * LARGE, HANDS["average"], "normal", seed)[:SAMPLES] for seed in fresh_seeds(LINES)]
    spent, idle, thrown = counted(lambda: [stages(pull) for pull in pulls])
    told = {name: np.median([row[name] for row in spent]) * 1000.0 for name in spent[0]}
    finished = np.array([row["steadied"] + row["fitted"] + row["widths"] for row in spent]) * 1000.0
    p50, p95 = np.percentile(finished, (50, 95))
    print(f"  {SAMPLES:,} samples to a finished line: median {p50:.1f} ms (<= {LINE_MS:g}), p95 {p95:.1f}; of it"
          f" {', '.join(f'{name} {ms:.1f}' for name, ms in told.items() if name != 'outlined')};"
          f" its outline {told['outlined']:.1f} ms more; {idle.words()}; runs thrown away: {thrown}")  # fmt: skip
    covers = np.array(_covers()) * 1000.0
    print(f"  covers of the demo, each anew: median {np.median(covers):.1f}, worst {covers.max():.1f} ms"
          f" (<= {COVER_MS:g})", flush=True)  # fmt: skip


def stages(pull: np.ndarray) -> dict[str, float]:
    times = [time.perf_counter()]
    steadied = steady(pull, Steadying())
    times.append(time.perf_counter())
    centre = fitted(steadied)
    times.append(time.perf_counter())
    shape = shape_of(Recipe(centre, DEFAULT_NIB, (End("pointed"), End("pointed"))))
    times.append(time.perf_counter())
    _ = shape.rings
    times.append(time.perf_counter())
    return dict(zip(("steadied", "fitted", "widths", "outlined"), np.diff(times).tolist(), strict=True))


def _covers() -> list[float]:
    out = []
    with tempfile.TemporaryDirectory() as folder:
        make_demo(Path(folder) / "demo.stride")
        with opened(Path(folder) / "demo.stride") as (job, store):
            shapes = Shapes(job, store)
            for key in job.line_ids():
                _ = shapes[key].rings
            for part in job.parts():
                begun = time.perf_counter()
                if Covers(job, shapes).of(part.id) is not None:
                    out.append(time.perf_counter() - begun)
    return out
