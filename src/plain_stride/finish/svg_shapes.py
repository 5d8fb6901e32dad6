"""The basic shapes of SVG as chains of cubics in the file's own units."""

import math
import re
from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.errors import StrideError
from plain_stride.lines.curve import straight

ARC_STEP = math.pi / 4.0
"""An arc of an eighth of a circle by one cubic errs by 4e-6 of its radius."""
_LENGTH = re.compile(r"\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)\s*([a-zA-Z%]*)\s*$")
_PX = {"": 1.0, "px": 1.0, "in": 96.0, "cm": 96.0 / 2.54, "mm": 96.0 / 25.4, "q": 96.0 / 101.6, "pt": 96.0 / 72.0,
       "pc": 16.0}  # fmt: skip
SHAPES = ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon")


class ShapeError(StrideError):
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
    match = _LENGTH.match(text)
    if match is None:
        raise ShapeError(f"'{text}' is no length")
    value, unit = float(match[1]), match[2].lower()
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
    except (ValueError, IndexError, TypeError, ZeroDivisionError, AttributeError) as fault:
        raise ShapeError(f"a {tag} is damaged ({fault})") from None
    for chain in found:
        if not (np.isfinite(chain.curve).all() and np.isfinite(chain.at).all()):
            raise ShapeError(f"a {tag} is damaged (a number is not finite)")
    return found


def _path(element: Any, port: Viewport) -> list[Chain]:
    from svgelements import Arc, Close, CubicBezier, Line, Move, Path, QuadraticBezier

    out: list[Chain] = []
    pieces: list[np.ndarray] = []
    start = np.zeros(2)

    def end(closed: bool) -> None:
        if pieces or closed:
            out.append(_chain(pieces, closed, start))
        pieces.clear()

    for segment in Path(element.get("d") or ""):
        if isinstance(segment, Move):
            end(False)
            start = _xy(segment.end)
        elif isinstance(segment, Close):
            a, b = _xy(segment.start), _xy(segment.end)
            if np.hypot(*(b - a)) > 1e-9:
                pieces.append(straight(np.array([a, b]))[0])
            end(True)
        elif isinstance(segment, Line):
            pieces.append(straight(np.array([_xy(segment.start), _xy(segment.end)]))[0])
        elif isinstance(segment, QuadraticBezier):
            pieces.append(_raised(*(_xy(p) for p in (segment.start, segment.control, segment.end))))
        elif isinstance(segment, CubicBezier):
            pieces.append(np.array([_xy(p) for p in (segment.start, segment.control1, segment.control2, segment.end)]))
        elif isinstance(segment, Arc):
            if segment.rx == 0 or segment.ry == 0:
                pieces.append(straight(np.array([_xy(segment.start), _xy(segment.end)]))[0])
                continue
            pieces += _path_arc(segment)
    end(False)
    return out


def _path_arc(segment: Any) -> list[np.ndarray]:
    """An arc of a path, with the ends that the path says."""
    turn = float(segment.get_rotation())
    c, s = math.cos(turn), math.sin(turn)
    flat = _arc(0.0, 0.0, float(segment.rx), float(segment.ry), float(segment.get_start_t()), float(segment.sweep))
    pieces = [piece @ np.array([[c, s], [-s, c]]) + _xy(segment.center) for piece in flat]
    pieces[0][0], pieces[-1][3] = _xy(segment.start), _xy(segment.end)
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
    at, way = np.column_stack([c, s]), np.column_stack([-s, c])
    unit = np.stack([at[:-1], at[:-1] + k * way[:-1], at[1:] - k * way[1:], at[1:]], axis=1)
    return list(unit * (rx, ry) + (cx, cy))


def _chain(pieces: list[np.ndarray], closed: bool, at: np.ndarray) -> Chain:
    kept = [piece for piece in pieces if np.ptp(piece, axis=0).max() > 1e-9]
    return Chain(np.array(kept) if kept else np.zeros((0, 4, 2)), closed, np.asarray(at, float))


def _raised(a: np.ndarray, b: np.ndarray, c: np.ndarray) -> np.ndarray:
    """A quadratic as the same cubic."""
    return np.array([a, a + (b - a) * (2.0 / 3.0), c + (b - c) * (2.0 / 3.0), c])


def _xy(p: Any) -> np.ndarray:
    return np.array([float(p.x), float(p.y)])
