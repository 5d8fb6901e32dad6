"""What an SVG file says of how its shapes look: attributes, style sheets, inheritance."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

INHERITED = (
    "fill", "stroke", "stroke-width", "stroke-linecap", "stroke-linejoin", "stroke-dasharray", "stroke-dashoffset",
    "fill-rule", "fill-opacity", "stroke-opacity", "visibility", "color", "font-size", "marker-start", "marker-mid",
    "marker-end",
)  # fmt: skip
OWN = ("display", "opacity", "clip-path", "mask", "filter", "vector-effect", "transform")
START = {
    "fill": "black", "stroke": "none", "stroke-width": "1", "stroke-linecap": "butt", "stroke-linejoin": "miter",
    "fill-rule": "nonzero", "visibility": "visible", "color": "black", "font-size": "16",
}  # fmt: skip
"""Initial values (SVG 1.1, appendix of properties)."""
_RULE = re.compile(r"([^{}]+)\{([^{}]*)\}")
_COMPOUND = re.compile(r"(\*|[A-Za-z][\w-]*)?((?:[.#][\w-]+)*)$")

Style = dict[str, str]


@dataclass(frozen=True)
class _Compound:
    """One step of a selector: tag ('' for any), classes, id; child: whether it must be the very child of the last."""

    tag: str
    classes: frozenset[str]
    key: str
    child: bool = False

    def fits(self, node: "Node") -> bool:
        return self.tag in ("", node.tag) and self.classes <= node.classes and (not self.key or self.key == node.key)


@dataclass(frozen=True)
class Node:
    """An element as selectors see it, with those above it."""

    tag: str
    key: str
    classes: frozenset[str]
    above: "Node | None" = None


@dataclass
class StyleSheet:
    """Rules by rising weight. unread: selectors that are not understood."""

    rules: list[tuple[tuple[int, int, int, int], list[_Compound], Style]] = field(default_factory=list)
    unread: list[str] = field(default_factory=list)

    def add(self, text: str) -> None:
        """Reads the text of a style sheet; @-rules are left out."""
        text = re.sub(r"/\*.*?\*/", "", text, flags=re.S)
        text = re.sub(r"@[\w-]+[^;{]*(;|\{(?:[^{}]*\{[^{}]*\})*[^{}]*\})", "", text)
        for selectors, body in _RULE.findall(text):
            style = declarations(body)
            for selector in selectors.split(","):
                steps = _steps(selector)
                if steps is None:
                    self.unread.append(selector.strip())
                else:
                    self.rules.append((_weight(steps, len(self.rules)), steps, style))
        self.rules.sort(key=lambda rule: rule[0])

    def style_of(self, node: Node) -> Style:
        out: Style = {}
        for _, steps, style in self.rules:
            if _matches(steps, node):
                out.update(style)
        return out


def declarations(text: str) -> Style:
    """The declarations of a style attribute or of a rule; 'important' counts for nothing more."""
    out: Style = {}
    for piece in text.split(";"):
        name, colon, value = piece.partition(":")
        if colon:
            out[name.strip().lower()] = re.sub(r"\s*!\s*important$", "", value.strip())
    return out


def node_of(element: Any, tag: str, above: Node | None) -> Node:
    return Node(tag, element.get("id", ""), frozenset((element.get("class") or "").split()), above)


def cascaded(element: Any, node: Node, sheet: StyleSheet, parent: Style) -> Style:
    """All properties of an element: inherited, by its attributes, by the sheets, by its style attribute."""
    out = {name: parent[name] for name in INHERITED if name in parent}
    own = {name: element.get(name) for name in (*INHERITED, *OWN) if element.get(name) is not None}
    for said in (own, sheet.style_of(node), declarations(element.get("style") or "")):
        for name, value in said.items():
            if value == "inherit":
                value = parent.get(name, START.get(name, ""))
            out[name] = value
    return out


def _steps(selector: str) -> list[_Compound] | None:
    """A selector of tags, classes and ids with descendants and children; None for any other."""
    out: list[_Compound] = []
    child = False
    for token in selector.replace(">", " > ").split():
        if token == ">":
            child = True
            continue
        match = _COMPOUND.match(token)
        if match is None:
            return None
        marks = re.findall(r"([.#])([\w-]+)", match[2])
        tag = "" if match[1] in (None, "*") else match[1]
        classes = frozenset(name for mark, name in marks if mark == ".")
        key = next((name for mark, name in marks if mark == "#"), "")
        out.append(_Compound(tag, classes, key, child))
        child = False
    return out or None


def _weight(steps: list[_Compound], order: int) -> tuple[int, int, int, int]:
    ids, classes, tags = (sum(map(f, steps)) for f in (lambda s: bool(s.key), lambda s: len(s.classes),
                                                        lambda s: bool(s.tag)))  # fmt: skip
    return ids, classes, tags, order


def _matches(steps: list[_Compound], node: Node) -> bool:
    last, rest = steps[-1], steps[:-1]
    if not last.fits(node):
        return False
    if not rest:
        return True
    above = [node.above] if last.child else list(_all_above(node))
    return any(_matches(rest, up) for up in above if up is not None)


def _all_above(node: Node) -> Iterator[Node]:
    while node.above is not None:
        node = node.above
        yield node
