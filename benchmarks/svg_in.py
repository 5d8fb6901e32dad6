"""SVG files written by others: 500 line icons out of three npm packages, fetched on the first run, never committed.

Strokes and widths are held against svgelements' own reading of the file, pixels against resvg's picture of it.
"""

import io
import subprocess
import tarfile
import tempfile
import time
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import platformdirs
import resvg_py
from PIL import Image

from plain_stride.board.page import Page
from plain_stride.finish.svg_in import read_svg
from plain_stride.finish.svg_tree import SvgError
from plain_stride.hand.nib import DEFAULT_NIB
from plain_stride.job.art import art_of
from plain_stride.job.changes import make_all
from plain_stride.job.job import Job
from plain_stride.job.job_files import new_job, opened
from plain_stride.job.reading import svg_changes
from plain_stride.job.shapes import Shapes
from plain_stride.lines.cross import nearest
from plain_stride.render.export import png_of

PACKAGES = {"lucide-static": "package/icons/", "@tabler/icons": "package/icons/", "iconoir": "package/icons/"}
FILES, SEED, DPI = 500, 11, 960.0
NEAR_MM, WIDTH_SHARE, STROKES_SHARE, PIXEL_SHARE = 0.02, 0.01, 0.99, 0.01
MM_PER_PX = 25.4 / 96.0


@dataclass
class Seen:
    """Counts over all files. missing: strokes that are not there as they should be, by file."""

    strokes: int = 0
    missing: list[str] = field(default_factory=list)
    worst_mm: float = 0.0
    worst_width: float = 0.0
    pixels: list[float] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)
    told: Counter[str] = field(default_factory=Counter)
    read_s: float = 0.0


def main() -> None:
    files = icons()
    seen = Seen()
    with tempfile.TemporaryDirectory() as folder:
        for name, data in files:
            look(name, data, seen, Path(folder) / "icon.stride")
    share = 1.0 - len(seen.missing) / max(seen.strokes, 1)
    print(f"  {len(files)} files, {seen.strokes:,} strokes: {share:.2%} in within {NEAR_MM} mm and {WIDTH_SHARE:.0%} of"
          f" width (>= {STROKES_SHARE:.0%}); worst of those {seen.worst_mm:.4f} mm, {seen.worst_width:.3%};"
          f" {seen.read_s / len(files) * 1000:.1f} ms a file")  # fmt: skip
    print(f"  pixels against resvg: mean difference {np.mean(seen.pixels):.3%}, worst file {np.max(seen.pixels):.3%}"
          f" (<= {PIXEL_SHARE:.0%})")  # fmt: skip
    for words, names in (("strokes not in", seen.missing), ("files refused", seen.refused)):
        if names:
            print(f"  {words}: {len(names)}: {', '.join(sorted(set(names))[:12])}")
    for words, n in seen.told.most_common(8):
        print(f"  told in {n} files: {words}")
    print(end="", flush=True)


def icons() -> list[tuple[str, bytes]]:
    """(name, bytes) of FILES icons, the same ones each time a package has the same files."""
    folder = Path(platformdirs.user_cache_dir("plain-stride")) / "svg-sets"
    folder.mkdir(parents=True, exist_ok=True)
    if not list(folder.glob("*.tgz")):
        subprocess.run(["npm", "pack", "--silent", *PACKAGES], cwd=folder, check=True, stdout=subprocess.DEVNULL)
    pool: list[tuple[str, bytes]] = []
    rng = np.random.default_rng(SEED)
    for archive in sorted(folder.glob("*.tgz")):
        with tarfile.open(archive) as tar:
            members = sorted(m.name for m in tar.getmembers() if m.name.endswith(".svg") and "/icons/" in m.name)
            picked = rng.choice(members, FILES // len(PACKAGES) + 1, replace=False)
            for name in picked:
                file = tar.extractfile(str(name))
                assert file is not None
                pool.append((f"{archive.name.split('-')[0]}/{Path(str(name)).name}", file.read()))
    return pool[:FILES]


def look(name: str, data: bytes, seen: Seen, path: Path) -> None:
    started = time.perf_counter()
    try:
        art = read_svg(data)
    except SvgError:
        seen.refused.append(name)
        return
    seen.read_s += time.perf_counter() - started
    seen.told.update(art.unread.keys())
    ours = [(np.asarray(thing.form.curve), float(thing.form.widths.full.max()))
            for thing in art.things if hasattr(thing, "form")]  # fmt: skip
    ours_flat = [(_flat(curve), width) for curve, width in ours]
    for points, width in expected(data):
        seen.strokes += 1
        best = min(((_apart(points, flat), abs(w - width) / width) for flat, w in ours_flat), default=(9.0, 9.0))
        if best[0] > NEAR_MM or best[1] > WIDTH_SHARE:
            seen.missing.append(name)
        else:
            seen.worst_mm, seen.worst_width = max(seen.worst_mm, best[0]), max(seen.worst_width, best[1])
    seen.pixels.append(_pixels_apart(data, path))


def _flat(curve: np.ndarray) -> np.ndarray:
    from plain_stride.lines.curve import flatten

    return flatten(curve, 0.001)


def _apart(points: np.ndarray, flat: np.ndarray) -> float:
    """The farthest of points from a polyline."""
    return max(nearest(flat, p)[0] for p in points) if len(flat) > 1 else float(np.hypot(*(points - flat[0]).T).max())


def expected(data: bytes) -> list[tuple[np.ndarray, float]]:
    """(places along it in mm, width in mm) of every stroke, as svgelements reads the file."""
    from svgelements import SVG, Shape
    from svgelements import Path as SvgPath

    out = []
    for element in SVG.parse(io.BytesIO(data), reify=False, ppi=96).elements():
        if not isinstance(element, Shape) or element.stroke is None or element.stroke.value is None:
            continue
        width = float(element.stroke_width or 0.0) * abs(element.transform.determinant) ** 0.5 * MM_PER_PX
        for sub in (SvgPath(element) * element.transform).as_subpaths():
            if (part := SvgPath(sub)) and width > 0.0 and len(part) > 1:
                out.append((_places(part), width))
    return out


def _places(part: Any) -> np.ndarray:
    at = [segment.point(u) for segment in part[1:] for u in (0.0, 0.3, 0.5, 0.8, 1.0) if segment.start is not None]
    return np.array([[p.x, p.y] for p in at], float) * MM_PER_PX


def _pixels_apart(data: bytes, path: Path) -> float:
    """Mean difference of grey, as a share, between our export and resvg's picture of the file on white."""
    theirs = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=data.decode(), zoom=int(DPI / 96)))))
    paper = Image.new("RGBA", theirs.size, (255, 255, 255, 255))
    grey = np.asarray(Image.alpha_composite(paper, theirs.convert("RGBA")).convert("L"), float)
    with _imported(data, path, grey.shape) as (job, shapes):
        page = np.asarray(Image.open(io.BytesIO(png_of(art_of(job, shapes), False, False))), float)
    h, w = min(page.shape[0], grey.shape[0]), min(page.shape[1], grey.shape[1])
    return float(np.abs(page[:h, :w] - grey[:h, :w]).mean() / 255.0)


class _imported:
    """A job of its own with the file in it."""

    def __init__(self, data: bytes, path: Path, shape: tuple[int, ...]) -> None:
        path.unlink(missing_ok=True)
        new_job(path, Page((shape[1] / DPI * 25.4, shape[0] / DPI * 25.4), DPI))
        self._open, self._data = opened(path, write=True), data

    def __enter__(self) -> tuple[Job, Shapes]:
        job, store = self._open.__enter__()
        shapes = Shapes(job, store)
        make_all(job, shapes, svg_changes(self._data, DEFAULT_NIB, set())[0])
        return job, shapes

    def __exit__(self, *what: object) -> None:
        self._open.__exit__(None, None, None)
