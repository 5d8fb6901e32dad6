"""Covers found from outer lines and drawn, and what they leave to be seen. Checked against Shapely and closed forms."""

import numpy as np
import pytest
import shapely

from plain_stride.form.bridges import BRIDGE_MM
from plain_stride.form.cover import (
    changed_boxes,
    covered_rings,
    drawn_cover,
    found_cover,
    hidden_stretches,
    seen_rings,
)


def arc(start, end, radius=10.0, centre=(20.0, 20.0), n=90):
    a = np.radians(np.linspace(start, end, n))
    return np.asarray(centre) + radius * np.column_stack([np.cos(a), np.sin(a)])


def bar(x0, y0, x1, y1):
    return np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)], float)


def area(rings):
    """Shoelace, holes negative."""
    return abs(sum((r[:, 0] * np.roll(r[:, 1], -1) - np.roll(r[:, 0], -1) * r[:, 1]).sum() / 2 for r in rings))


@pytest.mark.parametrize("gap_deg", [0.0, 2.0, 8.0, 16.0])
def test_gaps_up_to_the_bridge_are_bridged(gap_deg):
    """The area is that of the disc without the segment that the bridge cuts off: r^2 / 2 (a - sin a)."""
    cover = found_cover([arc(gap_deg / 2, 360 - gap_deg / 2)], [])
    a = np.radians(gap_deg)
    assert cover.area.area == pytest.approx(np.pi * 100 - 50 * (a - np.sin(a)), rel=2e-3)
    assert len(cover.loose) == 0


def test_a_gap_wider_than_the_bridge_encloses_nothing():
    wide = np.degrees((BRIDGE_MM + 1.0) / 10.0)
    assert found_cover([arc(wide / 2, 360 - wide / 2)], []) is None
    assert found_cover([], []) is None


@pytest.mark.parametrize("seed", range(12))
def test_lines_in_any_order_and_way_round_make_the_same_cover(seed):
    """Twelve arcs of a ring with small gaps and overshoots: the cover is the ring's disc within their size."""
    rng = np.random.default_rng(seed)
    cuts = np.arange(0, 360, 30.0)
    arcs = [arc(a + rng.uniform(-2, 2), a + 30 + rng.uniform(-2, 2)) for a in cuts]
    whole = found_cover(arcs, [])
    mixed = found_cover([arcs[k][:: rng.choice([-1, 1])] for k in rng.permutation(12)], [])
    assert whole.area.area == pytest.approx(np.pi * 100, rel=0.01)
    assert shapely.symmetric_difference(whole.area, mixed.area).area < 1e-2


def test_what_lies_within_is_covered_as_well():
    """A ring in a ring is a disc on the form as likely as a hole: it is covered, and a drawn cover can say otherwise."""
    rings = [arc(0, 360), arc(0, 360, radius=4.0)]
    assert found_cover(rings, []).area.area == pytest.approx(np.pi * 100, rel=2e-3)


def test_a_gap_round_it_begins_at_the_ink():
    """Ring of radius 10 drawn 1 mm wide, 0.5 mm of white: a disc of radius 11."""
    ink = [np.asarray(shapely.Point(20, 20).buffer(10.5, quad_segs=64).exterior.coords)[:-1]]
    cover = found_cover([arc(0, 360)], [ink], gap=0.5)
    assert cover.area.area == pytest.approx(np.pi * 121, rel=3e-3)


def test_a_drawn_cover_may_cross_itself():
    eight = np.array([(0, 0), (10, 10), (10, 0), (0, 10)], float)
    assert drawn_cover([eight], []).area.area == pytest.approx(50.0)
    assert drawn_cover([np.array([(0, 0), (5, 0), (10, 0)], float)], []) is None


def test_what_is_seen_and_what_is_hidden_add_up():
    covers = [drawn_cover([arc(0, 360)[:-1]], []), drawn_cover([bar(25, 0, 45, 40)], [])]
    line = [bar(0, 18, 60, 19)]
    seen = seen_rings(line, covers)
    hidden = shapely.intersection(shapely.Polygon(line[0]), shapely.union_all([c.area for c in covers])).area
    assert area(seen) + hidden == pytest.approx(60.0, abs=1e-9)
    assert len(seen) == 2


def test_holes_of_a_closed_line_stay_holes():
    ring = [arc(0, 360, 10.5)[:-1], arc(360, 0, 9.5)[:-1]]
    seen = seen_rings(ring, [drawn_cover([bar(0, 0, 20, 40)], [])])
    assert area(seen) == pytest.approx(np.pi * (10.5**2 - 9.5**2) / 2, rel=5e-3)


def test_hidden_stretches_are_lengths_along_the_line():
    cover = drawn_cover([bar(10, -5, 20, 5), bar(40, -5, 42, 5)], [])
    points = np.array([(0.0, 0.0), (15.0, 0.0), (50.0, 0.0)])
    found = hidden_stretches(points, np.array([0.0, 15.0, 50.0]), [cover])
    assert np.allclose(found, [(10, 20), (40, 42)])


def test_what_changed_is_boxed_and_overlapping_covers_are_one():
    a, b = drawn_cover([bar(0, 0, 10, 10)], []), drawn_cover([bar(0, 0, 12, 10)], [])
    assert changed_boxes(a, b) == [(10, 0, 12, 10)]
    assert changed_boxes(a, a) == []
    assert changed_boxes(None, a) == [(0, 0, 10, 10)]
    assert area(covered_rings([a, b])) == pytest.approx(120.0)
