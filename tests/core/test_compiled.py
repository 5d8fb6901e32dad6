"""The compiled loops' sources against their NumPy twins, and the whole centreline with both."""

from types import SimpleNamespace

import numba
import numpy as np
import pytest

from plain_stride.compiled import ready
from plain_stride.hand.nib import DEFAULT_NIB, Steadying
from plain_stride.hand.pull import Pull, View
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.lines.centre import centre_of
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
    a = centre_of(pull, Steadying())
    by_loops(True)
    b = centre_of(pull, Steadying())
    assert len(a.curve) == len(b.curve)
    assert np.abs(a.curve - b.curve).max() < 1e-6
    assert a.tremor_mm == pytest.approx(b.tremor_mm, abs=1e-9)


def test_a_loop_compiles_for_its_signature(tmp_path, monkeypatch):
    monkeypatch.setenv("NUMBA_CACHE_DIR", str(tmp_path))
    source = ready.source_of("solve")
    solve = numba.njit(ready.SIGNATURES["solve"])(source)
    y = np.random.default_rng(1).normal(size=(30, 2))
    noise = np.zeros((3, 30))
    noise[2] = 1.0
    assert solve(y, np.full(27, 5.0), noise) == pytest.approx(source(y, np.full(27, 5.0), noise), abs=1e-12)


def test_what_cannot_be_loaded_is_logged_and_numpy_serves(monkeypatch, caplog):
    monkeypatch.setattr(ready, "is_warm", lambda: True)
    monkeypatch.setattr(ready, "load", lambda: 1 / 0)
    ready.load_when_compiled()
    assert "slower ones serve" in caplog.text
    assert ready.kernels() is None
