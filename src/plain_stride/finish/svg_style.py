"""What an SVG file says of how its shapes look: attributes, style sheets, inheritance.

tinycss2 reads the style sheets. Selectors are matched one step at a time from the right, each step once for each
element above, so that a selector costs no more than its length times the depth; rules are found by the id, the class or
the tag that they end with, and matching has a limit over all.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from plain_stride.finish.errors import FinishError

INHERITED = (
    "fill", "stroke", "stroke-width", "stroke-linecap", "stroke-linejoin", "stroke-dasharray", "stroke-dashoffset",
    "fill-rule", "fill-opacity", "stroke-opacity", "visibility", "color", "font-size", "marker-start", "marker-mid",
    "marker-end",
)  # fmt: skip
OWN = ("display", "opacity", "clip-path", "mask", "filter", "vector-effect", "transform")
START = {
    "fill": "black", "stroke": "none", "stroke-width": "1", "stroke-linecap": "butt", "stroke-linejoin": "miter",
    "fill-rule": "nonzero", "visibility": "visible", "color": "black", "font-size": "16", "opacity": "1",
}  # fmt: skip
"""Initial values (SVG 1.1, appendix of properties)."""
MOST_STEPS, MOST_TESTS = 40, 3_000_000
"""Steps of one selector; steps that are tried in a whole file."""
MOST_SHEET = 2_000_000

Style = dict[str, str]


class StyleError(FinishError):
    """Style sheets that are more work than any drawing needs."""


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


@dataclass(frozen=True)
class _Rule:
    weight: tuple[int, int, int, int]
    steps: tuple[_Compound, ...]
    style: Style


@dataclass
class StyleSheet:
    """Rules by what they end with. unread: selectors that are not understood."""

    rules: dict[tuple[str, str], list[_Rule]] = field(default_factory=dict)
    unread: list[str] = field(default_factory=list)
    count: int = 0
    tests: int = 0

    def add(self, text: str) -> None:
        """Reads the text of a style sheet; @-rules are left out. Raises StyleError for one that is far too long."""
        import tinycss2

        if len(text) > MOST_SHEET:
            raise StyleError(f"a style sheet of {len(text):,} letters is more than any drawing needs")
        for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
            if rule.type != "qualified-rule":
                continue
            style = declarations(rule.content)
            for tokens in _split(rule.prelude):
                steps = _steps(tokens)
                if steps is None or len(steps) > MOST_STEPS:
                    self.unread.append(tinycss2.serialize(tokens[:20]).strip()[:60])
                else:
                    self._keep(_Rule(_weight(steps, self.count), tuple(steps), style))

    def _keep(self, rule: _Rule) -> None:
        self.count += 1
        last = rule.steps[-1]
        by = ("#", last.key) if last.key else (".", min(last.classes)) if last.classes else ("", last.tag)
        self.rules.setdefault(by, []).append(rule)

    def style_of(self, node: Node) -> Style:
        found: list[_Rule] = []
        for by in (("#", node.key), *((".", name) for name in node.classes), ("", node.tag), ("", "")):
            found += [rule for rule in self.rules.get(by, ()) if self._matches(rule.steps, node)]
        out: Style = {}
        for rule in sorted(found, key=lambda rule: rule.weight):
            out.update(rule.style)
        return out

    def _matches(self, steps: tuple[_Compound, ...], node: Node) -> bool:
        """Whether an element is at the end of a selector. The elements at which the steps before may end are kept as a
        set that only shrinks, so that nothing is tried twice."""
        self._count(1)
        if not steps[-1].fits(node):
            return False
        ends = [node]
        for k in range(len(steps) - 1, 0, -1):
            if steps[k].child:
                above = [end.above for end in ends if end.above is not None]
            else:
                # The deepest end sees all elements above the others.
                above = list(_all_above(ends[0]))
            self._count(len(above))
            ends = [up for up in above if steps[k - 1].fits(up)]
            if not ends:
                return False
        return True

    def _count(self, tests: int) -> None:
        self.tests += tests
        if self.tests > MOST_TESTS:
            raise StyleError("its style rules are more work than any drawing needs")


def declarations(content: Any) -> Style:
    """The declarations of a style attribute, or of a rule's tokens; 'important' counts for nothing more."""
    import tinycss2

    parsed = tinycss2.parse_blocks_contents(content, skip_comments=True, skip_whitespace=True)
    return {one.lower_name: tinycss2.serialize(one.value).strip() for one in parsed if one.type == "declaration"}


def node_of(element: Any, tag: str, above: Node | None) -> Node:
    return Node(tag, element.get("id", ""), frozenset((element.get("class") or "").split()), above)


def cascaded(element: Any, node: Node, sheet: StyleSheet, parent: Style) -> Style:
    """All properties of an element: inherited, by its attributes, by the sheets, by its style attribute. opacity: of
    the element and all groups round it together."""
    out = {name: parent[name] for name in INHERITED if name in parent}
    own = {name: element.get(name) for name in (*INHERITED, *OWN) if element.get(name) is not None}
    inline = element.get("style")
    for said in (own, sheet.style_of(node) if sheet.rules else {}, declarations(inline) if inline else {}):
        for name, value in said.items():
            if value == "inherit":
                value = parent.get(name, START.get(name, ""))
            out[name] = value
    out["opacity"] = f"{share_of(out.get('opacity'), 1.0) * share_of(parent.get('opacity'), 1.0):.6g}"
    return out


def share_of(text: str | None, default: float) -> float:
    """A number or a per cent as a share 0..1."""
    try:
        value = float(text.rstrip("%")) / (100.0 if text.endswith("%") else 1.0)  # type: ignore[union-attr]
    except (ValueError, AttributeError):
        return default
    return min(max(value, 0.0), 1.0) if value == value else default


def _split(prelude: Any) -> list[list[Any]]:
    """The selectors of a rule, as tokens."""
    out: list[list[Any]] = [[]]
    for token in prelude:
        if token.type == "literal" and token.value == ",":
            out.append([])
        else:
            out[-1].append(token)
    return out


def _steps(tokens: list[Any]) -> list[_Compound] | None:
    """A selector of tags, classes and ids with descendants and children; None for any other."""
    out: list[_Compound] = []
    here: list[Any] = []
    child = False

    def end() -> bool:
        nonlocal child
        if here:
            made = _compound(here, child)
            if made is None:
                return False
            out.append(made)
            here.clear()
            child = False
        return True

    for token in tokens:
        if token.type == "whitespace":
            if not end():
                return None
        elif token.type == "literal" and token.value == ">":
            if not end() or not out or child:
                return None
            child = True
        else:
            here.append(token)
    return out if end() and out and not child else None


def _compound(tokens: list[Any], child: bool) -> _Compound | None:
    tag, key, classes, dot = "", "", set(), False
    for n, token in enumerate(tokens):
        if dot:
            if token.type != "ident":
                return None
            classes.add(token.value)
            dot = False
        elif token.type == "ident" and n == 0:
            tag = token.value
        elif token.type == "hash" and not key:
            key = token.value
        elif token.type == "literal" and token.value == ".":
            dot = True
        elif not (token.type == "literal" and token.value == "*" and n == 0):
            return None
    return None if dot else _Compound(tag, frozenset(classes), key, child)


def _weight(steps: list[_Compound], order: int) -> tuple[int, int, int, int]:
    ids, classes, tags = (sum(map(f, steps)) for f in (lambda s: bool(s.key), lambda s: len(s.classes),
                                                        lambda s: bool(s.tag)))  # fmt: skip
    return ids, classes, tags, order


def _all_above(node: Node) -> Iterator[Node]:
    while node.above is not None:
        node = node.above
        yield node
