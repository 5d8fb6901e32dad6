"""Pulls by mouse: whole pixels, clocks that jump, hands that dwell. What is told of them, and the lines they become.

Every figure is held against distances that Shapely measures on the finished line, without any of our own measures."""

import itertools
import json
from pathlib import Path

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from plain_stride.hand.nib import DEFAULT_NIB, Steadying
from plain_stride.hand.pull import Pull, View, checked_samples
from plain_stride.hand.raster import raster_of
from plain_stride.hand.simulated import HANDS, minimum_jerk, pulled
from plain_stride.hand.takes import wobble_of
from plain_stride.lines.centre import centreline_of
from plain_stride.lines.curve import flatten
from plain_stride.lines.edits import End, Span
from plain_stride.lines.recipe import Recipe, shape_of
from plain_stride.lines.straying import farthest_sample
from tests.targets import flowing

MOUSE_CIRCLE = Path(__file__).parents[1] / "bad_days" / "corpus" / "mouse-circle.json"


def arc(radius: float, length: float = 55.0) -> np.ndarray:
    a = np.linspace(0.4, 0.4 + min(length / radius, 2 * np.pi), 1500)
    return 80.0 + radius * np.column_stack([np.cos(a), np.sin(a)])


def zigzag() -> np.ndarray:
    corners = np.array([[10, 10], [25, 30], [40, 12], [55, 33], [70, 11]], float)
    return np.vstack([np.linspace(a, b, 300) for a, b in itertools.pairwise(corners)])


WAVE = np.column_stack([np.linspace(10, 70, 1500), 30 + 9 * np.sin(np.linspace(0, 2 * np.pi, 1500))])
STRAIGHT = np.linspace([5.0, 8.0], [75.0, 31.0], 400)
CURVES = {"circle": arc(11.0, 70.0), "arc": arc(25.0), "straight": STRAIGHT, "wave": WAVE, "zigzag": zigzag()}


def by_mouse(
    path: np.ndarray, pixel: float, hz: float, seed: int, turn: float = 0.0, clock: str = "shaken", dwell: float = 0.2
) -> np.ndarray:
    """Samples of a hand that starts and stops along a path, told in whole pixels with times that are off."""
    rng = np.random.default_rng(seed)
    s = np.append(0.0, np.cumsum(np.hypot(*np.diff(path, axis=0).T)))
    seconds = s[-1] / 40.0
    t = np.arange(0.0, seconds + 2 * dwell, 1.0 / hz)
    at = minimum_jerk(np.clip((t - dwell) / seconds, 0.0, 1.0)) * s[-1]
    c, n = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    matrix = np.array([[c, -n], [n, c]])
    glass = np.column_stack([np.interp(at, s, path[:, k]) for k in (0, 1)]) @ matrix.T
    start = rng.uniform(0, pixel, 2)
    places = (np.round((glass - start) / pixel) * pixel + start) @ matrix
    t = t + rng.uniform(-0.2, 0.2, len(t)) / hz
    if clock == "repeated":
        t = np.round(t / (4.0 / hz)) * (4.0 / hz)
    elif clock == "still":
        t[:] = 0.0
    t = np.round(np.maximum.accumulate(t - t[0]), 3)
    return checked_samples(np.column_stack([places, np.full(len(t), 0.4), t]))


def finished(samples: np.ndarray, setting: Steadying | None = None, view: View | None = None):
    """(centre, points of the line, distances of the samples from it by Shapely)."""
    centre = centreline_of(Pull(samples, DEFAULT_NIB, view or View()).as_kept(), setting or Steadying())
    points = flatten(centre.curve, 1e-5)
    far = shapely.distance(shapely.points(samples[:, :2]), shapely.LineString(points))
    return centre, points, far


def sign_changes(points: np.ndarray) -> int:
    """How often a line's curvature, over a quarter of a mm, changes its sign, ends left out."""
    line = shapely.LineString(points)
    p = shapely.get_coordinates(shapely.line_interpolate_point(line, np.arange(2.0, line.length - 2.0, 0.25)))
    d = np.diff(p, axis=0)
    turn = d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0]
    return int((np.diff(np.sign(turn)) != 0).sum())


def assert_told_is_there(centre, far: np.ndarray) -> None:
    assert centre.moved_mm <= 1.5 * far.max() + 0.05
    assert centre.tremor_mm <= 1.3 * np.sqrt((far**2).mean()) + 0.01


def test_the_circle_by_mouse_tells_what_is_there():
    """Once told 2.01 mm moved and .256 mm of shake, no sample farther than .18 mm from the line."""
    samples = checked_samples(json.loads(MOUSE_CIRCLE.read_text())["pulls"][0]["samples"])
    centre, _, far = finished(samples)
    assert_told_is_there(centre, far)
    assert centre.moved_mm < 0.02 and centre.tremor_mm < 0.02
    given, _, _ = finished(samples, Steadying("after", 0.5))
    # With an own leeway of 2.0 half a millimetre laid only a quarter of auto.
    assert given.own_leeway_mm == centre.own_leeway_mm < 0.05
    assert raster_of(samples[:, :2]) == pytest.approx(0.18913, abs=1e-4)


@settings(max_examples=60)
@given(
    st.sampled_from(sorted(CURVES)), st.sampled_from([30.0, 60.0, 125.0, 1000.0]), st.floats(0.02, 0.28),
    st.sampled_from(["shaken", "repeated", "still"]), st.sampled_from([0.0, 0.2, 1.0]), st.sampled_from(["after", "live"]),
    st.integers(0, 10_000),
)  # fmt: skip
def test_no_figure_is_larger_than_what_is_there(name, hz, pixel, clock, dwell, school, seed):
    centre, _, far = finished(by_mouse(CURVES[name], pixel, hz, seed, clock=clock, dwell=dwell), Steadying(school))
    assert_told_is_there(centre, far)


@settings(max_examples=30)
@given(st.sampled_from(["calm", "average", "shaky"]), st.sampled_from(["careful", "normal", "fast"]), st.integers(0, 999),
       st.sampled_from([None, 0.01, 0.1, 0.4]), st.integers(0, 60))  # fmt: skip
def test_no_figure_of_a_pen_is_larger_than_what_is_there(hand, pace, seed, leeway, dwell):
    samples = pulled(flowing(seed % 40), HANDS[hand], pace, seed)
    start = np.repeat(samples[:1], dwell, axis=0)
    start[:, 3] = np.arange(dwell) * 0.005
    samples[:, 3] += dwell * 0.005
    centre, _, far = finished(np.vstack([start, samples]), Steadying("after", leeway))
    assert_told_is_there(centre, far)


@pytest.mark.parametrize("radius", [10.0, 25.0, 60.0])
@pytest.mark.parametrize("hz", [30.0, 125.0, 1000.0])
def test_arcs_on_whole_pixels_come_out_smooth(radius, hz):
    path = arc(radius)
    off = []
    for seed, pixel in enumerate((0.05, 0.1, 0.19, 0.28)):
        _, points, _ = finished(by_mouse(path, pixel, hz, seed))
        off.append(shapely.distance(shapely.points(path), shapely.LineString(points)))
        assert wobble_of(points, 10.0) <= 0.03
        assert sign_changes(points) == 0
    assert np.percentile(np.concatenate(off), 95) <= 0.12


@settings(max_examples=30)
@given(st.sampled_from(sorted(CURVES)), st.floats(0.02, 1.0), st.floats(-180, 180), st.integers(0, 999))
def test_the_lattice_is_found_however_the_board_lies(name, pixel, turn, seed):
    samples = by_mouse(CURVES[name], pixel, 125.0, seed, turn)
    pull = Pull(samples, DEFAULT_NIB, View(turn=turn)).as_kept()
    assert pull.raster == pytest.approx(pixel, rel=1e-3)


@settings(max_examples=30)
@given(st.integers(0, 9999), st.sampled_from(["calm", "average", "shaky"]), st.sampled_from([3, 4, 6]))
def test_a_pen_lies_on_no_lattice(seed, hand, digits):
    samples = pulled(flowing(seed % 50), HANDS[hand], "normal", seed)
    assert raster_of(np.round(samples[:, :2], digits)) is None


@pytest.mark.parametrize("samples", [np.zeros((1, 2)), np.zeros((9, 2)), np.tile([[0.0, 0.0], [1.0, 0.0]], (8, 1))])
def test_too_few_places_are_no_lattice(samples):
    assert raster_of(samples) is None


def test_a_mouse_that_shakes_is_still_steadied():
    """Steps of half a millimetre to and fro are a hand's, not the raster's of a tenth."""
    shaky = pulled(arc(30.0)[::20], HANDS["shaky"], "normal", 3)
    samples = shaky.copy()
    samples[:, :2] = np.round(shaky[:, :2] / 0.1) * 0.1
    centre, _, _ = finished(samples)
    pen, _, _ = finished(shaky)
    assert centre.tremor_mm == pytest.approx(pen.tremor_mm, rel=0.2)


@pytest.mark.parametrize("setting", [Steadying(), Steadying("live"), Steadying("off"), Steadying("after", 0.3)])
def test_the_farthest_sample_is_where_shapely_finds_it(setting):
    for seed in (1, 2, 3):
        samples = pulled(flowing(seed), HANDS["shaky"], "normal", seed)
        pull = Pull(samples, DEFAULT_NIB)
        shape = shape_of(Recipe(centreline_of(pull, setting), DEFAULT_NIB, (End("pointed"), End("pointed"))))
        far = shapely.distance(shapely.points(samples[:, :2]), shapely.LineString(shape.flat[0])).max()
        assert farthest_sample(pull, shape) == pytest.approx(far, abs=0.004)


def test_the_farthest_sample_of_a_trimmed_line_is_of_what_is_left():
    samples = pulled(STRAIGHT[::40], HANDS["calm"], "normal", 1)
    samples[len(samples) // 2 :, 1] += 5.0 * np.linspace(0.0, 1.0, len(samples) - len(samples) // 2)
    pull = Pull(samples, DEFAULT_NIB)
    centre = centreline_of(pull, Steadying())
    ends = (End("round"), End("round"))
    half = shape_of(Recipe(centre, DEFAULT_NIB, ends, span=Span(0.0, samples[-1, 3] * 0.4)))
    assert farthest_sample(pull, half) < 0.3
