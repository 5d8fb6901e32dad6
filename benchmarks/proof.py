"""The proof on large boards: from nothing, after one line changed, of a page that is all cross-hatching; its growth."""

import resource
import tempfile
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

import numpy as np

from benchmarks.drawing import took
from plain_stride.board.page import Page
from plain_stride.compiled import ready
from plain_stride.hand.nib import standard_nibs
from plain_stride.job.changes import make, make_all
from plain_stride.job.following import JobAtWork
from plain_stride.job.job_files import new_job, opened
from plain_stride.job.proof_questions import ProofNow
from plain_stride.job.reading import import_changes
from plain_stride.job.shapes import Shapes
from tests.proof import bases

WHOLE_S, HATCHED_S, LARGE_S, CHANGED_MS, MEMORY_MB, GROWTH = 3.0, 4.0, 10.0, 100.0, 1000.0, 1.2
SIZES, CHANGES = (1000, 5000, 20000), 30
TILE_MM, SHRUNK = (180.0, 130.0), 0.5


def main() -> None:
    ready.load()
    times = []
    for count in SIZES:
        with tempfile.TemporaryDirectory() as folder:
            times.append(_whole(Path(folder) / "large.stride", tiled(count), count == SIZES[1]))
    grows = np.log(times[-1] / times[0]) / np.log(SIZES[-1] / SIZES[0])
    print(f"  grows as n^{grows:.2f} from {SIZES[0]:,} to {SIZES[-1]:,} lines (<= {GROWTH:g})")
    with tempfile.TemporaryDirectory() as folder:
        _whole(Path(folder) / "hatched.stride", crossed(SIZES[1]), False, "all cross-hatching")


def tiled(count: int) -> list[dict]:
    """So many lines of the compositions of the tests, beside each other on one sheet, shrunk."""
    out, makers, n = [], (bases.figures, bases.houses, bases.hills, bases.letters, bases.hatching), 0
    across = max(1, int(np.ceil(np.sqrt(count / 80.0))))
    while len(out) < count:
        sheet = makers[n % len(makers)](n)
        off = np.array([n % across, n // across]) * TILE_MM
        for one in sheet.lines:
            out.append(
                {
                    **one,
                    "id": f"t{len(out)}",
                    "part": f"{n % 40} {one['part']}",
                    "points": (one["points"] + off) * SHRUNK,
                    "widths": one["widths"] * SHRUNK,
                }
            )
        n += 1
    return out[:count]


def crossed(count: int) -> list[dict]:
    """A page of two crossing sets in patches: each stroke crosses 20 to 40 others."""
    rng, out, k = np.random.default_rng(5), [], 0
    while len(out) < count:
        x, y = 12.0 + 26.0 * (k % 16), 12.0 + 26.0 * (k // 16)
        a = rng.uniform(0, np.pi)
        for turn in (a, a + 0.6):
            way, across = np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
            for step in np.arange(-11.0, 11.0, 0.7):
                middle = np.array([x, y]) + across * step
                ends = np.array([middle - way * 10.0, middle, middle + way * 10.0])
                out.append(
                    {
                        "id": f"t{len(out)}",
                        "part": "Hatch",
                        "role": "texture",
                        "closed": False,
                        "points": ends,
                        "widths": np.full(3, 0.25),
                        "ends": ["pointed", "pointed"],
                    }
                )
        k += 1
    return out[:count]


def lay(path: Path, lines: list[dict]) -> None:
    """A new job of such lines."""
    far = max(float(one["points"].max()) for one in lines) + 10.0
    new_job(path, Page((far, far), 600.0))
    told = {
        "units": "mm",
        "lines": [
            {**one, "points": np.round(one["points"], 4).tolist(), "widths": np.round(one["widths"], 4).tolist()}
            for one in lines
        ],
    }
    with opened(path, write=True) as (job, store):
        shapes = Shapes(job, store)
        store.commit(make_all(job, shapes, import_changes(told, standard_nibs()["3"]), "page").commit)


def _whole(path: Path, lines: list[dict], changed: bool, what: str = "") -> float:
    """Seconds of all checks from nothing."""
    lay(path, lines)
    # Memory is that of a process which does nothing else.
    with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as alone:
        return alone.submit(_proofed, path, changed, what).result()


def _proofed(path: Path, changed: bool, what: str) -> float:
    ready.load()
    with opened(path, write=True) as (job, store):
        shapes = Shapes(job, store)
        worked = took(lambda: [shapes[key] for key in job.line_ids()])
        at = JobAtWork(job, shapes)
        seconds = took(lambda: ProofNow().answered(at, lambda share: True)) / 1000.0
        found = ProofNow().answered(at, lambda share: True)
        memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024.0
        count = len(job.line_ids())
        limit = HATCHED_S if what else LARGE_S if count > SIZES[1] else WHOLE_S
        print(
            f"  {count:,} lines{', ' + what if what else ''}: worked out in {worked / 1000.0:.1f} s, proofed in"
            f" {seconds:.2f} s (<= {limit:g}), {len(found.told)} findings, {memory:.0f} MB at most (<= {MEMORY_MB:g})",
            flush=True,
        )
        if changed:
            _changed(job, shapes, at)
    return seconds


def _changed(job, shapes: Shapes, at: JobAtWork) -> None:
    times = []
    for key in job.line_ids()[:: len(job.line_ids()) // CHANGES]:
        made = make(job, shapes, "affine", {"lines": [key], "matrix": [1, 0, 0, 1, 0.1, 0.1]})
        at.drawing.changed(made.commit.rows)
        _ = shapes[key]
        times.append(took(lambda: ProofNow().answered(at, lambda share: True)))
    median, most = np.median(times), np.percentile(times, 95)
    print(f"  after one line changed: median {median:.0f} ms, p95 {most:.0f} (<= {CHANGED_MS:g})")
