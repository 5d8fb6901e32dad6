"""Strokes of the interface, drawn as the drawing's gentle lines are: they swell and taper."""

from functools import lru_cache

import numpy as np
from PySide6.QtGui import QPainterPath

from plain_stride.lines.grain import textured
from plain_stride.lines.outline import BrushDiscs, round_strip
from plain_stride.render.paths import path_of


def stroke(points: np.ndarray, widths: np.ndarray) -> QPainterPath:
    """The outline of a stroke through points (n, 2) with full widths (n,), all in pixels."""
    return _stroke(points.tobytes(), np.ascontiguousarray(widths, float).tobytes())


@lru_cache(maxsize=64)
def _stroke(points: bytes, widths: bytes) -> QPainterPath:
    at, full = np.frombuffer(points).reshape(-1, 2), np.frombuffer(widths)
    return path_of([round_strip(_discs(at, full))])


def worn_stroke(points: np.ndarray, widths: np.ndarray, grain: float, scale: float) -> QPainterPath:
    """The outline, in pixels, of a stroke in mm with so many mm of grain in its edge, at `scale` pixels a mm."""
    return _worn_stroke(points.tobytes(), np.ascontiguousarray(widths, float).tobytes(), grain, scale)


@lru_cache(maxsize=32)
def _worn_stroke(points: bytes, widths: bytes, grain: float, scale: float) -> QPainterPath:
    nibs = _discs(np.frombuffer(points).reshape(-1, 2), np.frombuffer(widths))
    rings = textured([round_strip(nibs)], nibs.middle, nibs.radius, grain)
    return path_of([ring * scale for ring in rings])


@lru_cache(maxsize=256)
def underline(width: int) -> QPainterPath:
    """A light wavering stroke from (0, 0) to (width, 0), heavier in the middle."""
    u = np.linspace(0.0, 1.0, 24)
    y = 1.3 * np.sin(2.0 * np.pi * u * max(1.0, width / 60.0))
    return stroke(np.column_stack([u * width, y]), 0.7 + 2.1 * np.sin(np.pi * u) ** 0.7)


@lru_cache(maxsize=64)
def tapered(width: int, thin: float, thick: float) -> QPainterPath:
    """A straight stroke that swells from thin at x = 0 to thick at x = width."""
    u = np.linspace(0.0, 1.0, 12)
    return stroke(np.column_stack([u * width, 0.0 * u]), thin + (thick - thin) * u)


@lru_cache(maxsize=64)
def swelling(width: int, thin: float, thick: float) -> QPainterPath:
    """A straight stroke that swells from thin to thick in its middle and back."""
    u = np.linspace(0.0, 1.0, 20)
    return stroke(np.column_stack([u * width, 0.0 * u]), thin + (thick - thin) * np.sin(np.pi * u))


@lru_cache(maxsize=16)
def calming(width: int, height: int) -> QPainterPath:
    """A shaky stroke that calms from x = 0 to x = width."""
    x = np.linspace(0.0, width, 220)
    y = height * 0.8 * (1.0 - x / max(width, 1)) ** 1.5 * np.sin(x / 2.4)
    return stroke(np.column_stack([x, y]), np.full(len(x), 1.1))


@lru_cache(maxsize=16)
def sample_stroke(width: int, weight: float) -> QPainterPath:
    """The short stroke in a tier's weight beside its heading."""
    u = np.linspace(0.0, 1.0, 20)
    y = -1.6 * np.sin(2.0 * np.pi * u)
    return stroke(np.column_stack([u * width, y]), weight * (0.25 + 0.75 * np.sin(np.pi * u)))


def _discs(points: np.ndarray, widths: np.ndarray) -> BrushDiscs:
    tangent = np.gradient(points, axis=0)
    return BrushDiscs(points, widths / 2.0, tangent / np.maximum(np.hypot(*tangent.T), 1e-9)[:, None])
