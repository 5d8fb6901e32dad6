"""The plan on large boards: laid on a whole drawing, after one line changed, with a lamp that moves; how it grows; and
whether what is worked out bit by bit equals the whole, edit after edit."""

import tempfile
from collections.abc import Callable
from pathlib import Path
from shutil import copy

import numpy as np

from benchmarks.big_job import big_job
from benchmarks.drawing import took
from plain_stride.compiled import ready
from plain_stride.form.known import known_of
from plain_stride.job.changes import make
from plain_stride.job.job_files import opened
from plain_stride.job.shapes import Shapes
from plain_stride.weight.guarantees import guaranteed
from plain_stride.weight.lamps import Lamp
from plain_stride.weight.plan import Plan
from plain_stride.weight.scene import Scene
from plain_stride.weight.weighing import weighed

WHOLE_S, SETTLED_MS, FRAME_MS, SOLVER_MS, GROWTH = 1.2, 300.0, 100.0, 100.0, 1.15
CHANGES, SAME_MM = 40, 0.002


def best(work: Callable[[], object], times: int = 3) -> float:
    """The least of several, in milliseconds."""
    return min(took(work) for _ in range(times))


def main() -> None:
    ready.load()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "big.stride"
        copy(big_job(), path)
        with opened(path, write=True) as (job, store):
            shapes = Shapes(job, store)
            shapes.weighing.now()
            scene = shapes.weighing.now().scene
            _whole(scene)
            _growth(scene)
            _changed(job, shapes)


def _whole(scene: Scene) -> None:
    plan = Plan()
    known = best(lambda: known_of(scene.drawing))
    laid = best(lambda: weighed(Scene(scene.drawing, scene.known), plan))
    lamps = [took(lambda k=k: weighed(scene, Plan(lamps=(Lamp(at=(50.0 + k, 40.0)),)))) for k in range(5)]
    wide = weighed(scene, plan).wide
    lines, sides = len(scene.known.places.lines), len(scene.known.junctions.line)
    print(f"  {lines:,} lines, {sides:,} sides of junctions: known in {known:.0f} ms, plan laid in {laid:.0f} ms,"
          f" together {(known + laid) / 1000.0:.2f} s (<= {WHOLE_S:g})")  # fmt: skip
    print(f"  guarantees {best(lambda: guaranteed(scene, plan, wide)):.0f} ms (solver alone <= {SOLVER_MS:g});"
          f" a lamp moved: median {np.median(lamps):.0f} ms (<= {FRAME_MS:g})")  # fmt: skip


def _growth(scene: Scene) -> None:
    """Over a fifth of the lines and over all."""
    keys = scene.known.places.lines
    times = []
    for share in (0.2, 1.0):
        some = set(keys[: int(len(keys) * share)])
        lines = {key: line for key, line in scene.drawing.lines.items() if key in some}
        drawing = type(scene.drawing)(1, scene.drawing.parts, lines, scene.drawing.covers, scene.drawing.contacts)
        times.append(best(lambda d=drawing: weighed(Scene(d, known_of(d)), Plan())))
    power = np.log(times[1] / times[0]) / np.log(5.0)
    print(f"  {times[0]:.0f} ms for a fifth of them, {times[1]:.0f} ms for all: grows as n^{power:.2f} (<= {GROWTH:g})")


def _changed(job: object, shapes: Shapes) -> None:
    make(job, shapes, "plan", {"share": 100})
    shapes.weighing.now()
    keys, settled, off = job.line_ids(), [], 0
    rng = np.random.default_rng(0)
    for n in range(CHANGES):
        key = keys[int(rng.integers(len(keys)))]
        make(job, shapes, "affine", {"lines": [key], "matrix": [1, 0, 0, 1, *rng.uniform(-2, 2, 2).tolist()]})
        settled.append(took(shapes.weighing.now))
        if n % (CHANGES // 4) == 0:
            fresh = Shapes(job)
            own, whole = shapes.weighing.now().wide, fresh.weighing.now().wide
            off += int(not np.allclose(own, whole, atol=SAME_MM))
    print(f"  after one line changed, settled: median {np.median(settled):.0f} ms, p95 {np.percentile(settled, 95):.0f}"
          f" (<= {SETTLED_MS:g}, beside the window); {off} of 4 not equal to the whole")  # fmt: skip
