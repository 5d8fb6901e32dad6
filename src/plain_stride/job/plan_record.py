"""The row of the plan that is laid."""

from dataclasses import dataclass, replace
from typing import Any, ClassVar

from plain_stride.job.record_fields import Record, flag_field, json_field, numbers, real_field, text_field, wanted
from plain_stride.weight.lamps import Lamp
from plain_stride.weight.plan import Plan, even_rules
from plain_stride.weight.plan_file import read_rules, rules_json
from plain_stride.weight.rule_book import BENDS, LIGHT


def _steps(value: Any) -> dict[str, float]:
    numbers(value.values(), None, 50.0)
    return {str(key): float(step) for key, step in value.items()}


def _rules(value: Any) -> Plan:
    wanted(isinstance(value, dict), "its rules")
    return Plan(**read_rules(value))


@dataclass(frozen=True, kw_only=True)
class PlanRecord(Record):
    """base, halo: mm; share: 0..1 against the hand; roles, tiers: steps of sqrt 2; rules: all else of a plan, None in
    files of before, whose light (degrees, 0 from the right, 90 from above, None for none) and bends stand for it."""

    table: ClassVar[str] = "plan"
    name: str = text_field()
    base: float = real_field()
    share: float = real_field()
    roles: dict[str, float] = json_field(_steps)
    tiers: dict[str, float] = json_field(_steps)
    halo: float = real_field()
    light: float | None = real_field(None, since=9, nullable=True)
    bends: bool = flag_field(False, since=9)
    rules: Plan | None = json_field(_rules, None, since=10, nullable=True, encode=rules_json)

    def __post_init__(self) -> None:
        _ = self.plan
        wanted(0.0 < self.halo <= 50.0, "its halo")

    @property
    def plan(self) -> Plan:
        rules = self.rules or self._before_rules()
        return replace(rules, name=self.name, base=self.base, roles=dict(self.roles), tiers=dict(self.tiers),
                       halo=self.halo, share=self.share)  # fmt: skip

    def _before_rules(self) -> Plan:
        lamps = () if self.light is None else (Lamp((90.0 - self.light) % 360.0),)
        on = {LIGHT: bool(lamps), BENDS: self.bends}
        rules = (replace(rule, on=on.get(rule.name, rule.on)) for rule in even_rules())
        return Plan(rules=tuple(rules), lamps=lamps)


def plan_row(plan: Plan) -> PlanRecord:
    """The row of a plan."""
    rules = Plan(lean=plan.lean, floor=plan.floor, lamps=plan.lamps, rules=plan.rules)
    return PlanRecord(name=plan.name, base=plan.base, share=plan.share, roles=dict(plan.roles), tiers=dict(plan.tiers),
                      halo=plan.halo, rules=rules)  # fmt: skip
