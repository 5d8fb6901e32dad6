"""What a page asks of the hand: how long its lines are, how bent, how much of it is hatching."""

from collections.abc import Sequence

import numpy as np

from plain_stride.form.hatching_rows import hatching_rows
from plain_stride.job.job import Job
from plain_stride.job.shapes import Shapes
from plain_stride.lines.curve import straight
from plain_stride.lines.shape import plain_path
from plain_stride.practice.warm_up import PageFacts, page_facts

MOST_STROKE_MM = 40.0
"""Longer lines are no strokes of hatching."""


def page_asks(job: Job, shapes: Shapes, pencils: Sequence[np.ndarray]) -> PageFacts:
    """Of a page's pencils, lines (n, 2) mm as they were read, hatching that is found in them and that was laid; of its
    ink where nobody has read them. n log n in the lines."""
    laid = sum(shapes[key].length for key, row in job.rows.lines.items() if row.tone is not None)
    lines = list(pencils) or [shapes[key].flat[0] for key, row in job.rows.lines.items() if row.tone is None]
    hatching = hatched(lines)
    rest = [line for line, is_stroke in zip(lines, hatching, strict=True) if not is_stroke]
    strokes = sum(_length(line) for line, is_stroke in zip(lines, hatching, strict=True) if is_stroke)
    return page_facts(rest, job.page.enlarge, laid + strokes)


def hatched(lines: Sequence[np.ndarray]) -> np.ndarray:
    """Which of some lines (n, 2) mm are strokes of hatching (n,)."""
    out = np.zeros(len(lines), bool)
    short = [k for k, line in enumerate(lines) if len(line) > 1 and 0.0 < _length(line) <= MOST_STROKE_MM]
    # A stroke is nearly straight: its ends and its middle tell where it lies.
    paths = [plain_path(straight(lines[k][[0, len(lines[k]) // 2, -1]]), False) for k in short]
    out[short] = hatching_rows(paths)
    return out


def _length(line: np.ndarray) -> float:
    return float(np.hypot(*np.diff(line, axis=0).T).sum())
