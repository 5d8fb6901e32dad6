"""Long curves are divided at inflections, within the sweep, into sections of about one length."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plain_stride.hand.dividing import divided
from tests.targets import flowing


def length(line):
    return float(np.hypot(*np.diff(line, axis=0).T).sum())


def test_a_wave_is_divided_at_its_inflections():
    """y = 8 sin(2 pi x / 80): its bend changes sides at every 40 mm of x."""
    x = np.linspace(0.0, 160.0, 800)
    wave = np.column_stack([x, 8.0 * np.sin(2.0 * np.pi * x / 80.0)])
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(wave, axis=0).T))])
    at = np.interp(divided(wave, 60.0), s, x)
    assert len(at) == 3 and all(min(abs(v - 40.0 * k) for k in range(1, 4)) < 1.5 for v in at)


def test_a_bend_between_two_straights_is_not_cut():
    a = np.linspace(np.pi / 2, 0.0, 40)
    bend = np.column_stack([60.0 + 8.0 * np.cos(a), 8.0 - 8.0 * np.sin(a)])
    line = np.vstack([[[0.0, 0.0]], bend, [[68.0, 68.0]]])
    (at,) = divided(line, 80.0)
    assert not 58.0 < at < 74.0


def test_a_straight_is_halved():
    assert divided(np.array([[0.0, 0.0], [100.0, 0.0]]), 60.0) == pytest.approx([50.0], abs=1.0)


@given(st.integers(0, 40), st.floats(8.0, 90.0))
@settings(max_examples=60)
def test_sections_fit_the_sweep_and_are_no_more_than_are_needed(seed, sweep):
    line = flowing(seed)
    cuts = divided(line, sweep)
    sections = np.diff(np.concatenate([[0.0], cuts, [length(line)]]))
    assert (sections <= sweep + 1e-6).all() and (sections > 0.0).all()
    fewest = max(0, int(np.ceil(length(line) / sweep - 1e-9)) - 1)
    assert fewest <= len(cuts) <= fewest + 1 and (fewest > 0 or len(cuts) == 0)


def test_both_ways_along_the_cuts_are_the_same():
    line = flowing(7)
    assert divided(line, 20.0) == pytest.approx(length(line) - divided(line[::-1], 20.0)[::-1], abs=1.1)
