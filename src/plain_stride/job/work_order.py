"""The order of work of a job: what its pencils still ask for, what is to be filled, hatched, drawn again."""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from plain_stride.job.areas import areas_of
from plain_stride.job.board_facts import frames_of
from plain_stride.job.log_changes import order_row
from plain_stride.job.pencil_records import AGAIN as DRAW_AGAIN
from plain_stride.job.pencil_records import FILL, TO_HATCH
from plain_stride.job.pencils_and_ink import coverage_of, ink_of
from plain_stride.job.records import HATCH
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.lines.area_black import area_of_rings
from plain_stride.order.pieces import AGAIN, BLACKS, HATCHING, Piece, kinds_of, parts_by_neighbours
from plain_stride.order.steps import Step, next_step, steps_of
from plain_stride.pencils.coverage import Coverage
from plain_stride.pencils.read.reading import Reading

MOSTLY = 0.9
"""The share of an area from which it counts as inked: edges are never met to the last hair."""


def pieces_of(job: JobRows, shapes: Shapes, reading: Reading | None, covered: Coverage | None = None) -> list[Piece]:
    """All there is to ink. reading: of the pencils, None where there are none; covered: how much of it has ink, where
    that is known."""
    out = _marked(job, shapes)
    if reading is None or not reading.lines:
        return out
    covered = covered or coverage_of(job, shapes, reading)
    ink = {key: points for key, points in ink_of(job, shapes).items() if job.rows.lines[key].tone is None}
    of = [job.rows.lines[key].part for key in ink]
    lines = [np.vstack([line.points, line.points[:1]]) if line.closed else line.points for line in reading.lines]
    parts = parts_by_neighbours(lines, list(ink.values()), of)
    kinds = kinds_of(lines, parts, [_ring(frame.box) for frame in frames_of(job).values()])
    bare = _Bare(covered.bare)
    for line, read, part, kind, share in zip(lines, reading.lines, parts, kinds, covered.by_line, strict=True):
        at = bare.nearest(line) if share < 1.0 else line[0]
        out.append(Piece(kind, part, read.length, share, (float(at[0]), float(at[1])), read.rough_width))
    return out


def steps_of_job(job: JobRows, pieces: list[Piece]) -> list[Step]:
    """Raises OrderError."""
    return steps_of(pieces, {part.id: part.order for part in job.parts()}, order_row(job).own)


def left_to_ink(pieces: list[Piece]) -> tuple[float, int]:
    """(mm, lines) that have no ink."""
    left = [p for p in pieces if p.inked < 1.0]
    return sum(p.mm * (1.0 - p.inked) for p in left), sum(1 for p in left if p.inked < 0.5)


def told_steps(job: JobRows, steps: list[Step], hours: Mapping[str, float | None]) -> dict[str, Any]:
    """The order as JSON. hours: of work by the step's id."""
    row = order_row(job)
    first = next_step(steps, row.aside)
    names = {part.id: part.name for part in job.parts()}
    return {
        "units": "mm",
        "order": row.school,
        "next": first.id if first else None,
        "steps": [{"id": s.id, "kind": s.kind, "part": names.get(s.part), "mm_left": round(s.mm_left, 1),
                   "hours": None if hours.get(s.id) is None else round(float(hours[s.id] or 0.0), 3),
                   "done": round(s.done, 4), "x": round(s.x, 2), "y": round(s.y, 2), "lines_left": s.lines_left,
                   "aside": s.id in row.aside} for s in steps],
    }  # fmt: skip


def _marked(job: JobRows, shapes: Shapes) -> list[Piece]:
    """What was marked: areas to be filled, hatched or drawn again, remarks that nobody has seen to."""
    out = []
    for kind, marked, has in (
        (BLACKS, FILL, _black_areas),
        (HATCHING, TO_HATCH, _hatched_areas),
        (AGAIN, DRAW_AGAIN, None),
    ):
        outlines = [area.outline for area in areas_of(job, marked)]
        inked = has(job, shapes) if has is not None and outlines else []
        for outline in outlines:
            round_ = np.vstack([outline, outline[:1]])
            mm = float(np.hypot(*np.diff(round_, axis=0).T).sum())
            x, y = outline.mean(axis=0)
            out.append(Piece(kind, "", mm, _covered(outline, inked), (float(x), float(y))))
    for row in job.rows.remarks.values():
        out.append(Piece(AGAIN, "", 0.0, 1.0 if row.done else 0.0, (row.x_mm, row.y_mm)))
    return out


def _covered(outline: np.ndarray, inked: list[Any]) -> float:
    """The share of an area that lies in others, 0 to 1; all of it counts where nine tenths do."""
    import shapely

    if not inked:
        return 0.0
    area = shapely.make_valid(shapely.Polygon(outline))
    share = shapely.intersection(area, shapely.union_all(inked)).area / max(area.area, 1e-9)
    return 1.0 if share >= MOSTLY else float(share)


def _black_areas(job: JobRows, shapes: Shapes) -> list[Any]:
    return [area_of_rings(shapes.black(key).rings) for key, row in job.rows.blacks.items()
            if row.part in job.rows.parts and not job.rows.parts[row.part].hidden]  # fmt: skip


def _hatched_areas(job: JobRows, shapes: Shapes) -> list[Any]:
    """What strokes of hatching go over, their hull."""
    import shapely

    out = []
    for key, row in job.rows.tones.items():
        strokes = [shapes[one].flat[0] for one in job.tone_ink(key) if one in job.rows.lines]
        if row.kind == HATCH and strokes:
            out.append(shapely.MultiPoint(np.vstack(strokes)).convex_hull)
    return out


class _Bare:
    """The middles of stretches without ink, to be looked up: n log n."""

    def __init__(self, runs: Sequence[np.ndarray]) -> None:
        from scipy.spatial import cKDTree

        self._middles = np.array([run.mean(axis=0) for run in runs]).reshape(-1, 2)
        self._tree = cKDTree(self._middles) if len(runs) else None

    def nearest(self, line: np.ndarray) -> np.ndarray:
        """(2,) where what is left of a line (n, 2) mm is: the bare stretch that lies nearest to it."""
        if self._tree is None:
            return np.asarray(line[len(line) // 2])
        far, near = self._tree.query(line)
        return np.asarray(self._middles[near[int(far.argmin())]])


def _ring(box: tuple[float, float, float, float]) -> np.ndarray:
    x0, y0, x1, y1 = box
    return np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1], [x0, y0]])
