"""What practice measures, against simulated hands whose truth is known: tremor, wander, end error, pressure, speed;
how sure it says it is; when it says settled and changed."""

import math

import numpy as np
import pytest

from plain_stride.hand.simulated import HANDS, PACES, Hand, movement, pulled
from plain_stride.practice.changing import changes
from plain_stride.practice.drills import DRILLS, FIRM, LIGHT, drill_named, pivot
from plain_stride.practice.errors import PracticeError
from plain_stride.practice.estimates import amplitude, evenness, level
from plain_stride.practice.figures import pressures, worst_drills
from plain_stride.practice.measuring import beside, measured
from plain_stride.practice.settling import settled
from plain_stride.practice.simulated import drawn, practised
from plain_stride.practice.speeds import sweet_spot
from plain_stride.practice.targets import Target, arc, ellipse, spiral, straight

STROKE, SETS, EACH = drill_named("the same stroke"), 50, 20
AVERAGE = HANDS["average"]


def measures_of(hand, count, seed):
    target = STROKE.target(0)
    return [measured(pulled(target.points, hand, "normal", [seed, n]), target) for n in range(count)]


@pytest.fixture(scope="module")
def pulls():
    return measures_of(AVERAGE, SETS * EACH, 1)


def end_truth(hand, points):
    """Closed form: at its end a pull stands still, and both axes shake and wander by their own RMS."""
    way = points[-1] - points[-2]
    off = math.radians(math.degrees(math.atan2(way[0], -way[1])) - hand.best_direction)
    strain = (1.0 - hand.strain * math.cos(2.0 * off)) * 0.85
    return math.hypot(hand.tremor, hand.wander * strain)


def test_figures_of_twenty_pulls_are_those_of_the_hand_and_their_intervals_hold_them(pulls):
    truths = {"shake": (AVERAGE.tremor, 0.10), "wander": (AVERAGE.wander, 0.15),
              "end": (end_truth(AVERAGE, STROKE.target(0).points), 0.10)}  # fmt: skip
    held = []
    for figure, (truth, within) in truths.items():
        sets = [amplitude([getattr(m, figure) for m in pulls[k : k + EACH]]) for k in range(0, len(pulls), EACH)]
        assert np.median([abs(one.value / truth - 1.0) for one in sets]) <= within, figure
        held += [one.low <= truth <= one.high for one in sets]
    assert 0.72 <= np.mean(held) <= 0.88
    assert level([m.hz for m in pulls]).value == pytest.approx(10.0, abs=0.3)


@pytest.mark.parametrize("name", ["circles", "arcs", "S-curves", "ellipses", "spirals"])
def test_shake_does_not_depend_on_the_drill(name):
    drill = drill_named(name)
    found = [measured(pulled(t.points, AVERAGE, "normal", [3, n]), t) for n in range(12) for t in [drill.target(n)]]
    assert amplitude([m.shake for m in found]).value == pytest.approx(AVERAGE.tremor, rel=0.1)


def test_a_pull_on_its_target_measures_nothing_and_a_shifted_one_its_shift():
    target = Target(arc(30.0, 100.0))
    still = Hand(0.0, 0.0)
    exact = measured(pulled(target.points, still, "normal", 1), target)
    assert max(exact.shake, exact.wander, exact.end, exact.start) < 0.01
    off = measured(pulled(target.points + (0.0, 0.5), still, "normal", 1), target)
    assert off.end == pytest.approx(0.5, abs=0.01) and off.start == pytest.approx(0.5, abs=0.01)
    line = Target(straight(60.0, 90.0))
    beside = measured(pulled(line.points + (0.0, 0.4), still, "normal", 1), line)
    assert beside.bias == pytest.approx(0.4, abs=0.005) and beside.straying == pytest.approx(0.4, abs=0.005)
    assert beside.speed == pytest.approx(PACES["normal"] * 6.0 ** (1.0 / 3.0), rel=0.02)


def test_a_sine_sideways_is_told_by_its_amplitude_and_frequency():
    """The closed form: y = a sin(2 pi f t) has amplitude a and frequency f."""
    t = np.arange(0.0, 2.0, 0.005)
    samples = np.column_stack([80.0 + 40.0 * t, 80.0 + 0.12 * np.sin(2 * np.pi * 9.0 * t), 0 * t + 0.5, t])
    found = measured(samples, Target(straight(80.0, 90.0)))
    assert found.shake == pytest.approx(0.12, rel=0.02) and found.hz == pytest.approx(9.0, abs=0.1)
    slow = samples.copy()
    slow[:, 1] = 80.0 + 0.3 * np.sin(2 * np.pi * 1.0 * t)
    found = measured(slow, Target(straight(80.0, 90.0)))
    assert found.wander == pytest.approx(0.3, rel=0.03) and found.shake < 0.01


def test_a_pull_may_come_from_either_end_and_a_closed_one_from_anywhere():
    target = Target(straight(60.0, 40.0))
    there = measured(pulled(target.points, AVERAGE, "normal", 5), target)
    back = measured(pulled(target.points[::-1], AVERAGE, "normal", 5), target)
    assert back.end < 1.5 and there.end < 1.5
    ring = ellipse(14.0, 14.0)
    turned = np.vstack([ring[40:], ring[1:41]])
    assert measured(pulled(turned, Hand(0.0, 0.0), "normal", 5), Target(ring, closed=True)).end < 0.05


def test_at_twice_the_size_the_hand_is_the_same():
    target = Target(straight(50.0, 70.0))
    found = [measured(pulled(target.points, AVERAGE, "normal", [8, n], glass=2.0), target, 2.0) for n in range(20)]
    assert amplitude([m.shake for m in found]).value == pytest.approx(AVERAGE.tremor, rel=0.1)


def test_distances_beside_a_curve_are_shapelys():
    from shapely import LineString, distance, points

    curve = spiral(4.0, 28.0)
    path = curve + np.random.default_rng(1).normal(0.0, 0.3, curve.shape)
    ours = np.abs(beside(path, curve)[0])[10:-10]
    theirs = distance(LineString(curve), points(path))[10:-10]
    assert np.abs(ours - theirs).max() < 0.02


def test_what_is_too_short_is_no_pull():
    short = np.array([[0.0, 0.0, 0.5, 0.0], [0.5, 0.0, 0.5, 0.1]])
    with pytest.raises(PracticeError, match="no pull"):
        measured(short, STROKE.target(0))


def test_the_range_of_pressure_is_that_of_the_hand():
    drill = drill_named("light and firm")
    kept = list(practised(drill, "average", 20, 2, "me"))
    light, firm = pressures(kept)
    assert light.value == pytest.approx(LIGHT, abs=0.03) and firm.value == pytest.approx(FIRM, abs=0.03)


def test_widths_are_held_against_what_is_asked():
    drill = drill_named("thick to thin")
    target = drill.target(0)
    good = measured(drawn(target, HANDS["calm"], "careful", [1, 1]), target)
    flat = measured(pulled(target.points, HANDS["calm"], "careful", [1, 1]), target)
    assert good.width < 0.12 < flat.width


def test_every_drill_can_be_pulled_and_its_targets_lie_on_the_sheet():
    for drill in DRILLS:
        for target in drill.targets(7):
            assert (target.points > 0.0).all() and (target.points < (240.0, 160.0)).all(), drill.name
        target = drill.target(3)
        assert measured(drawn(target, AVERAGE, "normal", [1, 3]), target).length > 5.0
    assert [pivot(mm) for mm in (10.0, 60.0, 200.0)] == ["wrist", "elbow", "shoulder"]


def test_evenness_is_the_spread_of_the_steps():
    assert evenness([0.0, 3.0, 6.0, 9.0]) == 0.0
    assert evenness([0.0, 2.0, 6.0]) == pytest.approx(1.0 / 3.0)
    assert math.isnan(evenness([1.0, 2.0]))


def test_the_drill_that_went_worst_lately_comes_first():
    good = list(practised(STROKE, "calm", 30, 1, "me"))
    arcs = drill_named("arcs")
    bad = [*practised(arcs, "calm", 30, 2, "me"), *practised(arcs, "shaky", 20, 3, "me")]
    assert worst_drills([*good, *bad], last=25)[0] == "arcs"


# Settled, changed, best speed


def warm_up(rng, noise):
    """A course that falls to where it stays, with the pull from which it is within 5 % of it."""
    drop, tau = (rng.uniform(0.15, 1.2), rng.uniform(2.0, 8.0)) if rng.random() < 0.85 else (0.0, 1.0)
    there = math.ceil(tau * math.log(drop / 0.05)) if drop > 0.05 else 0
    n = np.arange(90)
    return 0.12 * (1.0 + drop * np.exp(-n / tau)) * np.exp(rng.normal(0.0, noise, 90)), there


def test_settled_is_said_neither_too_early_nor_too_late():
    """noise: what the shake of one pull of two seconds varies by, 16 degrees of freedom: 1 / sqrt(32)."""
    rng = np.random.default_rng(11)
    early = late = 0
    for _ in range(300):
        values, there = warm_up(rng, 0.177)
        said = next((n for n in range(12, 91) if settled(values[:n]).since is not None), 90) - 1
        early, late = early + (said < there), late + (said > there + 15)
    assert early / 300 <= 0.05 and late / 300 <= 0.10


def test_settled_says_where_the_figure_began_and_stands():
    values = 0.12 * (1.0 + 0.6 * np.exp(-np.arange(40) / 4.0))
    found = settled(values)
    assert found.began == pytest.approx(0.19, rel=0.05) and found.now == pytest.approx(0.12, rel=0.03)
    assert found.since is not None and 25 <= found.since <= 32
    assert settled(values[:8]).since is None


def test_the_noise_of_a_pull_is_what_was_assumed(pulls):
    assert np.std(np.log([m.shake for m in pulls])) == pytest.approx(0.177, rel=0.15)


def test_a_hand_that_did_not_change_is_seldom_called_changed_and_one_that_did_is_found(pulls):
    rng, figures = np.random.default_rng(4), ("shake", "wander", "end")
    better = measures_of(Hand(AVERAGE.tremor * 0.8, AVERAGE.wander * 0.8), 400, 9)
    values = [{f: np.array([getattr(m, f) for m in some]) for f in figures} for some in (pulls, better)]
    false = found = 0
    for _ in range(200):
        pick = rng.permutation(len(pulls))
        before, again = ({f: v[some] for f, v in values[0].items()} for some in (pick[:60], pick[60:120]))
        now = {f: v[rng.permutation(400)[:60]] for f, v in values[1].items()}
        false += any(c.real for c in changes(before, again))
        found += any(c.real for c in changes(before, now))
    assert false / 200 <= 0.05 and found / 200 >= 0.80
    told = {c.figure: c for c in changes(values[0], values[1])}
    assert told["shake"].factor == pytest.approx(0.8, abs=0.03)
    assert changes({"shake": [1.0] * 3}, {"shake": [2.0] * 3}) == ()


def test_changes_are_welchs():
    from scipy.stats import ttest_ind

    rng = np.random.default_rng(2)
    a, b = np.exp(rng.normal(0.0, 0.3, 40)), np.exp(rng.normal(0.2, 0.5, 30))
    (told,) = changes({"x": a}, {"x": b})
    assert told.chance == pytest.approx(ttest_ind(np.log(b), np.log(a), equal_var=False).pvalue)


def strayed(points, pace, rms, rng):
    """A pull that strays to each side by slow waves of a known mean square."""
    meant, t = movement(points, PACES[pace], False, 1.0)
    hz, phase, size = rng.uniform(0.5, 2.5, 6), rng.uniform(0.0, 2.0 * np.pi, (2, 6)), rng.normal(0.0, 1.0, (2, 6))
    waves = (size[:, None, :] * np.sin(2.0 * np.pi * hz * t[:, None] + phase[:, None, :])).sum(axis=2)
    return np.column_stack([meant + (waves * rms / np.sqrt(3.0)).T, np.full(len(t), 0.5), t])


def test_the_best_speed_is_found_from_thirty_pulls():
    """Hands that stray by (a / v)^2 + (b v)^2 on a circle of 10 mm, pulled at three paces: least at sqrt(a / b)."""
    circle, rng = Target(ellipse(10.0, 10.0), closed=True), np.random.default_rng(3)
    off, held, bests = [], 0, (22.0, 35.0, 60.0)
    for best in bests * 10:
        pulls = []
        for n in range(30):
            pace = ("careful", "normal", "fast")[n % 3]
            v = PACES[pace]
            pulls.append(measured(strayed(circle.points, pace, 0.2 * math.hypot(best / v, v / best), rng), circle))
        spot = sweet_spot([m.speed for m in pulls], [m.straying for m in pulls])
        off.append(abs(spot.speed / best - 1.0))
        held += spot.low <= best <= spot.high
        assert spot.error_at(np.array([spot.speed]))[0] == pytest.approx(spot.error)
        assert spot.inside
    assert np.median(off) <= 0.15 and 0.68 <= held / 30 <= 0.92


def test_no_best_speed_is_told_of_pulls_that_are_alike():
    assert sweet_spot([30.0] * 20, [0.2] * 20) is None
    assert sweet_spot([10.0, 30.0, 90.0], [0.2, 0.1, 0.2]) is None
