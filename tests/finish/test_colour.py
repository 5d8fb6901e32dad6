"""Colours of inks. Outside: CIEDE2000 pairs of Sharma, Wu and Dalal 2005 (from memory), scikit-image, IEC 61966-2-1."""

import numpy as np
import pytest
from skimage import color as skcolor

from plain_stride import colour
from plain_stride.colour import ColourError, checked_colour

PAIRS = [
    ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
    ((50.0, 0.0, 0.0), (50.0, -1.0, 2.0), 2.3669),
    ((50.0, 2.5, 0.0), (73.0, 25.0, -18.0), 27.1492),
    ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
]


@pytest.mark.parametrize(("one", "other", "apart"), PAIRS)
def test_the_library_has_the_published_differences(one, other, apart):
    a, b = (colour._of("lab-d65", list(lab)) for lab in (one, other))
    assert a.delta_e(b, method="2000", space="lab-d65") == pytest.approx(apart, abs=1e-4)


def some_colours(n, seed=1):
    rng = np.random.default_rng(seed)
    return [f"#{r:02x}{g:02x}{b:02x}" for r, g, b in rng.integers(0, 256, (n, 3)).tolist()]


def lab(name):
    return skcolor.rgb2lab(np.array([[colour.rgb(name)]]))[0, 0]


def test_lightness_and_difference_are_those_of_another_library():
    names = some_colours(40)
    for one, other in zip(names[::2], names[1::2], strict=True):
        assert colour.lightness(one) == pytest.approx(lab(one)[0], abs=0.02)
        apart = float(skcolor.deltaE_ciede2000(lab(one), lab(other)))
        assert colour.difference(one, other) == pytest.approx(apart, abs=0.05)


def test_a_grey_is_as_light_as_its_colour_and_black_and_white_are_themselves():
    for name in some_colours(20, 2):
        g = colour.grey(name)
        assert skcolor.rgb2lab(np.array([[[g, g, g]]]))[0, 0, 0] == pytest.approx(lab(name)[0], abs=0.05)
    assert (colour.grey("black"), colour.grey("white")) == (0.0, 1.0)
    # Middle grey: 18.42 % of the light is a lightness of 50 (CIE 1976).
    assert colour.lightness("#777777") == pytest.approx(50.03, abs=0.05)


@pytest.mark.parametrize("step", [5.0, 20.0, 40.0])
def test_a_darker_colour_is_darker_by_the_step_and_keeps_its_hue(step):
    for name in ("#c8a060", "#80b0d8", "#d9603a", "#e0e0e0"):
        made = colour.darker(name, step)
        assert colour.lightness(made) == pytest.approx(colour.lightness(name) - step, abs=0.5)
        if not colour.is_grey(name):
            before, after = lab(name), lab(made)
            turn = np.degrees(np.arctan2(after[2], after[1]) - np.arctan2(before[2], before[1]))
            assert abs((turn + 180.0) % 360.0 - 180.0) < 6.0
    assert colour.darker("#202020", 60.0) == "#000000"


@pytest.mark.parametrize("bad", ["", "#12345", "red", "#gg0000", 7, None, [0, 0, 0], "#12345678"])
def test_what_is_no_colour_is_refused(bad):
    with pytest.raises(ColourError, match="#rrggbb"):
        checked_colour(bad)


def test_a_colour_is_written_in_one_way():
    assert [checked_colour(v) for v in ("#5A3A22", "black", "white")] == ["#5a3a22", "#000000", "#ffffff"]
