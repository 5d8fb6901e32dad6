"""The named change that lets lines come thick out of the blacks in which they begin or end."""

from dataclasses import replace
from typing import Any

import numpy as np

from plain_stride.job.black_changes import area_of
from plain_stride.job.change_context import ChangeContext, change, line_list, number
from plain_stride.job.errors import JobError
from plain_stride.job.holding import end_of
from plain_stride.job.line_changes import MOST_EDITS
from plain_stride.job.mend_changes import LEAST_WIDTH_MM, MOST_WIDTH_MM
from plain_stride.job.records import END, START, LineRecord
from plain_stride.lines.bending import LEAST_REACH_MM
from plain_stride.lines.cross import crossings
from plain_stride.lines.edits import End, SetWidth
from plain_stride.lines.shape import Shape

LONG_MM, MOST_SHARE = 10.0, 0.7
"""Over how much a line thins from the black, and over what share of it at most."""


@change
def from_black(m: ChangeContext, lines: list[str], length: float = LONG_MM, mm: Any = None) -> list[str]:
    """Lets lines come thick out of the blacks that their ends lie in: at the edge of the black they are so many mm
    wide, as heavy as their nib where it is left out, and thin softly over a length in mm. Ends that lie in no black
    stay. Gives the lines that do. Raises JobError."""
    far = number(length, "a length", LEAST_REACH_MM, 1e3)
    wide = None if mm is None else number(mm, "a width", LEAST_WIDTH_MM, MOST_WIDTH_MM)
    out = []
    for key in line_list(lines):
        row, shape = m.line(key), m.shapes[key]
        at = [(end, s) for end in (START, END) if (s := _out_at(m, shape, end)) is not None]
        if at and len(row.edits) + len(at) <= MOST_EDITS:
            m.draft.put(key, _thick(row, shape, at, far, wide))
            _ = m.shapes[key]
            out.append(key)
    if not out:
        raise JobError("none of these lines begins or ends in a black: draw their ends into one")
    return out


def _out_at(m: ChangeContext, shape: Shape, end: str) -> float | None:
    """The arc length, mm, where a line comes out of the black that its end lies in; None where it lies in none."""
    import shapely

    if shape.closed:
        return None
    place = end_of(shape, end)
    for key, row in m.job.rows.blacks.items():
        x0, y0, x1, y1 = m.shapes.black(key).box
        if m.job.rows.parts[row.part].hidden or not (x0 <= place[0] <= x1 and y0 <= place[1] <= y1):
            continue
        if shapely.contains_xy(area_of(m, key), *place):
            return _first_out(shape, m.shapes.black(key).rings, end)
    return None


def _first_out(shape: Shape, rings: list[np.ndarray], end: str) -> float | None:
    points, s = shape.flat
    cuts = [np.interp(crossings(points, np.vstack([ring, ring[:1]]))[0], np.arange(len(s)), s) for ring in rings]
    where = np.concatenate(cuts)
    if not len(where):
        # All of it lies in the black.
        return None
    return float(where.max() if end == END else where.min())


def _thick(row: LineRecord, shape: Shape, at: list[tuple[str, float]], far: float, wide: float | None) -> LineRecord:
    """The row of a line that comes thick out of a black at some of its ends."""
    ends, edits = list(row.ends), list(row.edits)
    for end, s in at:
        reach = max(min(far, MOST_SHARE * shape.length), LEAST_REACH_MM)
        edits.append(SetWidth(shape.source_t_at(s), wide or row.nib.heaviest, reach))
        ends[end == END] = End("round")
    return replace(row, edits=tuple(edits), ends=(ends[0], ends[1]))
