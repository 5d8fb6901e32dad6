"""The drawing as a value, on 5,000 lines: made, and made again after a line changed, with its contacts and without."""

import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from shutil import copy

import numpy as np

from benchmarks.big_job import big_job
from plain_stride.compiled import ready
from plain_stride.job.changes import make
from plain_stride.job.drawn import JobDrawing
from plain_stride.job.job_files import opened
from plain_stride.job.shapes import Shapes

CHANGES, BARE_MS, CONTACTS_MS = 40, 2.0, 20.0


def took(work: Callable[[], object]) -> float:
    """Milliseconds."""
    start = time.perf_counter()
    work()
    return (time.perf_counter() - start) * 1000.0


def main() -> None:
    ready.load()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "big.stride"
        copy(big_job(), path)
        with opened(path, write=True) as (job, store):
            shapes = Shapes(job, store)
            whole = took(lambda: [shapes[key] for key in job.line_ids()])
            bare, full = JobDrawing(job, shapes, False), JobDrawing(job, shapes)
            first, first_full = took(bare.now), took(full.now)
            contacts = sum(map(len, full.now().contacts.values())) // 2
            again: dict[str, list[float]] = {"bare": [], "full": []}
            for key in job.line_ids()[:: len(job.line_ids()) // CHANGES]:
                made = make(job, shapes, "swell", {"line": key, "factor": 1.2})
                assert made.commit is not None
                for name, drawing in (("bare", bare), ("full", full)):
                    drawing.changed(made.commit.rows)
                    again[name].append(took(drawing.now))
    print(f"  lines worked out in {whole / 1000.0:.2f} s; first drawing {first:.0f} ms, with {contacts:,} contacts"
          f" {first_full / 1000.0:.1f} s")  # fmt: skip
    print(f"  after one line changed: median {np.median(again['bare']):.2f} ms (<= {BARE_MS:g}), with contacts"
          f" {np.median(again['full']):.1f} ms (<= {CONTACTS_MS:g})")  # fmt: skip
