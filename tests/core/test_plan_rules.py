"""The rules of a plan on drawings of known form. Outside: closed forms of circles (normals, curvature), the ISO 128
ratio of sqrt 2 a step, and common practice as named cases: an underside heavier than its top, near over far, a hole in
cloth heavier above, the last grape's own line over those behind."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plain_stride.lines.curve import circle
from plain_stride.lines.profile import SWELL_LIMIT
from plain_stride.weight.hierarchy import clashes, inked_scene
from plain_stride.weight.lamps import Lamp
from plain_stride.weight.plan import Plan, PlanError, Rule, all_rules, even_rules
from plain_stride.weight.rule_book import (
    BENDS,
    ENDS,
    FADE,
    GROUND,
    LIGHT,
    MEETINGS,
    MIDDLES,
    ROLE,
    RULES,
    SHADOW,
    STACKED,
    TUCKS,
    WHITE,
)  # fmt: skip
from plain_stride.weight.scene import Scene
from plain_stride.weight.stack import MOST_DOWN, MOST_UP, saturated, stacked
from plain_stride.weight.weighing import PLAN_SLOPE, weighed
from plain_stride.weight.white import closed_pairs
from tests.core.test_outside import figure
from tests.drawings import along, at, disc, drawing_of, scene_of, stroke


def only(*names, figures=None, **more):
    """A plan with these rules alone, without promises."""
    own = {name: {"margin": 1.0} if "margin" in kind.figures else {} for name, kind in RULES.items()}
    rules = [Rule(name, name in names, own[name] | (figures or {}).get(name, {})) for name in RULES]
    return Plan(rules=tuple(rules), **more)


def wide(scene, plan):
    return weighed(scene, plan).wide


@pytest.mark.parametrize("turned", [False, True])
@pytest.mark.parametrize(
    ("degrees", "heavy"), [(0, (0, 1)), (90, (-1, 0)), (180, (0, -1)), (270, (1, 0)), (45, (-0.7, 0.7))]
)
def test_a_disc_is_heaviest_on_the_side_away_from_the_light(turned, degrees, heavy):
    line = disc(50, 50, 25, role="outer")
    line["curve"] = line["curve"][::-1, ::-1] if turned else line["curve"]
    scene = scene_of({"d": line})
    plan = only(LIGHT, lamps=(Lamp(degrees),))
    w = wide(scene, plan)
    places = (scene.known.places.points - 50.0) / 25.0
    assert places[w.argmax()] == pytest.approx(heavy, abs=0.12)
    # By the stated share: 1.5 steps away and towards, saturated, each a factor of sqrt 2 by ISO 128.
    share = np.sqrt(2.0) ** (saturated(np.array([1.5]))[0] - saturated(np.array([-1.5]))[0])
    assert w.max() / w.min() == pytest.approx(share, rel=0.02)
    # In between by the closed form of a circle's normal.
    away = np.array([-np.sin(np.radians(degrees)), np.cos(np.radians(degrees))])
    raw = stacked(scene, plan)[LIGHT]
    assert raw == pytest.approx(saturated(1.5 * places @ away), abs=0.02)


def test_what_lies_inside_turns_half_as_much_and_ruled_lines_not_at_all():
    steps = {}
    for role in ("outer", "inner", "ruled"):
        lines = {"round": disc(50, 50, 40, role="outer"), "in": disc(50, 50, 20, role=role)}
        scene = scene_of(lines)
        steps[role] = np.ptp(along(scene, "in", stacked(scene, only(LIGHT))[LIGHT])[1])
    # The inner one's side is told by its bend alone: a radius of 20 mm counts 1/20 / (1/20 + 1/40) of the light.
    assert steps["inner"] == pytest.approx(2 * saturated(np.array([0.5 * 1.5 * 2 / 3]))[0], rel=0.05)
    assert steps["outer"] > 1.8 * steps["inner"] > 0 and steps["ruled"] == 0


def test_a_hole_in_cloth_is_heavier_above_once_the_inker_says_so():
    hole = {"h": disc(50, 50, 15, role="outer")}
    for says, heavy in ((None, 65), ({"form": "left"}, None), ({"form": "right"}, None)):
        scene = scene_of(hole, {} if says is None else {"h": says})
        w = wide(scene, only(LIGHT))
        lowest, highest = at(scene, "h", w, (50, 65)), at(scene, "h", w, (50, 35))
        if heavy:
            assert lowest > 1.5 * highest
        else:
            said = lowest > highest
            hole_way = scene.known.form[0] == (1 if says["form"] == "left" else -1)
            assert said == hole_way and max(lowest, highest) > 1.5 * min(lowest, highest)


def test_an_edge_that_throws_a_shadow_is_heavier_there():
    hem = {"b": disc(50, 50, 20, role="outer")}
    plain, throws = (scene_of(hem, {"b": {"throws": on}}) for on in (False, True))
    plan = only(LIGHT, SHADOW, figures={LIGHT: {"away": 0.5, "towards": -0.5}})
    below = [at(scene, "b", wide(scene, plan), (50, 70)) for scene in (plain, throws)]
    above = [at(scene, "b", wide(scene, plan), (50, 30)) for scene in (plain, throws)]
    steps = saturated(np.array([0.5, 1.25]))
    assert below[1] / below[0] == pytest.approx(2 ** ((steps[1] - steps[0]) / 2), rel=0.02)
    assert above[0] == pytest.approx(above[1])


def test_a_lamp_in_a_part_lights_it_all_round_and_others_from_there():
    ring = [(50 + 12 * np.cos(a), 50 + 12 * np.sin(a)) for a in np.linspace(0, 2 * np.pi, 40)]
    lines = {"lantern": disc(50, 50, 12, role="outer", part="L"), "head": disc(90, 50, 10, role="outer", part="H")}
    scene = scene_of(lines, parts=(("L", "near"), ("H", "near")), covers={"L": ring})
    w = wide(scene, only(LIGHT, lamps=(Lamp(at=(50.0, 50.0)),)))
    assert along(scene, "lantern", w)[1] == pytest.approx(0.35 * 2 ** (saturated(np.array([-1.5]))[0] / 2), rel=0.01)
    assert at(scene, "head", w, (100, 50)) > 1.8 * at(scene, "head", w, (80, 50))


def test_two_lamps_leave_in_shadow_what_both_miss():
    scene = scene_of({"d": disc(50, 50, 20, role="outer")})
    w = wide(scene, only(LIGHT, lamps=(Lamp(315.0), Lamp(45.0))))
    places = scene.known.places.points - 50.0
    assert places[w.argmax()] / 20.0 == pytest.approx((0, 1), abs=0.1)
    for lit in ((-14, -14), (14, -14)):
        assert at(scene, "d", w, (50 + lit[0], 50 + lit[1])) < 0.7 * w.max()
    for wrong in ((Lamp(0.0), Lamp(180.0)), (Lamp(30.0), Lamp(30.0)), (Lamp(0.0),) * 3):
        with pytest.raises(PlanError, match="lamp"):
            Plan(lamps=wrong)


def test_bends_by_the_logarithm_of_their_radius():
    for radius, share in ((15.0, 0.0), (1.5, 1.0), (np.sqrt(15 * 1.5), 0.5), (60.0, 0.0)):
        curve = circle(np.array([50.0, 50.0]), radius)[:2]
        scene = scene_of({"arc": {"curve": curve, "wide": 0.3}})
        steps = stacked(scene, only(BENDS))[BENDS]
        assert np.median(steps) == pytest.approx(saturated(np.array([0.6 * share]))[0], abs=0.03)
    ring = scene_of({"ring": disc(50, 50, 5)})
    assert not stacked(ring, only(BENDS))[BENDS].any()


def test_free_lines_are_thick_in_the_middle_and_those_that_meet_are_not():
    scene = scene_of({"free": stroke((10, 10), (50, 10)), "stem": stroke((10, 30), (50, 30)),
                      "bar": stroke((50, 25), (50, 35), role="outer")})  # fmt: skip
    steps = stacked(scene, only(MIDDLES))[MIDDLES]
    s, own = along(scene, "free", steps)
    assert own == pytest.approx(saturated(0.6 * np.sin(np.pi * s / 40) ** 2), abs=0.01)
    assert not along(scene, "stem", steps)[1].any()


def test_a_line_is_heavier_where_it_ends_on_another():
    lines = {"stem": stroke((10, 30), (50, 30)), "bar": stroke((50, 10), (50, 50), role="outer")}
    scene = scene_of(lines)
    bands = stacked(scene, only(ROLE, MEETINGS))
    s, stem = along(scene, "stem", bands[MEETINGS])
    # 0.18 of 40 mm is its reach: exp(-0.7 (distance / 7.2)^2) of 0.9 steps.
    assert stem == pytest.approx(saturated(0.9 * np.exp(-0.7 * ((40 - s) / 7.2) ** 2)), abs=0.02)
    assert at(scene, "bar", bands[MEETINGS], (50, 30)) == pytest.approx(saturated(np.array([0.35]))[0], abs=0.01)
    assert abs(at(scene, "bar", bands[MEETINGS], (50, 12))) < 0.05


def test_a_stem_weighs_no_more_than_what_it_ends_on_unless_it_is_nearer():
    lines = {"stem": stroke((10, 30), (50, 30), role="outer", part="S"),
             "bar": stroke((50, 10), (50, 50), role="detail", part="B")}  # fmt: skip
    plan = only(ROLE, MEETINGS)
    behind = scene_of(lines, parts=(("B", "near"), ("S", "near")))
    assert at(behind, "stem", stacked(behind, plan)[MEETINGS], (50, 30)) == pytest.approx(0.0, abs=0.02)
    nearer = scene_of(lines, parts=(("S", "near"), ("B", "near")))
    assert at(nearer, "stem", stacked(nearer, plan)[MEETINGS], (50, 30)) > 0.7


def test_a_line_that_goes_under_a_nearer_part_gathers_weight_there():
    ring = [(50, 10), (90, 10), (90, 50), (50, 50)]
    lines = {"under": stroke((10, 30), (70, 30), part="F"), "edge": stroke((50, 10), (50, 50), role="outer", part="N")}
    scene = scene_of(lines, parts=(("N", "near"), ("F", "far")), covers={"N": ring})
    steps = stacked(scene, only(TUCKS))[TUCKS]
    assert at(scene, "under", steps, (50, 30)) == pytest.approx(saturated(np.array([0.45]))[0], abs=0.03)
    assert at(scene, "under", steps, (20, 30)) < 0.02
    assert scene.known.hidden.sum() == pytest.approx(
        np.sum(along(scene, "under", scene.known.places.points[:, 0])[1] > 50)
    )


def test_things_are_heavier_where_they_stand():
    lines = {"box": stroke((30, 30), (50, 30), (50, 50), (30, 50), (30, 30.2), role="outer", part="B"),
             "post": stroke((80, 20), (80, 49.9), role="inner", part="B"),
             "ground": stroke((5, 50.1), (110, 50.1), role="ruled", part="G")}  # fmt: skip
    scene = scene_of(lines, parts=(("B", "near"), ("G", "middle")))
    steps = stacked(scene, only(GROUND))[GROUND]
    assert at(scene, "post", steps, (80, 50)) > 0.5 > 0.05 > at(scene, "post", steps, (80, 25))


def test_lines_that_run_on_share_their_width():
    lines = {"a": stroke((10, 30), (40, 30), role="outer"), "b": stroke((40.1, 30), (80, 31), role="inner")}
    scene = scene_of(lines)
    w = wide(scene, only(ROLE))
    ends = at(scene, "a", w, (40, 30)), at(scene, "b", w, (40, 30))
    assert ends[0] == pytest.approx(ends[1], rel=0.06)
    assert at(scene, "a", w, (12, 30)) == pytest.approx(0.35 * np.sqrt(2), rel=0.01)
    assert at(scene, "b", w, (70, 31)) == pytest.approx(0.35, rel=0.01)


def test_roles_that_no_hand_gave_are_read_from_the_drawing():
    lines = {"round": disc(50, 50, 30, by="found"), "in": stroke((35, 50), (65, 52), by="found"),
             "short": stroke((50, 40), (53, 40), by="found"), "told": stroke((40, 60), (60, 62), role="texture")}  # fmt: skip
    w = wide(scene := scene_of(lines), only(ROLE))
    steps = {key: np.median(along(scene, key, 2 * np.log2(w / 0.35))[1]) for key in lines}
    assert steps == pytest.approx({"round": 1.0, "in": 0.0, "short": -1.25, "told": -2.0}, abs=0.02)


def test_a_near_circle_over_a_far_one_is_heavier_at_once():
    lines = {"near": disc(50, 50, 20, role="outer", part="N"), "far": disc(75, 50, 20, role="outer", part="F")}
    scene = scene_of(lines, parts=(("N", "near"), ("F", "far")))
    w = wide(scene, Plan())
    assert at(scene, "near", w, (30, 50)) > 1.5 * at(scene, "far", w, (95, 50))
    for order in (("N", "near"), ("F", "near")), (("F", "near"), ("N", "near")):
        own = scene_of(lines, parts=order)
        both = wide(own, Plan())
        first, second = (
            np.mean(along(own, key, both)[1]) for key in (("near", "far") if order[0][0] == "N" else ("far", "near"))
        )
        assert first > 1.2 * second


def test_white_is_kept_between_lines_that_do_not_meet():
    pair = {"a": stroke((10, 30), (80, 30), role="outer"), "b": stroke((10, 30.6), (80, 30.6), role="outer")}
    scene = scene_of({**pair, "far": stroke((10, 60), (80, 60), role="outer")})
    answer = weighed(scene, only(ROLE, WHITE))
    a, b, far = (float(np.median(along(scene, key, answer.wide)[1])) for key in ("a", "b", "far"))
    assert far == pytest.approx(0.35 * np.sqrt(2), rel=1e-3)
    assert 0.6 - (a + b) / 2 == pytest.approx(0.2, abs=0.01) and a == pytest.approx(b, rel=0.01)
    assert not len(answer.closed.here)
    # A third one leaves no room: what lies between keeps 60 % of the plan, and the pair is told.
    scene = scene_of({**pair, "c": stroke((10, 30.9), (80, 30.9), role="outer")})
    answer = weighed(scene, only(ROLE, WHITE))
    assert float(np.median(along(scene, "b", answer.wide)[1])) == pytest.approx(far * 0.6, rel=0.01)
    told = closed_pairs(scene, answer.closed)
    assert [set(one.lines) for one in told] == [{"b", "c"}] and told[0].length > 60


def test_soft_ends_by_role_and_none_where_lines_meet():
    lines = {"free": stroke((10, 30), (50, 30)), "stem": stroke((10, 50), (50, 50)),
             "bar": stroke((50, 40), (50, 60), role="outer"), "past": stroke((10, 55), (51.5, 55))}  # fmt: skip
    scene = scene_of(lines)
    ends = weighed(scene, only(ENDS)).ends
    row = scene.known.places.row
    assert ends[row["free"]] == pytest.approx([12.0, 12.0])
    assert ends[row["stem"]] == pytest.approx([12.0, 0.0], abs=0.3)
    # One that runs past what it meets is drawn out over what stands out.
    assert ends[row["past"]] == pytest.approx([12.45, 1.5], abs=0.3)
    assert weighed(scene, only(ROLE)).ends is None


@given(st.floats(0.0, 6.2), st.floats(0.2, 0.8), st.floats(0.0, 0.005))
@settings(max_examples=40, deadline=None)
def test_an_end_on_another_line_is_whole_however_the_sheet_is_turned(turn, share, beyond):
    way, across = np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
    foot = 60.0 + 40.0 * (share - 0.5) * way
    scene = scene_of({"bar": stroke(60.0 - 20.0 * way, 60.0 + 20.0 * way, role="outer"),
                      "stem": stroke(foot - 15.0 * across, foot + beyond * across)})  # fmt: skip
    ends = weighed(scene, only(ENDS)).ends
    assert ends[scene.known.places.row["stem"], 1] == 0.0


def test_bands_add_up_and_saturate():
    lines = {"near": disc(50, 50, 20, role="outer", part="N"), "stem": stroke((10, 30), (36, 36), part="N"),
             "far": disc(80, 60, 24, role="outer", part="F")}  # fmt: skip
    scene = scene_of(lines, parts=(("N", "near"), ("F", "far")))
    plan = Plan()
    answer = weighed(scene, plan)
    total = sum(answer.bands.values()) + answer.guarantees
    off = np.abs(total - 2 * np.log2(answer.wide / plan.base))
    assert np.average(off <= 0.25, weights=scene.known.places.weight) >= 0.93
    local = sum(steps for name, steps in answer.bands.items() if name in STACKED[2:])
    assert local.max() <= MOST_UP and local.min() >= -MOST_DOWN


def test_what_is_hidden_a_draft_or_pinned_is_left_alone():
    lines = {"a": disc(50, 50, 20, role="outer"), "draft": stroke((50, 20), (90, 20), draft=True),
             "away": stroke((50, 80), (90, 80), part="H")}  # fmt: skip
    scene = scene_of(lines, parts=(("A", "middle"), ("H", "middle")), hidden=("H",))
    assert scene.known.places.lines == ("a",)
    # A pinned line is not changed for what others guarantee.
    pair = {"in": stroke((40, 50), (60, 50), role="inner"), "round": disc(50, 50, 20, role="outer")}
    plan = Plan(roles={"outer": -2, "inner": 2, "detail": 0, "texture": 0, "ruled": 0})
    free, pinned = (weighed(scene_of(pair, {"in": {"pinned": on}}), plan) for on in (False, True))
    assert (
        free.guarantees.min() < -1
        and not pinned.guarantees[pinned.scene.known.places.of(pinned.scene.known.places.row["in"])].any()
    )
    assert any(one.rule == ROLE for one in pinned.gave_way)


random_lines = st.lists(
    st.tuples(st.sampled_from(["disc", "stroke"]), st.floats(10, 90), st.floats(10, 90), st.floats(0.3, 30), st.floats(0, 6.28),
              st.sampled_from(["outer", "inner", "detail", "texture", "ruled", "halo"]), st.sampled_from("NMF"),
              st.sampled_from(["hand", "found"])), min_size=1, max_size=12)  # fmt: skip


def built(some):
    lines = {}
    for k, (kind, x, y, size, turn, role, part, by) in enumerate(some):
        more = {"role": role, "part": part, "by": by}
        end = (x + 2 * size * np.cos(turn), y + 2 * size * np.sin(turn))
        lines[f"l{k}"] = disc(x, y, size, **more) if kind == "disc" else stroke((x, y), end, **more)
    return lines


PARTS = (("N", "near"), ("M", "middle"), ("F", "far"))


@settings(max_examples=40, deadline=None)
@given(random_lines, st.randoms(use_true_random=False), st.floats(-180, 180), st.booleans())
def test_no_step_in_width_whatever_is_drawn_and_planned(some, random, degrees, bold):
    order = list(RULES)
    random.shuffle(order)
    rules = all_rules(Rule(name, random.random() > 0.3) for name in order)
    plan = Plan(rules=rules, lamps=(Lamp(degrees),), lean=random.random(), base=2.0 if bold else 0.35)
    scene = scene_of(built(some), parts=PARTS)
    answer = weighed(scene, plan)
    assert np.isfinite(answer.wide).all() and (answer.wide > 0).all()
    for key in scene.known.places.lines:
        s, own = along(scene, key, answer.wide)
        assert np.abs(np.diff(own) / np.maximum(np.diff(s), 1e-9)).max() <= SWELL_LIMIT + 1e-6
        if scene.known.places.closed[scene.known.places.row[key]]:
            assert own[0] == pytest.approx(own[-1], abs=1e-9)


@settings(max_examples=15, deadline=None)
@given(random_lines, st.randoms(use_true_random=False))
def test_nothing_is_read_from_names_or_the_order_of_drawing(some, random):
    lines = built(some)
    keys = list(lines)
    shuffled = random.sample(keys, len(keys))
    other = {f"x{99 - n}": lines[key] for n, key in enumerate(shuffled)}
    if len({repr(one) for one in some}) < len(some):
        return
    one, two = (weighed(scene_of(which, parts=PARTS), Plan()) for which in (lines, other))
    for n, key in enumerate(shuffled):
        mine, theirs = along(one.scene, key, one.wide)[1], along(two.scene, f"x{99 - n}", two.wide)[1]
        assert theirs == pytest.approx(mine, abs=0.002)


@pytest.mark.parametrize("lines", [
    {}, {"dot": stroke((10, 10), (10.01, 10))}, {"a": stroke((10, 10), (50, 12)), "b": stroke((10, 10), (50, 12))},
    {"a": disc(50, 50, 10), "b": disc(50, 50, 10)}, {f"l{k}": stroke((10, 10 + k), (50, 12 + k)) for k in range(6)},
])  # fmt: skip
def test_odd_drawings_are_weighed_too(lines):
    answer = weighed(scene_of(lines), Plan())
    assert np.isfinite(answer.wide).all()
    found = clashes(inked_scene(answer.scene, Plan(), {})) if not lines else []
    assert found == []


def test_fifty_parts_and_an_even_plan():
    lines = {f"l{k}": disc(10 + 3 * k, 50, 8, role="outer", part=f"p{k}") for k in range(50)}
    parts = [(f"p{k}", ("near", "middle", "far")[k // 17]) for k in range(50)]
    even = weighed(scene_of(lines, parts=parts), Plan(rules=even_rules()))
    assert len({round(float(v), 6) for v in even.wide}) == 3
    assert np.isfinite(weighed(scene_of(lines, parts=parts), Plan()).wide).all()


def test_the_slope_of_a_plan_is_soft_before_guarantees():
    scene = scene_of({"d": disc(50, 50, 6, role="outer"), "s": stroke((20, 50), (44, 50))})
    answer = weighed(scene, only(ROLE, LIGHT, MEETINGS))
    for key in ("d", "s"):
        s, own = along(scene, key, answer.wide)
        assert np.abs(np.diff(own) / np.diff(s)).max() <= PLAN_SLOPE + 1e-6


def test_fading_is_most_where_light_falls_straight_on_and_ends_with_a_lamps_reach():
    scene = scene_of({"d": disc(50, 50, 20, role="outer")})
    steps = stacked(scene, only(FADE))[FADE]
    assert at(scene, "d", steps, (50, 30)) == pytest.approx(saturated(np.array([-0.5]))[0], abs=0.01)
    assert abs(at(scene, "d", steps, (30, 50))) < 0.01 and abs(at(scene, "d", steps, (50, 70))) < 0.01
    lamp = stacked(scene, only(FADE, lamps=(Lamp(at=(50.0, -90.0)),)))[FADE]
    assert at(scene, "d", lamp, (50, 30)) == pytest.approx(-0.5 * np.exp(-4.0), abs=0.01)


def test_a_scene_without_words_is_as_found():
    scene = Scene(
        drawing_of({"d": disc(50, 50, 20, role="outer")}), scene_of({"d": disc(50, 50, 20, role="outer")}).known
    )
    assert not scene.throws.any() and not scene.pinned.any()


def test_with_roles_unset_hardly_anything_is_another_width():
    """Figures whose truth is known by construction (see test_outside): every line once with its true role, once read
    from the drawing; tiers kept."""
    random, other, every = np.random.default_rng(23), 0.0, 0.0
    for _ in range(12):
        lines, truth, _ = figure(random, 2.0)
        roles = ["outer" if outer else "inner" for outer in truth]
        made = [{by: scene_of({f"l{k}": {**stroke(*line), "role": role, "by": by}
                               for k, (line, role) in enumerate(zip(lines, roles, strict=True))})
                 for by in ("hand", "found")}]  # fmt: skip
        for both in made:
            given, found = (weighed(both[by], Plan()) for by in ("hand", "found"))
            weight = both["hand"].known.places.weight
            other += float(weight[np.abs(np.log2(found.wide / given.wide)) > 0.25].sum())
            every += float(weight.sum())
    assert other / every <= 0.03


@pytest.mark.parametrize(("before", "after"), [("detail", "outer"), ("outer", "texture"), ("inner", "detail")])
def test_what_ends_on_a_line_is_weighed_again_with_it(before, after):
    def a_tee(role):
        return scene_of({"bar": stroke((20, 40), (80, 40), role=role), "stem": stroke((50, 40.2), (50, 70), role="inner"),
                         "far": stroke((10, 90), (90, 95), role="inner")}, parts=PARTS)  # fmt: skip

    old, new = a_tee(before), a_tee(after)
    plan = Plan()
    again, whole = weighed(new, plan, weighed(old, plan)), weighed(new, plan)
    assert again.wide == pytest.approx(whole.wide, abs=1e-4)
    for name, steps in whole.bands.items():
        assert again.bands[name] == pytest.approx(steps, abs=1e-9), name
