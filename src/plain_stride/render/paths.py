"""Rings of points as Qt paths, moved in bulk."""

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainterPath, QPolygonF
from shiboken6 import VoidPtr

from plain_stride.lines.shape import Shape


def polyline(points: np.ndarray) -> QPolygonF:
    """An open chain of points (n, 2), written straight into Qt's memory."""
    n = len(points)
    out = QPolygonF()
    if n:
        out.resize(n)
        memory = VoidPtr(out.data(), n * 16, True)  # type: ignore[call-arg, arg-type]
        np.frombuffer(memory, float).reshape(n, 2)[:] = points  # type: ignore[call-overload]
    return out


def polygon(points: np.ndarray) -> QPolygonF:
    """A closed polygon from points (n, 2)."""
    return polyline(np.vstack([points, points[:1]]))


def quick_path(shape: Shape, tolerance: float) -> QPainterPath:
    """A line for the eye, within so many mm of its middle: its strip, and discs at round ends. Made in a moment."""
    if shape.broken:
        return path_of(shape.rings)
    path = path_of([shape.strip(tolerance), *shape.corners])
    for k, kind in enumerate(shape.ends):
        if kind == "round" and not shape.closed:
            at, half = shape.curve[-1, 3] if k else shape.curve[0, 0], float(shape.widths.full[-1 if k else 0]) / 2.0
            path.addEllipse(QPointF(*at.tolist()), half, half)
    return path


def path_of(rings: list[np.ndarray]) -> QPainterPath:
    """One path of all the rings of a line; holes turn the other way, so either fill rule serves. rings: (n, 2) each."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    for ring in rings:
        path.addPolygon(polygon(ring))
    return path
