"""The pixels that a line may touch, as a chain of small boxes: they cost far less to repaint than one large one."""

import math

import numpy as np
from PySide6.QtCore import QRect, QRectF
from PySide6.QtGui import QRegion

from plain_stride.desk.sheet.view import BoardView
from plain_stride.lines.black import Black
from plain_stride.lines.shape import Shape

BOX_POINTS, MOST_BOXES, SHOWN_BOXES = 12, 60, 16
"""Points in one box at least; boxes of one line at most, where it is painted anew and where it is only shown anew:
each box is copied to the screen by itself."""


def band(strokes: np.ndarray, most: int = MOST_BOXES) -> QRegion:
    """Boxes, `most` of them at most, round strokes (n, 5): x0, y0, x1, y1 and width in pixels."""
    region = QRegion()
    if not len(strokes):
        return region
    first = np.arange(0, len(strokes), max(BOX_POINTS, math.ceil(len(strokes) / most)))
    reach = np.maximum.reduceat(strokes[:, 4], first)[:, None] / 2.0 + 2.0
    least = np.minimum.reduceat(np.minimum(strokes[:, :2], strokes[:, 2:4]), first)
    last = np.maximum.reduceat(np.maximum(strokes[:, :2], strokes[:, 2:4]), first)
    boxes = np.hstack([np.floor(least - reach), np.ceil(last + reach)]).astype(int)
    for x0, y0, x1, y1 in boxes.tolist():
        region += QRect(x0, y0, x1 - x0, y1 - y0)
    return region


def band_of(shape: Shape | Black, view: BoardView, most: int = MOST_BOXES) -> QRegion:
    """Boxes round a finished line, or a black, as a view shows it."""
    if isinstance(shape, Black):
        return box_region([shape.box], view)
    at = view.to_glass(shape.flat[0])
    width = 2.0 * float(max(shape.widths.left.max(), shape.widths.right.max())) * view.scale + 2.0
    ends = (at[:-1], at[1:]) if len(at) > 1 else (at, at)
    return band(np.column_stack([*ends, np.full(len(ends[0]), width)]), most)


def box_region(boxes: list[tuple[float, float, float, float]], view: BoardView) -> QRegion:
    """Pixels of boxes (x0, y0, x1, y1) in mm."""
    region = QRegion()
    for x0, y0, x1, y1 in boxes:
        region += view.transform.mapRect(QRectF(x0, y0, x1 - x0, y1 - y0)).toAlignedRect().adjusted(-2, -2, 2, 2)
    return region
