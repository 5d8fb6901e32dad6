"""Pens that are broken, slow, quick or strange, in the real window: a line comes of every pull, and nothing is lost."""

import numpy as np
import pytest
import shapely
from PySide6.QtCore import QEvent

from plain_stride.desk.player import PenPlayer, on_glass
from plain_stride.hand.pull import working_samples
from tests.conftest import samples_along
from tests.desk.test_window import said

WAY = [(x, 50.0 - 0.008 * (x - 60.0) ** 2) for x in np.linspace(10.0, 110.0, 60)]
MEANT = samples_along(WAY, 1.0, 200)


def pulled(window, samples, pen=None):
    before = set(window.lines())
    (pen or window.pen).play(on_glass(samples, window.sheet.view.to_glass))
    window.settle()
    (key,) = set(window.lines()) - before
    return key


def strayed(window, key):
    """Largest distance (mm) of the line's places from the way that was meant."""
    points = window.session.shapes[key].arc.point(np.linspace(0.0, window.session.shapes[key].length, 200))
    return float(shapely.distance(shapely.points(points), shapely.LineString(WAY)).max())


def test_a_pen_without_pressure_draws_with_the_middle_of_the_nib(window):
    samples = MEANT.copy()
    samples[:, 2] = 0.0
    key = pulled(window, samples, PenPlayer(window.sheet, presses=False))
    widths = window.session.shapes[key].body.full
    assert widths == pytest.approx(window.session.nib.middle, abs=0.01) and strayed(window, key) < 0.25


@pytest.mark.parametrize("pressure", [0.0, 0.37, 1.0])
def test_a_pen_of_one_pressure_draws_evenly_and_is_told_once(window, pressure):
    samples = MEANT.copy()
    samples[:, 2] = pressure
    key = pulled(window, samples)
    width = float(window.session.nib.width(np.array([pressure]))[0])
    assert window.session.shapes[key].body.full == pytest.approx(width, abs=0.01)
    assert "one pressure" not in said(window)
    for _ in range(2):
        pulled(window, samples)
    assert "one pressure" in said(window) and f"{pressure:.0%}" in said(window)
    window.session.said.emit("", False)
    pulled(window, samples)
    assert "one pressure" not in said(window)


def test_times_that_run_backwards_and_stand_still(window):
    samples = MEANT.copy()
    samples[50:80, 3] = samples[50, 3]
    samples[120:140, 3] -= 0.08
    assert strayed(window, pulled(window, samples)) < 0.6


def test_a_lone_jump_is_left_out_of_the_line_and_kept_in_the_pull(window):
    samples = MEANT.copy()
    samples[90, :2] = (5.0, 85.0)
    key = pulled(window, samples)
    assert strayed(window, key) < 0.25
    kept = window.session.job.pull(window.lines()[key].pull).samples
    assert len(kept) == 200 and np.hypot(*(kept[90, :2] - (5.0, 85.0))) < 0.2
    assert len(working_samples(kept)) == 199


def test_a_corner_and_a_dash_are_no_jumps():
    """A quick V, where the pen turns on its tip, and three samples far apart."""
    v = np.zeros((41, 5))
    v[:, 0], v[:, 1], v[:, 3] = np.arange(41), 20.0 - np.abs(np.arange(41) - 20.0), np.arange(41) / 200.0
    assert len(working_samples(v)) == 41
    assert len(working_samples(v[[0, 20, 40]])) == 3


@pytest.mark.parametrize("rate", [30, 1000])
def test_slow_and_quick_pens_draw_the_same_line(window, rate):
    key = pulled(window, samples_along(WAY, 1.0, rate))
    assert strayed(window, key) < 0.25
    assert window.session.shapes[key].length == pytest.approx(
        np.hypot(*np.diff(MEANT[:, :2], axis=0).T).sum(), rel=0.02
    )


def test_a_lift_that_never_comes_ends_with_the_next_press(window):
    rows = on_glass(MEANT, window.sheet.view.to_glass)
    for k, row in enumerate(rows[:100]):
        window.pen.send(QEvent.Type.TabletPress if k == 0 else QEvent.Type.TabletMove, row)
    pulled_then = on_glass(samples_along([(20, 70), (100, 70)], 0.6, 120), window.sheet.view.to_glass)
    window.pen.play(pulled_then)
    window.settle()
    lengths = sorted(window.session.shapes[key].length for key in window.lines())
    assert len(lengths) == 2 and lengths == pytest.approx([54.0, 80.0], abs=3.0)
