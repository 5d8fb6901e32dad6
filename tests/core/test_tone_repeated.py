"""Speed lines, textures, stipple, shadows, the next strokes, balance. Outside: Shapely, closed forms, SciPy's trees."""

import numpy as np
import pytest
import shapely
from scipy.spatial import cKDTree

from plain_stride.tone.balance import balance_of, solid_of
from plain_stride.tone.drawn_strokes import clipped, forms_of
from plain_stride.tone.errors import ToneError
from plain_stride.tone.field import field_of
from plain_stride.tone.grey import grey_over
from plain_stride.tone.nets import straight_net
from plain_stride.tone.next_strokes import belongs, next_courses
from plain_stride.tone.shadows import cast_shadow, core_shadow, form_width
from plain_stride.tone.speed import Speed, along_a_path, to_a_point
from plain_stride.tone.stipple import stippled
from plain_stride.tone.textures import KINDS, textured
from tests.core.test_tone import SQUARE, nets


def strokes_alike(a, b):
    return len(a) == len(b) and all(
        np.array_equal(x.points, y.points) and x.width == y.width for x, y in zip(a, b, strict=True)
    )


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("net", ["straight", "between"])
def test_motifs_fill_their_field_and_vary_by_the_seed(kind, net):
    field, how = nets()[net]
    a, b, c = (textured(field, how, kind, 4.0, 0.25, 0.6, seed) for seed in (1, 1, 2))
    assert strokes_alike(a, b) and not strokes_alike(a, c)
    ink = shapely.union_all([shapely.LineString(one.points) for one in a])
    assert field.area.buffer(1e-6).covers(ink)
    # No place of the field is farther from a stroke than a motif and a half.
    away = shapely.distance(ink, shapely.points(field.inside))
    assert away.max() < 7.0 and len(a) > 30
    assert len(forms_of(a)) >= 0.9 * len(a)


def test_alike_motifs_are_alike():
    field = field_of([SQUARE])
    plain = textured(field, straight_net(field, 0.0), "basket", 5.0, 0.3, 0.0, 3)
    assert {round(float(one.width), 6) for one in plain} == {0.3}
    with pytest.raises(ToneError, match="motifs"):
        textured(field, straight_net(field, 0.0), "basket", 0.05, 0.3, 0.0, 3)
    with pytest.raises(ToneError, match="textures are"):
        textured(field, straight_net(field, 0.0), "tweed", 5.0, 0.3, 0.0, 3)


@pytest.mark.parametrize("grey", [0.05, 0.2, 0.5])
def test_dots_cover_the_grey_and_keep_apart(grey):
    field = field_of([SQUARE])
    at, sizes = stippled(field, grey_over(field, grey, grey, 0.0), 0.6, 4)
    assert (np.pi * sizes**2 / 4.0).sum() / 2500.0 == pytest.approx(grey, rel=1e-6)
    near = cKDTree(at).query(at, k=2)[0][:, 1]
    # Of the densest packing (hexagons: d^2 = 2 / (sqrt 3 n)) chance alone leaves about half, blue noise three quarters.
    packed = np.sqrt(2.0 / (np.sqrt(3.0) * len(at) / 2500.0))
    assert near.mean() / packed > 0.72 and near.min() / packed > 0.3
    again, _ = stippled(field, grey_over(field, grey, grey, 0.0), 0.6, 4)
    assert np.array_equal(at, again)


def test_dots_thin_out_along_a_ramp_and_too_dark_is_said():
    field = field_of([SQUARE])
    at, sizes = stippled(field, grey_over(field, 0.4, 0.05, 90.0), 0.6, 4)
    bands = [
        float((np.pi * sizes[(at[:, 0] >= x) & (at[:, 0] < x + 10)] ** 2 / 4).sum() / 500) for x in range(20, 70, 10)
    ]
    assert np.all(np.diff(bands) < 0) and bands[0] == pytest.approx(0.365, abs=0.03)
    with pytest.raises(ToneError, match="run together"):
        stippled(field, grey_over(field, 0.8, 0.8, 0.0), 0.6, 4)
    with pytest.raises(ToneError, match="dots"):
        stippled(field, grey_over(field, 0.3, 0.3, 0.0), 0.05, 4)


def test_speed_lines_point_where_they_are_told_and_taper():
    field, at = field_of([SQUARE]), np.array([40.0, 50.0])
    even = to_a_point(field, at, 8.0, Speed(60, 0.2, 1.0, 0.0, 0.0, 1))
    assert len(even) == 60
    for one in even:
        a, b = one.points[0] - at, one.points[-1] - at
        assert abs(a[0] * b[1] - a[1] * b[0]) < 1e-6 and np.hypot(*b) == pytest.approx(8.0)
        assert np.hypot(*a) > np.hypot(*b)
    angles = np.sort([np.arctan2(*(one.points[0] - at)[::-1]) for one in even])
    assert np.std(np.diff(angles)) < 1e-9
    bunched = to_a_point(field, at, 8.0, Speed(400, 0.2, 1.0, 0.5, 0.0, 1))
    gaps = np.diff(np.sort([np.arctan2(*(one.points[0] - at)[::-1]) for one in bunched]))
    # A gamma distribution of shape k varies by 1 / sqrt k.
    assert np.std(gaps) / np.mean(gaps) == pytest.approx(0.8, abs=0.12)
    (form, *_) = forms_of(even)
    assert form.widths.full[0] > 0.19 and form.widths.full[-1] < 0.25 * form.widths.full[0]


def test_along_a_path_they_run_beside_it_within_their_band():
    path = np.array([[10, 60], [40, 50], [80, 20]], float)
    lines = along_a_path(path, 12.0, None, Speed(40, 0.2, 0.8, 0.4, 0.6, 2))
    from plain_stride.tone.nets import even_places

    course = shapely.LineString(even_places(path))
    away = np.concatenate([shapely.distance(course, shapely.points(one.points)) for one in lines])
    assert len(lines) == 40 and away.max() <= 6.5
    with pytest.raises(ToneError, match="no speed line"):
        along_a_path(path, 12.0, field_of([SQUARE + 200.0]), Speed(10, 0.2, 0.8))
    with pytest.raises(ToneError, match="speed lines are"):
        Speed(0, 0.2, 0.8)


def test_a_cut_stroke_ends_blunt_where_it_is_cut():
    from plain_stride.tone.drawn_strokes import Drawn

    one = Drawn(np.array([[0.0, 5.0], [20.0, 5.0]]), 0.5, 0.2, 0.2)
    (cut,) = clipped([one], shapely.box(10, 0, 30, 10))
    assert (cut.start, cut.end) == (0.0, 0.2) and cut.points[0].tolist() == [10.0, 5.0]
    assert clipped([], shapely.box(0, 0, 1, 1)) == []


def test_the_core_shadow_of_a_disc_is_a_crescent_of_the_asked_depth():
    """Two circles of one radius r whose middles lie d apart share 2 r^2 acos(d / 2r) - d / 2 sqrt(4 r^2 - d^2)."""
    r, share = 10.0, 0.4
    disc = shapely.Point(50, 50).buffer(r, quad_segs=200)
    assert form_width(disc) == pytest.approx(2 * r, rel=1e-3)
    away = np.array([1.0, 1.0]) / np.sqrt(2.0)
    crescent = core_shadow(disc, away, share)
    d = share * 2.0 * r
    shared = 2 * r * r * np.arccos(d / (2 * r)) - d / 2 * np.sqrt(4 * r * r - d * d)
    assert crescent.area == pytest.approx(np.pi * r * r - shared, rel=5e-3)
    assert crescent.covers(shapely.Point(50 + 0.95 * r * away[0], 50 + 0.95 * r * away[1]))
    assert not crescent.intersects(shapely.Point(50 - 0.5 * r, 50 - 0.5 * r))
    with pytest.raises(ToneError, match="share"):
        core_shadow(disc, away, 0.0)


def test_a_cast_shadow_is_what_an_edge_sweeps():
    edge, wall = np.array([[10.0, 10.0], [30.0, 10.0]]), shapely.box(0, 0, 100, 20)
    shadow = cast_shadow(edge, np.array([0.6, 0.8]), 25.0, wall)
    assert shadow.area == pytest.approx(20.0 * 10.0)
    with pytest.raises(ToneError, match="no cast shadow"):
        cast_shadow(edge, np.array([0.0, -1.0]), 5.0, shapely.box(0, 50, 10, 60))


def test_the_next_strokes_go_on_as_the_last_two_lie():
    first = np.array([[0.0, 0.0], [10.0, 0.0]])
    last = np.array([[1.0, 2.0], [10.5, 2.0]])
    a, b = next_courses(last, first, 2, None)
    assert a[0] == pytest.approx([2.0, 4.0]) and a[-1] == pytest.approx([11.0, 4.0])
    assert b[0] == pytest.approx([3.0, 6.0]) and b[-1] == pytest.approx([11.5, 6.0])
    (reversed_too,) = next_courses(last, first[::-1], 1, None)
    assert np.allclose(reversed_too, a)
    (wider,) = next_courses(last, first, 1, 3.0)
    assert wider[len(wider) // 2][1] == pytest.approx(5.0)
    (alone,) = next_courses(first, None, 1, 1.5)
    # To the right of what travels to the right lies what is below: y grows.
    assert np.allclose(alone[:, 1], 1.5) and next_courses(first, None, 1, None) == []
    assert belongs(last, first) and not belongs(last, first + 50.0)
    assert not belongs(last, np.array([[0.0, 0.0], [0.0, 10.0]])) and not belongs(last, first * 9.0)


def test_black_is_what_a_disc_fits_into_and_lines_are_none():
    dark = np.zeros((400, 600))
    dark[:, 5::10] = 1.0
    assert not solid_of(dark, 5.0).any()
    dark[300:400, 0:100] = 1.0
    found = balance_of(dark, 5.0)
    assert found.black == pytest.approx(10_000 / 240_000, rel=0.03)
    assert found.centre == pytest.approx((50 / 600, 350 / 400), abs=0.01)
    assert found.heaviest == "lower left" and sum(found.fields) == pytest.approx(1.0)
    assert balance_of(np.zeros((30, 30)), 5.0).heaviest == "" and balance_of(np.ones((30, 30)), 5.0).black == 1.0
    middle = np.zeros((90, 90))
    middle[35:55, 35:55] = 1.0
    assert balance_of(middle, 5.0).heaviest == "middle"
