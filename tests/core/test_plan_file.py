"""Plans as files, and the named ones."""

import json
import re
from pathlib import Path

import pytest

from plain_stride.weight.lamps import Lamp
from plain_stride.weight.plan import Plan, PlanError, Rule, all_rules
from plain_stride.weight.plan_file import lamp_from_json, plan_from_json, plan_json
from plain_stride.weight.rule_book import RULES
from plain_stride.weight.schools import SCHOOLS, school

PAGE = (Path(__file__).parents[2] / "docs" / "plan-file.md").read_text()


@pytest.mark.parametrize("plan", [*SCHOOLS.values(), Plan("Mine", lamps=(Lamp(30.0), Lamp(at=(10.0, 20.0))), lean=0.2,
                                                          rules=all_rules([Rule("light", False, {"away": 0.5})]))])  # fmt: skip
def test_a_plan_comes_back_as_it_was(plan):
    assert plan_from_json(json.loads(json.dumps(plan_json(plan)))) == plan


def test_the_six_schools_and_the_standard():
    assert list(SCHOOLS) == ["Standard", "Even and bold", "Fine and detailed", "Light first", "Depth first",
                             "Silhouette first", "Loose and textured"]  # fmt: skip
    assert [plan.rules[0].name for plan in SCHOOLS.values()][3:6] == ["light", "depth", "outline"]
    assert school("light  FIRST") is SCHOOLS["Light first"]
    with pytest.raises(PlanError, match="Depth first"):
        school("nonsense")


def test_the_example_of_the_docs_is_one_and_its_table_is_the_rule_book():
    example = json.loads(re.search(r"```json\n(.*?)```", PAGE, re.DOTALL)[1])
    plan = plan_from_json(example)
    assert plan.rules[0].name == "light" and plan.rule("outline")["margin"] == 1.3 and plan.is_on("white")
    rows = re.findall(r"^\| `(\w+)` \|.*?\|(.*?)\|(.*?)\|$", PAGE, re.MULTILINE)
    assert [name for name, _, _ in rows] == list(RULES)
    for name, figures, promise in rows:
        kind = RULES[name]
        assert bool(promise.strip()) == bool(kind.promise)
        told = dict(re.findall(r"(\w+) (-?[\d.]+)", figures))
        assert {key: float(value) for key, value in told.items()} == {k: f.value for k, f in kind.figures.items()}


def without(key):
    data = plan_json(Plan())
    del data[key]
    return data


@pytest.mark.parametrize("wrong", [
    None, [], "Standard", {}, {"kind": "other"}, without("kind"), plan_json(Plan()) | {"version": 2},
    plan_json(Plan()) | {"version": "1"}, plan_json(Plan()) | {"name": ""}, plan_json(Plan()) | {"name": "a\nb"},
    plan_json(Plan()) | {"base_mm": -1}, plan_json(Plan()) | {"base_mm": "0.3"}, plan_json(Plan()) | {"base_mm": float("nan")},
    plan_json(Plan()) | {"roles": {"outer": 99}}, plan_json(Plan()) | {"roles": {"nose": 1}},
    plan_json(Plan()) | {"roles": [1]}, plan_json(Plan()) | {"tiers": {"near": True}}, plan_json(Plan()) | {"lean": 2},
    plan_json(Plan()) | {"floor": 1}, plan_json(Plan()) | {"lamps": [1]}, plan_json(Plan()) | {"lamps": [{"from": 1}] * 3},
    plan_json(Plan()) | {"lamps": [{"at": [1]}]}, plan_json(Plan()) | {"rules": [{"rule": "nonsense"}]},
    plan_json(Plan()) | {"rules": [{"rule": "light", "on": 1}]}, plan_json(Plan()) | {"rules": ["light"]},
    plan_json(Plan()) | {"rules": [{"rule": "light"}, {"rule": "light"}]}, plan_json(Plan()) | {"rules": {}},
    plan_json(Plan()) | {"rules": [{"rule": "light", "away": 99}]}, plan_json(Plan()) | {"rules": [{"rule": "light", "up": 1}]},
    plan_json(Plan()) | {"lamps": [{"from": 0}, {"from": 180}]}, plan_json(Plan()) | {"halo_mm": None},
])  # fmt: skip
def test_nonsense_is_said_plainly(wrong):
    with pytest.raises(PlanError) as fault:
        plan_from_json(wrong)
    assert "\n" not in str(fault.value) and len(str(fault.value)) > 10


def test_what_a_later_version_knows_besides_is_passed_over():
    data = plan_json(Plan()) | {"colour": "red"}
    assert plan_from_json(data) == Plan()
    with pytest.raises(PlanError, match="lamp"):
        lamp_from_json({"north": 1})
