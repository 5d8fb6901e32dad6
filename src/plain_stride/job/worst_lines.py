"""Lines of a job that went worst under the hand, to be practised."""

import numpy as np

from plain_stride.job.job import Job
from plain_stride.job.shapes import Shapes
from plain_stride.practice.targets import SHEET_MM, moved_to_centre

MOST, LEAST_MM = 12, 8.0


def worst_lines(job: Job, shapes: Shapes) -> list[np.ndarray]:
    """The middles (n, 2) of the lines that were tried most often, then those of which most shake was taken out; in mm
    of the practice sheet."""
    told = []
    for key, row in job.rows.lines.items():
        if row.pull is None or row.draft or row.tone is not None or shapes[key].length < LEAST_MM:
            continue
        shake = shapes.centre(row).tremor_mm
        told.append((len(row.tried), shake, key))
    told.sort(key=lambda one: (-one[0], -one[1], one[2]))
    return [moved_to_centre(shapes[key].flat[0], min(SHEET_MM) * 0.8) for _, _, key in told[:MOST]]
