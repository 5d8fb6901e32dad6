"""Outlines that are kept are those of the very same line, and no more of them than there is room for."""

from dataclasses import replace

import numpy as np
import pytest

from plain_stride.hand.nib import DEFAULT_NIB, Steadying
from plain_stride.hand.pull import Pull, View
from plain_stride.lines.centre import centreline_of
from plain_stride.lines.edits import End, Swell
from plain_stride.lines.kept_outlines import KeptOutlines
from plain_stride.lines.recipe import Recipe, shape_of
from tests.conftest import samples_along


def line(ends="pointed", factor=1.0, to=60.0, grain=0.0):
    pull = Pull(samples_along([(0, 0), (30, 20), (to, 0)], 0.6, 120, 0.5), DEFAULT_NIB, View(), "pen")
    centre = centreline_of(pull, Steadying())
    return shape_of(
        Recipe(
            centre,
            replace(DEFAULT_NIB, grain=grain),
            (End(ends), End(ends)),
            edits=(Swell(None, None, factor, "both"),),
        )
    )


def test_the_same_line_made_again_has_its_outline_already():
    kept, first, again = KeptOutlines(), line(), line()
    assert not first.outlines()
    made = first.edge_curves
    kept.keep([first])
    kept.lend([again])
    assert again.outlines().keys() == {"smooth_rings", "rings", "edge_curves"}
    assert again.edge_curves is made and len(kept) == 1
    assert all(np.array_equal(a, b) for a, b in zip(again.rings, line().rings, strict=True))


@pytest.mark.parametrize("other", [{"ends": "flat"}, {"ends": "round"}, {"factor": 1.2}, {"to": 60.01}, {"grain": 0.1}])
def test_another_line_never_gets_it(other):
    kept, first = KeptOutlines(), line()
    _ = first.rings
    kept.keep([first])
    shape = line(**other)
    kept.lend([shape])
    assert not shape.outlines()


def test_what_was_not_outlined_is_not_kept_and_the_oldest_goes_first():
    first, second = line(), line(to=80.0)
    size = max(sum(ring.size for ring in shape.smooth_rings) for shape in (first, second))
    kept = KeptOutlines(most_numbers=size + 10)
    kept.keep([first, line(to=90.0)])
    assert len(kept) == 1
    kept.keep([second])
    assert len(kept) == 1
    fresh, old = line(to=80.0), line()
    kept.lend([fresh, old])
    assert fresh.outlines() and not old.outlines()


def test_what_becomes_known_later_is_kept_as_well():
    kept, shape, again = KeptOutlines(), line(), line()
    _ = shape.smooth_rings
    kept.keep([shape])
    _ = shape.edge_curves
    kept.keep([shape])
    kept.lend([again])
    assert "edge_curves" in again.outlines() and len(kept) == 1
