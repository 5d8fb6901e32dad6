"""Blacks: what a rule fills, by closed forms and by shapely."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from plain_stride.lines.affine import moved
from plain_stride.lines.black import Black, BlackError, black_of_rings, checked, filled_rings, packed, unpacked, winding
from plain_stride.lines.curve import circle
from plain_stride.lines.outline import rings_area

SQUARE = np.array([(0, 0), (10, 0), (10, 10), (0, 10)], float)
HOLE = np.array([(3, 3), (7, 3), (7, 7), (3, 7)], float)
ANGLES = np.radians(np.arange(5) * 144.0 - 90.0)
STAR = np.column_stack([np.cos(ANGLES), np.sin(ANGLES)]) * 10.0
PENTAGRAM_CORE = 10.0**2 * 2.5 * math.sin(math.radians(72)) * ((3 - math.sqrt(5)) / 2) ** 2
"""Area of the pentagon inside a pentagram of circumradius 10: its radius is smaller by (3 - sqrt 5) / 2."""


def area(rings):
    return abs(rings_area(rings))


def test_a_disc_has_its_area():
    """Four cubics err by 2.73e-4 of the radius, flattening by 0.002 mm."""
    black = checked(Black((circle(np.array([5.0, 5.0]), 4.0),)))
    assert area(black.rings) == pytest.approx(math.pi * 16.0, rel=6e-4)
    assert black.box == pytest.approx((1, 1, 9, 9), abs=1e-9)


@pytest.mark.parametrize(
    ("rings", "rule", "wanted"),
    [
        ([SQUARE], "evenodd", 100.0),
        ([SQUARE, HOLE], "evenodd", 84.0),
        ([SQUARE, HOLE], "nonzero", 100.0),
        ([SQUARE, HOLE[::-1]], "nonzero", 84.0),
        ([SQUARE, SQUARE + 5.0], "evenodd", 150.0),
        ([SQUARE, SQUARE + 5.0], "nonzero", 175.0),
    ],
)
def test_rules_fill_what_svg_says(rings, rule, wanted):
    """SVG 1.1, 11.3, 'fill-rule'."""
    assert area(filled_rings(rings, rule)) == pytest.approx(wanted)


def test_a_star_that_crosses_itself():
    whole = area(filled_rings([STAR], "nonzero"))
    assert area(filled_rings([STAR], "evenodd")) == pytest.approx(whole - PENTAGRAM_CORE, rel=1e-9)


@settings(max_examples=60)
@given(st.lists(st.tuples(st.integers(0, 20), st.integers(0, 20)), min_size=3, max_size=9))
def test_even_odd_is_shapelys(points):
    """shapely.make_valid gives the even-odd area of a ring, unless it runs along an edge twice."""
    ring = np.array(points, float)
    edge = shapely.LinearRing(ring)
    if shapely.unary_union(edge).length < edge.length - 1e-9:
        return
    wanted = shapely.make_valid(shapely.Polygon(ring)).area
    assert area(filled_rings([ring], "evenodd")) == pytest.approx(wanted, abs=1e-6)


def test_winding_counts_turns():
    twice = np.vstack([SQUARE, SQUARE])
    assert winding(twice, np.array([[5.0, 5.0], [15.0, 5.0]])).tolist() == [2, 0]
    assert winding(twice[::-1], np.array([[5.0, 5.0]])).tolist() == [-2]


def test_rings_turn_opposite_ways_so_that_either_rule_serves():
    rings = filled_rings([SQUARE, HOLE], "evenodd")
    for rule in ("evenodd", "nonzero"):
        assert area(filled_rings(rings, rule)) == pytest.approx(84.0)


def test_it_survives_packing_and_moving():
    black = black_of_rings([SQUARE, HOLE])
    again = unpacked(*packed(black), black.rule)
    assert all(np.array_equal(a, b) for a, b in zip(black.curves, again.curves, strict=True))
    assert np.allclose(again.mapped(moved(2.0, -1.0)).box, (2, -1, 12, 9))


@pytest.mark.parametrize(
    "rings", [[], [SQUARE[:2]], [np.array([(0, 0), (1, 1), (2, 2)])], [np.array([(0, 0), (np.nan, 1), (2, 5.0)])]]
)
def test_what_goes_round_nothing_is_refused(rings):
    with pytest.raises(BlackError):
        black_of_rings(rings)
