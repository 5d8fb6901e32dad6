"""What held keys do with the line under the pen: the place on it, a swell in progress, what a trim would take."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.desk.session.session import Session
from plain_stride.errors import StrideError
from plain_stride.job.changes import trimmed_stretch
from plain_stride.lines.black import winding
from plain_stride.lines.cross import nearest
from plain_stride.lines.shape import Shape

REACH_PX = 14.0
LOOP_PLACES = 41
SWELL_REACH = (4.0, 36.0)
"""A swell under the pen reaches this many mm, at least this many pixels, to either side."""
DOUBLE_PX = 70.0
"""Pixels up the screen that double a width."""


@dataclass(frozen=True)
class Touch:
    """A place on a line: id, arc length in mm, distance in mm from where the pen points."""

    line: str
    s: float
    away: float


def line_at(session: Session, at: tuple[float, float], scale: float) -> Touch | None:
    """The line nearest to a place within REACH_PX that is seen and not dimmed, the nearer part where several are; None
    without any."""
    reach = REACH_PX / scale
    best: Touch | None = None
    place = np.array(at)
    shown, rows = session.shown_parts(), session.job.rows.lines
    for key in reversed(session.job.line_ids()):
        part = rows[key].part
        if part not in shown:
            continue
        shape = session.shapes[key]
        x0, y0, x1, y1 = shape.box
        if not (x0 - reach <= at[0] <= x1 + reach and y0 - reach <= at[1] <= y1 + reach):
            continue
        points, s = shape.flat
        away, index = nearest(points, place)
        on = float(np.interp(index, np.arange(len(s)), s))
        half = sum(float(v[0]) for v in shape.widths.at(np.array([on]))) / 2.0
        away = max(away - half, 0.0)
        if away <= reach and any(c.holds(place[None])[0] for c in session.covers.hiding(part, shape)):
            continue
        if away <= reach and (best is None or away < best.away - 1e-6):
            best = Touch(key, on, away)
    return best


def black_at(session: Session, at: tuple[float, float]) -> str:
    """The foremost visible black that a place lies in; '' for none."""
    place = np.array([at])
    shown = session.shown_parts()
    for key in reversed(session.job.in_order(session.job.rows.blacks)):
        black = session.shapes.black(key)
        x0, y0, x1, y1 = black.box
        if session.job.rows.blacks[key].part not in shown or not (x0 <= at[0] <= x1 and y0 <= at[1] <= y1):
            continue
        if sum(int(winding(ring, place)[0]) for ring in black.rings):
            return key
    return ""


def inside_loop(session: Session, loop: np.ndarray) -> list[str]:
    """Lines and blacks that are seen and lie inside a loop (n, 2) in mm by more than half their length or edge."""
    shown, rows = session.shown_parts(), session.job.inked_rows()
    low, high = loop.min(axis=0), loop.max(axis=0)
    out = []
    for key in session.job.ink_ids():
        shape = session.shapes.ink(key)
        x0, y0, x1, y1 = shape.box
        if rows[key].part not in shown or x1 < low[0] or y1 < low[1] or x0 > high[0] or y0 > high[1]:
            continue
        if isinstance(shape, Shape):
            points = shape.arc.point(np.linspace(0.0, shape.length, LOOP_PLACES))
        else:
            points = np.concatenate(shape.rings)
        if np.count_nonzero(winding(loop, points)) * 2 > len(points):
            out.append(key)
    return out


class SwellInHand:
    """A swell or shave in progress: where it began, how far the pen has gone up the screen since."""

    def __init__(self, touch: Touch, scale: float, y: float, shave: bool) -> None:
        self.line, self._y, self._shave = touch.line, y, shave
        reach = max(SWELL_REACH[0], SWELL_REACH[1] / scale)
        self.start, self.end = touch.s - reach, touch.s + reach
        self.factor = 1.0

    def move(self, y: float) -> None:
        """Up the screen is heavier for a swell, lighter for a shave; down is the other way for both."""
        up = (self._y - y) / DOUBLE_PX
        self.factor = float(np.clip(2.0 ** (-up if self._shave else up), 0.1, 8.0))

    def arguments(self) -> dict[str, Any]:
        return {"line": self.line, "factor": self.factor, "from": self.start, "to": self.end}


def trim_preview(session: Session, touch: Touch) -> np.ndarray | None:
    """Points (n, 2) in mm of the stretch that a trim there would take away; None where it would take nothing."""
    shape = session.shapes[touch.line]
    try:
        stretch = trimmed_stretch(session.shapes, touch.line, shape.arc.point(np.array([touch.s]))[0])
    except StrideError:
        return None
    return None if stretch is None else stretch_points(shape, *stretch)


def stretch_points(shape: Shape, a: float, b: float) -> np.ndarray:
    """Points along a line between two arc lengths; on a closed line they may lie beyond its ends."""
    s = np.linspace(a, b, 60)
    return shape.arc.point(np.mod(s, shape.length) if shape.closed else s)
