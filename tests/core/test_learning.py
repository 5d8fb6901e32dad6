"""A plan learned from widths that are known: weighted by a known plan with noise, and with too little to tell."""

from dataclasses import replace

import numpy as np
import pytest

from plain_stride.weight.lamps import Lamp
from plain_stride.weight.learning import learned
from plain_stride.weight.plan import Plan, PlanError, Rule, all_rules
from plain_stride.weight.rule_book import FADE, GROUND, SHADOW, TUCKS, WHITE
from plain_stride.weight.weighing import weighed
from tests.drawings import disc, scene_of, stroke

PARTS = (("N", "near"), ("M", "middle"), ("F", "far"))
KNOWN = replace(
    Plan(),
    base=0.4,
    roles={"outer": 0.8, "inner": 0.0, "detail": -1.1, "texture": -1.8, "ruled": 0.0},
    tiers={"near": 0.7, "middle": 0.0, "far": -0.8},
    lamps=(Lamp(20.0),),
    rules=all_rules(
        [Rule("outline", figures={"margin": 1.0}), Rule("depth", figures={"order": 0.0, "margin": 1.0}),
         Rule("light", figures={"away": 1.2, "towards": -0.9, "margin": 1.0}),
         Rule("meetings", figures={"stem": 0.72, "bar": 0.28, "corner": 0.24}),
         Rule("bends", figures={"bend": 0.8}), Rule("middles", figures={"middle": 0.5})],
        off=(FADE, GROUND, SHADOW, TUCKS, WHITE),
    ),
)  # fmt: skip


def many(n=150, seed=0):
    """Lines of all roles, bends and depths, some of which meet."""
    rng, lines = np.random.default_rng(seed), {}
    for k in range(n // 3):
        x, y = 30 + 60 * (k % 8), 30 + 60 * (k // 8)
        part, r = "NMF"[k % 3], rng.uniform(12, 22)
        lines[f"o{k}"] = disc(x, y, r, role="outer", part=part)
        turn = rng.uniform(0, 2 * np.pi)
        away = np.array([np.cos(turn), np.sin(turn)])
        start = np.array([x, y]) - 2.0 * away
        lines[f"s{k}"] = stroke(start, np.array([x, y]) + r * away, role=("inner", "detail")[k % 2], part=part)
        t = np.linspace(-1.2, 1.2, 20)
        bend = rng.uniform(1.5, 6.0)
        role = ("inner", "texture", "inner", "detail")[k % 4]
        lines[f"b{k}"] = stroke(*np.column_stack([x + 26 + bend * np.sin(t) * 2, y + 26 - 3.0 * bend * np.cos(t)]), role=role,
                                part="MNF"[k % 3])  # fmt: skip
    return scene_of(lines, parts=PARTS)


@pytest.fixture(scope="module")
def scene():
    return many()


@pytest.mark.parametrize("seed", range(3))
def test_the_figures_of_a_known_plan_come_back(scene, seed):
    rng = np.random.default_rng(seed)
    wide = weighed(scene, KNOWN).wide * np.exp(rng.normal(0, 0.05, len(scene.known.places.s)))
    answer = learned(scene, wide, replace(Plan(), lamps=KNOWN.lamps))
    light, meetings = KNOWN.rule("light"), KNOWN.rule("meetings")
    true = {"base": 0.4, "outer": 0.8, "detail": -1.1, "texture": -1.8, "near": 0.7, "far": -0.8, "away": light["away"],
            "towards": light["towards"], "bend": 0.8, "meeting": meetings["stem"], "middle": 0.5}  # fmt: skip
    for figure in answer.figures:
        assert figure.enough, figure
        assert figure.value == pytest.approx(true[figure.name], rel=0.05), figure
    assert answer.explained > 0.95 and answer.lines >= 140
    again = weighed(scene, answer.plan).wide
    assert np.median(np.abs(np.log2(again / weighed(scene, KNOWN).wide))) < 0.05


def test_what_cannot_be_told_is_said_and_left_as_it_was():
    flat = {f"l{k}": stroke((10, 10 + 6 * k), (60, 10 + 6 * k), role="inner") for k in range(20)}
    scene = scene_of(flat)
    rng = np.random.default_rng(0)
    answer = learned(scene, 0.5 * np.exp(rng.normal(0, 0.05, len(scene.known.places.s))), Plan())
    told = {figure.name: figure for figure in answer.figures}
    assert told["base"].enough and told["base"].value == pytest.approx(0.5, rel=0.02)
    assert not any(told[name].enough for name in ("outer", "near", "far", "bend", "meeting", "towards"))
    # That light had no say is told, as lines do differ in how they face it.
    assert abs(told["away"].value) < 0.05
    assert answer.plan.roles["outer"] == Plan().roles["outer"] and answer.plan.rule("bends")["bend"] == 0.6


def test_too_few_lines_are_refused(scene):
    one = scene_of({"a": stroke((10, 10), (60, 10))})
    with pytest.raises(PlanError, match="too little"):
        learned(one, np.full(len(one.known.places.s), 0.4), Plan())


def test_lines_that_break_the_hands_own_rules_are_named(scene):
    wide = weighed(scene, KNOWN).wide.copy()
    places = scene.known.places
    wide[places.of(places.row["o4"])] *= 2.0
    answer = learned(scene, wide, replace(Plan(), lamps=KNOWN.lamps))
    assert answer.odd[0].line == "o4" and answer.odd[0].is_mm > 1.5 * answer.odd[0].would_mm
    assert len(answer.odd) <= 4
