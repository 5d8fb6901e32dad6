"""What a pull could be meant as: straights, arcs, circles, ellipses, against closed forms and an independent fit."""

import numpy as np
import pytest
import shapely
from skimage.measure import EllipseModel

from plain_stride.lines.drawn import SHAPES, DrawnError, elliptic, shapes_meant


def wavering(points, mm=0.2, seed=1):
    return points + np.random.default_rng(seed).normal(0.0, mm, points.shape)


def arc(sweep, half=(20.0, 12.0), turn=0.4, middle=(50.0, 40.0), n=160):
    t = np.linspace(0.3, 0.3 + sweep, n)
    c, s = np.cos(turn), np.sin(turn)
    return np.column_stack([half[0] * np.cos(t), half[1] * np.sin(t)]) @ np.array([[c, s], [-s, c]]) + middle


STRAIGHT = np.column_stack([np.linspace(10, 70, 120), np.linspace(20, 35, 120)])


@pytest.mark.parametrize(
    ("points", "name", "closed"),
    [
        (STRAIGHT, "straight", False),
        (arc(1.5, (25.0, 25.0)), "round", False),
        (arc(2 * np.pi, (15.0, 15.0)), "round", True),
        (arc(2 * np.pi), "ellipse", True),
        (arc(2.8, (30.0, 9.0)), "ellipse", False),
    ],
)
def test_the_likeliest_shape_comes_first(points, name, closed):
    found = shapes_meant(wavering(points))
    assert (found[0][0], found[0][2]) == (name, closed)
    # The shape that was drawn lies within the waver of the hand of what is offered.
    made = np.vstack([found[0][1], found[0][1][:1]]) if closed else found[0][1]
    away = shapely.distance(shapely.LineString(made), shapely.points(points))
    assert np.mean(away) < 0.3


def test_an_ellipse_is_found_as_an_independent_library_finds_it():
    points = wavering(arc(2 * np.pi), 0.3)
    made, closed = elliptic(points)
    model = EllipseModel.from_estimate(points)
    assert model and closed
    assert made.mean(axis=0) == pytest.approx(model.center, abs=0.15)
    reach = np.hypot(*(made - made.mean(axis=0)).T)
    assert [reach.max(), reach.min()] == pytest.approx(sorted(model.axis_lengths, reverse=True), abs=0.2)


def test_an_exact_ellipse_comes_back():
    points = arc(2 * np.pi, n=400)
    made, _ = elliptic(points)
    c, s = np.cos(0.4), np.sin(0.4)
    u = (made - [50.0, 40.0]) @ np.array([[c, -s], [s, c]]) / [20.0, 12.0]
    assert np.hypot(*u.T) == pytest.approx(np.ones(len(u)), abs=1e-6)


def test_what_no_ellipse_lies_along_is_refused():
    with pytest.raises(DrawnError):
        elliptic(STRAIGHT)
    with pytest.raises(DrawnError):
        SHAPES["straight"](arc(2 * np.pi))
    assert [name for name, *_ in shapes_meant(STRAIGHT)] == ["straight"]
