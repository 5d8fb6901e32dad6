"""The basic shapes of SVG as chains of cubics in the file's own units."""

import math
import re
from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.finish.errors import FinishError
from plain_stride.lines.curve import straight
from plain_stride.texts import shortened

ARC_STEP = math.pi / 4.0
"""An arc of an eighth of a circle by one cubic errs by 4e-6 of its radius."""
_LENGTH = re.compile(r"\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)\s*([a-zA-Z%]*)\s*$")
_PX = {"": 1.0, "px": 1.0, "in": 96.0, "cm": 96.0 / 2.54, "mm": 96.0 / 25.4, "q": 96.0 / 101.6, "pt": 96.0 / 72.0,
       "pc": 16.0}  # fmt: skip
SHAPES = ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon")


MOST_PIECES = 100_000
"""Pieces of one path."""
FARTHEST = 1e9
"""User units beyond which nothing is drawn; once it is placed, the sheet's own limit counts as well."""
MOST_NUMBER = 60
"""Digits of a length; more of them are no drawing's."""


class ShapeError(FinishError):
    """A shape whose numbers cannot be read."""


@dataclass(frozen=True, eq=False)
class Chain:
    """curve (m, 4, 2), m 0 for a mere point at `at`; closed: whether it was closed on purpose."""

    curve: np.ndarray
    closed: bool
    at: np.ndarray


@dataclass(frozen=True)
class Viewport:
    """What per cents are of, in user units."""

    width: float
    height: float
    em: float = 16.0

    def of(self, axis: str) -> float:
        sizes = {"x": self.width, "y": self.height, "r": math.hypot(self.width, self.height) / math.sqrt(2.0)}
        return sizes[axis]


def length(text: str | None, port: Viewport, axis: str = "r", default: float = 0.0) -> float:
    """A length in user units; CSS pixels are 1/96 in. Raises ShapeError."""
    if text is None or text.strip() in ("", "auto"):
        return default
    match = _LENGTH.match(text) if len(text) <= MOST_NUMBER else None
    if match is None:
        raise ShapeError(f"'{text[:40]}' is no length")
    value, unit = float(match[1]), match[2].lower()
    if not abs(value) <= FARTHEST:
        raise ShapeError(f"'{text}' is no length of a drawing")
    if unit == "%":
        return value / 100.0 * port.of(axis)
    if unit in ("em", "rem", "ex", "ch"):
        return value * port.em * (1.0 if unit.endswith("em") else 0.5)
    if unit not in _PX:
        raise ShapeError(f"'{unit}' is no unit of length")
    return value * _PX[unit]


def chains(tag: str, element: Any, port: Viewport) -> list[Chain]:
    """The chains of a shape; empty where it draws nothing. Raises ShapeError."""
    try:
        found = _MAKERS[tag](element, port)
    except (ValueError, IndexError, TypeError, ZeroDivisionError, AttributeError, OverflowError) as fault:
        raise ShapeError(f"a {tag} is damaged ({shortened(str(fault), 80)})") from None
    for chain in found:
        for places in (chain.curve, chain.at):
            if not np.isfinite(places).all() or np.abs(places).max(initial=0.0) > FARTHEST:
                raise ShapeError(f"a {tag} that lies farther out than any sheet")
    return found


def _path(element: Any, port: Viewport) -> list[Chain]:
    from fontTools.svgLib.path import parse_path

    text = element.get("d") or ""
    pen = _ChainPen()
    # fontTools reads the grammar; a lone move, which draws nothing, it may leave out.
    parse_path(text, pen)
    pen.end(False)
    return pen.chains


class _ChainPen:
    """Takes a path as fontTools tells it, and makes chains of cubics. Raises ShapeError for more than MOST_PIECES."""

    def __init__(self) -> None:
        self.chains: list[Chain] = []
        self._pieces: list[np.ndarray] = []
        self._start = self._at = np.zeros(2)
        self._count = 0

    def moveTo(self, at: tuple[float, float]) -> None:
        self.end(False)
        self._start = self._at = np.array(at, float)

    def lineTo(self, at: tuple[float, float]) -> None:
        self._add(straight(np.array([self._at, at], float))[0])

    def curveTo(self, *points: tuple[float, float]) -> None:
        self._add(np.array([self._at, *points], float))

    def qCurveTo(self, *points: tuple[float, float]) -> None:
        self._add(_raised(self._at, *(np.array(p, float) for p in points)))

    def arcTo(
        self, rx: float, ry: float, turn: float, large: bool, sweep: bool, end: tuple[float, float] | complex
    ) -> None:
        at = (end.real, end.imag) if isinstance(end, complex) else end
        for piece in path_arc(self._at, (rx, ry), turn, bool(large), bool(sweep), np.array(at, float)):
            self._add(piece)

    def closePath(self) -> None:
        if np.hypot(*(self._start - self._at)) > 1e-9:
            self.lineTo((float(self._start[0]), float(self._start[1])))
        self.end(True)
        self._at = self._start

    def endPath(self) -> None:
        self.end(False)

    def end(self, closed: bool) -> None:
        if self._pieces or closed:
            self.chains.append(_chain(self._pieces, closed, self._start))
        self._pieces = []

    def _add(self, piece: np.ndarray) -> None:
        self._count += 1
        if self._count > MOST_PIECES:
            raise ShapeError(f"a path of more than {MOST_PIECES:,} pieces: split it")
        self._pieces.append(piece)
        self._at = piece[3]


def path_arc(
    start: np.ndarray, radii: tuple[float, float], degrees: float, large: bool, sweep: bool, end: np.ndarray
) -> list[np.ndarray]:
    """An elliptical arc of a path as cubics (SVG 1.1, F.6.5 and F.6.6: from its ends to its middle). (m, 4, 2), in
    user units; rotation in degrees."""
    rx, ry = abs(radii[0]), abs(radii[1])
    if rx == 0.0 or ry == 0.0 or np.hypot(*(end - start)) < 1e-12:
        return list(straight(np.array([start, end])))
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    turn = np.array([[c, -s], [s, c]])
    x, y = (start - end) / 2.0 @ turn
    grown = math.sqrt(max(1.0, (x / rx) ** 2 + (y / ry) ** 2))
    rx, ry = rx * grown, ry * grown
    rest = max(0.0, (rx * ry) ** 2 - (rx * y) ** 2 - (ry * x) ** 2) / ((rx * y) ** 2 + (ry * x) ** 2)
    factor = math.sqrt(rest) * (-1.0 if large == sweep else 1.0)
    cx, cy = factor * rx * y / ry, -factor * ry * x / rx
    middle = turn @ (cx, cy) + (start + end) / 2.0
    first = math.atan2((y - cy) / ry, (x - cx) / rx)
    last = math.atan2((-y - cy) / ry, (-x - cx) / rx)
    swept = (last - first) % (2.0 * math.pi)
    swept = swept if sweep else swept - 2.0 * math.pi
    pieces = [piece @ turn.T + middle for piece in _arc(0.0, 0.0, rx, ry, first, swept)]
    pieces[0][0], pieces[-1][3] = start, end
    return pieces


def _rect(element: Any, port: Viewport) -> list[Chain]:
    x, y = length(element.get("x"), port, "x"), length(element.get("y"), port, "y")
    w, h = length(element.get("width"), port, "x"), length(element.get("height"), port, "y")
    rx, ry = length(element.get("rx"), port, "x", -1.0), length(element.get("ry"), port, "y", -1.0)
    if w <= 0 or h <= 0:
        return []
    rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
    rx, ry = min(max(rx, 0.0), w / 2.0), min(max(ry, 0.0), h / 2.0)
    if rx <= 0 or ry <= 0:
        corners = np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h], [x, y]])
        return [_chain(list(straight(corners)), True, corners[0])]
    pieces: list[np.ndarray] = []
    for cx, cy, from_deg in ((x + w - rx, y + ry, -90), (x + w - rx, y + h - ry, 0), (x + rx, y + h - ry, 90),
                             (x + rx, y + ry, 180)):  # fmt: skip
        arc = _arc(cx, cy, rx, ry, math.radians(from_deg), math.pi / 2.0)
        if pieces:
            pieces.append(straight(np.array([pieces[-1][3], arc[0][0]]))[0])
        pieces += arc
    pieces.append(straight(np.array([pieces[-1][3], pieces[0][0]]))[0])
    return [_chain(pieces, True, pieces[0][0])]


def _ellipse(element: Any, port: Viewport) -> list[Chain]:
    cx, cy = length(element.get("cx"), port, "x"), length(element.get("cy"), port, "y")
    r = element.get("r")
    rx, ry = (
        length(element.get("rx", r), port, "x" if r is None else "r"),
        length(element.get("ry", r), port, "y" if r is None else "r"),
    )
    if rx <= 0 or ry <= 0:
        return []
    pieces = _arc(cx, cy, rx, ry, 0.0, 2.0 * math.pi)
    return [_chain(pieces, True, pieces[0][0])]


def _line(element: Any, port: Viewport) -> list[Chain]:
    a = np.array([length(element.get("x1"), port, "x"), length(element.get("y1"), port, "y")])
    b = np.array([length(element.get("x2"), port, "x"), length(element.get("y2"), port, "y")])
    return [_chain(list(straight(np.array([a, b]))), False, a)]


def _poly(element: Any, closed: bool) -> list[Chain]:
    if (element.get("points") or "").count(" ") + (element.get("points") or "").count(",") > 4 * MOST_PIECES:
        raise ShapeError(f"a polyline of more than {MOST_PIECES:,} pieces: split it")
    numbers = [float(v) for v in re.findall(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?", element.get("points") or "")]
    p = np.array(numbers[: len(numbers) // 2 * 2]).reshape(-1, 2)
    if len(p) < 2:
        return []
    around = np.vstack([p, p[:1]]) if closed and np.hypot(*(p[-1] - p[0])) > 1e-9 else p
    return [_chain(list(straight(around)), closed, p[0])]


_MAKERS = {
    "path": _path,
    "rect": _rect,
    "circle": _ellipse,
    "ellipse": _ellipse,
    "line": _line,
    "polyline": lambda element, port: _poly(element, False),
    "polygon": lambda element, port: _poly(element, True),
}


def _arc(cx: float, cy: float, rx: float, ry: float, start: float, sweep: float) -> list[np.ndarray]:
    """An arc of an ellipse by cubics of an eighth of a turn at most."""
    n = max(1, math.ceil(abs(sweep) / ARC_STEP - 1e-9))
    k = 4.0 / 3.0 * math.tan(sweep / n / 4.0)
    angles = start + sweep * np.arange(n + 1) / n
    c, s = np.cos(angles), np.sin(angles)
    at, tangent = np.column_stack([c, s]), np.column_stack([-s, c])
    unit = np.stack([at[:-1], at[:-1] + k * tangent[:-1], at[1:] - k * tangent[1:], at[1:]], axis=1)
    return list(unit * (rx, ry) + (cx, cy))


def _chain(pieces: list[np.ndarray], closed: bool, at: np.ndarray) -> Chain:
    kept = [piece for piece in pieces if np.ptp(piece, axis=0).max() > 1e-9]
    return Chain(np.array(kept) if kept else np.zeros((0, 4, 2)), closed, np.asarray(at, float))


def _raised(a: np.ndarray, b: np.ndarray, c: np.ndarray) -> np.ndarray:
    """A quadratic as the same cubic."""
    return np.array([a, a + (b - a) * (2.0 / 3.0), c + (b - c) * (2.0 / 3.0), c])
