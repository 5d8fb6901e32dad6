"""Pressure response: what share of a nib's range a pressure becomes, drawn by the inker or fitted to measured marks."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from plain_stride.hand.errors import HandError

LIGHT_SHARE, EASY_SHARE, FIRM_SHARE = 0.05, 0.5, 1.0
"""What the light, the easy and the firm marks of a hand become."""
LOW_DECILE, HIGH_DECILE = 0.1, 0.9
LEAST_MARKS, LEAST_APART, MOST_POINTS = 4, 0.02, 12
STEADY, MOST_MORE = 0.025, 60
"""Standard error of a row's mean pressure at which a calibration counts as steady; more marks are never asked for."""
FORM = "plain-stride pressure response"


class ResponseError(HandError):
    """A pressure response that cannot be."""


@dataclass(frozen=True)
class Response:
    """points: (pressure, share) from 0 to 1, both never falling; between them a monotone cubic (PCHIP)."""

    points: tuple[tuple[float, float], ...] = ((0.0, 0.0), (1.0, 1.0))

    def __post_init__(self) -> None:
        try:
            p = np.array(self.points, float)
        except (TypeError, ValueError):
            p = np.zeros(0)
        if p.ndim != 2 or p.shape[1] != 2 or not 2 <= len(p) <= MOST_POINTS or not np.isfinite(p).all():
            raise ResponseError(f"a response is a list of 2 to {MOST_POINTS} [pressure, share]")
        if p.min() < 0.0 or p.max() > 1.0 or p[0, 0] != 0.0 or p[-1, 0] != 1.0:
            raise ResponseError("a response goes from pressure 0 to pressure 1, its shares from 0 to 1")
        if (np.diff(p[:, 0]) < 1e-6).any() or (np.diff(p[:, 1]) < 0.0).any():
            raise ResponseError("a response never falls, and has one share for each pressure")

    @property
    def plain(self) -> bool:
        """Whether pressure goes through as it is."""
        return all(a == b for a, b in self.points)

    @cached_property
    def _curve(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        p = np.array(self.points, float)
        return p[:, 0], p[:, 1], pchip_slopes(p[:, 0], p[:, 1])

    def share(self, pressure: np.ndarray) -> np.ndarray:
        """The share of the nib's range, 0..1, for pressures (n,)."""
        if self.plain:
            return np.clip(pressure, 0.0, 1.0)
        x, y, d = self._curve
        at = np.clip(pressure, 0.0, 1.0)
        k = np.clip(np.searchsorted(x, at, side="right") - 1, 0, len(x) - 2)
        h = x[k + 1] - x[k]
        u = (at - x[k]) / h
        # Cubic Hermite between two points.
        a, b = (1 + 2 * u) * (1 - u) ** 2, u * (1 - u) ** 2
        c, e = u**2 * (3 - 2 * u), u**2 * (u - 1)
        out: np.ndarray = np.clip(a * y[k] + b * h * d[k] + c * y[k + 1] + e * h * d[k + 1], 0.0, 1.0)
        return out

    def pressure_for(self, share: float) -> float:
        """The least pressure that becomes a share, for devices that have none of their own."""
        if self.plain:
            return float(np.clip(share, 0.0, 1.0))
        at = np.linspace(0.0, 1.0, 513)
        values = self.share(at)
        k = int(np.clip(np.searchsorted(values, share - 1e-12), 1, len(at) - 1))
        rise = values[k] - values[k - 1]
        return float(
            at[k - 1] + (at[k] - at[k - 1]) * (np.clip((share - values[k - 1]) / rise, 0.0, 1.0) if rise else 1.0)
        )

    def as_row(self) -> list[list[float]]:
        return [[float(a), float(b)] for a, b in self.points]


def pchip_slopes(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Slopes (n,) of the monotone cubic through points: harmonic means inside, one-sided three-point ones at the ends
    (Fritsch and Butland 1984, as SciPy's PchipInterpolator has them)."""
    h, rise = np.diff(x), np.diff(y) / np.diff(x)
    if len(x) == 2:
        return np.array([rise[0], rise[0]])
    d = np.zeros(len(x))
    for k in range(1, len(x) - 1):
        if rise[k - 1] * rise[k] > 0.0:
            w1, w2 = 2.0 * h[k] + h[k - 1], h[k] + 2.0 * h[k - 1]
            d[k] = (w1 + w2) / (w1 / rise[k - 1] + w2 / rise[k])
    d[0] = _end_slope(h[0], h[1], rise[0], rise[1])
    d[-1] = _end_slope(h[-1], h[-2], rise[-1], rise[-2])
    return d


def _end_slope(h0: float, h1: float, m0: float, m1: float) -> float:
    d = ((2.0 * h0 + h1) * m0 - h0 * m1) / (h0 + h1)
    if np.sign(d) != np.sign(m0):
        return 0.0
    if np.sign(m0) != np.sign(m1) and abs(d) > abs(3.0 * m0):
        return float(3.0 * m0)
    return float(d)


def mark_pressure(pressures: np.ndarray) -> float:
    """How hard one mark was pressed: the mean of the harder half of its samples, its onset and release left out.
    Pressures (n,), 0..1."""
    p = np.sort(np.asarray(pressures, float))
    return float(p[len(p) // 2 :].mean()) if len(p) else 0.0


@dataclass(frozen=True)
class HandRange:
    """What three rows of marks tell: pressures (0..1) of the light, the easy and the firm, each row's spread, and how
    many more marks would make it steady (0: it is)."""

    light: float
    easy: float
    firm: float
    spread: float
    wanted: int


def hand_range(light: Sequence[float], easy: Sequence[float], firm: Sequence[float]) -> HandRange:
    """From the pressures of marks. Raises ResponseError for too few, or rows that do not differ. All from 0 to 1."""
    rows = [np.asarray(row, float) for row in (light, easy, firm)]
    if min(len(row) for row in rows) < LEAST_MARKS:
        raise ResponseError(f"make {LEAST_MARKS} marks in each row at least: light, easy, firm")
    low, mid, high = np.quantile(rows[0], LOW_DECILE), np.median(rows[1]), np.quantile(rows[2], HIGH_DECILE)
    if not (low + LEAST_APART < mid < high - LEAST_APART):
        raise ResponseError("the three rows were pressed alike: press the first hardly at all, the last firmly")
    errors = [float(row.std(ddof=1) / np.sqrt(len(row))) for row in rows]
    spread = max(errors)
    # A mean's error falls with the square root of the number of marks.
    more = [len(row) * ((e / STEADY) ** 2 - 1.0) for row, e in zip(rows, errors, strict=True)]
    return HandRange(float(low), float(mid), float(high), spread, int(np.clip(np.ceil(max(more)), 0, MOST_MORE)))


def calibrated(found: HandRange) -> Response:
    """The response that gives a hand the whole of a nib: its light marks the thinnest, its firm ones the heaviest."""
    points = [(0.0, 0.0), (found.light, LIGHT_SHARE), (found.easy, EASY_SHARE), (found.firm, FIRM_SHARE)]
    if found.light < 1e-6:
        points.pop(0)
        points[0] = (0.0, LIGHT_SHARE)
    if found.firm < 1.0 - 1e-6:
        points.append((1.0, 1.0))
    else:
        points[-1] = (1.0, 1.0)
    return Response(tuple(points))


def response_json(response: Response, who: str) -> dict[str, Any]:
    """A file to keep or to give away: who it is of, in plain units."""
    return {"form": FORM, "of": who, "pressure": "0..1 of the device", "share": "0..1 of the nib's range",
            "points": response.as_row()}  # fmt: skip


def response_from_json(data: dict[str, Any]) -> Response:
    """Raises ResponseError."""
    points = data.get("points")
    if not isinstance(points, list):
        raise ResponseError("there are no 'points' of a pressure response in it")
    return response_of(points)


def response_of(points: Any) -> Response:
    """From a list of [pressure, share]. Raises ResponseError."""
    try:
        return Response(tuple((float(a), float(b)) for a, b in points))
    except (TypeError, ValueError):
        raise ResponseError("a response is a list of [pressure, share]") from None
