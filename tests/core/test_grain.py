"""The textured edge: worn inwards only, more of thin lines, the same everywhere, whole rings."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from plain_stride.hand.nib import Nib, NibError, Steadying
from plain_stride.hand.pull import Pull
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.lines.centre import centreline_of
from plain_stride.lines.edits import End
from plain_stride.lines.grain import tooth
from plain_stride.lines.outline import rings_area
from plain_stride.lines.recipe import Recipe, shape_of
from tests.targets import cornered, flowing


def shape(nib: Nib, points=None, end="pointed"):
    pull = Pull(pulled(flowing(3) if points is None else points, HANDS["calm"], "normal", 3), nib)
    return shape_of(Recipe(centreline_of(pull, Steadying()), nib, (End(end), End(end))))


def solid(rings):
    """The ink of rings: outer ones without the holes in them."""
    return shapely.Polygon(rings[0], rings[1:]) if shapely.Polygon(rings[0], rings[1:]).is_valid else None


@pytest.mark.parametrize("end", ["pointed", "round", "flat"])
@pytest.mark.parametrize("widths", [(0.1, 0.25), (0.3, 1.4), (1.0, 4.0)])
@pytest.mark.parametrize("points", [flowing(3), flowing(8), cornered(2)])
def test_the_grain_takes_ink_away_and_adds_none(widths, end, points):
    line = shape(Nib("t", *widths, grain=0.06), points, end)
    every = [shapely.Polygon(ring) for ring in line.rings]
    assert all(ring.is_valid for ring in every)
    # Between two points of the worn edge in a tight inner bend a chord may pass outside of it.
    crisp = shapely.make_valid(shapely.Polygon(line.smooth_rings[0]))
    assert all(crisp.buffer(0.025).contains(ring) for ring in every)
    assert sum(ring.difference(crisp).area for ring in every) < 0.001 * crisp.area
    assert 0.0 < 1.0 - rings_area(line.rings) / rings_area(line.smooth_rings) < 0.5


def test_thin_lines_lose_more_of_themselves():
    lost = []
    for widths in ((0.1, 0.2), (0.25, 0.5), (0.7, 1.4), (2.0, 4.0)):
        line = shape(Nib("t", *widths, grain=0.06))
        lost.append(1.0 - rings_area(line.rings) / rings_area(line.smooth_rings))
    assert lost == sorted(lost, reverse=True) and lost[0] > 3.0 * lost[-1]


def test_specks_lie_in_the_ink_and_apart():
    line = shape(Nib("t", 1.0, 4.0, grain=0.12))
    whole = solid(line.rings)
    assert whole is not None and len(line.rings) > 20
    assert rings_area(line.rings) == pytest.approx(whole.area, rel=1e-6)


def test_a_crisp_nib_has_the_edge_it_had():
    line = shape(Nib("t", 0.2, 1.0))
    assert line.rings is line.smooth_rings


@given(st.integers(-400, 400), st.integers(-400, 400))
@settings(max_examples=30)
def test_the_tooth_is_the_papers_own_and_smooth(x, y):
    """The same for the same place however it is asked for; between 0 and 1; without steps."""
    places = np.array([[x, y]]) + np.linspace([0, 0], [0.7, 0.4], 200)
    all_at_once = tooth(places)
    assert all_at_once == pytest.approx(np.concatenate([tooth(p[None]) for p in places]), abs=1e-12)
    assert (all_at_once >= 0.0).all() and (all_at_once <= 1.0).all()
    assert np.abs(np.diff(all_at_once)).max() < 0.15


def test_about_half_the_paper_takes_all_the_ink():
    grid = np.stack(np.meshgrid(np.arange(0, 40, 0.07), np.arange(0, 40, 0.07)), axis=-1).reshape(-1, 2)
    assert 0.2 < (tooth(grid) == 0.0).mean() < 0.6 and 0.1 < tooth(grid).mean() < 0.5


@pytest.mark.parametrize("wrong", [{"grain": -0.01}, {"grain": 0.5}, {"held": "glass"}])
def test_grains_and_holds_that_cannot_be_are_told(wrong):
    with pytest.raises(NibError):
        Nib("t", 0.2, 1.0, **wrong)


@given(st.floats(0.2, 400.0))
@settings(max_examples=40)
def test_a_nib_held_on_the_screen_looks_the_same_at_every_enlargement(glass):
    nib = Nib("t", 0.4, 1.6, held="screen").on_paper(glass)
    assert nib.held == "paper" and nib.on_paper(7.0) is nib
    assert nib.lightest * glass == pytest.approx(max(0.4, 0.01 * glass))
    assert nib.heaviest * glass == pytest.approx(max(1.6, 0.01 * glass))
