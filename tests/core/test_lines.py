"""Curves, fits, widths, crossings, given lines, recipes.

Outside: circle by four cubics errs 2.73e-4 r (a closed form); arc lengths against SciPy's quadrature and closed forms;
areas of constant-width outlines against Shapely's buffers.
"""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

from plain_stride.hand.nib import DEFAULT_NIB, Nib, Steadying
from plain_stride.hand.pull import Pull, checked_samples
from plain_stride.hand.resample import read_at
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.lines import curve as c
from plain_stride.lines.centre import centreline_of
from plain_stride.lines.cross import crossings, nearest, self_crossings
from plain_stride.lines.curve import Arc, CurveError
from plain_stride.lines.edge_curves import edge_curves
from plain_stride.lines.edits import End, Span, Swell
from plain_stride.lines.fit import fit_path, fit_smooth, sharp_points, worst_distance
from plain_stride.lines.given import GivenError, form_from_points, form_of_width
from plain_stride.lines.outline import discs_along, outline, rings_area
from plain_stride.lines.profile import Widths, grid_for, limit_slope, needed, pointed, swell
from plain_stride.lines.recipe import LineError, Recipe, even_profile, given_centreline, shape_of

U = np.linspace(0.0, 1.0, 600)


def round_the(radius: float, sweep: float = 2 * np.pi) -> np.ndarray:
    return radius * np.column_stack([np.cos(sweep * U), np.sin(sweep * U)])


def even(width: float, length: float) -> Widths:
    s = grid_for(length)
    return Widths(s, np.full(len(s), width / 2), np.full(len(s), width / 2))


# Curves


def test_a_circle_of_four_cubics_errs_by_2_73e_4():
    p = c.flatten(c.circle((3.0, -2.0), 10.0), 1e-5) - (3.0, -2.0)
    off = np.abs(np.hypot(*p.T) - 10.0).max()
    assert off / 10.0 == pytest.approx(2.73e-4, rel=0.01)


def test_arc_length_agrees_with_quadrature():
    piece = np.array([[[0, 0], [30, 40], [-20, 35], [25, 5]]], float)

    def speed(u):
        return float(np.hypot(*c.derivative(piece, np.array([0]), np.array([u]))[0]))

    assert Arc(piece).length == pytest.approx(quad(speed, 0, 1, epsabs=1e-12)[0], abs=1e-7)


def test_places_at_arc_lengths_are_where_they_should_be():
    arc = Arc(fit_path(round_the(10.0, 3.0), np.zeros(0, int))[0])
    s = np.linspace(0, arc.length, 50)
    assert arc.length_at(*arc.locate(s)) == pytest.approx(s, abs=1e-8)
    assert np.hypot(*(arc.point(s) - 10.0 * np.column_stack([np.cos(s / 10), np.sin(s / 10)])).T).max() < 0.03


@settings(max_examples=40)
@given(st.floats(0.0, 0.98), st.floats(0.01, 0.5))
def test_a_stretch_is_exactly_that_part_of_the_curve(start, share):
    arc = Arc(fit_path(round_the(8.0, 5.0), np.zeros(0, int))[0])
    a, b = start * arc.length, min(start + share, 1.0) * arc.length
    part = Arc(c.between(arc, a, b))
    assert part.length == pytest.approx(b - a, abs=1e-6)
    inside = np.linspace(0, part.length, 9)
    assert part.point(inside) == pytest.approx(arc.point(a + inside), abs=1e-6)


def test_an_empty_stretch_is_an_error():
    with pytest.raises(CurveError):
        c.between(Arc(c.circle((0, 0), 1.0)), 2.0, 2.0)


def test_flattening_stays_within_its_tolerance():
    curve = fit_path(round_the(5.0), np.zeros(0, int))[0]
    coarse, fine = c.flatten(curve, 0.05), c.flatten(curve, 1e-4)
    assert shapely.hausdorff_distance(shapely.LineString(coarse), shapely.LineString(fine)) <= 0.05
    assert len(coarse) < len(fine) / 5


# Fits


@pytest.mark.parametrize("pace", ["careful", "normal", "fast"])
def test_a_steadied_pull_is_fitted_within_0_02_mm(pace):
    pieces, length = 0, 0.0
    for seed in range(8):
        rng = np.random.default_rng(seed)
        angle = np.cumsum(rng.normal(0.0, 0.45, 6))
        knots = np.cumsum(np.column_stack([np.cos(angle), np.sin(angle)]) * 10.0, axis=0)
        target = read_at(np.arange(6.0), knots, np.linspace(0, 5, 300))
        samples = pulled(target, HANDS["average"], pace, seed)
        centre = centreline_of(Pull(samples), Steadying())
        dense = np.column_stack(
            [np.interp(centre.source_t, centre.source_t, v) for v in Arc(centre.curve).point(centre.s).T]
        )
        assert np.isfinite(dense).all()
        pieces, length = pieces + len(centre.curve), length + Arc(centre.curve).length
    assert pieces / length * 100 <= 28


def test_a_fit_keeps_to_its_path_when_measured_with_150_points_a_piece():
    path = np.column_stack([40 * U, 6 * np.sin(9 * U) + 2 * np.sin(31 * U)])
    curve, joints = fit_path(path, np.zeros(0, int))
    assert worst_distance(curve, joints, path) <= 0.02
    assert curve[0, 0] == pytest.approx(path[0])
    assert curve[-1, 3] == pytest.approx(path[-1])


def test_neighbouring_pieces_share_their_direction():
    curve, _ = fit_path(np.column_stack([40 * U, 6 * np.sin(9 * U)]), np.zeros(0, int))
    out, into = curve[:-1, 3] - curve[:-1, 2], curve[1:, 1] - curve[1:, 0]
    cross = out[:, 0] * into[:, 1] - out[:, 1] * into[:, 0]
    assert np.abs(cross / (np.hypot(*out.T) * np.hypot(*into.T))).max() < 1e-6


def test_corners_stay_corners():
    path = np.vstack([np.column_stack([20 * U, 0 * U]), np.column_stack([20 + 0 * U, 15 * U])[1:]])
    curve, joints = fit_path(path, np.array([599]))
    assert 599 in joints
    assert len(curve) <= 8
    assert worst_distance(curve, joints, path) < 1e-6


@pytest.mark.parametrize("points", [[[0, 0], [1, 1]], [[0, 0], [1, 0], [2, 0]], [[0, 0], [1, 0], [1, 1], [0, 1]]])
def test_few_points_are_fitted(points):
    curve, joints = fit_smooth(np.array(points, float), 0.02)
    assert curve[0, 0] == pytest.approx(points[0])
    assert joints[-1] == len(points) - 1


def test_sharp_points_of_a_square():
    square = np.array([[0, 0], [5, 0], [10, 0], [10, 10], [0, 10]], float)
    assert sharp_points(square).tolist() == [2, 3]
    assert sharp_points(square, closed=True).tolist() == [0, 2, 3, 4]


# Widths


@settings(max_examples=50)
@given(st.lists(st.floats(0.0, 3.0), min_size=3, max_size=60))
def test_the_slope_limit_is_the_largest_profile_below(values):
    w, s = np.array(values), np.linspace(0, 10, len(values))
    out = limit_slope(w, s)
    direct = np.array([(w + 0.35 * np.abs(s - at)).min() for at in s])
    assert out == pytest.approx(direct, abs=1e-9)


def test_thinned_widths_stay_within_their_tolerance():
    s = np.linspace(0, 50, 1000)
    w = 0.5 + 0.3 * np.sin(s / 4)
    keep = needed(s, w, 0.004)
    assert np.abs(np.interp(s, s[keep], w[keep]) - w).max() <= 0.004
    assert len(keep) < 100


def test_a_swell_fades_over_2_mm_inside_its_ends():
    w = swell(even(1.0, 60.0), 20.0, 40.0, 1.5, "both", (True, True))
    full = dict(zip(np.round(w.s, 3), w.full, strict=True))
    assert full[20.0] == full[40.0] == full[10.0] == pytest.approx(1.0)
    assert full[22.0] == full[30.0] == full[38.0] == pytest.approx(1.5)
    assert 1.0 < full[21.0] < 1.5


def test_a_short_swell_fades_over_a_fifth():
    w = swell(even(1.0, 60.0), 20.0, 25.0, 2.0, "both", (True, True))
    assert np.interp([21.0, 24.0], w.s, w.full) == pytest.approx([2.0, 2.0])


def test_a_swell_of_one_side_leaves_the_other():
    w = swell(even(1.0, 60.0), 20.0, 40.0, 2.0, "left", (True, True))
    assert w.right == pytest.approx(0.5)
    assert w.left.max() == pytest.approx(1.0)


def test_pointed_ends_take_at_most_a_third():
    w = pointed(even(1.0, 3.0), 2.0, 2.0)
    assert w.full[0] == pytest.approx(0.12)
    assert np.interp([1.0, 1.5, 2.0], w.s, w.full) == pytest.approx([1.0, 1.0, 1.0])


# Outlines


def outline_of(points, widths_of, corners=(), closed=False):
    curve, _ = fit_path(points, np.array(corners, int))
    arc = Arc(curve)
    s = grid_for(arc.length)
    left, right = widths_of(s / arc.length)
    w = Widths(s, left + 0 * s, right + 0 * s)
    rings = outline(discs_along(curve, arc.at_piece_ends(), w), closed, (False, False))
    return curve, arc, w, rings


def discs(arc: Arc, w: Widths, n: int = 3000) -> float:
    """Area of the union of dense discs along a line (Shapely)."""
    s = np.linspace(0, arc.length, n)
    p, d = arc.point(s), arc.direction(s)
    left, right = w.at(s)
    middle = p + np.column_stack([d[:, 1], -d[:, 0]]) * ((left - right) / 2)[:, None]
    return shapely.unary_union(shapely.buffer(shapely.points(middle), (left + right) / 2, quad_segs=64)).area


LOOP = np.column_stack([20 * U + 6 * np.sin(4 * np.pi * U), 6 * np.cos(4 * np.pi * U)])
HAIRPIN = np.vstack(
    [np.column_stack([10 * U, 0 * U - 0.3]), np.column_stack([10 + 0.3 * np.sin(np.pi * U), -0.3 * np.cos(np.pi * U)])[1:],
     np.column_stack([10 - 10 * U, 0 * U + 0.3])[1:]]
)  # fmt: skip
ZOO = {
    "straight": (np.column_stack([50 * U, 0 * U]), lambda v: (0.25, 0.25), ()),
    "tapered": (np.column_stack([50 * U, 0 * U]), lambda v: (0.4 * (0.1 + np.sin(np.pi * v)), 0.25 * (0.1 + np.sin(np.pi * v))), ()),
    "arc": (round_the(10.0, 3.0), lambda v: (0.25, 0.25), ()),
    "wider than its bend": (round_the(0.3, 3.0), lambda v: (0.5, 0.5), ()),
    "hairpin": (HAIRPIN, lambda v: (0.5, 0.5), ()),
    "loop": (LOOP, lambda v: (0.4, 0.4), ()),
    "one-sided loop": (LOOP, lambda v: (0.6 * (0.2 + v), 0.2 + 0 * v), ()),
    "corner": (np.vstack([np.column_stack([10 * U, 0 * U]), np.column_stack([10 - 5 * U, 8 * U])[1:]]), lambda v: (0.35, 0.35), (599,)),
    "spiral": ((0.05 + 3 * U)[:, None] * np.column_stack([np.cos(20 * U), np.sin(20 * U)]), lambda v: (0.45, 0.45), ()),
}  # fmt: skip


@pytest.mark.parametrize("name", ZOO)
def test_an_outline_is_the_union_of_dense_discs(name):
    points, widths_of, corners = ZOO[name]
    curve, arc, w, rings = outline_of(points, widths_of, corners)
    truth = discs(arc, w)
    assert rings_area(rings) == pytest.approx(truth, rel=1e-3)
    curves = edge_curves(rings, len(curve))
    assert rings_area([c.flatten(r, 1e-4)[:-1] for r in curves]) == pytest.approx(truth, rel=1e-3)
    assert sum(map(len, curves)) <= 4 * len(curve)
    assert all(shapely.LinearRing(r).is_simple for r in rings)


def test_a_closed_line_has_an_outer_ring_and_a_hole():
    form = form_from_points(round_the(5.0)[:-1:7], np.full(86, 0.25), np.full(86, 0.25), closed=True)
    arc = Arc(form.curve)
    rings = outline(discs_along(form.curve, arc.at_piece_ends(), form.widths), True, (False, False))
    assert len(rings) == 2
    assert rings_area(rings) == pytest.approx(np.pi * (5.25**2 - 4.75**2), rel=2e-3)


@pytest.mark.parametrize("width", [0.2, 0.7])
@pytest.mark.parametrize("cap", [False, True])
def test_constant_width_agrees_with_shapelys_buffer(width, cap):
    curve, _ = fit_path(np.column_stack([30 * U, 4 * np.sin(5 * U)]), np.zeros(0, int))
    arc = Arc(curve)
    rings = outline(discs_along(curve, arc.at_piece_ends(), even(width, arc.length)), False, (cap, cap))
    line = shapely.LineString(c.flatten(curve, 1e-4))
    truth = shapely.buffer(line, width / 2, quad_segs=64, cap_style="flat" if cap else "round")
    ours = shapely.Polygon(rings[0])
    assert shapely.symmetric_difference(ours, truth).area / truth.area < 2e-3


# Crossings


def test_crossings_of_two_straights():
    a, b = np.array([[0, 0], [10, 0]], float), np.array([[4, -5], [4, 5]], float)
    i, j = crossings(a, b)
    assert i == pytest.approx([0.4])
    assert j[0] == pytest.approx(0.5, abs=0.01)


def test_a_line_that_only_just_reaches_counts():
    a = np.array([[0, 0], [10, 0]], float)
    assert len(crossings(a, np.array([[5, 5], [5, 0.015]]))[0]) == 1
    assert len(crossings(a, np.array([[5, 5], [5, 0.2]]))[0]) == 0


def test_many_crossings_agree_with_shapely():
    a = np.column_stack([60 * U, 5 * np.sin(40 * U)])
    b = np.column_stack([60 * U, 5 * np.cos(33 * U)])
    inter = shapely.intersection(shapely.LineString(a), shapely.LineString(b))
    assert len(crossings(a, b)[0]) == len(inter.geoms)


def test_a_loop_crosses_itself_once():
    loop = np.column_stack([np.cos(5 * U) * 8 + 5 * U, np.sin(7 * U) * 8])
    found = self_crossings(loop)
    inter = shapely.LineString(loop).is_simple
    assert len(found) == (0 if inter else 2)


def test_the_nearest_place_is_the_foot():
    assert nearest(np.array([[0, 0], [10, 0], [10, 10]], float), np.array([4.0, 3.0])) == pytest.approx((3.0, 0.4))


# Given lines


@settings(max_examples=25)
@given(st.integers(0, 1000), st.booleans())
def test_given_points_stay_on_the_line_with_their_widths(seed, closed):
    rng = np.random.default_rng(seed)
    n = 60
    a = np.linspace(0, 2 * np.pi, n, endpoint=False)
    r = 20 + 3 * np.sin(3 * a + rng.uniform(0, 6)) + 2 * np.cos(2 * a)
    p = np.column_stack([r * np.cos(a), r * np.sin(a)])
    half = 0.2 + 0.1 * np.sin(a)
    form = form_from_points(p, half, half * 0.5, closed)
    flat = shapely.LineString(c.flatten(form.curve, 5e-4))
    assert shapely.distance(flat, shapely.points(p)).max() <= 0.01
    arc = Arc(form.curve)
    places = arc.point(form.widths.s[:n])
    assert np.hypot(*(places - p).T).max() < 0.02
    assert form.widths.left[:n] == pytest.approx(half)


def test_a_given_square_keeps_its_corners():
    form = form_from_points(np.array([[0, 0], [10, 0], [10, 10], [0, 10]]), [0.2] * 4, [0.2] * 4, closed=True)
    assert Arc(form.curve).length == pytest.approx(40.0)
    assert form.curve[0, 0] == pytest.approx([0, 0])


@pytest.mark.parametrize(
    ("points", "widths"),
    [([], []), ([[0, 0], [1, 1]], [0.1]), ([[0, 0], [1, float("nan")]], [1, 1]), ([[0, 0], [1, 1]], [-1, 1]),
     ([[0, 0], [1e7, 1]], [1, 1]), ([[0, 0, 0]], [1]), ([[0, 0], [1, 1]], [1, 9999])],
)  # fmt: skip
def test_what_is_no_line_is_refused(points, widths):
    with pytest.raises(GivenError):
        form_from_points(np.array(points, float), np.array(widths), np.array(widths), closed=False)


# The recipe


def tap(x=5.0, y=7.0, pressure=0.5):
    return Pull(checked_samples([[x, y, pressure, 0.0], [x, y, pressure, 0.02]]))


def straight_pull(pressure=0.5, length=40.0, nib=DEFAULT_NIB):
    u = np.linspace(0, 1, 200)
    s = length * u**3 * (10 - 15 * u + 6 * u * u)
    return Pull(np.column_stack([s, 0 * s, np.full(200, pressure), u, np.full(200, np.nan)]), nib)


def recipe(pull, **more):
    ends = more.pop("ends", (End("round"), End("round")))
    return Recipe(centreline_of(pull, more.pop("setting", Steadying())), pull.nib, ends, **more)


def test_a_tap_is_a_dot_of_the_nibs_width():
    shape = shape_of(recipe(tap()))
    assert rings_area(shape.rings) == pytest.approx(np.pi * 0.3**2, rel=2e-3)
    assert np.mean(shape.rings[0], axis=0) == pytest.approx([5.0, 7.0], abs=1e-3)
    outline = edge_curves(shape.rings, len(shape.curve))
    assert sum(map(len, outline)) <= 4


def test_pressure_goes_through_the_nib():
    shape = shape_of(recipe(straight_pull(0.5)))
    assert np.median(shape.widths.full) == pytest.approx(0.6, abs=1e-6)


def test_half_widths_follow_given_left_and_right():
    form = form_from_points(np.array([[0, 0], [40, 0]]), [0.4, 0.4], [0.1, 0.1], closed=False)
    shape = shape_of(
        Recipe(given_centreline(form.curve), DEFAULT_NIB, (End("flat", 0.0), End("flat", 0.0)), given=form.widths)
    )
    ys = np.vstack(shape.rings)[:, 1]
    assert ys.min() == pytest.approx(-0.4, abs=1e-3)  # left of a line that runs to the right is up
    assert ys.max() == pytest.approx(0.1, abs=1e-3)


def test_a_long_straight_side_next_to_a_short_bend_stays_straight():
    bend = [(40 + 2 * np.sin(a), 2 - 2 * np.cos(a)) for a in np.radians([20, 40, 60, 80])]
    points = np.array([(0.0, 0.0), (40.0, 0.0), *bend])
    form = form_from_points(points, np.full(6, 0.2), np.full(6, 0.2), closed=False)
    along = c.flatten(form.curve, 0.001)
    side = along[along[:, 0] < 39.9]
    assert len(side) and np.abs(side[:, 1]).max() < 0.01


def test_share_mixes_hand_and_plan_by_ratio():
    for share, wanted in ((0.0, 0.6), (0.5, (0.6 * 0.3) ** 0.5), (1.0, 0.3)):
        shape = shape_of(recipe(straight_pull(0.5), plan=even_profile(0.3), share=share))
        assert np.median(shape.widths.full) == pytest.approx(wanted, abs=1e-6)


def test_a_trim_stays_where_it_was_when_steadying_changes():
    u = np.linspace(0, 1, 300)
    s = 60 * u**3 * (10 - 15 * u + 6 * u * u)
    shake = 0.4 * np.sin(2 * np.pi * 10 * u * 2)
    pull = Pull(np.column_stack([s, shake, np.full(300, 0.5), 2 * u, np.full(300, np.nan)]))
    own = float(np.interp(20.0, s, 2 * u))
    starts = []
    for setting in (Steadying("off"), Steadying()):
        centre = centreline_of(pull, setting)
        shape = shape_of(
            Recipe(centre, DEFAULT_NIB, (End("round"), End("round")), span=Span(own, float(centre.source_t[-1])))
        )
        starts.append(shape.curve[0, 0])
    assert starts[0][0] == pytest.approx(20.0, abs=0.1)
    assert starts[1][0] == pytest.approx(20.0, abs=0.1)


def test_trims_of_a_closed_line_may_pass_its_seam():
    form = form_of_width(c.circle((0.0, 0.0), 10.0), True, 0.4)
    centre = given_centreline(form.curve)
    total = float(centre.s[-1])
    ends = (End("round", 0.0), End("round", 0.0))
    shape = shape_of(Recipe(centre, DEFAULT_NIB, ends, True, form.widths, span=Span(0.75 * total, 1.25 * total)))
    assert not shape.closed
    assert shape.length == pytest.approx(total / 2, abs=1e-6)
    assert shape.arc.point(np.array([shape.length / 2]))[0] == pytest.approx(form.curve[0, 0], abs=1e-6)
    assert shape.widths.full == pytest.approx(0.4)


def test_nothing_left_is_an_error():
    with pytest.raises(LineError):
        shape_of(recipe(straight_pull(), span=Span(0.3, 0.3)))


def test_edits_keep_to_their_stretch():
    centre = centreline_of(straight_pull(), Steadying())
    a, b = (float(np.interp(v, centre.s, centre.source_t)) for v in (10.0, 20.0))
    shape = shape_of(Recipe(centre, DEFAULT_NIB, (End("round"), End("round")), edits=(Swell(a, b, 1.4),)))
    w = np.interp([5.0, 15.0, 25.0], shape.widths.s, shape.widths.full)
    assert w == pytest.approx([0.6, 0.84, 0.6], abs=1e-6)


def test_the_swell_limit_holds_on_a_pressed_pull():
    pull = straight_pull(nib=Nib("w", 0.2, 6.0))
    pull.samples[90:110, 2] = 1.0
    shape = shape_of(recipe(pull))
    assert np.abs(np.diff(shape.body.full) / np.diff(shape.body.s)).max() <= 0.35 + 1e-9


def test_json_points_and_widths_are_within_a_hundredth():
    pull = Pull(pulled(np.column_stack([50 * U, 8 * np.sin(6 * U)]), HANDS["calm"], "normal", 1))
    shape = shape_of(recipe(pull, ends=(End("pointed"), End("pointed"))))
    points, left, right = shape.width_points()
    s = np.linspace(0, shape.length, 3000)
    away = shapely.distance(shapely.LineString(points), shapely.points(shape.arc.point(s)))
    assert away.max() <= 0.01
    at = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    read = np.interp(s, at * shape.length / at[-1], left + right)
    assert np.abs(read - sum(shape.widths.at(s))).max() <= 0.01


@pytest.mark.parametrize("over", [0.0, 6.0, 15.0])
@pytest.mark.parametrize("radius", [0.6, 0.8, 3.0])
def test_a_ring_whose_ends_overlap_is_a_ring(radius, over):
    """Its end lies in the ink of its start: by the area of an annulus, and an independent library's count of holes."""
    import shapely

    from plain_stride.lines.given import form_from_points
    from plain_stride.lines.outline import discs_along, outline

    angle = np.radians(np.linspace(0.0, 360.0 + over, 90))
    points = np.column_stack([10 + radius * np.cos(angle), 10 + radius * np.sin(angle)])
    # Heavier at its start, so that its last disc lies within an early one.
    half = np.interp(np.linspace(0, 1, 90), [0.0, 0.2, 1.0], [0.16, 0.19, 0.13])
    form = form_from_points(points, half, half, False)
    discs = discs_along(form.curve, Arc(form.curve).at_piece_ends(), form.widths, 1.0)
    whole = shapely.unary_union([shapely.Polygon(r) for r in outline(discs, False, (False, False)) if _turns(r) > 0])
    ring = whole.difference(shapely.unary_union(
        [shapely.Polygon(r) for r in outline(discs, False, (False, False)) if _turns(r) < 0]))  # fmt: skip
    assert ring.area == pytest.approx(2.0 * np.pi * radius * 2.0 * half.mean(), rel=0.15)
    assert len(getattr(ring, "interiors", [])) == 1


def _turns(ring):
    x, y = np.asarray(ring).T
    area = float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)))
    return area if area else 0.0
