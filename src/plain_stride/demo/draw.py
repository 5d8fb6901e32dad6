"""What the demo's drawing is made with: lines, things with covers, and the curves between points."""

from dataclasses import dataclass, field

import numpy as np

from plain_stride.hand.resample import read_at

Points = list[tuple[float, float]]


@dataclass(frozen=True, eq=False)
class SceneLine:
    """points (n, 2) in mm; role; nib key; pressure of the pull; pace; inked: whether it is inked in the demo."""

    points: np.ndarray
    role: str
    nib: str = "3"
    pressure: float = 0.5
    pace: str = "normal"
    inked: bool = True


@dataclass
class Thing:
    """A part of the drawing. covers: closed outlines that hide what lies behind; blacks: outlines that are filled;
    crosses: (x, y, half size) of the X marks where the pencils want black."""

    part: str
    tier: str
    inked: bool
    lines: list[SceneLine] = field(default_factory=list)
    covers: list[np.ndarray] = field(default_factory=list)
    blacks: list[np.ndarray] = field(default_factory=list)
    crosses: list[tuple[float, float, float]] = field(default_factory=list)

    def add(self, points: np.ndarray, role: str, nib: str = "3", pressure: float = 0.5, pace: str = "normal") -> None:
        self.lines.append(SceneLine(points, role, nib, pressure, pace, self.inked))

    def outer(self, *points: tuple[float, float], pressure: float = 0.5) -> np.ndarray:
        """A smooth outer line through points; gives it, for the covers."""
        line = curve(*points)
        self.add(line, "outer", "3", pressure)
        return line

    def inner(self, *points: tuple[float, float], pressure: float = 0.45) -> None:
        self.add(curve(*points), "inner", "3", pressure)

    def detail(self, *points: tuple[float, float], pressure: float = 0.42) -> None:
        self.add(curve(*points), "detail", "2", pressure)

    def edge(self, *points: tuple[float, float], role: str = "outer", pressure: float = 0.5) -> np.ndarray:
        """Straight from point to point."""
        line = straight(*points)
        self.add(line, role, "2" if role in ("detail", "texture") else "3", pressure)
        return line

    def cover(self, *pieces: np.ndarray) -> None:
        """Pieces of outline, one after the other round the thing."""
        self.covers.append(np.vstack(pieces))


def curve(*points: tuple[float, float]) -> np.ndarray:
    """A smooth curve through points."""
    p = np.array(points, float)
    t = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T) ** 0.5)])
    return read_at(t, p, np.linspace(0.0, t[-1], 24 * len(p)))


def straight(*points: tuple[float, float]) -> np.ndarray:
    """Straight from point to point."""
    p = np.array(points, float)
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
    at = np.union1d(np.linspace(0.0, s[-1], max(int(s[-1]), 2)), s)
    return np.column_stack([np.interp(at, s, p[:, k]) for k in (0, 1)])


def ring(x: float, y: float, rx: float, ry: float, start: float = -90.0, turn: float = 372.0) -> np.ndarray:
    """An ellipse pulled all the way round, a little past its start; or a part of it."""
    a = np.radians(np.linspace(start, start + turn, max(int(abs(turn) / 4), 8)))
    return np.column_stack([x + rx * np.cos(a), y + ry * np.sin(a)])


def box(x0: float, y0: float, x1: float, y1: float) -> np.ndarray:
    return np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])


def cross(x: float, y: float, half: float) -> list[np.ndarray]:
    """The two strokes of an X mark."""
    return [straight((x - half, y - half), (x + half, y + half)), straight((x + half, y - half), (x - half, y + half))]
