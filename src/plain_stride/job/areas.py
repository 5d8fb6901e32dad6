"""Areas marked on the board: where no ink is needed, what is to be filled black later, what is to be drawn again."""

from dataclasses import dataclass

import numpy as np

from plain_stride.form.cover import Cover, drawn_cover
from plain_stride.job.board_facts import frames_cover
from plain_stride.job.job import Job
from plain_stride.job.pencil_records import NO_NEED
from plain_stride.job.rows import JobRows


@dataclass(frozen=True, eq=False)
class Area:
    """outline (n, 2) mm; found: it was told by an X in the pencils, not drawn by hand."""

    key: str
    kind: str
    outline: np.ndarray
    found: bool


def areas_of(job: JobRows, kind: str) -> list[Area]:
    return [Area(key, kind, np.array(row.outline), row.found)
            for key, row in job.rows.areas.items() if row.kind == kind]  # fmt: skip


def no_need(job: Job) -> Cover | None:
    """All that needs no ink: what is marked so, and what lies outside the frames. None where that is nothing."""
    import shapely

    marked = [area.outline for area in areas_of(job, NO_NEED)]
    parts = [drawn_cover(marked, []) if marked else None, frames_cover(job)]
    areas = [part.area for part in parts if part is not None]
    if not areas:
        return None
    return Cover(shapely.union_all(areas), np.zeros((0, 2, 2)), np.zeros((0, 2)))
