"""Named plans of the main schools. What sets each apart is common practice; the figures that no source gives are ours,
chosen by looking at what they do.

- Standard: all rules as the rule book has them, the silhouette first.
- Even and bold: one heavy width a line; a silhouette still heavier, and white kept between lines.
- Fine and detailed: thin, little between near and far, and soft long ends, so that much detail stays open.
- Light first: the light decides and reaches inside; depth and role step back.
- Depth first: near against far decides; the light only tints it.
- Silhouette first: the outline far above all else, so that the shape reads at arm's length.
- Loose and textured: much swing along each line, thick free middles, meetings that pool, white given up.
"""

from collections.abc import Mapping
from types import MappingProxyType

from plain_stride.weight.plan import Plan, PlanError, Rule, all_rules, even_rules
from plain_stride.weight.rule_book import (
    BENDS,
    ENDS,
    FADE,
    LIGHT,
    MEETINGS,
    MIDDLES,
    ROLE,
    TIER,
    TUCKS,
    WHITE,
)  # fmt: skip

_EVEN = tuple(Rule(rule.name, True) if rule.name == WHITE else rule for rule in even_rules())
_SCHOOLS = (
    Plan(),
    Plan("Even and bold", 0.5, {"outer": 1.0, "inner": 0.0, "detail": -0.75, "texture": -1.25, "ruled": 0.0},
         {"near": 0.5, "middle": 0.0, "far": -0.5}, 0.5, rules=_EVEN, lamps=()),
    Plan("Fine and detailed", 0.25, {"outer": 0.75, "inner": 0.0, "detail": -0.75, "texture": -1.25, "ruled": 0.0},
         {"near": 0.5, "middle": 0.0, "far": -0.75}, 0.25,
         rules=all_rules((Rule(WHITE), Rule(ROLE), Rule(LIGHT, figures={"away": 1.0, "towards": -1.0}),
                          Rule(MEETINGS, figures={"stem": 0.7}), Rule(TIER, figures={"order": 0.25}),
                          Rule(ENDS, figures={"outer": 25.0, "inner": 35.0, "most": 18.0})))),
    Plan("Light first", 0.35, {"outer": 0.6, "inner": 0.0, "detail": -1.0, "texture": -1.75, "ruled": 0.0},
         {"near": 0.5, "middle": 0.0, "far": -0.5},
         rules=all_rules((Rule(LIGHT, figures={"away": 2.0, "towards": -2.0, "inner": 75.0, "margin": 1.4}),
                          Rule(FADE, figures={"fade": -0.75}), Rule(MEETINGS), Rule(ROLE), Rule(TIER)))),
    Plan("Depth first", 0.35, {"outer": 0.75, "inner": 0.0, "detail": -1.25, "texture": -2.0, "ruled": 0.0},
         {"near": 1.5, "middle": 0.0, "far": -1.5},
         rules=all_rules((Rule(TIER, figures={"margin": 1.4}), Rule(TUCKS, figures={"under": 0.75}), Rule(ROLE),
                          Rule(LIGHT, figures={"away": 0.75, "towards": -0.75})))),
    Plan("Silhouette first", 0.32, {"outer": 2.0, "inner": 0.0, "detail": -1.25, "texture": -2.0, "ruled": 0.0},
         rules=all_rules((Rule(ROLE, figures={"margin": 1.5}), Rule(TIER),
                          Rule(LIGHT, figures={"away": 0.75, "towards": -0.75})))),
    Plan("Loose and textured", 0.38, {"outer": 0.75, "inner": 0.0, "detail": -1.0, "texture": -1.5, "ruled": 0.0},
         rules=all_rules((Rule(MEETINGS, figures={"stem": 1.4, "bar": 0.6, "corner": 0.6}),
                          Rule(MIDDLES, figures={"middle": 1.2}), Rule(BENDS, figures={"bend": 1.0}), Rule(LIGHT),
                          Rule(ENDS, figures={"outer": 30.0, "inner": 40.0})), off=(WHITE,))),
)  # fmt: skip
SCHOOLS: Mapping[str, Plan] = MappingProxyType({plan.name: plan for plan in _SCHOOLS})


def school(name: str) -> Plan:
    """A plan by its name, however it is spelled in capitals. Raises PlanError."""
    for known, plan in SCHOOLS.items():
        if known.casefold() == " ".join(name.split()).casefold():
            return plan
    raise PlanError(f"there is no plan '{name}': {', '.join(SCHOOLS)}, or the file of one")
