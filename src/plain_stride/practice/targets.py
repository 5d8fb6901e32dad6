"""What a drill asks for: curves and dots on the practice sheet, mm at the sheet's size."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

SHEET_MM = (240.0, 160.0)
STEP_MM = 0.5
SPIRAL_TURNS = 3.0


@dataclass(frozen=True, eq=False)
class Target:
    """points: (n, 2) mm, in the direction of pulling; a closed curve repeats its first point; shares: (n,) 0..1 of the
    nib's range at each point, None where any width will do; dots: only the ends of it are shown; edges: curves (k, 2)
    between which it runs, shown beside it."""

    points: np.ndarray
    closed: bool = False
    shares: np.ndarray | None = None
    dots: bool = False
    edges: tuple[np.ndarray, ...] = ()

    @property
    def length(self) -> float:
        """mm."""
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())


def straight(length: float, degrees: float = 90.0, at: tuple[float, float] | None = None) -> np.ndarray:
    """A line (n, 2) through `at`, its middle; degrees clockwise, 0 = straight up."""
    x, y = at or centre()
    turn = math.radians(degrees)
    along = np.linspace(-length / 2.0, length / 2.0, max(2, round(length / STEP_MM) + 1))
    return np.column_stack([x + along * math.sin(turn), y - along * math.cos(turn)])


def arc(radius: float, sweep: float, degrees: float = 0.0) -> np.ndarray:
    """A part of a circle (n, 2), `sweep` degrees of it, its middle towards `degrees`."""
    half = math.radians(sweep) / 2.0
    n = max(8, round(radius * 2.0 * half / STEP_MM) + 1)
    angle = np.linspace(-half, half, n) + math.radians(degrees)
    out = radius * np.column_stack([np.sin(angle), -np.cos(angle)])
    box = (out.min(axis=0) + out.max(axis=0)) / 2.0
    moved: np.ndarray = out - box + centre()
    return moved


def ellipse(long: float, short: float, degrees: float = 0.0) -> np.ndarray:
    """A closed ellipse (n, 2) with half axes; its long axis towards `degrees`. The first point comes again."""
    n = max(32, round(math.pi * (long + short) / STEP_MM))
    t = np.linspace(0.0, 2.0 * math.pi, n + 1)
    turn = math.radians(degrees)
    along, across = long * np.cos(t), short * np.sin(t)
    x, y = centre()
    return np.column_stack([
        x + along * math.sin(turn) + across * math.cos(turn),
        y - along * math.cos(turn) + across * math.sin(turn),
    ])  # fmt: skip


def spiral(inner: float, outer: float, turns: float = SPIRAL_TURNS) -> np.ndarray:
    """From inside out, (n, 2); its turns lie equally far apart."""
    n = max(64, round(math.pi * (inner + outer) * turns / STEP_MM))
    t = np.linspace(0.0, 1.0, n + 1)
    radius, angle = inner + (outer - inner) * t, 2.0 * math.pi * turns * t
    return np.column_stack([radius * np.sin(angle), -radius * np.cos(angle)]) + centre()


def s_curve(length: float, depth: float, degrees: float = 90.0) -> np.ndarray:
    """One period of a sine (n, 2) along `degrees`, swinging `depth` mm to each side."""
    t = np.linspace(0.0, 1.0, max(32, round(1.3 * length / STEP_MM)))
    along, across = (t - 0.5) * length, depth * np.sin(2.0 * math.pi * t)
    turn = math.radians(degrees)
    x, y = centre()
    return np.column_stack([
        x + along * math.sin(turn) + across * math.cos(turn),
        y - along * math.cos(turn) + across * math.sin(turn),
    ])  # fmt: skip


def moved_to_centre(points: np.ndarray, most: float) -> np.ndarray:
    """A curve from a page (n, 2) in the middle of the practice sheet, made smaller where its box is larger than
    `most` mm."""
    p = np.asarray(points, float)
    low, high = p.min(axis=0), p.max(axis=0)
    scale = min(1.0, most / max(float((high - low).max()), 1e-9))
    out: np.ndarray = (p - (low + high) / 2.0) * scale + centre()
    return out


def beside_each_other(curve: np.ndarray, pitch: float, count: int) -> list[np.ndarray]:
    """Copies of a curve, `pitch` mm apart across the way from its first to its last point."""
    way = curve[-1] - curve[0]
    across = np.array([-way[1], way[0]]) / max(float(np.hypot(*way)), 1e-9)
    return [curve + across * pitch * (n - (count - 1) / 2.0) for n in range(count)]


def stepped(points: np.ndarray, levels: Sequence[float]) -> np.ndarray:
    """Shares (n,) of the nib's range in equal steps along a curve."""
    at = np.linspace(0.0, len(levels) - 1e-9, len(points)).astype(int)
    return np.asarray(levels, float)[at]


def swelling(points: np.ndarray) -> np.ndarray:
    """Shares (n,): thin at both ends, thick in the middle."""
    return np.sin(np.linspace(0.0, math.pi, len(points))) ** 2


def centre() -> tuple[float, float]:
    return SHEET_MM[0] / 2.0, SHEET_MM[1] / 2.0
