"""Pictures that are no drawings: a page of text, a page of music, texture. Common practice: a scan of the wrong sheet."""

import numpy as np
import pytest
from PIL import Image, ImageDraw

from benchmarks.drawn import DRAWN, SIZE_MM
from plain_stride.pencils.picture import darkness
from plain_stride.pencils.read.doubts import doubt_of, has_rows
from plain_stride.pencils.read.flat import Flat, flattened
from plain_stride.pencils.scanner import LEVELS, scan

PER_MM = 150.0 / 25.4


def text_page():
    page = Image.new("L", (900, 1200), 0)
    draw, rng = ImageDraw.Draw(page), np.random.default_rng(1)
    for y in range(80, 1120, 30):
        for x in range(80, 820, 9):
            if rng.random() < 0.8:
                draw.rectangle([x, y + int(rng.integers(0, 6)), x + 5, y + 15], outline=220)
    return np.asarray(page)


def music_page():
    page = Image.new("L", (900, 1500), 0)
    draw, rng = ImageDraw.Draw(page), np.random.default_rng(2)
    for top in range(60, 1450, 110):
        for k in range(5):
            draw.line([(60, top + 10 * k), (840, top + 10 * k)], fill=230, width=2)
        for x in range(90, 820, 40):
            y = top + 5 * int(rng.integers(0, 9))
            draw.ellipse([x - 7, y - 5, x + 7, y + 5], fill=240)
    return np.asarray(page)


@pytest.mark.parametrize("page", [text_page, music_page])
def test_rows_of_text_and_music_are_told(page):
    flat = flattened(page(), PER_MM)
    assert "rows" in doubt_of(flat, [4.0] * 10)
    assert "rows" in doubt_of(Flat(flat.dark.T, flat.per_mm), [4.0] * 10)


@pytest.mark.parametrize("name", DRAWN)
def test_drawings_have_no_rows(name):
    dark = darkness(scan(DRAWN[name](3), SIZE_MM, 150.0, 5, LEVELS["rough"]))
    flat = flattened(dark, PER_MM)
    assert doubt_of(flat, [20.0] * 30) == ""


def test_even_hatching_is_no_page_of_text():
    dark = np.zeros((600, 600), np.float32)
    dark[20:580:9, 100:500] = 0.9
    assert not has_rows(dark, PER_MM)


def test_crumbs_are_texture_where_they_are_many():
    flat = Flat(np.zeros((300, 300), np.float32), PER_MM)
    assert "texture" in doubt_of(flat, [2.0] * 500)
    assert doubt_of(flat, [2.0] * 100) == "" and doubt_of(flat, [8.0] * 500) == ""
