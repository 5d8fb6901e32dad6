"""Nets: how the courses of a set of strokes lie. A place on a net has two coordinates: t, across the strokes, and v,
0 to 1 along each; one course is all places of one t."""

from dataclasses import dataclass, field
from typing import Protocol

import numpy as np

from plain_stride.lines.curve import Arc
from plain_stride.lines.given import curve_through
from plain_stride.tone.errors import ToneError
from plain_stride.tone.field import Field
from plain_stride.tone.grey import direction

STEP, APART_MM = 1e-4, 1e-4
GUIDE_PLACES = 400


class Net(Protocol):
    """span: between which t its courses can reach the field."""

    @property
    def span(self) -> tuple[float, float]: ...

    def at(self, t: np.ndarray, v: np.ndarray) -> np.ndarray:
        """Places (..., 2) mm of t and v, of one shape each."""
        ...


def spacing(net: Net, t: np.ndarray, v: np.ndarray) -> np.ndarray:
    """mm from one course to the next, square to both, for a step of 1 in t, at places (...)."""
    low, high = net.span
    dt = max(high - low, 1e-9) * STEP
    across = (net.at(t + dt, v) - net.at(t - dt, v)) / (2.0 * dt)
    along = travel(net, t, v)
    return np.asarray(np.abs(across[..., 0] * along[..., 1] - across[..., 1] * along[..., 0]))


def sheared(net: Net, t: np.ndarray, v: np.ndarray) -> np.ndarray:
    """By how much v changes for a step of 1 in t square to the courses, at places (...)."""
    low, high = net.span
    dt = max(high - low, 1e-9) * STEP
    across = (net.at(t + dt, v) - net.at(t - dt, v)) / (2.0 * dt)
    along = (net.at(t, v + STEP) - net.at(t, v - STEP)) / (2.0 * STEP)
    return np.asarray(-(across * along).sum(axis=-1) / np.maximum((along**2).sum(axis=-1), 1e-12))


def travel(net: Net, t: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Unit directions (..., 2) of courses at places."""
    along = net.at(t, v + STEP) - net.at(t, v - STEP)
    return np.asarray(along / np.maximum(np.hypot(along[..., 0], along[..., 1]), 1e-12)[..., None])


@dataclass(frozen=True)
class Straight:
    """Parallel straights. t: mm to the right of travel from the middle; v: over twice the reach of the field."""

    middle: tuple[float, float]
    way: tuple[float, float]
    reach: float

    @property
    def span(self) -> tuple[float, float]:
        return -self.reach, self.reach

    def at(self, t: np.ndarray, v: np.ndarray) -> np.ndarray:
        (x, y), (u, w) = self.middle, self.way
        s = (v - 0.5) * 2.0 * self.reach
        return np.stack(np.broadcast_arrays(x - t * w + s * u, y + t * u + s * w), axis=-1)


@dataclass(frozen=True, eq=False)
class Shifted:
    """One drawn course, again and again beside itself, carried on straight past its ends. guide (n, 2) mm; square to
    its chord a step of 1 in t is 1 mm."""

    guide: np.ndarray
    reach: float
    _long: np.ndarray = field(init=False, repr=False)
    _across: np.ndarray = field(init=False, repr=False)

    def __post_init__(self) -> None:
        p = even_places(self.guide)
        first, last = p[0] - p[1], p[-1] - p[-2]
        far = 2.0 * self.reach
        ahead = [p[0] + first / np.hypot(*first) * far], [p[-1] + last / np.hypot(*last) * far]
        object.__setattr__(self, "_long", even_places(np.vstack([ahead[0], p, ahead[1]])))
        chord = p[-1] - p[0]
        size = float(np.hypot(*chord))
        if size < 1e-6:
            raise ToneError("a direction is drawn from one place to another: it is not closed")
        object.__setattr__(self, "_across", np.array([-chord[1], chord[0]]) / size)

    @property
    def span(self) -> tuple[float, float]:
        return -2.0 * self.reach, 2.0 * self.reach

    def at(self, t: np.ndarray, v: np.ndarray) -> np.ndarray:
        t, v = np.broadcast_arrays(t, v)
        return np.asarray(read_along(self._long, v) + t[..., None] * self._across)


@dataclass(frozen=True, eq=False)
class _OfTwoLines:
    """a, b (n, 2) mm, which are made to run the same way."""

    a: np.ndarray
    b: np.ndarray

    def __post_init__(self) -> None:
        a, b = even_places(self.a), even_places(self.b)
        object.__setattr__(self, "a", a)
        object.__setattr__(self, "b", _alike(a, b))


@dataclass(frozen=True, eq=False)
class Between(_OfTwoLines):
    """Courses that lead over from one line to another, each at the same share of both: along a form between its two
    edges. t: 0 on a, 1 on b, and a little beyond."""

    beyond: float = 0.0

    @property
    def span(self) -> tuple[float, float]:
        return -self.beyond, 1.0 + self.beyond

    def at(self, t: np.ndarray, v: np.ndarray) -> np.ndarray:
        t, v = np.broadcast_arrays(t, v)
        a, b = read_along(self.a, v), read_along(self.b, v)
        return np.asarray(a + t[..., None] * (b - a))


@dataclass(frozen=True, eq=False)
class Across(_OfTwoLines):
    """Courses from one line to another, each from and to the same share of both: across a form, bowed like a drawn
    one. bow (n, 2): (share along the chord, share of it to the right); t: 0 to 1 along both."""

    bow: np.ndarray

    @property
    def span(self) -> tuple[float, float]:
        return 0.0, 1.0

    def at(self, t: np.ndarray, v: np.ndarray) -> np.ndarray:
        t, v = np.broadcast_arrays(t, v)
        start = read_along(self.a, t)
        chord = read_along(self.b, t) - start
        bow = read_along(self.bow, v)
        right = np.stack([-chord[..., 1], chord[..., 0]], axis=-1)
        return np.asarray(start + bow[..., :1] * chord + bow[..., 1:] * right)


@dataclass(frozen=True, eq=False)
class Slanted:
    """Courses that cross those of another net at an angle: t of it goes on by `slope` from one end to the other."""

    net: Net
    slope: float

    @property
    def span(self) -> tuple[float, float]:
        low, high = self.net.span
        return low - abs(self.slope), high + abs(self.slope)

    def at(self, t: np.ndarray, v: np.ndarray) -> np.ndarray:
        return self.net.at(t + self.slope * (v - 0.5), v)


def straight_net(field: Field, angle: float) -> Straight:
    """Straights over a field. angle: degrees clockwise, 0 straight up."""
    x, y = field.middle.tolist()
    return Straight((x, y), direction(angle), field.reach * 1.01 + 1e-6)


def turned_net(net: Net, by: float) -> Net:
    """A net whose courses cross those of another one by so many degrees, in its middle; straights in all places."""
    if isinstance(net, Straight):
        u, w = net.way
        a = np.radians(by)
        turned = u * np.cos(a) - w * np.sin(a), u * np.sin(a) + w * np.cos(a)
        return Straight(net.middle, (float(turned[0]), float(turned[1])), net.reach)
    low, high = net.span
    t, v = np.full(9, (low + high) / 2.0), np.linspace(0.3, 0.7, 9)
    along = net.at(t, v + STEP) - net.at(t, v - STEP)
    length = float(np.median(np.hypot(*along.T) / (2.0 * STEP)))
    wide = float(np.median(spacing(net, t, v)))
    return Slanted(net, float(np.tan(np.radians(by))) * length / max(wide, 1e-9))


def bow_of(drawn: np.ndarray) -> np.ndarray:
    """The bow (n, 2) of a drawn course (n, 2) mm: shares along, and to the right of, its chord. Raises ToneError."""
    p = even_places(drawn)
    chord = p[-1] - p[0]
    size = float(chord @ chord)
    if size < 1e-9:
        raise ToneError("a direction is drawn from one place to another: it is not closed")
    off = p - p[0]
    return np.column_stack([off @ chord / size, (off @ np.array([-chord[1], chord[0]])) / size])


def even_places(points: np.ndarray, count: int = GUIDE_PLACES) -> np.ndarray:
    """Places (count, 2) at even lengths along the smooth course through places (n, 2), its corners kept. Raises
    ToneError where it has no length."""
    p = np.asarray(points, float)
    if p.ndim != 2 or p.shape[1:] != (2,) or not np.isfinite(p).all():
        raise ToneError("a direction or an edge is a list of places [x, y] in mm")
    apart = np.concatenate([[True], np.hypot(*np.diff(p, axis=0).T) > APART_MM])
    p = p[apart]
    if len(p) < 2:
        raise ToneError("a direction or an edge is a line of two places in mm at least")
    arc = Arc(curve_through(p, False)[0])
    return np.asarray(arc.point(np.linspace(0.0, arc.length, count)))


def read_along(even: np.ndarray, share: np.ndarray) -> np.ndarray:
    """Places (..., 2) at shares of a course of even places (n, 2); beyond its ends as straight as they are."""
    n = len(even) - 1
    at = np.asarray(share, float) * n
    k = np.clip(np.floor(at).astype(int), 0, n - 1)
    return np.asarray(even[k] + (at - k)[..., None] * (even[k + 1] - even[k]))


def _alike(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """b turned round where it runs against a."""
    same = np.hypot(*(a[0] - b[0])) + np.hypot(*(a[-1] - b[-1]))
    crossed = np.hypot(*(a[0] - b[-1])) + np.hypot(*(a[-1] - b[0]))
    return b[::-1] if crossed < same else b
