"""Areas marked on the board: where no ink is needed, and what is to be filled black later."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.form.cover import Cover, drawn_cover
from plain_stride.job.board_facts import frames_cover
from plain_stride.job.errors import JobError
from plain_stride.job.job import Job

NO_NEED, FILL = "no-need", "fill"
AREA_KINDS = (NO_NEED, FILL)
MOST_POINTS = 5000


@dataclass(frozen=True, eq=False)
class Area:
    """outline (n, 2) mm; found: it was told by an X in the pencils, not drawn by hand."""

    key: str
    kind: str
    outline: np.ndarray
    found: bool


def checked_outline(outline: object) -> list[list[float]]:
    """An outline [[x, y], ..] mm of three points at least. Raises JobError."""
    try:
        points = np.array(outline, float)
    except (TypeError, ValueError):
        points = np.zeros(0)
    if points.ndim != 2 or points.shape[1] != 2 or not 3 <= len(points) <= MOST_POINTS:
        raise JobError(f"an area's outline is a list of 3 to {MOST_POINTS} [x, y] in mm")
    if not np.isfinite(points).all() or np.abs(points).max() > 1e5:
        raise JobError("an area's outline lies far off the sheet")
    kept: list[list[float]] = np.round(points, 3).tolist()
    return kept


def areas_of(job: Job, kind: str) -> list[Area]:
    rows: dict[str, Any] = job.rows["areas"]
    return [Area(key, kind, np.array(row["outline"], float), bool(row["found"]))
            for key, row in rows.items() if row["kind"] == kind]  # fmt: skip


def no_need(job: Job) -> Cover | None:
    """All that needs no ink: what is marked so, and what lies outside the frames. None where that is nothing."""
    import shapely

    marked = [area.outline for area in areas_of(job, NO_NEED)]
    parts = [drawn_cover(marked, []) if marked else None, frames_cover(job)]
    areas = [part.area for part in parts if part is not None]
    if not areas:
        return None
    return Cover(shapely.union_all(areas), np.zeros((0, 2, 2)), np.zeros((0, 2)))
