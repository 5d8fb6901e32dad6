"""Broken and stuttering ends: gaps and thinnings measured on the finished ink by an independent library."""

import itertools

import numpy as np
import pytest
import shapely

from plain_stride.hand.nib import Nib
from plain_stride.lines.edits import End
from plain_stride.lines.given import form_from_points
from plain_stride.lines.loose_ends import GAPS, inked
from plain_stride.lines.profile import grid_for
from plain_stride.lines.recipe import Recipe, given_centreline, shape_of

LOOSE = ("broken", "dotted", "stutter")
NIB = Nib("3", 0.6, 0.6, ends="round")


def line(first, last, mm=9.0, length=60.0):
    points = np.column_stack([np.linspace(10.0, 10.0 + length, 80), np.full(80, 20.0)])
    none = np.zeros(80)
    curve = form_from_points(points, none, none, False).curve
    ends = (
        End(first, mm if first in LOOSE else None),
        End(last, mm if last in LOOSE else None),
    )
    return shape_of(Recipe(given_centreline(curve), NIB, ends))


def ink(shape):
    """All ink as one geometry, by an independent library."""
    return shapely.unary_union([shapely.Polygon(ring).buffer(0) for ring in shape.rings])


def test_a_broken_end_has_three_gaps_that_grow_and_the_rest_is_whole():
    shape = line("round", "broken")
    pieces = sorted(ink(shape).geoms, key=lambda p: p.bounds[0])
    assert len(pieces) == 1 + len(GAPS)
    gaps = [b.bounds[0] - a.bounds[2] for a, b in itertools.pairwise(pieces)]
    assert gaps == sorted(gaps) and gaps[0] > 0.3
    dashes = [p.bounds[2] - p.bounds[0] for p in pieces[1:]]
    assert dashes == sorted(dashes, reverse=True)
    assert pieces[0].bounds[0] == pytest.approx(9.7, abs=0.01) and pieces[-1].bounds[2] == pytest.approx(70.0, abs=0.2)
    # The body before the end is as it was.
    body = ink(shape).intersection(shapely.box(10, 0, 60, 40))
    assert body.area == pytest.approx(0.6 * 50.0, rel=0.02)


def test_a_dotted_end_is_dots_ever_farther_apart():
    shape = line("round", "dotted")
    pieces = sorted(ink(shape).geoms, key=lambda p: p.bounds[0])
    dots = pieces[1:]
    assert len(dots) >= 4
    gaps = [b.bounds[0] - a.bounds[2] for a, b in itertools.pairwise(pieces)]
    assert gaps[1:] == sorted(gaps[1:]) and min(gaps) > 0.2
    for dot in dots:
        wide, high = dot.bounds[2] - dot.bounds[0], dot.bounds[3] - dot.bounds[1]
        assert 0.25 < high <= 0.6 and wide < 1.5 * high
    body = ink(shape).intersection(shapely.box(10, 0, 60, 40))
    assert body.area == pytest.approx(0.6 * 50.0, rel=0.02)


def test_it_is_laid_alike_at_the_start_and_at_the_end():
    a, b = ink(line("broken", "round")), ink(line("round", "broken"))
    mirrored = shapely.transform(b, lambda xy: np.column_stack([80.0 - xy[:, 0], xy[:, 1]]))
    assert a.symmetric_difference(mirrored).area < 0.02


def test_the_widths_told_are_the_widths_of_the_ink():
    shape = line("round", "broken")
    whole = ink(shape)
    for s in np.linspace(48.0, 59.5, 60):
        left, right = shape.widths.at(np.array([s]))
        told = float(left[0] + right[0])
        across = whole.intersection(shapely.LineString([(10.0 + s, 0.0), (10.0 + s, 40.0)])).length
        if told == 0.0:
            # Only the round end of a dash may reach there.
            assert across == 0.0 or min(abs(s - e) for pair in inked(shape.widths) for e in pair) < 0.2
        elif min(abs(s - e) for pair in inked(shape.widths) for e in pair) > 0.1:
            assert across == pytest.approx(told, abs=0.04)


def test_a_stuttering_end_thins_again_and_again_and_never_breaks():
    shape = line("round", "stutter")
    assert isinstance(ink(shape), shapely.Polygon)
    s = np.linspace(51.0, 60.0, 600)
    left, right = shape.widths.at(s)
    full = left + right
    lows = np.flatnonzero((full[1:-1] < full[:-2]) & (full[1:-1] <= full[2:]))
    assert 6 <= len(lows) <= 11 and full.min() >= 0.1 * 0.6 - 1e-9
    assert full[1:-1][lows][-1] < 0.3 * full[1:-1][lows][0]
    # Uneven on purpose: its edges do not mirror each other.
    assert np.abs(left - right).max() > 0.05


@pytest.mark.parametrize("length", [0.3, 1.0, 3.0])
@pytest.mark.parametrize("kind", ["broken", "dotted", "stutter"])
def test_short_lines_keep_their_ink(length, kind):
    shape = line(kind, kind, length=length)
    assert 0.25 * 0.6 * length < ink(shape).area
    assert grid_for(shape.length)[-1] == shape.length


def test_a_length_of_nothing_leaves_the_end_alone():
    shape = line("broken", "stutter", mm=0.0)
    assert isinstance(ink(shape), shapely.Polygon)
