"""Lengths, even places and feet on polylines, against Shapely."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from plain_stride.hand.along import AT_ONCE, blurred, evenly, lengths_along, places_at, project_onto
from tests.targets import flowing


@given(st.integers(0, 10_000), st.integers(2, 30))
def test_feet_are_shapelys(seed, n):
    rng = np.random.default_rng(seed)
    line, places = rng.uniform(0, 50, (n, 2)), rng.uniform(-10, 60, (40, 2))
    at, k, far = project_onto(line, places)
    theirs = shapely.LineString(line)
    assert far == pytest.approx(shapely.distance(theirs, shapely.points(places)), abs=1e-9)
    foot = places_at(line, lengths_along(line), at)
    assert np.hypot(*(foot - places).T) == pytest.approx(far, abs=1e-7)
    assert (k >= 0).all() and (k <= n - 2).all()


def test_many_places_are_looked_at_in_turns():
    line = flowing(2)
    places = evenly(line, 0.05)
    assert len(places) > 2 * AT_ONCE and project_onto(line, places)[2].max() < 1e-6


def test_even_places_keep_both_ends_and_the_length():
    line = flowing(5)
    even = evenly(line, 0.4)
    assert even[[0, -1]] == pytest.approx(line[[0, -1]])
    step = np.hypot(*np.diff(even, axis=0).T)
    assert step.max() < 0.41 and step.sum() == pytest.approx(lengths_along(line)[-1], rel=2e-3)
    assert len(evenly(np.array([[0.0, 0.0], [0.1, 0.0]]), 1.0)) == 3


def test_a_gaussian_mean_keeps_levels_and_slopes_inside():
    assert blurred(np.full(50, 3.0), 4.0) == pytest.approx(3.0)
    assert blurred(np.arange(100.0), 3.0)[20:80] == pytest.approx(np.arange(20.0, 80.0))
