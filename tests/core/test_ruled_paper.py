"""Ruled paper is not read, what is drawn on it is; evenly ruled drawings stay. Common practice: sketches on what lay
there."""

import numpy as np
import pytest

from benchmarks.drawn import DRAWN, SIZE_MM
from benchmarks.papers import PAPERS
from benchmarks.scoring import score
from plain_stride.pencils.picture import darkness
from plain_stride.pencils.read.flat import Flat
from plain_stride.pencils.read.reading import read_pencils
from plain_stride.pencils.read.ruled_paper import without_ruling
from plain_stride.pencils.scanner import SOFT, scan

PER_MM = 150.0 / 25.4


@pytest.mark.parametrize("name", ["face", "machine"])
def test_lines_of_the_paper_are_no_lines_of_the_drawing(name):
    paper = PAPERS["lined paper"]
    data = paper.scanned(scan(DRAWN[name](3), SIZE_MM, 300.0, 3, paper.how), 3)
    told = score(DRAWN[name](3), read_pencils(darkness(data), 300.0 / 25.4))
    assert told.false < 5.0 and told.f1 > 0.98


@pytest.mark.parametrize("turned", [False, True])
@pytest.mark.parametrize("degrees", [-1.5, 0.0, 1.0])
def test_ruling_is_found_either_way_and_a_little_turned(turned, degrees):
    y, x = np.mgrid[0:600, 0:700]
    off = (y - np.tan(np.radians(degrees)) * (x - 350)) % 45.0
    dark = np.where((off > 20.0) & (off < 22.0), 0.2, 0.01).astype(np.float32)
    dark[300:306, 100:400] = 0.9
    flat = Flat(np.ascontiguousarray(dark.T) if turned else dark, PER_MM)
    lifted = without_ruling(flat).dark
    lifted = lifted.T if turned else lifted
    away = np.ones_like(dark, bool)
    away[295:311] = False
    assert np.mean(lifted[away] > 0.1) < 0.002
    assert lifted[302:304, 120:380].min() > 0.5


def test_a_ruled_drawing_is_no_paper():
    lines = [np.linspace((10.0, 12.0 + 8.0 * k), (90.0, 12.0 + 8.0 * k), 60) for k in range(9)]
    reading = read_pencils(darkness(scan(lines, (100.0, 90.0), 300.0, 2, SOFT)), 300.0 / 25.4)
    assert len(reading.lines) == 9 and min(line.length for line in reading.lines) > 75.0
