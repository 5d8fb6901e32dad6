"""The compiled loops' sources against their NumPy twins, and the whole centreline with both."""

from types import SimpleNamespace

import numba
import numpy as np
import pytest
import shapely

from plain_stride.compiled import ready
from plain_stride.hand.live import LiveInk
from plain_stride.hand.nib import DEFAULT_NIB, Nib, Steadying
from plain_stride.hand.pull import Pull, View
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.lines.centre import centreline_of
from plain_stride.lines.edits import End
from plain_stride.lines.recipe import Recipe, shape_of
from tests.targets import cornered, flowing


@pytest.fixture
def by_loops(monkeypatch):
    """The loops take the place of NumPy, uncompiled: the same source that is compiled for the window."""
    plain = SimpleNamespace(**{name: ready.source_of(name) for name in ready.SIGNATURES})
    return lambda on: monkeypatch.setattr(ready, "_loaded", plain if on else None)


@pytest.mark.parametrize(("target", "pace"), [(flowing(3), "fast"), (cornered(1), "normal")])
def test_loops_and_numpy_make_the_same_line(by_loops, target, pace):
    pull = Pull(pulled(target, HANDS["average"], pace, 5), DEFAULT_NIB, View(), "simulated")
    by_loops(False)
    a = centreline_of(pull, Steadying())
    by_loops(True)
    b = centreline_of(pull, Steadying())
    assert len(a.curve) == len(b.curve)
    assert np.abs(a.curve - b.curve).max() < 1e-6
    assert a.tremor_mm == pytest.approx(b.tremor_mm, abs=1e-7)


@pytest.mark.parametrize("ends", [("pointed", "round"), ("flat", "flat"), ("round", "round")])
@pytest.mark.parametrize("target", [flowing(2), cornered(4), np.array([[0.0, 0.0], [0.4, 0.0]])])
def test_loops_and_numpy_draw_the_same_edge(by_loops, target, ends):
    nib = Nib("broad", 0.3, 1.6)
    pull = Pull(pulled(target, HANDS["shaky"], "normal", 2), nib, View(), "simulated")
    by_loops(False)
    centre = centreline_of(pull, Steadying())
    drawn = []
    for on in (False, True):
        by_loops(on)
        shape = shape_of(Recipe(centre, nib, (End(ends[0]), End(ends[1]))))
        drawn.append(shapely.make_valid(shapely.Polygon(shape.rings[0], shape.rings[1:])))
    assert drawn[0].symmetric_difference(drawn[1]).area < 1e-4 * drawn[0].length


def test_the_live_ink_is_the_same_with_loops(by_loops):
    inks = []
    for on in (False, True):
        by_loops(on)
        ink = LiveInk(Steadying(), 1.0)
        rows = []
        for x, y, pressure, t, _ in pulled(cornered(1), HANDS["average"], "normal", 5)[:120]:
            ink.add(x, y, pressure, t)
            rows.append(ink.advance())
        inks.append(np.vstack([*rows, ink.tail]))
    assert inks[0] == pytest.approx(inks[1], abs=1e-7)


def test_a_loop_compiles_for_its_signature(tmp_path, monkeypatch):
    monkeypatch.setenv("NUMBA_CACHE_DIR", str(tmp_path))
    source = ready.source_of("solve")
    solve = numba.njit(ready.SIGNATURES["solve"])(source)
    y = np.random.default_rng(1).normal(size=(30, 2))
    noise = np.zeros((3, 30))
    noise[2] = 1.0
    assert solve(y, np.full(27, 5.0), noise) == pytest.approx(source(y, np.full(27, 5.0), noise), abs=1e-12)


def test_what_cannot_be_loaded_is_logged_and_numpy_serves(monkeypatch, caplog):
    monkeypatch.setattr(ready, "_loaded", None)
    monkeypatch.setattr(ready, "is_warm", lambda: True)
    monkeypatch.setattr(ready, "load", lambda: 1 / 0)
    ready.load_when_compiled()
    assert "slower ones serve" in caplog.text
    assert ready.kernels() is None


@pytest.mark.parametrize("target", [flowing(2), cornered(4), np.array([[0.0, 0.0], [0.4, 0.0]])])
def test_places_along_a_curve_are_the_same_with_loops(by_loops, target):
    from plain_stride.lines.curve import Arc
    from plain_stride.lines.given import form_from_points

    curve, found = form_from_points(target, np.ones(len(target)), np.ones(len(target)), False).curve, []
    for on in (False, True):
        by_loops(on)
        arc = Arc(curve)
        k, u = arc.locate(np.linspace(-1.0, arc.length + 1.0, 200))
        found.append((k + u, arc.length_at(k, u)))
    assert np.abs(found[0][0] - found[1][0]).max() < 1e-8 and np.abs(found[0][1] - found[1][1]).max() < 1e-9
