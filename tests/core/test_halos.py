"""Halos and the areas of blacks, in the core. Outside: Shapely's distances and areas."""

import itertools

import numpy as np
import pytest
import shapely

from plain_stride.form.areas import Rooms
from plain_stride.lines.area_black import area_of_black, black_of_area
from plain_stride.tone.errors import ToneError
from plain_stride.tone.halos import halo_of_area, halo_of_line, measured, only_between, without_ends_of

SIDES = ("inside", "outside")


def random_shape(rng, k):
    """Corners, reflex corners, arcs, thin arms."""
    middle, n = rng.uniform(20, 80, 2), int(rng.integers(4, 9))
    a, r = np.sort(rng.uniform(0, 2 * np.pi, n)), rng.uniform(6, 18, n)
    area = shapely.make_valid(shapely.Polygon(middle + np.column_stack([r * np.cos(a), r * np.sin(a)])))
    if k % 2:
        area = area.union(shapely.Point(middle + rng.uniform(-12, 12, 2)).buffer(rng.uniform(4, 10), quad_segs=40))
    if k % 3 == 0:
        area = area.union(shapely.LineString(middle + rng.uniform(-25, 25, (3, 2))).buffer(rng.uniform(0.8, 2)))
    return max(shapely.get_parts(area), key=lambda part: part.area)


def far_side(area):
    """Places along the edges of what is no speck."""
    edges = shapely.union_all([part.boundary for part in shapely.get_parts(area) if part.area > 0.01])
    return shapely.points(shapely.get_coordinates(shapely.segmentize(edges, 0.05)))


@pytest.mark.parametrize("first", range(0, 200, 50))
def test_two_hundred_halos_are_of_one_width_and_closed(first):
    rng = np.random.default_rng(first)
    for k in range(first, first + 50):
        area, mm, side = random_shape(rng, k), rng.uniform(0.2, 0.8), SIDES[k // 2 % 2]
        halo = area_of_black(black_of_area(halo_of_area(area, mm, side)))
        # What is left of the black inside, or all that halo and black cover together outside.
        rest = shapely.difference(area, halo) if side == "inside" else halo.union(area).buffer(0.003).buffer(-0.003)
        away = shapely.distance(far_side(rest), area.boundary)
        assert away.min() == pytest.approx(mm, abs=0.02) and away.max() == pytest.approx(mm, abs=0.02)
        told = measured(halo, area.boundary, rest, mm)
        assert told.closed and told.narrowest == pytest.approx(mm, abs=0.02) == told.widest


CURVE = np.column_stack([np.linspace(10, 60, 80), 40 + 6 * np.sin(np.linspace(0, 2 * np.pi, 80))])


@pytest.mark.parametrize("side", ["left", "right"])
def test_beside_a_line_it_lies_on_one_side_and_ends_straight_across(side):
    ink = shapely.LineString(CURVE).buffer(0.3, cap_style="flat")
    halo = halo_of_line(ink, CURVE, False, 0.4, side)
    assert halo.geom_type == "Polygon"
    line = shapely.LineString(CURVE)
    # y goes down: the left of what travels to the right is above it, where y is less.
    other = line.parallel_offset(0.5, "left" if side == "right" else "right")
    wrong = line.parallel_offset(0.5, "right" if side == "right" else "left")
    assert halo.buffer(0.01).covers(other) and not halo.intersects(wrong)
    assert halo.area == pytest.approx(0.4 * line.length, rel=0.03)
    assert halo.bounds[0] == pytest.approx(10.0, abs=0.5) and halo.bounds[2] == pytest.approx(60.0, abs=0.5)


def test_a_ring_has_a_halo_inside_and_outside_and_sides_as_seen_along_it():
    ring = np.array([(50 + 20 * np.cos(a), 50 + 20 * np.sin(a)) for a in np.linspace(0, 2 * np.pi, 200)[:-1]])
    ink = shapely.LinearRing(ring).buffer(0.25)
    inner, outer = (halo_of_line(ink, ring, True, 0.5, side) for side in SIDES)
    assert inner.area == pytest.approx(np.pi * (19.758**2 - 19.25**2), rel=0.01)
    assert outer.area == pytest.approx(np.pi * (20.75**2 - 20.242**2), rel=0.01)
    # It goes clockwise on the sheet: its inside is to the right.
    assert halo_of_line(ink, ring, True, 0.5, "right").equals(inner)
    assert halo_of_line(ink, ring[::-1], True, 0.5, "left").equals_exact(inner, 1e-6, normalize=True)


def test_a_halo_stops_at_what_its_line_ends_on():
    line, wall = np.array([[10.0, 50.0], [50.0, 50.0]]), shapely.box(49.7, 30, 50.3, 70)
    halo = halo_of_line(shapely.LineString(line).buffer(0.3, cap_style="flat"), line, False, 0.5, "left")
    clean = without_ends_of(halo, line[[1]], wall, 3.0)
    assert halo.intersects(wall) and not clean.buffer(-1e-6).intersects(wall)
    assert clean.bounds[2] == pytest.approx(49.7, abs=1e-6)


def test_a_black_edge_that_is_white_on_both_sides_is_measured_and_cured():
    """A black with paper on its left and another black on its right; the halo lies inside, all the way round, round an
    outline that stays."""
    shape, outline = shapely.box(20, 20, 40, 40), shapely.box(19.7, 19.7, 40.3, 40.3)
    beyond = shapely.box(40.3, 10, 60, 50)
    halo = halo_of_area(shape, 0.6)
    dark = outline.union(beyond).difference(halo)
    told = measured(halo, shape.boundary, dark, 0.6)
    # Three sides of 20 mm, less what is near the second black.
    assert told.doubled == pytest.approx(60.0, abs=1.5) and told.closed
    cured = only_between(halo, beyond, 0.6)
    left = outline.union(beyond).difference(cured)
    assert measured(cured, shape.boundary, left, 0.6).doubled <= 4.0
    assert cured.area == pytest.approx(20 * 0.6, rel=0.1)


def test_halos_that_cannot_be_are_refused():
    with pytest.raises(ToneError, match="wide"):
        halo_of_area(shapely.box(0, 0, 9, 9), 0.0)
    with pytest.raises(ToneError, match="inside or outside"):
        halo_of_area(shapely.box(0, 0, 9, 9), 0.5, "left")
    with pytest.raises(ToneError, match="left or to its right"):
        halo_of_line(shapely.LineString(CURVE).buffer(0.3), CURVE, False, 0.4, "inside")
    with pytest.raises(ToneError, match="no halo"):
        only_between(halo_of_area(shapely.box(0, 0, 9, 9), 0.5), shapely.box(50, 50, 60, 60), 0.5)


# Areas between lines


def box_lines(gap=0.0, x=20.0, y=20.0, size=30.0):
    corners = np.array([[x, y], [x + size, y], [x + size, y + size], [x, y + size], [x, y]])
    out = []
    for a, b in itertools.pairwise(corners):
        way = (b - a) / np.hypot(*(b - a))
        out.append(shapely.LineString([a + way * gap, b]))
    return out


@pytest.mark.parametrize("gap", [0.0, 0.3, 0.95])
def test_gaps_of_a_millimetre_do_not_open_an_area(gap):
    lines = [*box_lines(gap), shapely.Point(30, 30).buffer(4).exterior]
    area = Rooms(lines, 1.0).round_place(np.array([40.0, 40.0]))
    assert area.area == pytest.approx(900 - lines[-1].length ** 2 / 4 / np.pi, abs=3.0)
    assert len(area.interiors) == 1
    assert Rooms(lines, 1.0).round_place(np.array([30.0, 30.0])).area == pytest.approx(50.0, rel=0.02)


def test_wider_gaps_and_no_lines_are_open():
    assert Rooms(box_lines(2.5), 1.0).round_place(np.array([40.0, 40.0])) is None
    assert Rooms(box_lines(2.5), 3.0).round_place(np.array([40.0, 40.0])) is not None
    assert Rooms([], 1.0).round_place(np.array([0.0, 0.0])) is None
    assert Rooms(box_lines(), 1.0).round_place(np.array([500.0, 0.0])) is None


def test_lines_far_away_are_not_looked_at_and_large_areas_are_found():
    far = [line for k in range(6) for line in box_lines(0.0, 300.0 + 40 * k, 0.0)]
    whole = [*box_lines(0.5, 0.0, 0.0, 280.0), *far]
    assert Rooms(whole, 1.0).round_place(np.array([140.0, 140.0])).area == pytest.approx(280**2, rel=0.01)


def letter_strokes(text="ABDOPQR04689abdegopq"):
    """Strokes of letters, each letter 18 mm tall in a place of its own."""
    from HersheyFonts import HersheyFonts

    font = HersheyFonts()
    font.load_default_font("futural")
    font.normalize_rendering(18)
    for k, letter in enumerate(text):
        strokes = [
            np.array(stroke, float) * [1, -1] + [30 * (k % 7), 40 * (k // 7)]
            for stroke in font.strokes_for_text(letter)
        ]
        yield letter, [shapely.LineString(points) for points in strokes if len(points) > 1]


@pytest.mark.parametrize("gap", [0.0, 0.5, 0.95])
def test_the_insides_of_letters_do_not_leak_through_gaps(gap):
    """Outside: Hershey letters; what Shapely's polygonize finds of them while they are whole."""
    from shapely.ops import substring

    rng, seen = np.random.default_rng(7), 0
    for letter, lines in letter_strokes():
        whole = shapely.union_all(lines, grid_size=0.05)
        faces = [face for face in shapely.get_parts(shapely.polygonize([whole])) if face.area > 3.0]
        for face in faces:
            cut = []
            for line in lines:
                at = rng.uniform(0.2, 0.8) * line.length
                cut += (
                    [substring(line, 0.0, at - gap / 2), substring(line, at + gap / 2, line.length)] if gap else [line]
                )
            found = Rooms(cut, 1.0).round_place(np.asarray(face.representative_point().coords[0]))
            assert found is not None, letter
            shared = found.intersection(face).area / found.union(face).area
            assert shared > 0.93, (letter, shared)
            seen += 1
    assert seen >= 20
