"""All lines of a job as a table: one row a line, with its figures."""

import csv
import io
from collections.abc import Callable

import numpy as np

from plain_stride.errors import StrideError
from plain_stride.job.inks import Colours
from plain_stride.job.job import Job
from plain_stride.job.reports import line_report
from plain_stride.job.shapes import Shapes

COLUMNS = ("id", "part", "tier", "role", "role_by", "ink", "draft", "closed", "ends", "length_mm", "least_mm",
           "most_mm", "mean_mm", "direction_deg", "tremor_mm", "moved_mm", "leeway_mm", "lag_ms", "seconds",
           "mm_per_s")  # fmt: skip


def line_table(job: Job, shapes: Shapes, progress: Callable[[float], bool] = lambda share: True) -> bytes:
    """CSV with a head row, back to front; what a line does not have is empty. progress: False stops, which raises
    StrideError."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(COLUMNS)
    colours, keys = Colours(job), job.line_ids()
    for n, key in enumerate(keys):
        row, part, shape = job.rows.lines[key], job.part_of(key), shapes[key]
        told = line_report(job, shapes, key)
        mean = float(np.trapezoid(shape.widths.full, shape.widths.s) / shape.length)
        rows.writerow([key, part.name, part.tier, row.role, row.roles[0].by, colours.name_of(colours.ink_of(key)),
                       int(row.draft), int(shape.closed), " ".join(shape.ends), told["length"], *told["width_range"],
                       round(mean, 4), *(_cell(told[name]) for name in ("direction", "tremor_removed", "shape_moved",
                       "own_leeway", "lag_ms", "duration", "speed"))])  # fmt: skip
        if not progress((n + 1) / len(keys)):
            raise StrideError("stopped: no table was written")
    return out.getvalue().encode()


def _cell(value: object) -> object:
    return "" if value is None else value
