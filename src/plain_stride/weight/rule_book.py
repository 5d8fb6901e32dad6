"""The rules that a plan is made of: what each is called, its figures with their units and limits, what it guarantees.

Figures without a source of their own are common practice, in steps of sqrt 2 (ISO 128). Those of the tuck-under, the
ground, the shadow's edge and the fade are ours: a tuck-under is half a meeting more, as the line that goes under shows
less of itself; the ground carries as much as a whole tier; the edge that throws a shadow is heavier by the same; the
fade takes at most half a step where the light falls straight on.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

STEPS, MM, SHARE, TIMES = "steps", "mm", "%", "times"


@dataclass(frozen=True)
class Figure:
    """value: unless the plan has another; low, high: between which it may lie; says: what it is, for the window."""

    value: float
    unit: str
    low: float
    high: float
    says: str


@dataclass(frozen=True)
class RuleKind:
    """says: the rule in plain words; promise: what it guarantees besides what it adds, '' for nothing."""

    name: str
    says: str
    figures: Mapping[str, Figure] = field(default_factory=dict)
    promise: str = ""


def _steps(value: float, says: str) -> Figure:
    return Figure(value, STEPS, -4.0, 4.0, says)


def _times(value: float, says: str) -> Figure:
    return Figure(value, TIMES, 1.0, 3.0, says)


def _share(value: float, says: str) -> Figure:
    return Figure(value, SHARE, 0.0, 50.0, says)


ROLE, TIER, LIGHT, MEETINGS, TUCKS, BENDS, MIDDLES, GROUND, SHADOW, FADE, ENDS, WHITE = (
    "outline", "depth", "light", "meetings", "tucks", "bends", "middles", "ground", "shadow", "fade", "ends", "white",
)  # fmt: skip

_KINDS = (
    RuleKind(ROLE, "outside over inside", {"margin": _times(1.2, "an outline over what it holds")},
             "an inner line weighs no more than its part's outline"),
    RuleKind(TIER, "near over far",
             {"order": _steps(0.5, "nearest and farthest part of a tier"), "margin": _times(1.2, "near over far")},
             "a nearer line outweighs the farther one that ends on it"),
    RuleKind(LIGHT, "away from the light",
             {"away": _steps(1.5, "away from it"), "towards": _steps(-1.5, "towards it"),
              "inner": Figure(50.0, SHARE, 0.0, 100.0, "so much of it on inner lines"),
              "margin": _times(1.2, "shadow side over lit side")},
             "the shadow side of a form outweighs its lit side"),
    RuleKind(MEETINGS, "where lines meet",
             {"stem": _steps(0.9, "the line that ends there"), "bar": _steps(0.35, "the line it ends on"),
              "corner": _steps(0.3, "two ends"), "detail": Figure(60.0, SHARE, 0.0, 100.0, "so much of it on details"),
              "texture": Figure(30.0, SHARE, 0.0, 100.0, "so much of it on texture")},
             "a line is no lighter where it meets another than in its middle"),
    RuleKind(TUCKS, "where one goes under", {"under": _steps(0.45, "more than a meeting")}),
    RuleKind(BENDS, "tight bends",
             {"bend": _steps(0.6, "in the tightest"), "none": Figure(15.0, MM, 1.0, 200.0, "no bend above this radius"),
              "full": Figure(1.5, MM, 0.1, 50.0, "all of it below this radius")}),
    RuleKind(MIDDLES, "middles of free lines", {"middle": _steps(0.6, "in the middle")}),
    RuleKind(GROUND, "where things stand", {"ground": _steps(0.75, "where it stands")}),
    RuleKind(SHADOW, "edges that throw shadow", {"throws": _steps(0.75, "where it falls")}),
    RuleKind(FADE, "fading in the light",
             {"fade": _steps(-0.5, "where light falls straight on"),
              "reach": Figure(60.0, MM, 1.0, 1000.0, "how far a lamp on the sheet reaches")}),
    RuleKind(ENDS, "soft ends",
             {"outer": _share(20.0, "of an outer line"), "inner": _share(30.0, "of an inner line"),
              "detail": _share(45.0, "of a detail"), "texture": _share(50.0, "of texture"),
              "least": Figure(2.0, MM, 0.0, 20.0, "at least"), "most": Figure(14.0, MM, 0.5, 100.0, "at most")}),
    RuleKind(WHITE, "white between lines",
             {"white": Figure(0.2, MM, 0.0, 2.0, "between two edges"),
              "least": Figure(60.0, SHARE, 10.0, 100.0, "of the plan is left at least")}),
)  # fmt: skip
RULES: Mapping[str, RuleKind] = MappingProxyType({kind.name: kind for kind in _KINDS})
"""All rules by name, in the order in which they win unless the inker orders them."""
PROMISING = tuple(kind.name for kind in _KINDS if kind.promise)
STACKED = (ROLE, TIER, LIGHT, MEETINGS, TUCKS, BENDS, MIDDLES, GROUND, SHADOW, FADE)
"""Rules that add steps; the others act on what these come to."""
