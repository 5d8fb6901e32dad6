"""Takes of one line ranked: how wavy each is, how far it strays from the pencils, how well it flows."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from plain_stride.hand.along import evenly, project_onto

WOBBLE_SPAN_MM, STEP_MM = 6.0, 0.2
"""Wobble is what a line departs from itself smoothed over so much of its length."""
WOBBLE_UNIT_MM, STRAY_UNIT_MM, FLOW_UNIT = 0.04, 0.10, 1.0
"""What counts as much as each other: a wobble, a straying, and as much worse a flow. Straying weighs most where there
are pencils: a calm line in the wrong place is no better take."""


@dataclass(frozen=True)
class TakeFigures:
    """wobble, straying: mm RMS, straying None without pencils; flow: spectral arc length of the movement, the nearer
    to 0 the smoother (Balasubramanian et al. 2012); worth: the less the better."""

    wobble: float
    straying: float | None
    flow: float

    @property
    def worth(self) -> float:
        off = self.straying / STRAY_UNIT_MM if self.straying is not None else 0.0
        return self.wobble / WOBBLE_UNIT_MM + 2.0 * off - 0.25 * self.flow / FLOW_UNIT


def take_figures(points: np.ndarray, samples: np.ndarray, pencil: np.ndarray | None) -> TakeFigures:
    """points: the finished centreline (n, 2) mm; samples: its pull's; pencil: the line it should follow (m, 2), if it
    is known."""
    return TakeFigures(wobble_of(points), straying_of(points, pencil) if pencil is not None else None,
                       spectral_arc_length(samples))  # fmt: skip


def ranked(figures: Sequence[TakeFigures]) -> list[int]:
    """Numbers of the takes, the best first."""
    return sorted(range(len(figures)), key=lambda k: figures[k].worth)


def wobble_of(points: np.ndarray, span: float = WOBBLE_SPAN_MM) -> float:
    """RMS sideways distance (mm) between a line and itself smoothed in arc length over a span."""
    p = evenly(points, STEP_MM)
    half = max(1, round(span / STEP_MM / 2.0))
    if len(p) < 2 * half + 3:
        return 0.0
    kernel = np.hanning(2 * half + 3)[1:-1]
    kernel /= kernel.sum()
    calm = np.column_stack([np.convolve(p[:, k], kernel, mode="valid") for k in (0, 1)])
    inner = p[half : half + len(calm)]
    tangent = np.gradient(calm, axis=0)
    tangent /= np.maximum(np.hypot(*tangent.T), 1e-9)[:, None]
    off = inner - calm
    across = tangent[:, 0] * off[:, 1] - tangent[:, 1] * off[:, 0]
    # A bend departs from its own mean by as much all along: that is shape, not wobble.
    slow = np.convolve(across, kernel, mode="same")
    return float(np.sqrt(np.mean((across - slow)[half // 2 : len(across) - half // 2] ** 2)))


def straying_of(points: np.ndarray, pencil: np.ndarray) -> float:
    """RMS distance (mm) of a line from a pencil line."""
    return float(np.sqrt(np.mean(project_onto(pencil, evenly(points, STEP_MM))[2] ** 2)))


def spectral_arc_length(samples: np.ndarray, most_hz: float = 10.0, least: float = 0.05) -> float:
    """Of the speed of a movement (rows x, y, pressure, t): minus the length of its normalised spectrum up to the
    frequency above which it stays below `least` (Balasubramanian, Melendez-Calderon and Burdet 2012). A figure
    without a unit; 0 is smoothest."""
    t = samples[:, 3]
    if len(t) < 8 or t[-1] - t[0] <= 0.0:
        return 0.0
    rate = 200.0
    even = np.arange(t[0], t[-1], 1.0 / rate)
    p = np.column_stack([np.interp(even, t, samples[:, k]) for k in (0, 1)])
    if len(p) < 8:
        return 0.0
    speed = np.hypot(*np.gradient(p, axis=0).T) * rate
    n = int(2 ** (np.ceil(np.log2(len(speed))) + 4))
    size = np.abs(np.fft.rfft(speed, n))
    hz = np.fft.rfftfreq(n, 1.0 / rate)
    size /= max(float(size[0]), 1e-12)
    inside = np.flatnonzero((hz <= most_hz) & (size >= least))
    last = int(inside[-1]) if len(inside) else 1
    hz, size = hz[: last + 1], size[: last + 1]
    if len(hz) < 2:
        return 0.0
    return -float(np.hypot(np.diff(hz) / (hz[-1] - hz[0]), np.diff(size)).sum())
