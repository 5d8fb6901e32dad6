"""Named changes of the plan, and of what lines have of it."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from plain_stride.job.change_context import ChangeContext, change, flag, line_list, number
from plain_stride.job.errors import JobError
from plain_stride.job.line_weight import PLAIN, LineWeight
from plain_stride.job.plan_record import plan_row
from plain_stride.job.rows import PLAN
from plain_stride.weight.lamps import Lamp
from plain_stride.weight.plan import Plan, PlanError, Rule
from plain_stride.weight.plan_file import lamp_from_json, plan_from_json
from plain_stride.weight.rule_book import RULES
from plain_stride.weight.scene import FORM_SIDES, LEFT, RIGHT
from plain_stride.weight.schools import school

NO_LIGHT, AS_FOUND = "none", "found"
OTHER_SIDE = {LEFT: RIGHT, RIGHT: LEFT}


@change
def plan(
    m: ChangeContext,
    plan: Any = None,
    share: float | None = None,
    base: float | None = None,
    light: Any = None,
    rules: list[Any] | None = None,
    order: list[str] | None = None,
    lean: float | None = None,
    floor: bool | None = None,
) -> None:
    """Lays the plan at a share of 0 to 100 per cent against the hand (0 lifts it off), or another plan (its name, or a
    plan as its file has it), or changes the one that is laid: its base width in mm, its light (degrees, 0 from above;
    a place [x, y] mm; a list of two of them; 'none'), some of its rules ({"rule", "on", figures}), the order in which
    they win, how far clashes thicken (0..1), whether nothing is thinner than the print floor. Raises PlanError,
    JobError."""
    new = m.job.plan if plan is None else _other(m.job.plan, plan)
    if base is not None:
        new = replace(new, base=number(base, "a base width"))
    if share is not None:
        new = replace(new, share=number(share, "a share", 0.0, 100.0) / 100.0)
    if light is not None:
        new = replace(new, lamps=lamps_of(light))
    if rules is not None:
        new = replace(new, rules=_patched(new, rules))
    if order is not None:
        new = replace(new, rules=_ordered(new, order))
    if lean is not None:
        new = replace(new, lean=number(lean, "how far clashes thicken", 0.0, 1.0))
    if floor is not None:
        new = replace(new, floor=flag(floor, "floor"))
    m.draft.put(PLAN, plan_row(new))


@change
def weight(
    m: ChangeContext,
    lines: list[str],
    form: str | None = None,
    throws: bool | None = None,
    share: Any = None,
    pinned: bool | None = None,
) -> None:
    """Says of lines where their form lies ('left', 'right', 'other' for the other side than now, 'found'), whether they
    throw a shadow, how much of the plan they have (0..100, 'part' for as much as their part), whether they keep the
    widths that the plan gives them now. Raises JobError."""
    for key in line_list(lines):
        row = m.line(key)
        new = row.weight
        if form is not None:
            new = replace(new, form=_form(m, key, form))
        if throws is not None:
            new = replace(new, throws=flag(throws, "throws"))
        if share is not None:
            new = replace(new, share=None if share == "part" else number(share, "a share", 0.0, 100.0) / 100.0)
        if pinned is not None:
            new = _pinned(m, key, new, flag(pinned, "pinned"))
        m.draft.change("lines", key, weight=new)


@change
def as_planned(m: ChangeContext, lines: list[str]) -> None:
    """Takes swells, shaves and all other edits of width off lines, and what was said of their weight: they are as the
    plan says. Raises JobError."""
    for key in line_list(lines):
        m.line(key)
        m.draft.change("lines", key, edits=(), weight=PLAIN)


def lamps_of(light: Any) -> tuple[Lamp, ...]:
    """The lamps that a plain argument stands for. Raises PlanError."""
    if light == NO_LIGHT:
        return ()
    if isinstance(light, list | tuple) and not _is_place(light):
        return tuple(_lamp(one) for one in light)
    return (_lamp(light),)


def _is_place(light: Any) -> bool:
    """[x, y] is a place, as two directions in degrees stand each in a mapping."""
    return len(light) == 2 and all(isinstance(v, int | float) and not isinstance(v, bool) for v in light)


def _lamp(one: Any) -> Lamp:
    if isinstance(one, Mapping):
        return lamp_from_json(one)
    if isinstance(one, list | tuple):
        return lamp_from_json({"at": one})
    return lamp_from_json({"from": number(one, "where light comes from", -360.0, 360.0)})


def _other(now: Plan, wanted: Any) -> Plan:
    found = school(wanted) if isinstance(wanted, str) else plan_from_json(wanted)
    return replace(found, share=now.share)


def _patched(now: Plan, wanted: Any) -> tuple[Rule, ...]:
    if not isinstance(wanted, list):
        raise PlanError('rules are a list of {"rule": name, "on": true or false, figures ..}')
    rules = {rule.name: rule for rule in now.rules}
    for one in wanted:
        if not isinstance(one, Mapping) or one.get("rule") not in rules:
            raise PlanError(f"each rule names one of {', '.join(RULES)}")
        known = rules[one["rule"]]
        figures = {key: value for key, value in one.items() if key not in ("rule", "on")}
        rules[known.name] = Rule(known.name, flag(one.get("on", known.on), "on"), {**known.figures, **figures})
    return tuple(rules.values())


def _ordered(now: Plan, wanted: Any) -> tuple[Rule, ...]:
    if not isinstance(wanted, list) or not set(wanted) <= set(RULES) or len(set(wanted)) < len(wanted):
        raise PlanError(f"an order names rules, each once: {', '.join(RULES)}")
    first = [now.rule(name) for name in wanted]
    return (*first, *(rule for rule in now.rules if rule.name not in wanted))


def _form(m: ChangeContext, key: str, wanted: str) -> str:
    if wanted == "other":
        return OTHER_SIDE[m.line(key).weight.form or m.shapes.weighing.form_side(key)]
    if wanted == AS_FOUND:
        return ""
    if wanted not in FORM_SIDES or not wanted:
        raise JobError("the form of a line lies 'left' or 'right' of it, on the 'other' side, or as it is 'found'")
    return wanted


def _pinned(m: ChangeContext, key: str, now: LineWeight, on: bool) -> LineWeight:
    if not on:
        return replace(now, pinned=None, pinned_share=None)
    if now.pinned is not None:
        return now
    m.shapes.weighing.settle()
    share = m.shapes.share_of(m.line(key))
    return replace(now, pinned=m.shapes.weighing.profile(key), pinned_share=share)
