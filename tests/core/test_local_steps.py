"""What light and bends add along a line. Outside: closed forms of circles; common practice for how much heavier the
underside of a round thing is that is lit from above."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plain_stride.lines.curve import Arc, circle, straight
from plain_stride.lines.given import form_from_points
from plain_stride.weight.local_steps import (
    AWAY,
    CONVEX_PER_MM,
    MOST_DOWN,
    MOST_UP,
    PLAN_SLOPE,
    planned_widths,
    saturated,
    turning,
)
from plain_stride.weight.plan import Plan, PlanError


def disc(radius, turned=False):
    curve = circle(np.array([50.0, 50.0]), radius)
    return Arc(curve[::-1, ::-1] if turned else curve)


@pytest.mark.parametrize("radius", [4.0, 20.0, 60.0])
@pytest.mark.parametrize("turned", [False, True])
def test_curvature_of_a_circle(radius, turned):
    arc = disc(radius, turned)
    turn = turning(arc, np.linspace(0, arc.length, 40), True, 1.0)
    assert np.abs(turn) == pytest.approx(np.full(40, 1 / radius), rel=0.03)
    assert (np.sign(turn) == np.sign(turn[0])).all()
    assert np.sign(turn[0]) == -np.sign(turning(disc(radius, not turned), np.array([1.0]), True, 1.0)[0])


@pytest.mark.parametrize("turned", [False, True])
@pytest.mark.parametrize(("degrees", "heavy"), [(90.0, (0, 1)), (0.0, (-1, 0)), (180.0, (1, 0)), (270.0, (0, -1))])
def test_a_disc_is_heaviest_on_the_side_away_from_the_light(turned, degrees, heavy):
    arc = disc(25.0, turned)
    s, wide = planned_widths(Plan(light=degrees), "outer", "near", arc, True)
    places = arc.point(s) - 50.0
    assert places[wide.argmax()] / 25.0 == pytest.approx(heavy, abs=0.1)
    # By the stated share: away and towards the light by as many steps, as its bend says, saturated.
    steps = AWAY * (1 / 25) / (1 / 25 + CONVEX_PER_MM)
    share = 2.0 ** ((saturated(np.array([steps])) - saturated(np.array([-steps]))) / 2.0)[0]
    assert wide.max() / wide.min() == pytest.approx(share, rel=0.03)
    assert wide[0] == pytest.approx(wide[-1], rel=1e-6)


def test_what_lies_inside_turns_half_as_much_and_ruled_lines_not_at_all():
    arc = disc(25.0)
    ratio = {role: np.ptp(np.log2(planned_widths(Plan(light=90.0), role, "near", arc, True)[1]))
             for role in ("outer", "inner", "ruled")}  # fmt: skip
    assert 0.4 * ratio["outer"] < ratio["inner"] < 0.6 * ratio["outer"] and ratio["ruled"] < 1e-9


def test_tight_bends_are_heavier_and_straights_and_small_rounds_are_not():
    flat = Arc(straight(np.array([[10.0, 20.0], [40.0, 20.0]])))
    assert np.ptp(planned_widths(Plan(bends=True), "inner", "near", flat, False)[1]) < 1e-6
    bent = np.array([(10 + k, 20.0) for k in range(31)] + [(40 + 2 * np.sin(a), 22 - 2 * np.cos(a))
                    for a in np.linspace(0.2, 1.57, 8)] + [(42.0, 22.0 + k) for k in range(1, 30)])  # fmt: skip
    half = np.full(len(bent), 0.2)
    arc = Arc(form_from_points(bent, half, half, False).curve)
    s, wide = planned_widths(Plan(bends=True), "inner", "near", arc, False)
    assert abs(float(s[wide.argmax()]) - 31.5) < 2.0 and wide.max() > 1.08 * wide.min()
    ring = disc(3.0)
    assert np.ptp(planned_widths(Plan(bends=True), "inner", "near", ring, True)[1]) < 1e-6


@given(st.integers(0, 10_000), st.floats(-360, 360), st.booleans(), st.booleans())
@settings(max_examples=60, deadline=None)
def test_no_step_in_width_and_never_beyond_what_saturates(seed, degrees, bends, closed):
    random = np.random.default_rng(seed)
    points = np.cumsum(random.normal(0, 3, (random.integers(4, 30), 2)), axis=0)
    half = np.full(len(points), 0.2)
    arc = Arc(form_from_points(points, half, half, closed).curve)
    plan = Plan(light=degrees, bends=bends)
    s, wide = planned_widths(plan, "outer", "near", arc, closed)
    assert np.abs(np.diff(wide) / np.diff(s)).max() <= PLAN_SLOPE + 1e-6
    base = plan.width("outer", "near")
    assert base * 2 ** (-MOST_DOWN / 2) - 1e-9 <= wide.min() and wide.max() <= base * 2 ** (MOST_UP / 2) + 1e-9


def test_light_from_nowhere_sensible_is_refused():
    with pytest.raises(PlanError, match="90 is above"):
        Plan(light=1000.0)


@pytest.mark.parametrize("length", [1e-6, 0.02, 0.5])
def test_the_shortest_lines_have_one_width(length):
    arc = Arc(straight(np.array([[10.0, 10.0], [10.0 + length, 10.0]])))
    s, wide = planned_widths(Plan(light=90.0, bends=True), "outer", "near", arc, False)
    assert np.isfinite(wide).all() and np.ptp(wide) < 1e-6 and s[-1] == pytest.approx(length)
