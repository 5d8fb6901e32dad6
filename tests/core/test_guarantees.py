"""Which rule wins. Outside: SciPy's linear programmes say whether rows can be met together at all; its quadratic
minimiser says what the least change is; plain geometry measures the guarantees on the widths themselves."""

import itertools
from types import FunctionType

import numba
import numpy as np
import pytest
from scipy.optimize import linprog, minimize

from plain_stride.compiled import ready
from plain_stride.weight.guarantees import guaranteed
from plain_stride.weight.hierarchy import OVER_NEARER, OVER_OUTLINE, OVER_SHADOW, clashes, inked_scene
from plain_stride.weight.plan import Plan, Rule, all_rules
from plain_stride.weight.rule_book import LIGHT, MEETINGS, PROMISING, ROLE, RULES, TIER
from plain_stride.weight.solver import MET, Rows, solved, touched, wholes
from plain_stride.weight.weighing import weighed
from tests.drawings import at, disc, scene_of, stroke


def rows_of(wanted):
    """wanted: (level, {column: share}, need)."""
    first = np.cumsum([0, *(len(shares) for _, shares, _ in wanted)])
    column = np.array([c for _, shares, _ in wanted for c in shares], int)
    share = np.array([v for _, shares, _ in wanted for v in shares.values()], float)
    return Rows(first, column, share, np.array([w[2] for w in wanted]), np.array([w[0] for w in wanted]))


def dense(rows, count):
    out = np.zeros((len(rows.need), count))
    for r in range(len(rows.need)):
        on = slice(rows.first[r], rows.first[r + 1])
        out[r, rows.column[on]] = rows.share[on]
    return out


def can_hold(matrix, need):
    """By a linear programme, with offsets as large as any that the solver would call for."""
    if not len(need):
        return True
    answer = linprog(np.zeros(matrix.shape[1]), -matrix, -need, bounds=[(-12, 12)] * matrix.shape[1])
    return answer.status == 0


@pytest.mark.parametrize("seed", range(200))
def test_no_guarantee_is_broken_while_only_lower_ones_stand_in_its_way(seed):
    rng = np.random.default_rng(seed)
    count = int(rng.integers(3, 8))
    wanted = []
    for _ in range(int(rng.integers(4, 14))):
        level = int(rng.integers(0, 4))
        if rng.random() < 0.3:
            wanted.append((level, {int(rng.integers(count)): -1.0}, float(rng.uniform(-0.5, 0.8))))
        else:
            a, b = rng.choice(count, 2, replace=False).tolist()
            wanted.append((level, {a: 1.0, b: -1.0}, float(rng.uniform(-0.3, 0.8))))
    rows = rows_of(wanted)
    answer = solved(rows, count, 0.5)
    matrix, kept = dense(rows, count), ~answer.gave_way
    assert (matrix @ answer.offsets >= rows.need - MET)[kept].all()
    for lost in np.flatnonzero(answer.gave_way):
        before = kept & (rows.level <= rows.level[lost])
        before[lost] = True
        assert not can_hold(matrix[before], rows.need[before]), (
            f"row {lost} of level {rows.level[lost]} need not give way"
        )


@pytest.mark.parametrize("seed", range(12))
def test_it_is_the_least_change(seed):
    rng = np.random.default_rng(seed)
    wanted = [(0, dict(zip(rng.choice(6, 2, replace=False).tolist(), (1.0, -1.0), strict=True)), float(rng.uniform(0, 0.5)))
              for _ in range(3)]  # fmt: skip
    rows = rows_of(wanted)
    answer = solved(rows, 6)
    if answer.gave_way.any():
        return
    matrix = dense(rows, 6)
    least = minimize(
        lambda u: u @ u, np.zeros(6), constraints={"type": "ineq", "fun": lambda u: matrix @ u - rows.need}
    )
    assert answer.offsets @ answer.offsets == pytest.approx(least.fun, abs=2e-3)


@pytest.mark.parametrize(("lean", "up"), [(0.5, 0.5), (0.9, 0.9), (0.1, 0.1)])
def test_the_inker_shares_out_what_is_thickened_and_what_is_thinned(lean, up):
    thick, thin = solved(rows_of([(0, {0: 1.0, 1: -1.0}, 1.0)]), 2, lean).offsets
    assert thick - thin == pytest.approx(1.0, abs=MET) and thick == pytest.approx(up, abs=0.02)


def test_the_loop_compiles_for_its_signature_and_does_the_same(tmp_path, monkeypatch):
    monkeypatch.setenv("NUMBA_CACHE_DIR", str(tmp_path))
    made = {"have": numba.njit(ready.SIGNATURES["have"])(ready.source_of("have"))}
    source = ready.source_of("settle")
    calling = FunctionType(source.__code__, {**source.__globals__, **made}, "settle")
    rows = rows_of([(0, {0: 1.0, 1: -1.0}, 0.6), (0, {1: 1.0, 2: -1.0}, 0.4), (0, {2: -1.0}, 0.3)])
    both = []
    for loop in (numba.njit(ready.SIGNATURES["settle"])(calling), source):
        weight, z = np.zeros(3), np.zeros(3)
        loop(*wholes(rows.first, rows.column), rows.share, *touched(rows, 3), rows.need, np.array([2.0, 2.0, 1.0]),
             np.full(3, 30.0), weight, z, 1.0, 1.0, np.array([50.0, 1e-9]))  # fmt: skip
        both.append(z)
    assert both[0] == pytest.approx(both[1], abs=1e-12)
    # By hand: the last is thinned by .3, the one before thickened so far that .4 lie between, the first by .6 more.
    assert both[0][0] - both[0][1] >= 0.6 - 1e-6 and both[0][2] <= -0.3 + 1e-6


LINES = {
    "far": stroke((10, 30), (50, 30), role="outer", part="F"),
    "near": stroke((50, 10), (50, 50), role="detail", part="N"),
}
PARTS = (("N", "near"), ("F", "far"))


def test_a_nearer_line_outweighs_the_one_that_ends_on_it():
    scene = scene_of(LINES, parts=PARTS)
    plan = Plan(tiers={"near": 0, "middle": 0, "far": 0}, rules=all_rules([Rule(TIER), Rule(MEETINGS)]))
    w = weighed(scene, plan).wide
    assert at(scene, "near", w, (50, 30)) >= 1.2 * at(scene, "far", w, (50, 30)) * 0.99


def test_what_is_attached_is_not_told_apart_by_depth():
    plan = Plan(roles={"outer": 2, "inner": 0, "detail": -2, "texture": 0, "ruled": 0},
                rules=tuple(Rule(name, name in (ROLE, TIER)) for name in RULES))  # fmt: skip
    apart, within = (weighed(scene_of(LINES, parts=PARTS, inside=inside), plan) for inside in (None, {"N": "F"}))
    assert apart.guarantees.any() and not within.guarantees.any()


@pytest.mark.parametrize("order", list(itertools.permutations((ROLE, TIER, LIGHT, MEETINGS))))
def test_the_rule_that_stands_first_is_kept(order):
    """A far part whose heavy inner line ends on a thin near one: each order keeps its first promise on this drawing."""
    lines = {"round": disc(40, 50, 22, role="outer", part="F"), "in": stroke((24, 50), (62, 50), role="inner", part="F"),
             "edge": stroke((62, 30), (62, 70), role="detail", part="N")}  # fmt: skip
    scene = scene_of(lines, parts=PARTS)
    plan = Plan(roles={"outer": 0, "inner": 1.5, "detail": -1, "texture": -2, "ruled": 0},
                rules=all_rules(Rule(name) for name in order))  # fmt: skip
    answer = weighed(scene, plan)
    gave = {one.rule for one in answer.gave_way}
    assert order[0] not in gave
    places, w = scene.known.places, answer.wide
    log = np.log2(w)
    if ROLE not in gave:
        outer = scene.role == 0
        before = np.log2(weighed(scene, Plan(roles=plan.roles, rules=tuple(
            Rule(r.name, r.on, {"margin": 1.0} if "margin" in RULES[r.name].figures else {}) for r in plan.rules))).wide)  # fmt: skip
        top = max(np.average(logs[outer], weights=places.weight[outer]) for logs in (log, before))
        inner = places.line == places.row["in"]
        assert 2 ** log[inner].max() <= 2**top / 1.2 * 1.03
    if TIER not in gave:
        assert at(scene, "edge", w, (62, 50)) >= 1.2 * at(scene, "in", w, (62, 50)) * 0.98
    if MEETINGS not in gave:
        assert at(scene, "in", w, (62, 50)) >= at(scene, "in", w, (43, 50)) * 0.98


def test_rules_that_are_off_promise_nothing():
    scene = scene_of(LINES, parts=PARTS)
    plan = Plan(rules=tuple(Rule(name, name not in PROMISING) for name in RULES))
    told = guaranteed(scene, plan, np.full(len(scene.known.places.s), 0.3))
    assert not told.offsets.any() and told.gave_way == []


def bodies(scene, **mm):
    from plain_stride.lines.profile import Widths

    places = scene.known.places
    return {key: Widths(np.array([0.0, places.length[places.row[key]]]), *[np.full(2, mm[key] / 2)] * 2) for key in mm}


def test_each_clash_is_told_with_both_figures_and_two_cures():
    lines = {"round": disc(40, 50, 22, role="outer", part="F"), "in": stroke((30, 50), (50, 50), role="inner", part="F"),
             "tail": stroke((80, 50), (62.1, 50), role="outer", part="F"), "edge": stroke((80, 30), (80, 70), part="N")}  # fmt: skip
    scene = scene_of(lines, parts=PARTS)
    found = clashes(inked_scene(scene, Plan(), bodies(scene, round=0.4, **{"in": 0.6}, tail=0.4, edge=0.2)))
    kinds = {one.kind: one for one in found}
    assert set(kinds) == {OVER_OUTLINE, OVER_NEARER}
    over, nearer = kinds[OVER_OUTLINE], kinds[OVER_NEARER]
    assert over.lines == ("in", "round") and over.measured == pytest.approx((0.6, 0.4))
    assert nearer.lines == ("tail", "edge") and nearer.measured == pytest.approx((0.4, 0.2))
    assert np.hypot(nearer.at[0] - 80, nearer.at[1] - 50) < 0.5
    # Each cure, done, is enough.
    for clash in found:
        for cure, line in zip(clash.cures, (clash.lines[1], clash.lines[0]), strict=True):
            assert line in {one for one, _, _ in cure.stretches} and line in cure.says
        thick, thin = clash.cures
        assert thick.factor * clash.measured[1] >= clash.measured[0] >= thin.factor * clash.measured[0]


def test_a_lit_side_that_outweighs_the_shadow_side():
    top = [(50 + 20 * np.cos(a), 50 - 20 * np.sin(a)) for a in np.linspace(0, np.pi, 30)]
    bottom = [(50 + 20 * np.cos(a), 50 + 20 * np.sin(a)) for a in np.linspace(0, np.pi, 30)]
    scene = scene_of({"top": stroke(*top, role="outer"), "bottom": stroke(*bottom, role="outer")})
    (found,) = clashes(inked_scene(scene, Plan(), bodies(scene, top=0.5, bottom=0.3)))
    assert (
        found.kind == OVER_SHADOW and found.lines == ("top", "bottom") and found.measured == pytest.approx((0.5, 0.3))
    )
    assert clashes(inked_scene(scene, Plan(lamps=()), bodies(scene, top=0.5, bottom=0.3))) == []
    assert clashes(inked_scene(scene, Plan(), bodies(scene, top=0.3, bottom=0.5))) == []


@pytest.mark.parametrize("seed", range(20))
def test_where_it_begins_changes_nothing(seed):
    rng = np.random.default_rng(seed)
    rows = rows_of([(int(k % 2), {int(a): 1.0, int(b): -1.0}, float(need)) for k, (a, b, need) in enumerate(
        (*rng.choice(12, 2, replace=False), rng.uniform(-0.5, 0.6)) for _ in range(10))])  # fmt: skip
    fresh = solved(rows, 12)
    started = solved(rows, 12, start=rng.uniform(0.0, 30.0, len(rows.need)))
    assert started.offsets == pytest.approx(fresh.offsets, abs=1e-4)
    assert np.array_equal(started.gave_way, fresh.gave_way)
