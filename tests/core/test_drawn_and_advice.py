"""Drawn shapes against closed forms and a reference library; advice that comes at its thresholds and not before."""

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from plain_stride.hand.advice import PulledLine, Thresholds, advice_on, tightest_bend
from plain_stride.lines.affine import Affine, AffineError, mirrored, turned
from plain_stride.lines.drawn import DrawnError, bow, ellipse, parallel, rounded


def length(p, closed=False):
    q = np.vstack([p, p[:1]]) if closed else p
    return float(np.hypot(*np.diff(q, axis=0).T).sum())


def test_a_bow_is_the_arc_through_its_point():
    """A half circle of 10 mm: length pi r; every point 10 mm from its middle."""
    p = bow(np.array([-10.0, 0.0]), np.array([10.0, 0.0]), np.array([0.0, -10.0]))
    assert np.hypot(*p.T) == pytest.approx(10.0)
    assert length(p) == pytest.approx(np.pi * 10, rel=1e-3)
    assert p[0] == pytest.approx([-10, 0]) and p[-1] == pytest.approx([10, 0], abs=1e-9)
    assert p[:, 1].min() == pytest.approx(-10, abs=0.02)


@given(st.floats(-40, 40), st.floats(0.5, 40))
def test_a_bow_goes_through_its_ends_and_its_point_either_way_round(x, y):
    a, b = np.array([0.0, 0.0]), np.array([30.0, 0.0])
    for through in (np.array([x, y]), np.array([x, -y])):
        p = bow(a, b, through)
        fine = np.vstack([np.linspace(u, v, 20) for u, v in itertools.pairwise(p)])
        assert p[0] == pytest.approx(a) and p[-1] == pytest.approx(b, abs=1e-6)
        assert np.hypot(*(fine - through).T).min() < 0.02 * length(p) + 1e-6


def test_three_points_on_a_line_make_a_straight():
    assert len(bow(np.zeros(2), np.array([10.0, 0.0]), np.array([5.0, 0.0]))) == 2


def test_an_ellipse_has_its_perimeter():
    """Half-axes 20 and 10: 96.8845 mm (complete elliptic integral, tabulated)."""
    assert length(ellipse(np.zeros(2), (20.0, 10.0)), True) == pytest.approx(96.8845, rel=1e-3)
    turned = ellipse(np.array([5.0, 5.0]), (20.0, 10.0), 90.0)
    assert np.ptp(turned[:, 1]) == pytest.approx(40.0, rel=1e-3)
    with pytest.raises(DrawnError):
        ellipse(np.zeros(2), (20.0, 0.0))


@pytest.mark.parametrize("gap", [-3.0, -0.5, 0.5, 3.0])
def test_a_parallel_keeps_its_distance_and_its_side(gap):
    x = np.linspace(0, 60, 200)
    line = np.column_stack([x, 6 * np.sin(x / 12)])
    beside = parallel(line, gap)
    far = np.array([np.hypot(*(line - p).T).min() for p in beside[5:-5]])
    assert far == pytest.approx(abs(gap), abs=0.02)
    # To the left, as seen travelling to the right on a sheet with y down, is up.
    assert np.sign(np.mean(beside[:, 1]) - np.mean(line[:, 1])) == -np.sign(gap)


def test_a_ring_has_rings_beside_it():
    ring = ellipse(np.array([50.0, 50.0]), (10.0, 10.0))
    radii = sorted(float(np.hypot(*(parallel(ring, gap, True) - 50.0).T).mean()) for gap in (2.0, -2.0))
    assert radii == pytest.approx([8.0, 12.0], abs=0.05)
    with pytest.raises(DrawnError, match="bends more tightly"):
        (
            parallel(ellipse(np.zeros(2), (1.0, 1.0)), 5.0 if radii[0] else 0.0, True),
            parallel(ellipse(np.zeros(2), (1.0, 1.0)), -5.0, True),
        )


def test_mirrored_twice_is_the_same_and_turned_round_is_round():
    p = np.random.default_rng(1).normal(0, 20, (40, 2))
    a, b = np.array([3.0, 4.0]), np.array([10.0, -2.0])
    mirror = mirrored(a, b)
    assert mirror.mirrors and mirror.scale == pytest.approx(1.0)
    assert mirror.of(mirror.of(p)) == pytest.approx(p)
    assert mirror.then(mirror).row == pytest.approx(Affine().row)
    assert mirror.of(np.array([a, b])) == pytest.approx(np.array([a, b]))
    again = p
    for _ in range(5):
        again = turned(a, 72.0).of(again)
    assert again == pytest.approx(p)
    # Clockwise on a sheet whose y points down: what lies above comes to lie to the right.
    assert turned(np.zeros(2), 90.0).of(np.array([[0.0, -1.0]]))[0] == pytest.approx([1.0, 0.0])


def test_maps_of_the_sheet_compose_and_go_back():
    rng = np.random.default_rng(2)
    p = rng.normal(0, 20, (30, 2))
    for _ in range(20):
        one, two = (Affine(*rng.uniform(-2, 2, 6)) for _ in range(2))
        assert one.then(two).of(p) == pytest.approx(two.of(one.of(p)))
        assert one.inverse().of(one.of(p)) == pytest.approx(p)
        area = shapely.Polygon([(0, 0), (1, 0), (0, 1)])
        mapped = shapely.Polygon(one.of(np.asarray(area.exterior.coords)))
        assert one.scale**2 == pytest.approx(mapped.area / area.area)
    for wrong in ((0, 0, 0, 0, 0, 0), (1, 0, 0, 1, np.nan, 0), (1, 0, 0, 1, 1e9, 0)):
        with pytest.raises(AffineError):
            Affine(*wrong)


def test_what_is_nearly_round_becomes_a_circle_or_its_arc():
    rng = np.random.default_rng(2)
    t = np.linspace(0, 2 * np.pi, 200)
    ring = np.column_stack([np.cos(t), np.sin(t)]) * (12 + rng.normal(0, 0.1, 200))[:, None] + 30
    made, closed = rounded(ring)
    assert closed and np.hypot(*(made - 30).T) == pytest.approx(12, abs=0.1)
    made, closed = rounded(ring[:80])
    assert not closed and np.hypot(*(made - 30).T) == pytest.approx(12, abs=0.3)
    with pytest.raises(DrawnError, match="straighten"):
        rounded(np.column_stack([np.linspace(0, 80, 60), np.full(60, 5.0)]))


CALM = PulledLine(0.015, 0.01, 60.0, 1.2, 20.0, 1.0)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({}, []),
        ({"shake": 0.016}, ["helped"]),
        ({"shake": 0.016, "moved": 0.03}, []),
        ({"shake": 0.071, "moved": 0.2}, ["enlarge the board"]),
        ({"shake": 0.071, "seconds": 4.0}, ["pull faster", "helped"]),
        ({"shake": 0.069, "moved": 0.2}, []),
        ({"shake": 0.04, "glass": 2.0}, ["enlarge the board", "helped"]),
        ({"moved": 0.05, "tightest": 3.0}, ["less in bends"]),
        ({"moved": 0.05, "tightest": 8.0}, []),
        ({"moved": 0.039, "tightest": 3.0}, []),
        ({"missed": 0.61}, ["smaller reach"]),
        ({"missed": 0.59}, []),
        ({"missed": 0.35, "glass": 2.0}, ["smaller reach"]),
        ({"length": 161.0}, ["in sections"]),
        ({"length": 159.0}, []),
        ({"shake": 0.2, "moved": 0.1, "tightest": 2.0, "length": 200.0}, ["Shaky", "bend", "sections"]),
    ],
)
def test_advice_comes_at_its_threshold_and_not_before(change, words):
    from dataclasses import replace

    told = advice_on(replace(CALM, **change))
    assert len(told) == len(words)
    assert all(word in sentence for word, sentence in zip(words, told, strict=True))


def test_a_straight_of_80_mm_at_three_times_is_not_told_to_enlarge_and_to_reduce():
    told = " ".join(advice_on(PulledLine(0.04, 0.0, 80.0, 2.0, 1e9, 3.0)))
    assert "Shaky" in told and "beyond the wrist" in told
    assert "enlarge" not in told and "reduce" not in told and "sections" in told


@settings(max_examples=300)
@given(st.floats(0, 0.5), st.floats(0, 0.5), st.floats(1, 300), st.floats(0.1, 9), st.floats(0.5, 30), st.floats(0.3, 4),
       st.none() | st.floats(0, 3))  # fmt: skip
def test_no_two_sentences_ask_for_opposite_things(shake, moved, length, seconds, tightest, glass, missed):
    told = " ".join(advice_on(PulledLine(shake, moved, length, seconds, tightest, glass, missed)))
    for one, other in (("enlarge", "reduce"), ("faster", "slower"), ("helped", "hurt")):
        assert not (one in told and other in told)


def test_thresholds_are_settings():
    assert advice_on(CALM, Thresholds(shake=0.01)) and not advice_on(CALM, Thresholds(shake=0.5))


def test_the_tightest_bend_of_a_circle_is_its_radius():
    t = np.linspace(0, 2 * np.pi, 400)
    for r in (4.0, 12.0):
        assert tightest_bend(np.column_stack([np.cos(t), np.sin(t)]) * r) == pytest.approx(r, rel=0.06)
    assert tightest_bend(np.column_stack([np.linspace(0, 60, 100), np.zeros(100)])) > 1e6
