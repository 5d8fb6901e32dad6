"""The board made as large as a scan, or a scan as large as the board: each is one step."""

from typing import Any

import numpy as np

from plain_stride.board.page import Page
from plain_stride.job.pencil_records import PencilRecord
from plain_stride.pencils.placing import UNIT

Changes = list[tuple[str, dict[str, Any]]]


def board_as_scan(key: str, row: PencilRecord) -> Changes:
    """The board takes the size of what is kept of a scan as it lies, and the scan fills it."""
    (x0, y0), (x1, y1) = _reach(row)
    size = {"width_mm": round(x1 - x0, 3), "height_mm": round(y1 - y0, 3)}
    place = [row.x_mm - x0, row.y_mm - y0, row.w_mm, row.h_mm]
    return [("board", size), ("pencils", {"sheet": key, "placed_mm": place})]


def scan_as_board(key: str, row: PencilRecord, page: Page) -> Changes:
    """What is kept of a scan is made as large as the board holds, in its shape, and lies in the middle of it."""
    (x0, y0), (x1, y1) = _reach(row)
    w, h = page.size_mm
    times = min(w / (x1 - x0), h / (y1 - y0))
    middle = np.array(row.placing.middle)
    kept = np.array([x0 + x1, y0 + y1]) / 2.0
    at = np.array([w, h]) / 2.0 + (middle - kept) * times
    wide, high = row.w_mm * times, row.h_mm * times
    return [("pencils", {"sheet": key, "placed_mm": [at[0] - wide / 2.0, at[1] - high / 2.0, wide, high]})]


def _reach(row: PencilRecord) -> tuple[tuple[float, float], tuple[float, float]]:
    """Upper left and lower right, mm, of the upright box round what is kept of a scan, turned as it lies."""
    left, top, right, bottom = row.placing.crop or (0.0, 0.0, 1.0, 1.0)
    places = row.placing.to_sheet(UNIT * (right - left, bottom - top) + (left, top))
    low, high = places.min(axis=0), places.max(axis=0)
    return (float(low[0]), float(low[1])), (float(high[0]), float(high[1]))
