"""A plan as JSON, to keep or to give away; and what of it a job keeps beside its base, roles and depths.

    {"kind": "plain stride plan", "version": 1, "name": "...", "base_mm": 0.35, "halo_mm": 0.35,
     "roles": {"outer": 1, ..}, "tiers": {"near": 1, ..}, "lean": 0..1, "floor": false,
     "lamps": [{"from": degrees clockwise, 0 from above} or {"at": [x, y] mm}, ..],
     "rules": [{"rule": "outline", "on": true, "margin": 1.2, ..}, ..]}

The rule that stands first wins. What is left out is as in the standard plan, a rule that is left out is on and comes
last; what a later version knows besides is passed over.
"""

from collections.abc import Mapping
from typing import Any

from plain_stride.weight.lamps import Lamp, LampError
from plain_stride.weight.plan import FROM_ABOVE, ROLE_STEPS, TIER_STEPS, Plan, PlanError, Rule, all_rules

KIND, VERSION = "plain stride plan", 1
MOST_NAME = 80
_KNOWN = ("rule", "on")


def plan_json(plan: Plan) -> dict[str, Any]:
    """A plan as JSON, without how much of it counts."""
    return {
        "kind": KIND,
        "version": VERSION,
        "name": plan.name,
        "base_mm": plan.base,
        "halo_mm": plan.halo,
        "roles": dict(plan.roles),
        "tiers": dict(plan.tiers),
        **rules_json(plan),
    }


def rules_json(plan: Plan) -> dict[str, Any]:
    """What a plan has besides base, roles, depths and share."""
    return {
        "lean": plan.lean,
        "floor": plan.floor,
        "lamps": [{"from": lamp.degrees} if lamp.at is None else {"at": list(lamp.at)} for lamp in plan.lamps],
        "rules": [{"rule": rule.name, "on": rule.on, **rule.figures} for rule in plan.rules],
    }


def plan_from_json(data: Any, share: float = 0.0) -> Plan:
    """A plan from such a file. Raises PlanError."""
    if not isinstance(data, Mapping) or data.get("kind") != KIND:
        raise PlanError(f'this is no plan: one says "kind": "{KIND}"')
    if not isinstance(data.get("version"), int) or data["version"] > VERSION:
        raise PlanError("this plan was made by a later version")
    name = data.get("name", "")
    if not isinstance(name, str) or not 0 < len(name.strip()) <= MOST_NAME or not name.isprintable():
        raise PlanError(f"a plan has a name, of {MOST_NAME} letters at most")
    return Plan(
        name=name.strip(),
        base=_number(data.get("base_mm", 0.35), "base_mm"),
        halo=_number(data.get("halo_mm", 0.35), "halo_mm"),
        roles=_steps(data.get("roles", {}), ROLE_STEPS, "roles"),
        tiers=_steps(data.get("tiers", {}), TIER_STEPS, "tiers"),
        share=share,
        **read_rules(data),
    )


def read_rules(data: Mapping[str, Any]) -> dict[str, Any]:
    """Fields of a plan from what `rules_json` gives. Raises PlanError."""
    floor, lamps, rules = data.get("floor", False), data.get("lamps"), data.get("rules", [])
    if not isinstance(floor, bool):
        raise PlanError('"floor" is true or false')
    if not isinstance(lamps, list | None) or not isinstance(rules, list):
        raise PlanError('"lamps" and "rules" are lists')
    return {
        "lean": _number(data.get("lean", 0.5), "lean"),
        "floor": floor,
        "lamps": FROM_ABOVE if lamps is None else tuple(map(lamp_from_json, lamps)),
        "rules": all_rules(_rule(rule) for rule in rules),
    }


def lamp_from_json(data: Any) -> Lamp:
    """A lamp from {"from": degrees} or {"at": [x, y]}. Raises PlanError."""
    try:
        if isinstance(data, Mapping) and "at" in data:
            at = data["at"]
            if not isinstance(at, list | tuple) or len(at) != 2:
                raise PlanError('a lamp on the sheet is {"at": [x, y]}, in mm')
            return Lamp(at=(_number(at[0], "at"), _number(at[1], "at")))
        if isinstance(data, Mapping) and "from" in data:
            return Lamp(_number(data["from"], "from"))
    except LampError as fault:
        raise PlanError(str(fault)) from None
    raise PlanError('a lamp is {"from": degrees}, 0 from above, or {"at": [x, y]}, in mm')


def _rule(data: Any) -> Rule:
    if not isinstance(data, Mapping) or not isinstance(data.get("rule"), str):
        raise PlanError('a rule is {"rule": name, "on": true or false, figures ..}')
    on = data.get("on", True)
    if not isinstance(on, bool):
        raise PlanError(f"\"on\" of the rule '{data['rule']}' is true or false")
    return Rule(data["rule"], on, {key: value for key, value in data.items() if key not in _KNOWN})


def _steps(data: Any, least: Mapping[str, float], what: str) -> dict[str, float]:
    if not isinstance(data, Mapping) or not set(data) <= set(least):
        raise PlanError(f"a plan's {what} are steps of sqrt 2 for {', '.join(least)}")
    return dict(least) | {key: _number(value, what) for key, value in data.items()}


def _number(value: Any, what: str) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not abs(value) <= 1e6:
        raise PlanError(f'"{what}" is a number')
    return float(value)
