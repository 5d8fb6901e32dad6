"""Walking an SVG file: every shape that is drawn, with its looks and where it comes to lie."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring

from plain_stride.finish.errors import FinishError
from plain_stride.finish.svg_shapes import SHAPES, Chain, ShapeError, Viewport, chains, length
from plain_stride.finish.svg_style import START, Node, Style, StyleError, StyleSheet, cascaded, node_of

SVG_NS, XLINK = "http://www.w3.org/2000/svg", "{http://www.w3.org/1999/xlink}href"
MM_PER_PX = 25.4 / 96.0
MOST_DEPTH, MOST_SHAPES, MOST_VISITS = 60, 50_000, 120_000
"""Groups within groups; shapes that are drawn; elements that are gone through, as often as they are used."""
MOST_SCALE = 1e9
"""Numbers of a transform, and of all round a shape together."""
QUIET = ("defs", "title", "desc", "metadata", "style", "script", "symbol", "clipPath", "mask", "marker", "pattern",
         "linearGradient", "radialGradient", "filter", "view", "cursor", "font", "animate", "animateTransform", "set",
         "animateMotion", "color-profile")  # fmt: skip
"""Elements that draw nothing where they stand."""
GROUPS = ("g", "a", "svg", "switch")


class SvgError(FinishError):
    """An SVG file that holds nothing that can be read."""


@dataclass(frozen=True, eq=False)
class Drawn:
    """A shape as it is drawn. matrix: (2, 3), from the chains' units to mm; group: the id of its outermost group."""

    tag: str
    chains: list[Chain]
    style: Style
    matrix: np.ndarray
    port: Viewport
    group: str


@dataclass
class Walk:
    """One walk over a file. unread: what was left out, by what it is, with how often."""

    sheet: StyleSheet = field(default_factory=StyleSheet)
    by_id: dict[str, Any] = field(default_factory=dict)
    unread: Counter[str] = field(default_factory=Counter)
    shapes: int = 0
    visits: int = 0
    using: set[int] = field(default_factory=set)

    def drawn(self, element: Any, parent: Style, above: Node | None, matrix: np.ndarray, port: Viewport, group: str,
              depth: int) -> Iterator[Drawn]:  # fmt: skip
        """Everything that an element draws, back to front. Raises StrideError for more than any drawing has."""
        tag = local_name(element)
        if tag is None or tag in QUIET:
            return
        self.visits += 1
        if self.visits > MOST_VISITS:
            raise SvgError(f"the SVG uses its parts more than {MOST_VISITS:,} times: nothing was imported; split it")
        node = node_of(element, tag, above)
        style = cascaded(element, node, self.sheet, parent)
        if style.get("display") == "none":
            return
        if depth > MOST_DEPTH:
            self.unread["groups nested too deeply"] += 1
            return
        self._note(style)
        matrix = matrix @ _square(_transform(style.get("transform", ""), self.unread))
        if not np.abs(matrix).max() <= MOST_SCALE:
            self.unread["transforms to where no sheet reaches"] += 1
            return
        if tag in SHAPES:
            yield from self._shape(tag, element, style, matrix, port, group)
        elif tag == "use":
            yield from self._used(element, style, node, matrix, port, group, depth)
        elif tag in GROUPS:
            if tag == "svg" and depth:
                matrix, port = _inner_view(element, matrix, port)
            inner = group or (element.get("id", "") if tag == "g" and depth else "")
            for child in element:
                yield from self.drawn(child, style, node, matrix, port, inner, depth + 1)
                if tag == "switch" and local_name(child) not in (None, *QUIET):
                    return
        else:
            self.unread[_WORDS.get(tag, f"'{tag}' elements")] += 1

    def _shape(self, tag: str, element: Any, style: Style, matrix: np.ndarray, port: Viewport, group: str
               ) -> Iterator[Drawn]:  # fmt: skip
        self.shapes += 1
        if self.shapes > MOST_SHAPES:
            raise SvgError(f"the SVG draws more than {MOST_SHAPES:,} shapes: nothing was imported; split it")
        if style.get("visibility") in ("hidden", "collapse"):
            return
        try:
            found = chains(tag, element, port)
        except ShapeError as fault:
            self.unread[str(fault)] += 1
            return
        if found:
            yield Drawn(tag, found, style, matrix, port, group)

    def _used(self, element: Any, style: Style, node: Node, matrix: np.ndarray, port: Viewport, group: str, depth: int
              ) -> Iterator[Drawn]:  # fmt: skip
        name = element.get("href") or element.get(XLINK) or ""
        target = self.by_id.get(name[1:]) if name.startswith("#") else None
        if target is None:
            self.unread["uses of what is not in the file"] += 1
            return
        if id(target) in self.using:
            self.unread["uses of what they stand in (SVG draws nothing there)"] += 1
            return
        self.using.add(id(target))
        try:
            yield from self._placed(target, element, style, node, matrix, port, group, depth)
        finally:
            self.using.discard(id(target))

    def _placed(self, target: Any, element: Any, style: Style, node: Node, matrix: np.ndarray, port: Viewport,
                group: str, depth: int) -> Iterator[Drawn]:  # fmt: skip
        """What a use draws of its target."""
        try:
            x, y = length(element.get("x"), port, "x"), length(element.get("y"), port, "y")
        except ShapeError as fault:
            self.unread[str(fault)] += 1
            return
        matrix = matrix @ _square(np.array([[1.0, 0.0, x], [0.0, 1.0, y]]))
        if local_name(target) not in ("symbol", "svg"):
            yield from self.drawn(target, style, node, matrix, port, group, depth + 1)
            return
        own = node_of(target, str(local_name(target)), node)
        inner = cascaded(target, own, self.sheet, style)
        matrix, port = _inner_view(target, matrix, port, element)
        for child in target:
            yield from self.drawn(child, inner, own, matrix, port, group, depth + 1)

    def _note(self, style: Style) -> None:
        for name, words in (("clip-path", "clips"), ("mask", "masks"), ("filter", "filters")):
            if style.get(name, "none") not in ("none", ""):
                self.unread[f"{words} (what they hide is shown)"] += 1


_WORDS = {"text": "texts (turn them into paths)", "image": "pictures", "foreignObject": "pages set into the drawing"}


def walk_svg(data: bytes) -> tuple[list[Drawn], Counter[str]]:
    """(all shapes back to front, what could not be read). Raises SvgError where it is no SVG."""
    root = xml_root(data)
    if local_name(root) != "svg":
        raise SvgError("the file is XML but no SVG: nothing was imported")
    walk = Walk()
    for element in root.iter():
        if isinstance(element.tag, str) and element.get("id"):
            walk.by_id.setdefault(element.get("id"), element)
        if local_name(element) == "style":
            try:
                walk.sheet.add("".join(element.itertext()))
            except (StyleError, RecursionError) as fault:
                raise SvgError(f"the SVG cannot be read ({fault}): nothing was imported") from None
    if walk.sheet.unread:
        walk.unread["style rules (" + ", ".join(sorted(set(walk.sheet.unread))[:3]) + ")"] += len(walk.sheet.unread)
    matrix, port = _outer_view(root)
    try:
        found = list(walk.drawn(root, dict(START), None, matrix, port, "", 0))
    except RecursionError:
        raise SvgError("the SVG is nested too deeply: nothing was imported") from None
    except StyleError as fault:
        raise SvgError(f"the SVG cannot be read ({fault}): nothing was imported") from None
    return found, walk.unread


def xml_root(data: bytes) -> Any:
    """The outermost element of an XML file. Raises SvgError."""
    try:
        return fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    except (ParseError, DefusedXmlException, ValueError, LookupError, RecursionError) as fault:
        raise SvgError(f"the SVG cannot be read ({fault}): nothing was imported") from None


def local_name(element: Any) -> str | None:
    """The tag of an SVG element; None for elements of other languages and for comments."""
    if not isinstance(element.tag, str):
        return None
    space, brace, name = element.tag.rpartition("}")
    return name if not brace or space == "{" + SVG_NS else None


def _outer_view(root: Any) -> tuple[np.ndarray, Viewport]:
    """(matrix from user units to mm, what per cents are of) of a whole file."""
    box = _view_box(root)
    w0, h0 = (box[2], box[3]) if box is not None else (300.0, 150.0)
    told = [_root_length(root.get(name)) for name in ("width", "height")]
    if box is None:
        w, h = told[0] or 300.0, told[1] or 150.0
        return _scaled(MM_PER_PX), Viewport(w, h)
    w = told[0] if told[0] is not None else (told[1] * w0 / h0 if told[1] is not None else w0)
    h = told[1] if told[1] is not None else (told[0] * h0 / w0 if told[0] is not None else h0)
    inner = _box_matrix(box, 0.0, 0.0, w, h, root.get("preserveAspectRatio", ""))
    return _scaled(MM_PER_PX) @ _square(inner), Viewport(w0, h0)


def _root_length(text: str | None) -> float | None:
    if text is None or text.strip().endswith("%"):
        return None
    try:
        value = length(text, Viewport(300.0, 150.0), default=-1.0)
    except ShapeError:
        return None
    return value if value > 0.0 else None


def _inner_view(element: Any, matrix: np.ndarray, port: Viewport, use: Any = None) -> tuple[np.ndarray, Viewport]:
    """The matrix and the viewport inside a nested svg or a symbol in use."""

    def side(name: str, axis: str) -> float:
        text = (use.get(name) if use is not None else None) or element.get(name) or "100%"
        try:
            return length(text, port, axis)
        except ShapeError:
            return port.of(axis)

    w, h = side("width", "x"), side("height", "y")
    x = y = 0.0
    if use is None:
        try:
            x, y = length(element.get("x"), port, "x"), length(element.get("y"), port, "y")
        except ShapeError:
            x = y = 0.0
    box = _view_box(element)
    if box is None:
        return matrix @ _square(np.array([[1.0, 0.0, x], [0.0, 1.0, y]])), Viewport(w, h, port.em)
    inner = _box_matrix(box, x, y, w, h, element.get("preserveAspectRatio", ""))
    return matrix @ _square(inner), Viewport(box[2], box[3], port.em)


def _view_box(element: Any) -> tuple[float, float, float, float] | None:
    try:
        x, y, w, h = (float(v) for v in (element.get("viewBox") or "").replace(",", " ").split())
    except ValueError:
        return None
    return (x, y, w, h) if w > 0 and h > 0 and np.isfinite([x, y, w, h]).all() else None


def _box_matrix(box: tuple[float, float, float, float], x: float, y: float, w: float, h: float, fit: str) -> np.ndarray:
    """How a viewBox is laid into a place (SVG 1.1, 7.8)."""
    sx, sy = w / box[2], h / box[3]
    words = fit.split()
    align = words[0] if words else "xMidYMid"
    if align != "none":
        sx = sy = max(sx, sy) if "slice" in words else min(sx, sy)
    share = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
    ax, ay = share.get(align[1:4], 0.5), share.get(align[5:8], 0.5)
    if align == "none":
        ax = ay = 0.0
    return np.array(
        [
            [sx, 0.0, x - box[0] * sx + ax * (w - box[2] * sx)],
            [0.0, sy, y - box[1] * sy + ay * (h - box[3] * sy)],
        ]
    )


def _scaled(by: float) -> np.ndarray:
    return np.array([[by, 0.0, 0.0], [0.0, by, 0.0]])


def _square(m: np.ndarray) -> np.ndarray:
    return np.vstack([m, [0.0, 0.0, 1.0]])


def _transform(text: str, unread: Counter[str]) -> np.ndarray:
    if not text or text == "none":
        return _scaled(1.0)
    from svgelements import Matrix

    try:
        m = Matrix(text)
        out = np.array([[m.a, m.c, m.e], [m.b, m.d, m.f]], float)
    except (ValueError, TypeError, IndexError, AttributeError):
        out = np.full((2, 3), np.nan)
    if not np.isfinite(out).all() or np.abs(out).max() > MOST_SCALE:
        unread["transforms"] += 1
        return _scaled(1.0)
    return out
