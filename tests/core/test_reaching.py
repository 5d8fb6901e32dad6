"""Ends of lines that some pencil leads on from: they are carried on to the line there, and only then."""

import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFilter

from plain_stride.pencils.read.reading import read_pencils

DPI = 300.0
PX = DPI / 25.4


def a_tee(tail: int) -> np.ndarray:
    """A bar, and a stem that stops 2.4 mm short of it; from there as dark as told, 0 to 255."""
    picture = Image.new("L", (round(60 * PX), round(50 * PX)), 0)
    pen = ImageDraw.Draw(picture)

    def line(a, b, dark):
        pen.line([(a[0] * PX, a[1] * PX), (b[0] * PX, b[1] * PX)], fill=dark, width=round(0.8 * PX))

    if tail:
        line((30, 36), (30, 40), tail)
    line((8, 40), (52, 40), 150)
    line((30, 8), (30, 37.6), 150)
    noise = np.random.default_rng(1).normal(0.0, 3.0, (picture.height, picture.width))
    return np.clip(np.asarray(picture.filter(ImageFilter.GaussianBlur(2)), float) + noise + 6.0, 0, 255).astype(
        np.uint8
    )


def stem_of(reading):
    stem = min(reading.lines, key=lambda one: abs(one.points[:, 0].mean() - 30.0) + np.ptp(one.points[:, 0]))
    return float(stem.points[:, 1].max())


@pytest.mark.parametrize("tail", [45, 60])
def test_an_end_that_faint_pencil_leads_on_from_reaches_the_line(tail):
    reading = read_pencils(a_tee(tail), PX)
    assert stem_of(reading) == pytest.approx(40.0, abs=0.25)
    assert not [place for place in reading.undecided if place.reason == "stops"]


def test_an_end_with_paper_before_it_stays():
    reading = read_pencils(a_tee(0), PX)
    assert stem_of(reading) == pytest.approx(37.6, abs=0.6)
    assert [place.reason for place in reading.undecided] == ["stops"]
