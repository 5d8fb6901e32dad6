"""Scans that are final art, and scans of pencils as a layer beside it."""

import numpy as np

from plain_stride.finish.art import ArtScan
from plain_stride.job.pencil_records import FINAL_ART, PencilRecord
from plain_stride.job.pencil_sheets import prepared
from plain_stride.job.rows import JobRows
from plain_stride.lines.affine import Affine

READ = ("rough", "clean-up")


def final_scans(job: JobRows) -> list[ArtScan]:
    """Shown sheets that are final art, the lowest first."""
    return [_scan(job, row) for _, row in job.pencils() if row.kind == FINAL_ART and not row.hidden]


def pencil_scans(job: JobRows) -> list[ArtScan]:
    """Shown scans of pencils, as dark as they are cleaned to."""
    return [_scan(job, row) for _, row in job.pencils() if row.kind in READ and not row.hidden and row.image]


def _scan(job: JobRows, row: PencilRecord) -> ArtScan:
    dark = prepared(job.image(str(row.image)), row)
    high, wide = dark.shape
    if row.crop is not None:
        left, top, right, bottom = row.crop
        dark = dark.copy()
        dark[: round(top * high)] = 0
        dark[round(bottom * high) :] = 0
        dark[:, : round(left * wide)] = 0
        dark[:, round(right * wide) :] = 0
    (x0, y0), (x1, y1), (x2, y2) = row.placing.to_sheet(np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]])).tolist()
    matrix = Affine((x1 - x0) / wide, (y1 - y0) / wide, (x2 - x0) / high, (y2 - y0) / high, x0, y0)
    return ArtScan(row.name, 255 - dark, matrix)
