"""The plan: the rules that give lines their width, which of them are on, and which wins where they clash.

A line's width is base x 2^(k / 2), k what all rules add at a place, in steps of sqrt 2.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from plain_stride.errors import StrideError
from plain_stride.weight.lamps import Lamp, LampError, checked_lamps
from plain_stride.weight.rule_book import LIGHT, ROLE, RULES, TIER

TIERS = ("near", "middle", "far")
STANDARD = "Standard"
ROLE_STEPS = {"outer": 1.0, "inner": 0.0, "detail": -1.25, "texture": -2.0, "ruled": 0.0}
TIER_STEPS = {"near": 1.0, "middle": 0.0, "far": -1.0}
MOST_STEPS = 50.0
FROM_ABOVE = (Lamp(0.0),)


class PlanError(StrideError):
    """A plan or a tier that is not known."""


@dataclass(frozen=True)
class Rule:
    """A rule of a plan. figures: what the plan has instead of the rule book's."""

    name: str
    on: bool = True
    figures: Mapping[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        kind = RULES.get(self.name)
        if kind is None:
            raise PlanError(f"there is no rule '{self.name}': {', '.join(RULES)}")
        for name, value in self.figures.items():
            known = kind.figures.get(name)
            if known is None:
                raise PlanError(f"the rule '{self.name}' has no figure '{name}': {', '.join(kind.figures)}")
            if isinstance(value, bool) or not isinstance(value, int | float) or not known.low <= value <= known.high:
                raise PlanError(f"'{name}' of the rule '{self.name}' is {known.low:g} to {known.high:g} {known.unit}")

    def __getitem__(self, figure: str) -> float:
        return self.figures.get(figure, RULES[self.name].figures[figure].value)


def all_rules(rules: Iterable[Rule] = (), off: Iterable[str] = ()) -> tuple[Rule, ...]:
    """The rules given, in their order, and behind them all others of the rule book, but for those named as they are
    there, `off` switched off. Raises PlanError for a rule given twice."""
    rules, off = tuple(rules), set(off)
    given = {rule.name: rule for rule in rules}
    if len(given) < len(rules):
        raise PlanError("a rule stands twice in a plan")
    return (*given.values(), *(Rule(name, name not in off) for name in RULES if name not in given))


@dataclass(frozen=True)
class Plan:
    """base in mm; steps of sqrt 2 for each role and tier; share 0..1: how much the plan counts against the hand; rules:
    all of them, the one that wins first; lean: how far a clash thickens the one line (1) or thins the other (0)."""

    name: str = STANDARD
    base: float = 0.35
    roles: Mapping[str, float] = field(default_factory=lambda: dict(ROLE_STEPS))
    tiers: Mapping[str, float] = field(default_factory=lambda: dict(TIER_STEPS))
    halo: float = 0.35
    share: float = 0.0
    rules: tuple[Rule, ...] = field(default_factory=all_rules)
    lamps: tuple[Lamp, ...] = FROM_ABOVE
    lean: float = 0.5
    floor: bool = False

    def __post_init__(self) -> None:
        if not 0.0 <= self.share <= 1.0:
            raise PlanError(f"a share of {self.share * 100:g} % is not possible: 0 to 100")
        if not 0.01 <= self.base <= 20.0:
            raise PlanError(f"a base width of {self.base:g} mm is not possible: 0.01 to 20 mm")
        if not 0.0 <= self.lean <= 1.0:
            raise PlanError("how far a clash thickens rather than thins is 0 to 100 %")
        for what, steps, least in (("roles", self.roles, ROLE_STEPS), ("tiers", self.tiers, TIER_STEPS)):
            if not set(least) <= set(steps) or any(not abs(v) <= MOST_STEPS for v in steps.values()):
                raise PlanError(f"a plan's {what} are steps of sqrt 2 for {', '.join(least)}")
        if [rule.name for rule in self.rules] != list(dict.fromkeys(rule.name for rule in self.rules)):
            raise PlanError("a rule stands twice in a plan")
        if {rule.name for rule in self.rules} != set(RULES):
            raise PlanError(f"a plan orders all of its rules: {', '.join(RULES)}")
        try:
            checked_lamps(self.lamps)
        except LampError as fault:
            raise PlanError(str(fault)) from None

    def rule(self, name: str) -> Rule:
        """A rule of the plan; KeyError for none."""
        for rule in self.rules:
            if rule.name == name:
                return rule
        raise KeyError(name)

    def is_on(self, name: str) -> bool:
        """Whether a rule acts; that of the light needs a lamp."""
        return self.rule(name).on and (name != LIGHT or bool(self.lamps))

    def role_steps(self, role: str) -> float:
        """What a role adds; nothing where its rule is off."""
        return self.roles[role] if self.is_on(ROLE) else 0.0

    def tier_steps(self, tier: str) -> float:
        """What a tier adds; nothing where its rule is off."""
        return self.tiers[tier] if self.is_on(TIER) else 0.0

    def width(self, role: str, tier: str) -> float:
        """The full width in mm that role and tier alone give; a halo has its own constant width."""
        if role == "halo":
            return self.halo
        return float(self.base * 2.0 ** ((self.role_steps(role) + self.tier_steps(tier)) / 2.0))

    @property
    def is_even(self) -> bool:
        """Whether it wants one width along all of a line, whatever lies round it."""
        return not any(rule.on for rule in self.rules if rule.name not in (ROLE, TIER)) and not self.is_ordered

    @property
    def is_ordered(self) -> bool:
        """Whether parts of one tier differ by their order."""
        return self.is_on(TIER) and self.rule(TIER)["order"] != 0.0

    def share_of(self, role: str, own: float | None = None) -> float:
        """How much the plan counts against the hand (0..1): a halo's width is its own, whatever the share. own: what a
        line or its part has of it, None for as much as the job."""
        return 1.0 if role == "halo" else self.share if own is None else own


def even_rules() -> tuple[Rule, ...]:
    """Rules of a plan that gives each line one width by role and tier, and nothing else."""
    tier = Rule(TIER, figures={"order": 0.0})
    return tuple(tier if rule.name == TIER else rule for rule in all_rules(off=set(RULES) - {ROLE, TIER}))


def check_tier(tier: object) -> str:
    """The tier, if it is one. Raises PlanError."""
    if tier not in TIERS:
        raise PlanError(f"tier '{tier}' is not known: {', '.join(TIERS)}")
    return str(tier)
