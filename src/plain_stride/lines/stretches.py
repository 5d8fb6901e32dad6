"""Shapes made of other shapes: a stretch of a line, a line on another path, a line drawn in."""

from dataclasses import replace

import numpy as np

from plain_stride.lines.curve import Arc, between
from plain_stride.lines.profile import Widths, grid_for, pointed
from plain_stride.lines.shape import Shape, plain_path

TIP_MM = 2.0


def stretch_of(shape: Shape, a: float, b: float) -> Shape:
    """What lies between two arc lengths (mm) of a line; where it was cut it runs out to a point over TIP_MM."""
    curve = between(shape.arc, a, b)
    w = shape.widths
    s = np.unique(np.concatenate([[a, b], w.s[(w.s > a) & (w.s < b)], a + grid_for(b - a)]))
    left, right = w.at(s)
    cut = (0.0 if a <= 0.0 else TIP_MM, 0.0 if b >= shape.length else TIP_MM)
    widths = pointed(Widths(_to(s - a, Arc(curve).length), left, right), *cut)
    ends = (shape.ends[0] if a <= 0.0 else "pointed", shape.ends[1] if b >= shape.length else "pointed")
    return Shape(plain_path(curve, False), widths, widths, ends, shape.edge)


def on_path(shape: Shape, curve: np.ndarray, closed: bool, share: float) -> Shape:
    """A line with a share of another one's widths, by their shares of the length, on a path (m, 4, 2) mm."""
    path = plain_path(curve, closed)
    old = shape.widths
    s = _to(old.s, path.arc.length)
    widths = Widths(s, old.left * share, old.right * share)
    return Shape(path, widths, widths, shape.ends, shape.edge)


def drawn_in(shape: Shape, mm: float, least: float) -> Shape:
    """A line thinner by mm on each side; where that would leave less than `least` mm it keeps that much, or what it
    had. Its ends give way in proportion."""
    body = np.interp(shape.widths.s, shape.body.s, shape.body.full)
    left = np.maximum(body - 2.0 * mm, np.minimum(least, body))
    share = np.divide(left, body, out=np.ones_like(body), where=body > 0.0)
    return replace(shape, widths=shape.widths.scaled(share), body=shape.body.scaled(
        np.interp(shape.body.s, shape.widths.s, share)), corners=())  # fmt: skip


def _to(s: np.ndarray, length: float) -> np.ndarray:
    """Arc lengths from 0 on spread over a length."""
    return s * (length / s[-1]) if s[-1] > 0.0 else s


def beside(shape: Shape, step: float, off: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(arc lengths (n,), places (n, 2) to its left, to its right) along a line every `step` mm, `off` mm beyond the
    edge of its ink."""
    s = np.linspace(0.0, shape.length, max(3, int(shape.length / step)) + 1)
    at = shape.arc.point(s)
    way = np.gradient(at, axis=0)
    way /= np.maximum(np.hypot(*way.T), 1e-12)[:, None]
    across = np.column_stack([way[:, 1], -way[:, 0]])
    left, right = shape.widths.at(s)
    return s, at + across * (left + off)[:, None], at - across * (right + off)[:, None]
