"""SVG files from anywhere: strokes become lines with their widths, fills become blacks; what cannot be read is told."""

import itertools
import math
import re
from collections import Counter
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from plain_stride.finish.svg import OURS, OwnPart, SvgLine, read_own
from plain_stride.finish.svg_shapes import Chain, ShapeError, length
from plain_stride.finish.svg_style import share_of
from plain_stride.finish.svg_tree import Drawn, SvgError, walk_svg
from plain_stride.lines.black import Black, BlackError, checked
from plain_stride.lines.curve import Arc, between, direction, parameters, straight
from plain_stride.lines.given import Form, GivenError, form_from_points, form_of_width
from plain_stride.lines.profile import Widths
from plain_stride.measure import FARTHEST_MM

PLAIN_PART = "Lines"
LIGHT = 0.5
"""Paint of more than this luminance comes as white ink."""
EVEN = 1e-6
WIDTH_STEP_MM, MOST_DASHES, MOST_PATTERN, MOST_PARTS = 0.5, 20_000, 2000, 60
"""Dashes of a whole file and letters of a pattern are counted; beyond them strokes come drawn through."""
MITRE_DEG = 20.0
_CAPS = {"butt": "flat", "round": "round", "square": "flat"}


@dataclass(frozen=True, eq=False)
class SvgBlack:
    """A filled shape of a file; id: '' where it has none of ours."""

    part: str
    black: Black
    id: str = ""


@dataclass
class SvgArt:
    """things: lines and blacks, back to front; inks: of parts that are not black; unread: what could not be read,
    in words, each with how often; own_parts: parts as a file of ours has them, by name."""

    things: list[SvgLine | SvgBlack] = field(default_factory=list)
    inks: dict[str, str] = field(default_factory=dict)
    unread: Counter[str] = field(default_factory=Counter)
    own_parts: dict[str, OwnPart] = field(default_factory=dict)

    def parts(self) -> list[str]:
        """Part names, the nearest first."""
        if self.own_parts:
            return list(reversed(self.own_parts))
        return list(dict.fromkeys(thing.part for thing in reversed(self.things)))

    def sentence(self) -> str:
        """What could not be read, in one sentence; empty where all was."""
        told = [f"{n} × {words}" if n > 1 else words for words, n in sorted(self.unread.items())]
        return f"Could not be read as it was drawn: {'; '.join(told)}." if told else ""


def read_svg(data: bytes, taken: set[str] | None = None) -> SvgArt:
    """The lines and blacks of an SVG file. taken: names of parts that must not be given to white ink or to a second
    layer. Raises SvgError where nothing can be read."""
    if OURS.encode() in data:
        own = read_own(data)
        if own is not None:
            blacks = [SvgBlack(part, black, key) for part, key, black in own.blacks]
            things: list[SvgLine | SvgBlack] = [*own.lines, *blacks]
            rank = {key: n for n, key in enumerate(own.order)}
            return SvgArt(sorted(things, key=lambda thing: rank[thing.id]), own_parts=own.parts)
    drawn, unread = walk_svg(data)
    reading = _Reading(SvgArt(unread=unread), set(taken or ()))
    for shape in drawn:
        reading.add(shape)
    if not reading.art.things:
        why = reading.art.sentence()
        raise SvgError(f"this SVG draws no strokes and no fills: nothing was imported. {why}".strip())
    return reading.art


@dataclass
class _Reading:
    """Shapes laid one after the other; a new part begins where the group or the ink changes, so that order stays."""

    art: SvgArt
    taken: set[str]
    used: set[str] = field(default_factory=set)
    dashes: int = 0
    run: tuple[str, str] = ("", "")
    part: str = ""
    parts: int = 0

    def add(self, shape: Drawn) -> None:
        style = shape.style
        opacity = share_of(style.get("opacity"), 1.0)
        for paint, place in (("fill", self._fill), ("stroke", self._stroke)):
            ink = self._ink(style, paint, opacity)
            if ink:
                try:
                    place(shape, ink)
                except (ShapeError, BlackError, GivenError) as fault:
                    self.art.unread[str(fault)] += 1

    def _ink(self, style: dict[str, str], paint: str, opacity: float) -> str:
        """black, white, or nothing."""
        text = style.get(paint, "none")
        if paint == "stroke" and text == "none":
            return ""
        strength = opacity * share_of(style.get(f"{paint}-opacity"), 1.0)
        if strength <= 0.0:
            return ""
        if text.startswith("url("):
            self.art.unread[f"{paint}s of patterns and gradients (they come solid)"] += 1
            return "black"
        colour = _colour(style.get("color", "black") if text.lower() == "currentcolor" else text)
        if colour is None:
            return ""
        luminance, alpha = colour
        if alpha * strength < 1.0:
            self.art.unread[f"{paint}s that were see-through (they come solid)"] += 1
        return "white" if luminance > LIGHT else "black"

    def _part(self, group: str, ink: str) -> str:
        if (group, ink) != self.run and self.parts < MOST_PARTS:
            self.run, self.parts = (group, ink), self.parts + 1
            base = (group or PLAIN_PART)[:150] + (", white" if ink == "white" else "")
            free = ink == "black" and base not in self.used and base not in self.art.inks
            self.part = base
            if not free:
                names = (base if n == 1 else f"{base} {n}" for n in itertools.count(1))
                self.part = next(name for name in names if name not in self.used and name not in self.taken)
            self.used.add(self.part)
            if ink == "white":
                self.art.inks[self.part] = "white"
        elif (group, ink) != self.run:
            self.art.unread["changes of layer or of ink beyond the sixtieth (their order or ink is not kept)"] += 1
        return self.part

    def _fill(self, shape: Drawn, ink: str) -> None:
        curves = []
        for chain in shape.chains:
            curve = _placed(chain.curve, shape.matrix)
            if len(curve):
                gap = np.hypot(*(curve[-1, 3] - curve[0, 0]))
                closing = straight(np.array([curve[-1, 3], curve[0, 0]])) if gap > EVEN else np.zeros((0, 4, 2))
                curves.append(np.concatenate([curve, closing]))
        if not curves or all(len(curve) < 2 for curve in curves):
            return
        rule = "evenodd" if shape.style.get("fill-rule") == "evenodd" else "nonzero"
        black = Black(tuple(curves), rule)
        if not black.rings:
            return
        self.art.things.append(SvgBlack(self._part(shape.group, ink), checked(black)))

    def _stroke(self, shape: Drawn, ink: str) -> None:
        style = shape.style
        width = length(style.get("stroke-width"), shape.port, default=1.0)
        if width <= 0.0:
            return
        self._note(shape)
        pen = _Pen(width, shape.matrix, style.get("vector-effect") == "non-scaling-stroke")
        cap = style.get("stroke-linecap", "butt")
        for chain in shape.chains:
            for piece in self._dashed(chain, shape):
                form = _form(piece, pen, cap)
                if form is not None:
                    ends = _CAPS.get(cap, "flat")
                    part = self._part(shape.group, ink)
                    self.art.things.append(SvgLine("", part, "middle", None, (ends, ends), form))

    def _dashed(self, chain: Chain, shape: Drawn) -> list[Chain]:
        """The dashes of a chain, each one open; the chain itself where it is drawn through."""
        text = shape.style.get("stroke-dasharray", "none")
        if text in ("none", "") or not len(chain.curve):
            return [chain]
        marks = [length(v, shape.port) for v in re.split(r"[\s,]+", text.strip()[:MOST_PATTERN]) if v]
        total = sum(marks) * (2 if len(marks) % 2 else 1)
        if not 0.0 < total < math.inf or min(marks) < 0.0:
            return [chain]
        marks = marks * 2 if len(marks) % 2 else marks
        arc = Arc(chain.curve)
        count = arc.length / total * len(marks)
        if self.dashes + count > MOST_DASHES:
            self.art.unread["dashes too fine to count (they come drawn through)"] += 1
            return [chain]
        self.dashes += int(count)
        return _cut(arc, marks, -(length(shape.style.get("stroke-dashoffset"), shape.port) % total))

    def _note(self, shape: Drawn) -> None:
        style = shape.style
        if any(style.get(f"marker-{where}", "none") not in ("none", "") for where in ("start", "mid", "end")):
            self.art.unread["arrow heads and other marks on strokes"] += 1
        if style.get("stroke-linejoin", "miter") != "round" and any(_has_corner(chain) for chain in shape.chains):
            self.art.unread["strokes with mitred or cut corners (they come round)"] += 1


class _Pen:
    """The round pen of a stroke as its transform has made it: an ellipse."""

    def __init__(self, width: float, matrix: np.ndarray, unscaled: bool) -> None:
        self.matrix = matrix
        m = matrix[:, :2] if not unscaled else np.eye(2) * (25.4 / 96.0)
        self._m, self._width = m, width
        self.even = bool(np.allclose(m @ m.T, np.eye(2) * abs(np.linalg.det(m)), rtol=1e-6, atol=1e-12))
        self.width = width * math.sqrt(abs(np.linalg.det(m)))

    def across(self, way: np.ndarray) -> np.ndarray:
        """Full width in mm across directions (n, 2): the ellipse's reach along the normal, both sides."""
        normal = np.column_stack([-way[:, 1], way[:, 0]])
        return self._width * np.hypot(*(normal @ self._m).T)


def _form(chain: Chain, pen: _Pen, cap: str) -> Form | None:
    """The line of a chain; None where it draws nothing."""
    curve = _placed(chain.curve, pen.matrix)
    curve = curve[np.ptp(curve, axis=1).max(axis=1) > 1e-7] if len(curve) else curve
    if not len(curve):
        if cap == "butt":
            return None
        at = pen.matrix[:, :2] @ chain.at + pen.matrix[:, 2]
        half = np.array([pen.width / 2.0])
        return form_from_points(at[None], half, half, False)
    if chain.closed:
        gap = np.hypot(*(curve[-1, 3] - curve[0, 0]))
        if gap > EVEN:
            curve = np.concatenate([curve, straight(np.array([curve[-1, 3], curve[0, 0]]))])
        curve = curve.copy()
        curve[-1, 3] = curve[0, 0]
    elif cap == "square":
        curve = _longer(curve, pen)
    if pen.even:
        return form_of_width(curve, chain.closed, pen.width)
    arc = Arc(curve)
    per = np.maximum(np.ceil(np.diff(arc.at_piece_ends()) / WIDTH_STEP_MM).astype(int), 8)
    k, u = parameters(per)
    half = pen.across(direction(curve, k, u)) / 2.0
    s = arc.length_at(k, u)
    keep = np.concatenate([[True], np.diff(s) > 1e-9])
    return Form(curve, chain.closed, Widths(s[keep], half[keep], half[keep]))


def _longer(curve: np.ndarray, pen: _Pen) -> np.ndarray:
    """With half a width of straight line at both ends, as square ends have it."""
    ends = direction(curve, np.array([0, len(curve) - 1]), np.array([0.0, 1.0]))
    reach = pen.across(np.column_stack([-ends[:, 1], ends[:, 0]])) / 2.0
    a, b = curve[0, 0] - ends[0] * reach[0], curve[-1, 3] + ends[1] * reach[1]
    return np.concatenate([straight(np.array([a, curve[0, 0]])), curve, straight(np.array([curve[-1, 3], b]))])


def _cut(arc: Arc, marks: list[float], at: float) -> list[Chain]:
    """The dashes of a pattern of lengths, drawn and left out by turns, that begins at `at` along a line."""
    out: list[Chain] = []
    for n in itertools.cycle(range(len(marks))):
        if at >= arc.length:
            break
        a, b = max(at, 0.0), min(at + marks[n], arc.length)
        if n % 2 == 0 and b - a > 1e-9:
            piece = between(arc, a, b)
            out.append(Chain(piece, False, piece[0, 0]))
        elif n % 2 == 0 and at >= 0.0 and b >= a:
            out.append(Chain(np.zeros((0, 4, 2)), False, arc.point(np.array([a]))[0]))
        at += marks[n]
    return out


def _placed(curve: np.ndarray, matrix: np.ndarray) -> np.ndarray:
    """A curve where it comes to lie, mm. Raises ShapeError where that is farther out than any line may lie."""
    with np.errstate(over="ignore", invalid="ignore"):
        placed = curve @ matrix[:, :2].T + matrix[:, 2]
    if not np.isfinite(placed).all() or np.abs(placed).max(initial=0.0) > FARTHEST_MM:
        raise ShapeError(f"a shape that lies farther than {FARTHEST_MM:,.0f} mm from the board")
    return placed


def _has_corner(chain: Chain) -> bool:
    n = len(chain.curve)
    if n < 2:
        return False
    k = np.arange(n)
    first, last = direction(chain.curve, k, np.zeros(n)), direction(chain.curve, k, np.ones(n))
    turn = (last[:-1] * first[1:]).sum(axis=1)
    if chain.closed:
        turn = np.append(turn, (last[-1] * first[0]).sum())
    return bool((turn < math.cos(math.radians(MITRE_DEG))).any())


def _colour(text: str) -> tuple[float, float] | None:
    """(luminance 0..1, alpha 0..1) of a paint; None for none."""
    from svgelements import Color

    if text.lower() in ("none", "transparent", ""):
        return None
    try:
        colour: Any = Color(text)
        r, g, b, a = colour.red, colour.green, colour.blue, colour.alpha
    except (ValueError, TypeError):
        return 0.0, 1.0
    if None in (r, g, b, a):
        return 0.0, 1.0
    return (0.2126 * r + 0.7152 * g + 0.0722 * b) / 255.0, a / 255.0
