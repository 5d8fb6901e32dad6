"""Coverage, straying, what the ink lost, X marks, empty places: drawings that have it and drawings that have not."""

import numpy as np
import pytest

from plain_stride.pencils.coverage import Pencil, coverage
from plain_stride.pencils.lost import DARK, PER_MM, SWING, ink_tone, lost
from plain_stride.pencils.read.centres import Centre
from plain_stride.pencils.read.reading import ReadLine
from plain_stride.pencils.read.undecided import empty_places
from plain_stride.pencils.x_marks import x_marks


def row(y, x0=10.0, x1=110.0):
    x = np.arange(x0, x1 + 0.01, 0.5)
    return np.column_stack([x, np.full(len(x), y)])


def test_half_of_a_line_has_ink():
    found = coverage([Pencil(row(20.0), 0.5)], {"a": row(20.2, 10.0, 60.0)})
    assert found.inked == pytest.approx(0.5, abs=0.02)
    assert found.bare_mm == pytest.approx(50.0, abs=1.5)
    assert len(found.bare) == 1 and not found.own
    assert found.straying["a"].rms == pytest.approx(0.2, abs=1e-6)


def test_ink_that_crosses_does_not_cover():
    across = np.column_stack([np.full(60, 60.0), np.linspace(0.0, 40.0, 60)])
    assert coverage([Pencil(row(20.0), 0.5)], {"a": across}).inked == 0.0


def test_ink_without_pencil_is_the_inkers_own_and_no_straying():
    found = coverage([Pencil(row(20.0), 0.5)], {"own": row(60.0), "on": row(20.0)})
    assert set(found.own) == {"own"}
    assert set(found.straying) == {"on"}
    assert found.own_mm == pytest.approx(100.0, abs=0.5)


def test_strokes_of_tones_ink_pencils_but_are_neither_the_inkers_own_nor_straying():
    found = coverage([Pencil(row(20.0), 0.5)], {"on": row(20.0, 10.0, 60.0)}, [row(20.3, 60.0), row(70.0)])
    assert found.inked == pytest.approx(1.0, abs=0.01)
    assert not found.own and set(found.straying) == {"on"}


def test_the_farthest_stray_is_told_with_its_place():
    ink = row(20.0)
    ink[100:111, 1] += 1.5
    stray = coverage([Pencil(row(20.0), 0.5)], {"a": ink}).straying["a"]
    assert stray.most == pytest.approx(1.5, abs=0.01)
    assert 59.0 < stray.at[0] < 66.0


def test_a_closed_pencil_line_counts_its_last_side():
    square = np.array([[0, 0], [10, 0], [10, 10], [0, 10]], float)
    ink = np.array([[0, 0], [10, 0], [10, 10], [0, 10]], float)
    assert coverage([Pencil(square, 0.4, True)], {"a": ink}).inked == pytest.approx(0.75, abs=0.1)


def test_without_pencils_all_ink_is_own_and_without_ink_nothing_is_covered():
    assert set(coverage([], {"a": row(5.0)}).own) == {"a"}
    assert coverage([Pencil(row(5.0), 0.5)], {}).inked == 0.0


# What the ink lost

SIZE = (240, 160)


def toned(lines, width):
    return ink_tone([(p, np.full(len(p), width)) for p in lines], [], (0.0, 0.0), SIZE)


def test_the_tone_of_ink_is_its_area():
    """A line of 80 mm and 0.5 mm covers 40 mm2; a black of 20 x 10 mm covers 200."""
    tone = toned([row(30.0, 10.0, 90.0)], 0.5)
    assert tone.sum() / PER_MM**2 == pytest.approx(40.0, rel=0.01)
    black = ink_tone([], [[np.array([[10, 10], [30, 10], [30, 20], [10, 20]], float)]], (0.0, 0.0), SIZE)
    assert black.sum() / PER_MM**2 == pytest.approx(200.0, rel=0.1)


def test_hatching_that_was_not_inked_is_told_where_it_was():
    outline = [row(y, 10.0, 110.0) for y in (5.0, 75.0)]
    shade = [row(y, 60.0, 80.0) for y in np.arange(30.0, 50.0, 1.2)]
    rough, ink = toned(outline + shade, 0.6), toned(outline, 0.6)
    found = lost(rough, ink, (0.0, 0.0), [], {})
    assert not found.unfinished or not found.places
    both = [row(y, 10.0, 110.0) for y in np.arange(2.0, 28.0, 3.0)]
    found = lost(toned(both + shade, 0.6), toned(both, 0.6), (0.0, 0.0), [], {})
    assert found.places and found.places[0].kind == DARK
    first = found.places[0]
    assert 55.0 < first.x < 85.0 and 28.0 < first.y < 52.0
    assert first.rough > first.ink


def test_nothing_is_lost_where_the_ink_has_it_all():
    lines = [row(y) for y in np.arange(5.0, 75.0, 4.0)]
    assert lost(toned(lines, 0.7), toned(lines, 0.5), (0.0, 0.0), [], {}).places == []


def test_swing_that_came_out_flat_is_told_and_swing_that_is_there_is_not():
    x = np.arange(10.0, 90.0, 0.5)
    wave = np.column_stack([x, 30.0 + 1.6 * np.sin(x / 2.6)])
    flat = np.column_stack([x, np.full(len(x), 30.0)])
    blank = np.zeros(SIZE[::-1])
    told = lost(blank, blank, (0.0, 0.0), [Pencil(wave, 0.5)], {"a": flat}).places
    assert told and all(place.kind == SWING for place in told)
    assert told[0].ink < 0.55 * told[0].rough
    assert lost(blank, blank, (0.0, 0.0), [Pencil(wave, 0.5)], {"a": wave + 0.2}).places == []


# X marks


def read(points):
    return ReadLine(np.asarray(points, float), False, 1.0, 0.5)


def segment(a, b, n=40):
    return read(np.linspace(a, b, n))


def box(x0, y0, x1, y1):
    return [
        segment((x0, y0), (x1, y0)),
        segment((x1, y0), (x1, y1)),
        segment((x1, y1), (x0, y1)),
        segment((x0, y1), (x0, y0)),
    ]


def test_an_x_in_a_box_tells_the_box():
    x = [segment((35, 35), (45, 45)), segment((45, 35), (35, 45))]
    (mark,) = x_marks([*box(20, 20, 60, 60), *x])
    assert (mark.x, mark.y) == pytest.approx((40.0, 40.0), abs=0.01)
    area = 0.5 * abs(
        np.sum(
            mark.outline[:, 0] * np.roll(mark.outline[:, 1], -1) - mark.outline[:, 1] * np.roll(mark.outline[:, 0], -1)
        )
    )
    assert area == pytest.approx(1600.0, rel=0.05)


def test_connected_xs_tell_one_area():
    x = [segment((x, 35), (x + 8, 43)) for x in (25, 40)] + [segment((x + 8, 35), (x, 43)) for x in (25, 40)]
    assert len(x_marks([*box(20, 20, 60, 60), *x])) == 1


@pytest.mark.parametrize(
    "lines",
    [
        [segment((35, 35), (45, 45)), segment((45, 35), (35, 45))],  # open ground: a letter
        [*box(20, 20, 60, 60), segment((20, 20), (60, 60)), segment((60, 20), (20, 60))],  # braces of a gate
        [*box(20, 20, 60, 60), segment((35, 40), (45, 40)), segment((45, 38), (45, 44))],  # a corner
        [*box(20, 20, 60, 60), segment((35, 40), (45, 40)), segment((35, 41), (45, 39))],  # too shallow
        [],
    ],
)
def test_what_is_no_x_mark_is_none(lines):
    assert x_marks(lines) == []


# Empty places


def centre(points):
    none = np.zeros(len(points))
    return Centre(points, none, none, False, (True, True), 1.0)


def hatched(hole):
    out = []
    for x in np.arange(10.0, 90.0, 2.0):
        y = np.arange(10.0, 90.0, 0.2)
        p = np.column_stack([np.full(len(y), x), y])
        keep = np.hypot(p[:, 0] - 50.0, p[:, 1] - 50.0) > hole
        cuts = np.flatnonzero(np.diff(np.concatenate([[False], keep, [False]]).astype(int)))
        out += [centre(p[a:b]) for a, b in zip(cuts[::2], cuts[1::2], strict=True) if b - a > 3]
    return out


def test_a_hole_in_a_busy_form_is_told_and_an_even_one_has_none():
    (place,) = empty_places(hatched(10.0))
    assert (place.x, place.y) == pytest.approx((50.0, 50.0), abs=1.0)
    assert place.measured == pytest.approx(20.0, abs=1.5)
    assert empty_places(hatched(0.0)) == []
    assert empty_places([]) == []
    # A plain box is empty inside, but nothing about it is busy.
    assert empty_places([centre(np.column_stack([np.linspace(10, 60, 250), np.full(250, y)])) for y in (10, 50)]) == []
