"""Pixels of 5,000 outlines on a large page: time as a ratio to skia drawing the same outlines in the same run, memory,
and the error of coverage at edges against 16 x 16 samples a pixel (skia without antialiasing at 16 times the size)."""

import time
from collections.abc import Callable

import numpy as np
import skia

from benchmarks import memory
from benchmarks.big_job import SIZE_MM, big_job
from plain_stride.compiled import ready
from plain_stride.finish.png import png_bytes
from plain_stride.job.job_files import opened
from plain_stride.job.shapes import Shapes
from plain_stride.render.fill import Inked
from plain_stride.render.raster import grey_page

PIXELS, RUNS, TIMES, CROP = (6200, 7200), 5, 16, 700
SCALE = min(PIXELS[0] / SIZE_MM[0], PIXELS[1] / SIZE_MM[1])
FILL, COMPILED_FILL, MEMORY_MB, ERROR = 0.85, 0.5, 300, 2.0


def main() -> None:
    ready.load()
    begun = time.perf_counter()
    with opened(big_job()) as (job, store):
        shapes = Shapes(job, store)
        inked = [("black", shapes[key].rings) for key in job.line_ids()]
    print(f"  outlines of {len(inked):,} lines made in {time.perf_counter() - begun:.1f} s")
    paths = [_path(rings, SCALE) for _, rings in inked]
    before = memory.now()
    memory.forget_peak()
    ours, theirs = [], []
    for _ in range(RUNS):  # in turns, so that both meet the same machine
        ours.append(_timed(lambda: grey_page(inked, PIXELS, SCALE * 25.4)))
        theirs.append(_timed(lambda: _drawn(paths, *PIXELS, True)))
    page = grey_page(inked, PIXELS, SCALE * 25.4)
    coding = _timed(lambda: png_bytes(page, None, 600.0, False))
    ratio = np.median(np.array(ours) / np.array(theirs))
    print(f"  fill {np.median(ours):.2f} s, skia {np.median(theirs):.2f} s (medians of {RUNS}): ratio {ratio:.2f}"
          f" (<= {FILL}, compiled {COMPILED_FILL}); with PNG {np.median(ours) + coding:.2f} s")  # fmt: skip
    memory.forget_peak()
    grey_page(inked, PIXELS, SCALE * 25.4)
    print(
        f"  peak memory beside the job {(memory.peak() - before) / 1e6:.0f} MB (<= {MEMORY_MB}), with the page itself"
    )
    print(f"  coverage at edges: mean error {_error(inked):.2f} of 255 (<= {ERROR:g})", flush=True)


def _timed(work: Callable[[], object]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def _path(rings: list[np.ndarray], scale: float) -> skia.Path:
    path = skia.Path()
    for ring in rings:
        path.addPoly([skia.Point(float(x), float(y)) for x, y in ring * scale], True)
    return path


def _drawn(paths: list[skia.Path], wide: int, high: int, smooth: bool) -> np.ndarray:
    surface = skia.Surface(wide, high)
    canvas = surface.getCanvas()
    canvas.clear(skia.ColorWHITE)
    paint = skia.Paint(AntiAlias=smooth, Color=skia.ColorBLACK)
    for path in paths:
        canvas.drawPath(path, paint)
    return surface.toarray()[:, :, 1] if not smooth else np.zeros(0)


def _error(inked: Inked) -> float:
    """Line by line over those in a corner of the page, so that lines over lines do not count."""
    here = [rings for _, rings in inked if max(float(r.max()) for r in rings) * SCALE < CROP]
    off = []
    for rings in here[:40]:
        ours = grey_page([("black", rings)], (CROP, CROP), SCALE * 25.4).astype(float)
        many = _drawn([_path(rings, SCALE * TIMES)], CROP * TIMES, CROP * TIMES, False)
        truth = many.reshape(CROP, TIMES, CROP, TIMES).mean(axis=(1, 3), dtype=float)
        edges = (truth > 0) & (truth < 255)
        off.append(np.abs(ours - truth)[edges])
    return float(np.concatenate(off).mean())
