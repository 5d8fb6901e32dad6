"""Two small jobs to try things on: a page of three frames with X marks, and one figure with nothing inked."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from plain_stride.board.page import Page
from plain_stride.demo.draw import Thing
from plain_stride.demo.scene import crosses, scene, seen
from plain_stride.job.changes import make, make_all
from plain_stride.job.job_files import new_job, opened
from plain_stride.job.shapes import Shapes
from plain_stride.job.whole_files import made_whole
from plain_stride.pencils.scanner import Scanning, scan

FRAMES_NAME, FIGURE_NAME = "Three frames", "The keeper"
DPI, SCAN_DPI, SEED = 600.0, 200.0, 13
SCANNED = Scanning(passes=2, wander_mm=0.24, broken=0.15, overrun_mm=1.2)
FRAMES_MM, FIGURE_MM = (200.0, 146.0), (128.0, 150.0)
SHOWN = (((6.0, 6.0, 112.0, 64.0), (92.0, 54.0), 1.4), ((124.0, 6.0, 70.0, 64.0), (0.0, 84.0), 1.28),
         ((6.0, 76.0, 188.0, 64.0), (96.0, 22.0), 1.3))  # fmt: skip
"""For each frame: its x, y, w, h; the place of the scene that stands in its upper left corner; how large, mm."""
KEEPER = ("Lantern", "Sleeves", "Scarf", "Heron", "Coat", "Boots")
FIGURE_AT, LEAST_MM = (28.0, 13.0), 1.2


def make_frames(path: Path) -> None:
    """A page of three frames, each with a piece of the demo's scene in pencil, X marks where it wants black."""
    things = seen(scene())
    lines = [line.points for thing in things if thing.part != "Dusk" for line in thing.lines]
    lines += crosses(scene())
    drawn = [piece for frame, at, size in SHOWN for piece in _within(lines, frame, at, size)]
    edges = [np.array([(x, y), (x + w, y), (x + w, y + h), (x, y + h), (x, y)]) for (x, y, w, h), _, _ in SHOWN]
    with made_whole(path) as part:
        new_job(part, Page(FRAMES_MM, DPI))
        frames: list[tuple[str, dict[str, object]]] = [
            ("frame", dict(zip("xywh", frame, strict=True))) for frame, _, _ in SHOWN
        ]
        _fill(part, scan([*drawn, *edges], FRAMES_MM, SCAN_DPI, SEED, SCANNED), "Three frames, rough", frames)


def make_figure(path: Path) -> None:
    """The keeper alone in pencil, nothing inked, not even parts."""
    things: list[Thing] = [thing for thing in seen(scene()) if thing.part in KEEPER]
    shift = np.array(FIGURE_AT)
    drawn = [line.points - shift for thing in things for line in thing.lines]
    with made_whole(path) as part:
        new_job(part, Page(FIGURE_MM, DPI))
        inside = _within(drawn, (0.0, 0.0, *FIGURE_MM), (0.0, 0.0), 1.0)
        _fill(part, scan(inside, FIGURE_MM, SCAN_DPI, SEED, SCANNED), "The keeper, rough", [])


def _fill(path: Path, sheet: bytes, name: str, changes: Sequence[tuple[str, dict[str, object]]]) -> None:
    with opened(path, write=True) as (job, store):
        shapes = Shapes(job, store)
        for made in (make(job, shapes, "pencils-add", {"data": sheet, "name": name}),
                     make_all(job, shapes, list(changes), "frames")):  # fmt: skip
            if made.commit is not None:
                store.commit(made.commit)


def _within(
    lines: Sequence[np.ndarray], frame: tuple[float, float, float, float], at: tuple[float, float], size: float
) -> list[np.ndarray]:
    """Lines (n, 2) mm of the scene as a frame shows them: the scene's place `at` in its upper left corner."""
    import shapely

    x, y, w, h = frame
    box = shapely.box(x, y, x + w, y + h)
    out = []
    for line in lines:
        cut = shapely.intersection(shapely.LineString((line - np.array(at)) * size + np.array([x, y])), box)
        for piece in getattr(cut, "geoms", [cut]):
            if piece.geom_type == "LineString" and piece.length >= LEAST_MM:
                out.append(np.asarray(piece.coords))
    return out
