"""Handing over 5,000 lines at 6,200 x 7,200 pixels: each file as a ratio to the PNG of the same run, each in a process
of its own for its memory; the flats map. What files look like elsewhere is held by tests.

Limits are those that were set beforehand; where one is not reached the line says so by its figure.
"""

import tempfile
import time
import zlib
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from multiprocessing import get_context
from pathlib import Path

import numpy as np

from benchmarks import memory
from benchmarks.big_job import SIZE_MM, big_job
from benchmarks.drawing import took
from benchmarks.proof import lay, tiled
from plain_stride.compiled import ready
from plain_stride.finish.art import Art, Inked, box_of
from plain_stride.finish.choices import Choices
from plain_stride.finish.writers import WRITERS
from plain_stride.job.art import art_of
from plain_stride.job.covers import Covers
from plain_stride.job.flats import flats_of
from plain_stride.job.job_files import opened
from plain_stride.job.shapes import Shapes
from plain_stride.render.export import Pixels

WIDE, RUNS, LINES = 6200, 3, 5000
ACROSS, DOWN = 3, 6
"""Fields of the page, a part each: 18 of them."""
TIFF, LAYERS, MEMORY_MB, PDF_S, PDF_SIZE, FLATS_S = 1.2, 3.0, 500.0, 4.0, 1.2, 2.0
WRITTEN = {"PNG": (".png", Choices()), "TIFF, one bit": (".tif", Choices(bw=True, by="one")),
           "OpenRaster": (".ora", Choices()), "PDF": (".pdf", Choices()), "SVG": (".svg", Choices())}  # fmt: skip


def main() -> None:
    ready.load()
    path = big_job()
    results = {}
    for name in WRITTEN:
        with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
            results[name] = pool.submit(_written, path, name).result()
    png = results["PNG"][0]
    for name, (seconds, peak, size, packed) in results.items():
        limit = {"TIFF, one bit": f"<= {TIFF:g}", "OpenRaster": f"<= {LAYERS:g}"}.get(name, "")
        print(f"  {name}: {seconds:.2f} s, {seconds / png:.2f} of PNG {limit}; {peak:.0f} MB beside the job"
              f" (<= {MEMORY_MB:g}); {size / 1e6:.2f} MB, compressed {packed / 1e6:.2f}")  # fmt: skip
    size = results["PDF"][2] / results["SVG"][3]
    print(f"  PDF {results['PDF'][0]:.2f} s (<= {PDF_S:g}), {size:.2f} of the SVG compressed (<= {PDF_SIZE:g})")
    with tempfile.TemporaryDirectory() as folder:
        lay(Path(folder) / "composed.stride", tiled(LINES))
        _flats(Path(folder) / "composed.stride")


def in_parts(art: Art) -> Art:
    """The same lines in so many parts, each in a field of the page, as those of a drawing lie."""
    lines = [line for part in art.parts for line in part.lines]
    fields: dict[tuple[int, int], list[Inked]] = {}
    for line in lines:
        x, y, *_ = box_of(line)
        fields.setdefault((int(x / SIZE_MM[0] * ACROSS), int(y / SIZE_MM[1] * DOWN)), []).append(line)
    first = art.parts[0]
    parts = (replace(first, name=f"Part {k}", lines=tuple(some)) for k, some in enumerate(fields.values()))
    return replace(art, things=tuple(parts))


def _written(path: Path, name: str) -> tuple[float, float, int, int]:
    """(s, MB at most beside the job and its outlines, bytes, bytes compressed) of a file, its outlines made before."""
    ready.load()
    ending, choices = WRITTEN[name]
    with opened(path) as (job, store):
        art = in_parts(art_of(job, Shapes(job, store)))
        art = replace(art, page=replace(art.page, dpi=WIDE / SIZE_MM[0] * 25.4))
        for part in art.parts:
            for line in part.lines:
                _ = line.seen_curves() if ending in (".pdf", ".svg") else line.seen()
        times, before = [], memory.now()
        memory.forget_peak()
        for _ in range(RUNS):
            begun = time.perf_counter()
            data = WRITERS[ending].write(art, choices, Pixels(), None)
            times.append(time.perf_counter() - begun)
    return float(np.median(times)), (memory.peak() - before) / 1e6, len(data), len(zlib.compress(data, 6))


def _flats(path: Path) -> None:
    """Of compositions beside each other, as drawings are: lines that cross at random make areas that no drawing has."""
    with opened(path) as (job, store):
        shapes = Shapes(job, store)
        for key in job.line_ids():
            _ = shapes[key].flat
        times = [took(lambda: flats_of(job, shapes, with_leaks=False)) / 1000.0 for _ in range(RUNS)]
        covers = Covers(job, shapes)
        flats_of(job, shapes, covers=covers)
        kept = [took(lambda: flats_of(job, shapes, covers=covers)) / 1000.0 for _ in range(RUNS)]
        found = flats_of(job, shapes)
        print(f"  flats of {len(job.rows.lines):,} lines: {len(found.flats):,} areas in {np.median(times):.2f} s"
              f" (<= {FLATS_S:g}); with {len(found.leaks)} leaks, covers known, {np.median(kept):.2f} s")  # fmt: skip
