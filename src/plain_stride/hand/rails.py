"""Rails: edges laid on the sheet along which pulls are led, as along a ruler: the hand gives pressure and pace, the
rail the way. All places in mm of the finished sheet."""

from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from plain_stride.hand.along import project_onto
from plain_stride.hand.errors import HandError

FAR_MM = 5000.0
"""A straight goes on for so long on both sides."""
KNOWN_MM = 4.0
"""A pull that has gone so far tells which of several ways it means."""
MOST_POINTS = 3
LEAST_MM = 0.5

Place = tuple[float, float]


class RailError(HandError):
    """A rail that leads nowhere."""


class Rail(ABC):
    """What every rail can: tell the line along which a pull is led."""

    @property
    def meets(self) -> tuple[Place, ...]:
        """Where its lines run together."""
        return ()

    @abstractmethod
    def line_for(self, path: np.ndarray) -> np.ndarray | None:
        """The line (m, 2) along which a pull is led whose places so far are path (n, 2); None until that is known."""


@dataclass(frozen=True)
class StraightRail(Rail):
    """A straight through two places, going on beyond them. Raises RailError where they are one."""

    a: Place
    b: Place

    def __post_init__(self) -> None:
        if np.hypot(*np.subtract(self.b, self.a)) < LEAST_MM:
            raise RailError("a straight needs two places that lie apart")

    def line_for(self, path: np.ndarray) -> np.ndarray | None:
        """The straight itself, whatever the pull. path (n, 2) mm to (3, 2) mm."""
        return _straight(np.array(self.a), np.subtract(self.b, self.a))


@dataclass(frozen=True)
class CurveRail(Rail):
    """A chain of places, closed or with two ends. Raises RailError for fewer than two."""

    places: tuple[Place, ...]
    closed: bool = False

    def __post_init__(self) -> None:
        if len(self.places) < 2:
            raise RailError("a curve needs two places at least")

    def line_for(self, path: np.ndarray) -> np.ndarray | None:
        """The curve itself, whatever the pull. path (n, 2) mm to (m, 2) mm."""
        points = np.array(self.places)
        if len(points) == 2:
            points = np.array([points[0], points.mean(axis=0), points[1]])
        return np.vstack([points, points[:1]]) if self.closed else points


@dataclass(frozen=True)
class FanRail(Rail):
    """Straights that run together in a place."""

    to: Place

    @property
    def meets(self) -> tuple[Place, ...]:
        return (self.to,)

    def line_for(self, path: np.ndarray) -> np.ndarray | None:
        """The straight of the fan through the pull's start. path (n, 2) mm to (3, 2) mm."""
        return _towards(path[0], np.array(self.to))


@dataclass(frozen=True)
class ParallelRail(Rail):
    """Straights side by side, degrees clockwise from upright."""

    angle: float

    def line_for(self, path: np.ndarray) -> np.ndarray | None:
        """The one through the pull's start. path (n, 2) mm to (3, 2) mm."""
        return _straight(path[0], _way(self.angle))


@dataclass(frozen=True)
class PerspectiveRail(Rail):
    """Straights towards one to three vanishing points, and those that run towards none: with one point level and
    upright ones, with two upright ones (common practice). Raises RailError."""

    points: tuple[Place, ...]

    @property
    def meets(self) -> tuple[Place, ...]:
        return self.points

    def __post_init__(self) -> None:
        if not 1 <= len(self.points) <= MOST_POINTS:
            raise RailError(f"a perspective has 1 to {MOST_POINTS} points, not {len(self.points)}")

    def line_for(self, path: np.ndarray) -> np.ndarray | None:
        """The straight that the pull's beginning runs along best. path (n, 2) mm to (3, 2) mm."""
        start, far = path[0], np.hypot(*(path - path[0]).T)
        if far[-1] < KNOWN_MM and far.max() < KNOWN_MM:
            return None
        gone = path[int(np.argmax(far >= KNOWN_MM))] - start
        ways = [np.subtract(point, start) for point in self.points]
        ways += {1: [_way(0.0), _way(90.0)], 2: [_way(0.0)], 3: []}[len(self.points)]
        ways = [way for way in ways if np.hypot(*way) > LEAST_MM]
        if not ways:
            return None
        same = [abs(float(way @ gone)) / float(np.hypot(*way)) for way in ways]
        return _straight(start, ways[int(np.argmax(same))])


def led(places: np.ndarray, line: np.ndarray) -> np.ndarray:
    """The places (n, 2) on a line (m, 2) that are nearest to those of a hand (n, 2), mm."""
    _, k, _ = project_onto(line, places)
    a, step = line[k], line[k + 1] - line[k]
    share = np.clip(((places - a) * step).sum(axis=1) / np.maximum((step**2).sum(axis=1), 1e-12), 0.0, 1.0)
    out: np.ndarray = a + step * share[:, None]
    return out


def chain(points: np.ndarray, closed: bool = False) -> CurveRail:
    """A rail along points (n, 2) mm."""
    rows: Sequence[Sequence[float]] = np.asarray(points, float).tolist()
    return CurveRail(tuple((x, y) for x, y in rows), closed)


def _way(angle: float) -> np.ndarray:
    a = np.radians(angle)
    return np.array([np.sin(a), -np.cos(a)])


def _towards(start: np.ndarray, to: np.ndarray) -> np.ndarray | None:
    return _straight(start, to - start) if np.hypot(*(to - start)) > LEAST_MM else None


def _straight(through: np.ndarray, way: np.ndarray) -> np.ndarray:
    by = np.asarray(way, float) / np.hypot(*way) * FAR_MM
    return np.array([through - by, through, through + by])
