"""Pixels by exact areas. Outside: skia without antialiasing at 16 x 16 times the size, averaged; closed forms."""

from types import SimpleNamespace

import numpy as np
import pytest
import skia

from plain_stride.compiled import ready
from plain_stride.render.fill import filled_bands

LOOPS = SimpleNamespace(**{name: ready.source_of(name) for name in ready.SIGNATURES})
WIDE, HIGH, TIMES = 64, 48, 16


def filled(inked, clear=False):
    bands = list(filled_bands(LOOPS, inked, (WIDE, HIGH), 1.0, clear))
    return np.vstack([b[1] for b in bands]).astype(float), np.vstack([b[2] for b in bands]).astype(float)


def supersampled(rings):
    """0..255 ink of a line, by 256 samples a pixel."""
    surface = skia.Surface(WIDE * TIMES, HIGH * TIMES)
    canvas = surface.getCanvas()
    canvas.clear(skia.ColorWHITE)
    path = skia.Path()
    for ring in rings:
        path.addPoly([skia.Point(float(x), float(y)) for x, y in ring * TIMES], True)
    canvas.drawPath(path, skia.Paint(AntiAlias=False, Color=skia.ColorBLACK))
    ink = 255.0 - surface.toarray()[:, :, 1].astype(float)
    return ink.reshape(HIGH, TIMES, WIDE, TIMES).mean(axis=(1, 3))


def blob(seed, points=60):
    rng = np.random.default_rng(seed)
    angle = np.linspace(0, 2 * np.pi, points, endpoint=False)
    away = 14 + 5 * np.sin(3 * angle + rng.uniform(0, 6)) + rng.uniform(-1, 1, points)
    middle = rng.uniform((12, 12), (WIDE - 12, HIGH - 12))
    return middle + away[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])


@pytest.mark.parametrize("seed", range(6))
def test_coverage_is_that_of_256_samples_a_pixel(seed):
    ring = blob(seed)
    hole = ring.mean(axis=0) + (ring - ring.mean(axis=0))[::-1] * 0.5
    grey, _ = filled([("black", [ring, hole])])
    truth = supersampled([ring, hole])
    edges = (truth > 0) & (truth < 255)
    assert edges.sum() > 100
    assert np.abs(255.0 - grey - truth)[edges].mean() <= 2.0
    assert np.abs(255.0 - grey - truth)[~edges].max() <= 1.0


def test_a_box_covers_what_geometry_says():
    box = np.array([[3.25, 4.5], [10.5, 4.5], [10.5, 6.75], [3.25, 6.75]])
    grey, _ = filled([("black", [box])])
    assert 255.0 - grey[4, 3:11] == pytest.approx(np.round(np.array([0.75, 1, 1, 1, 1, 1, 1, 0.5]) * 0.5 * 255), abs=1)
    assert 255.0 - grey[6, 5] == pytest.approx(0.75 * 255, abs=1)
    assert (grey[8:] == 255).all()
    assert (grey[:, 11:] == 255).all()


@pytest.mark.parametrize("shift", [(-20.0, 0.0), (25.0, 3.0), (0.0, -30.0), (4.0, 30.0), (-70.0, 0.0), (90.0, 0.0)])
def test_what_lies_off_the_page_is_not_there(shift):
    ring = blob(1) + shift
    grey, _ = filled([("black", [ring])])
    truth = supersampled([ring])
    assert np.abs(255.0 - grey - truth).mean() <= 0.3


def test_white_covers_black_and_nothing_stays_clear():
    ring = np.array([[5.0, 5.0], [40.0, 5.0], [40.0, 30.0], [5.0, 30.0]])
    grey, alpha = filled([("black", [ring]), ("white", [ring + 10.0])], clear=True)
    assert (grey[6:14, 6:14] == 0).all()
    assert (grey[16:29, 16:39] == 255).all()
    assert (alpha[6:14, 6:14] == 255).all()
    assert (alpha[:4] == 0).all()
    assert filled([], clear=True)[1].max() == 0
