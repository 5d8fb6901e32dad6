"""Pencils placed, squared up, cleaned: against a reference library's homography and pictures of known content."""

import io

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw
from skimage.transform import ProjectiveTransform, warp

from plain_stride.pencils.cleaning import Cleaning, CleaningError, cleaned, cleaning_from_row, evened, without_specks
from plain_stride.pencils.pencil_passes import PassError, checked_stroke, drawn_passes, stroke_width
from plain_stride.pencils.placing import (
    UNIT,
    Placing,
    PlacingError,
    box_in_shares,
    checked_corners,
    checked_crop,
    homography,
    mapped,
    paper_tilt,
    squared_size,
    turn_to_level,
    warped,
)
from plain_stride.pencils.unroll import stretch_near, unrolled

QUAD = np.array([[0.1, 0.12], [0.93, 0.05], [0.88, 0.9], [0.07, 0.96]])


def png(picture):
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "PNG")
    return out.getvalue()


def test_the_homography_is_that_of_scikit_image():
    ours = homography(UNIT, QUAD)
    theirs = ProjectiveTransform.from_estimate(UNIT, QUAD).params
    assert ours == pytest.approx(theirs / theirs[2, 2], abs=1e-9)
    assert mapped(ours, UNIT) == pytest.approx(QUAD)


def test_three_corners_on_a_line_make_no_homography():
    with pytest.raises(PlacingError, match="one line"):
        homography(UNIT, np.array([[0, 0], [1, 0], [2, 0], [3, 0]], float))


def test_a_photographed_grid_comes_back_square():
    """A grid is photographed through a known homography by scikit-image and squared up by ours."""
    grid = np.full((240, 320), 255, np.uint8)
    grid[::40] = 0
    grid[:, ::40] = 0
    there = homography(UNIT * (320, 240), QUAD * (400, 300))
    photo = warp(grid / 255.0, ProjectiveTransform(np.linalg.inv(there)), output_shape=(300, 400), cval=0.5)
    photo = np.round(photo * 255).astype(np.uint8)
    back = warped(photo, (320, 240), there)
    inner = (slice(6, -6), slice(6, -6))
    # Lines of one pixel soften twice on the way; where they lie is what counts.
    assert (back[20, 25:300].argmin() + 25) % 40 in (0, 39)
    assert abs(back[inner].astype(float) - grid[inner]).mean() < 12.0


@given(st.floats(-180, 180), st.floats(-50, 50), st.floats(-50, 50), st.floats(10, 300), st.floats(10, 300))
def test_places_go_to_the_sheet_and_back(turn, x, y, w, h):
    placing = Placing(x, y, w, h, turn)
    shares = np.array([[0.0, 0.0], [0.3, 0.8], [1.0, 1.0], [0.5, 0.5]])
    assert placing.from_sheet(placing.to_sheet(shares)) == pytest.approx(shares, abs=1e-6)
    assert placing.to_sheet(np.array([[0.5, 0.5]]))[0] == pytest.approx(placing.middle)


def test_a_quarter_turn_clockwise_brings_the_upper_left_to_the_upper_right():
    placing = Placing(0.0, 0.0, 100.0, 100.0, 90.0)
    assert placing.to_sheet(np.array([[0.0, 0.0]]))[0] == pytest.approx([100.0, 0.0])


@given(st.floats(-44, 44))
def test_a_line_drawn_along_what_should_be_level_levels_it(tilt):
    a = np.radians(tilt)
    along, down = np.array([np.cos(a), np.sin(a)]) * 50, np.array([-np.sin(a), np.cos(a)]) * 50
    for end in (along, -along, down, -down):
        assert turn_to_level(np.zeros(2), end) == pytest.approx(-tilt, abs=1e-6)


@pytest.mark.parametrize("tilt", [-7.0, -2.0, 0.0, 1.5, 6.0])
def test_the_tilt_of_paper_is_seen_by_its_edge(tilt):
    photo = Image.new("L", (900, 700), 60)
    paper = Image.new("L", (600, 440), 245)
    turned = paper.rotate(-tilt, Image.Resampling.BICUBIC, expand=True, fillcolor=0)
    mask = Image.new("L", paper.size, 255).rotate(-tilt, expand=True)
    photo.paste(turned, (140, 110), mask)
    assert paper_tilt(255 - np.asarray(photo)) == pytest.approx(tilt, abs=0.35)


def test_no_tilt_is_told_without_an_edge():
    assert paper_tilt(np.full((400, 500), 10, np.uint8)) is None


@pytest.mark.parametrize("wrong", [None, [[0, 0]], [[0, 0], [0, 1], [1, 1], [1, 0]], [[0, 0], [1, 0], [0, 1], [1, 1]],
                                   [[0, 0], [9, 0], [9, 9], [0, 9]], [[0, 0], [float("nan"), 0], [1, 1], [0, 1]]])  # fmt: skip
def test_corners_that_go_round_no_paper_are_told(wrong):
    with pytest.raises(PlacingError):
        checked_corners(wrong)


@pytest.mark.parametrize("wrong", [None, [0, 0, 1], [0.5, 0.5, 0.5, 0.9], [0.9, 0, 0.1, 1], "whole"])
def test_crops_that_leave_nothing_are_told(wrong):
    with pytest.raises(PlacingError):
        checked_crop(wrong)


def test_a_crop_drawn_on_a_turned_sheet():
    placing = Placing(0.0, 0.0, 100.0, 100.0, 90.0)
    assert box_in_shares(placing, 0.0, 0.0, 50.0, 100.0) == pytest.approx((0.0, 0.5, 1.0, 1.0))


def test_the_height_of_squared_paper_by_its_sides():
    """An A4 sheet seen square on: 1000 px wide, 1414 high."""
    assert squared_size(tuple(map(tuple, UNIT)), (1000, 1414), 210.0) == pytest.approx(296.94)


# Cleaning


def lined(light=None):
    picture = np.full((300, 400), 235.0)
    picture[100:104, 40:360] = 90.0
    picture[200:204, 40:360] = 90.0
    return np.clip(picture * (1.0 if light is None else light), 0, 255).astype(np.uint8)


def test_uneven_light_is_flattened_and_the_lines_stay():
    light = np.linspace(0.55, 1.0, 400)[None]
    dark = 255 - lined(light)
    even = evened(dark)
    paper = even[20:80, 20:380]
    assert np.ptp(dark[20:80, 20:380].astype(int)) > 90
    assert paper.max() < 12
    assert even[101, 60:340].min() > 120
    assert np.ptp(even[101, 60:340].astype(int)) < 14


def test_levels_take_paper_to_white_and_pencil_to_black():
    out = cleaned(png(lined()), Cleaning(white=0.1, black=0.6), 8.0)
    assert out[20, 20] == 0
    assert out[101, 100] == 255


def test_graphite_and_colour_pencil_are_told_apart():
    picture = np.full((120, 200, 3), 240, np.uint8)
    picture[30:34, 10:190] = (70, 70, 72)
    picture[80:84, 10:190] = (120, 170, 235)
    data = png(picture)
    graphite, colour = (cleaned(data, Cleaning(pencil=kind), 8.0) for kind in ("graphite", "colour"))
    assert graphite[31, 100] > 170 and graphite[81, 100] < 30
    assert colour[81, 100] > 70 and colour[31, 100] == 0
    assert np.array_equal(cleaned(data, Cleaning(), 8.0), cleaned(data, Cleaning(pencil="all"), 8.0))


def test_specks_go_and_lines_stay():
    dark = 255 - lined()
    rng = np.random.default_rng(1)
    for x, y in rng.integers(10, 290, (40, 2)):
        if abs(y - 102) > 8 and abs(y - 202) > 8:
            dark[y : y + 2, x : x + 2] = 200
    out = without_specks(dark, 4.0)
    out_of_lines = np.r_[out[:92].ravel(), out[112:192].ravel(), out[212:].ravel()]
    assert out_of_lines.max() <= 30
    assert np.array_equal(out[101], dark[101])


@pytest.mark.parametrize("wrong", [{"white": 0.9, "black": 0.5}, {"white": -1}, {"pencil": "chalk"}, {"speck_mm": 50},
                                   {"shine": 1}, {"black": True}])  # fmt: skip
def test_cleanings_that_cannot_be_are_told(wrong):
    with pytest.raises(CleaningError):
        cleaning_from_row(wrong)


# Passes


def test_a_pass_is_as_wide_and_dark_as_it_was_pressed():
    per_mm = 20.0
    for pressure in (0.1, 0.9):
        stroke = np.array([[5.0, 10.0, pressure], [25.0, 10.0, pressure]])
        dark = drawn_passes([stroke], (0.0, 0.0), (600, 400), per_mm)
        across = np.count_nonzero(dark[:, 300] > 60) / per_mm
        assert across == pytest.approx(float(stroke_width(np.array(pressure))), abs=0.1)
    assert dark[200, 300] > drawn_passes([stroke * (1, 1, 0.1)], (0.0, 0.0), (600, 400), per_mm)[200, 300]


@pytest.mark.parametrize("wrong", [None, [], [[1, 2]], [[1, 2, 3]], [[1, 2, -0.1]], [[float("inf"), 2, 0.5]]])
def test_strokes_that_cannot_be_are_told(wrong):
    with pytest.raises(PassError):
        checked_stroke(wrong)


# Unrolled


@settings(max_examples=20)
@given(st.floats(0, 360), st.floats(0.5, 1.5))
def test_a_pass_beside_a_line_unrolls_at_its_distance(turn, off):
    per_mm = 20.0
    a = np.radians(turn)
    way, left = np.array([np.cos(a), np.sin(a)]), np.array([np.sin(a), -np.cos(a)])
    line = np.array([30.0, 30.0]) + way * np.linspace(-12, 12, 80)[:, None]
    image = Image.new("L", (1200, 1200), 0)
    ImageDraw.Draw(image).line([tuple(p) for p in (line + left * off) * per_mm], fill=255, width=4)
    strip = unrolled(np.asarray(image), lambda p: p * per_mm, line, 2.5)
    row = strip[:, strip.shape[1] // 4 : -strip.shape[1] // 4].mean(axis=1).argmax()
    assert 2.5 - row * 0.06 == pytest.approx(off, abs=0.12)


def test_the_stretch_near_a_place():
    lines = [np.column_stack([np.linspace(0, 100, 501), np.full(501, y)]) for y in (10.0, 50.0)]
    found = stretch_near(lines, 40.0, 49.0, 4.0, 4.0)
    assert found is not None
    assert found[:, 1].max() == 50.0
    assert found[0, 0] < 38.0 and found[-1, 0] > 42.0
    assert stretch_near(lines, 40.0, 30.0, 4.0, 4.0) is None
