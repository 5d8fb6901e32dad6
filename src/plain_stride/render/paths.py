"""Rings of points as Qt paths, moved in bulk."""

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainterPath, QPolygonF
from shiboken6 import VoidPtr


def polygon(points: np.ndarray) -> QPolygonF:
    """A closed polygon from points (n, 2), written straight into Qt's memory."""
    n = len(points)
    if n == 0:
        return QPolygonF()
    out = QPolygonF()
    out.resize(n + 1)
    memory = VoidPtr(out.data(), (n + 1) * 16, True)
    target = np.frombuffer(memory, float).reshape(n + 1, 2)  # type: ignore[call-overload]
    target[:n] = points
    target[n] = points[0]
    return out


def path_of(rings: list[np.ndarray]) -> QPainterPath:
    """One path of all the rings of a line; holes turn the other way, so either fill rule serves."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    for ring in rings:
        path.addPolygon(polygon(ring))
    return path
