"""Greys made of lines, in the core. Outside: Shapely's areas and distances; closed forms for ruled and crossed sets;
Murray and Davies 1936 for reflectance."""

import itertools

import numpy as np
import pytest
import shapely

from plain_stride.board.targets import STANDARD
from plain_stride.tone.covered import covered
from plain_stride.tone.errors import ToneError
from plain_stride.tone.field import Field, field_of
from plain_stride.tone.grey import grey_over
from plain_stride.tone.hatching import Hatch, Holds, hatched
from plain_stride.tone.measured import Wanted, cells_of, coverage, evenness_of, prints, reads_as_grid
from plain_stride.tone.nets import Across, Between, Shifted, bow_of, straight_net
from plain_stride.tone.printed import INK, PAPER, printed, reflectance
from plain_stride.tone.uneven import Hand

SQUARE = np.array([[20, 20], [70, 20], [70, 70], [20, 70]], float)
ROUND = np.array([(45 + 25 * np.cos(a), 45 + 25 * np.sin(a)) for a in np.linspace(0, 2 * np.pi, 240)[:-1]])
X = np.linspace(20, 70, 60)
UPPER, LOWER = (np.column_stack([X, y + d * np.sin(np.linspace(0, np.pi, 60))]) for y, d in ((30, -8), (62, 5)))
DRAWN = np.array([[30, 60], [40, 50], [45, 40], [46, 30]], float)
BOWED = bow_of(np.array([[0, 0], [3, 10], [3, 20], [0, 30]], float))
HOLDS = Holds()


def lens():
    """A field whose upper and lower edge strokes lead over into each other."""
    return field_of([np.vstack([UPPER, LOWER[::-1]])])


def nets():
    of_round, of_lens = field_of([ROUND]), lens()
    return {
        "straight": (of_round, straight_net(of_round, 45.0)),
        "shifted": (of_round, Shifted(DRAWN, of_round.reach)),
        "between": (of_lens, Between(UPPER, LOWER)),
        "across": (of_lens, Across(UPPER, LOWER, BOWED)),
    }


def laid(field, net, start, end=None, towards=45.0, **more):
    grey = grey_over(field, start, start if end is None else end, towards)
    return hatched(field, net, grey, Hatch(0.2, 1.0, **more), HOLDS)


def covers(field, sets):
    ink = shapely.union_all(np.concatenate([one.strokes.areas() for one in sets]))
    return shapely.area(shapely.intersection(ink, field.area)) / field.area.area


@pytest.mark.parametrize("kind", ["straight", "shifted", "between", "across"])
@pytest.mark.parametrize("grey", [0.1, 0.4, 0.8])
@pytest.mark.parametrize("crossing", [(), (25.0,)])
def test_a_set_covers_what_is_asked(kind, grey, crossing):
    field, net = nets()[kind]
    sets = laid(field, net, grey, crossing=crossing)
    assert covers(field, sets) == pytest.approx(grey, abs=0.012)
    # The closed form of one ruled set: what its widths cover of its pitch.
    if kind == "straight" and not crossing:
        width = 2.0 * float(sets[0].strokes.half.mean())
        assert width / sets[0].pitch == pytest.approx(grey, rel=0.02)
    if crossing:
        each = [covers(field, [one]) for one in sets]
        assert 1.0 - np.prod([1.0 - a for a in each]) == pytest.approx(grey, abs=0.01)


@pytest.mark.parametrize("kind", ["straight", "shifted", "between", "across"])
def test_ruled_strokes_are_even_at_their_middles_and_end_on_their_edges(kind):
    field, net = nets()[kind]
    (one,) = laid(field, net, 0.6, 0.2, 90.0)
    strokes, lines = one.strokes, shapely.linestrings(one.strokes.points)
    middles = shapely.points(strokes.middles)
    rest = []
    for k in range(len(strokes)):
        after = np.flatnonzero(strokes.row == strokes.row[k] + 1)
        if len(after):
            away = shapely.distance(middles[k], lines[after])
            n = after[away.argmin()]
            at = shapely.line_locate_point(lines[n], middles[k])
            if 1e-6 < at < lines[n].length - 1e-6:
                rest.append(away.min() / strokes.apart[k, 1])
    assert len(rest) > 40 and np.std(rest) / np.mean(rest) <= 0.02
    for end in (0, -1):
        assert shapely.distance(field.area.exterior, shapely.points(strokes.points[:, end])).max() <= 0.05


@pytest.mark.parametrize("evenness", [0.2, 0.5, 1.0])
@pytest.mark.parametrize("kind", ["straight", "shifted", "between", "across"])
def test_made_by_hand_it_is_as_uneven_as_asked(kind, evenness):
    field, net = nets()[kind]
    hand = Hand(evenness, 5)
    (one,) = laid(field, net, 0.35, hand=hand)
    centres, widths = list(one.strokes.points), one.strokes.middle_widths
    told = evenness_of(centres, widths, Wanted(one.strokes.row, one.strokes.apart, one.strokes.asked))
    assert told.cv_pitch == pytest.approx(hand.cv_pitch, abs=0.03)
    assert told.cv_width == pytest.approx(hand.cv_width, abs=0.03)
    # Without knowing what was asked, as of hatching that was pulled by hand.
    free = evenness_of(centres, widths)
    assert free.cv_pitch == pytest.approx(hand.cv_pitch, abs=0.04)
    assert covers(field, [one]) == pytest.approx(0.35, abs=0.02)


def test_the_same_seed_gives_the_same_strokes_and_another_others():
    field = field_of([SQUARE])
    a, b, c = (laid(field, straight_net(field, 30.0), 0.3, hand=Hand(0.7, seed))[0].strokes for seed in (1, 1, 2))
    assert np.array_equal(a.points, b.points) and np.array_equal(a.half, b.half)
    assert a.points.shape != c.points.shape or not np.allclose(a.points, c.points)


def test_a_ramp_grows_lighter_all_the_way():
    field = field_of([SQUARE])
    for angle, towards in ((30.0, 30.0), (30.0, 120.0), (90.0, 45.0)):
        sets = laid(field, straight_net(field, angle), 0.7, 0.1, towards)
        way, ink = np.array([np.sin(np.radians(towards)), -np.cos(np.radians(towards))]), []
        along = SQUARE @ way
        cuts = np.linspace(along.min(), along.max(), 9)
        areas = shapely.union_all(np.concatenate([one.strokes.areas() for one in sets]))
        for a, b in itertools.pairwise(cuts.tolist()):
            side = np.array([-way[1], way[0]])
            band = shapely.Polygon([way * s + side * t for s, t in ((a, -200), (b, -200), (b, 200), (a, 200))])
            band = band.intersection(field.area)
            if band.area > 40.0:
                ink.append(areas.intersection(band).area / band.area)
        assert np.all(np.diff(ink) < 0.005) and ink[0] > ink[-1] + 0.35


def test_pitches_widen_by_the_rate_towards_the_light():
    field = field_of([SQUARE])
    (one,) = laid(field, straight_net(field, 0.0), 0.6, 0.2, 90.0, widening=0.03, pitch=0.5)
    at = np.sort(one.strokes.middles[:, 0])
    gains = np.diff(at)[1:] / np.diff(at)[:-1]
    assert np.allclose(gains, 1.03, atol=0.004)


def test_fine_strokes_carry_others_on_and_never_lie_between():
    field = field_of([SQUARE])
    plain, more = (laid(field, straight_net(field, 0.0), 0.3, continued=mm)[0].strokes for mm in (0.0, 4.0))
    assert len(more) == 2 * len(plain)
    assert np.abs(more.points[len(plain) :, :, 0] - more.points[: len(plain), -1:, 0]).max() < 1e-6
    assert more.points[len(plain) :, :, 1].max() < 20.0


def test_what_cannot_be_laid_is_said():
    field = field_of([SQUARE])
    with pytest.raises(ToneError, match="white"):
        grey_over(field, 1.2, 0.2, 0.0)
    with pytest.raises(ToneError, match="cross by"):
        laid(field, straight_net(field, 10.0), 0.3, crossing=(181.0,))
    with pytest.raises(ToneError, match="no stroke runs"):
        laid(field, Between(UPPER + 200.0, LOWER + 200.0), 0.3)
    with pytest.raises(ToneError, match="wider pitch"):
        laid(field_of([SQUARE * 20.0]), straight_net(field_of([SQUARE * 20.0]), 0.0), 0.3, pitch=0.005)
    with pytest.raises(ToneError, match="draw round more"):
        field_of([SQUARE * 1e-3])
    with pytest.raises(ToneError, match="3 to"):
        field_of([SQUARE[:2]])


def test_holes_and_bow_ties_are_fields():
    hole = SQUARE * 0.4 + 27.0
    assert field_of([SQUARE, hole]).area.area == pytest.approx(2500 * (1 - 0.16))
    tie = field_of([SQUARE[[0, 2, 1, 3]]])
    assert tie.area.area == pytest.approx(1250)
    (one,) = laid(tie, straight_net(tie, 45.0), 0.3)
    assert covers(tie, [one]) == pytest.approx(0.3, abs=0.01)


# What ink covers, and what print makes of it


def test_pixels_are_covered_as_shapely_has_it():
    rng = np.random.default_rng(3)
    rings = []
    for _ in range(60):
        middle, size = rng.uniform(2, 18, 2), rng.uniform(0.2, 4)
        angles = np.sort(rng.uniform(0, 2 * np.pi, 9))
        rings.append(middle + size * np.column_stack([np.cos(angles), np.sin(angles)]))
    whole = shapely.union_all([shapely.Polygon(ring) for ring in rings])
    found = covered(rings, (0.0, 0.0, 20.0, 20.0), 24.0)
    assert found.shape == (480, 480)
    seen = shapely.intersection(whole, shapely.box(0, 0, 20, 20))
    assert found.mean() * 400.0 == pytest.approx(seen.area, rel=2e-3)
    at = rng.integers(0, 480, (300, 2))
    for row, column in at:
        pixel = shapely.box(column / 24, row / 24, (column + 1) / 24, (row + 1) / 24)
        assert found[row, column] == pytest.approx(whole.intersection(pixel).area * 576, abs=0.2)


def test_a_hole_turns_the_other_way():
    found = covered([SQUARE, (SQUARE * 0.4 + 27.0)[::-1]], (15.0, 15.0, 75.0, 75.0), 10.0)
    assert found.sum() / 100.0 == pytest.approx(2500 * (1 - 0.16), rel=1e-6)
    assert found[300, 300] == 0.0 and not covered([], (0, 0, 2, 2), 5.0).any()


@pytest.mark.parametrize("name", ["fine offset", "newsprint", "screen print on cloth", "phone"])
def test_lines_and_whites_hold_where_the_target_says_they_do(name):
    """Of bars from 0.4 to twice as wide as the target's own figures, drawn at its own resolution; what is nearer to them
    than its pixels tell is not judged."""
    target = STANDARD[name]
    per_mm = target.dpi / 25.4
    box = (0.0, 0.0, 8.0, 8.0)
    for share in (0.4, 1.3, 2.0):
        line, gap = (np.array([[3, -1], [3 + w, -1], [3 + w, 9], [3, 9]]) * 1.0
                     for w in (target.line_mm * share, target.gap_mm * share))  # fmt: skip
        dark = covered([line], box, per_mm)
        assert printed(dark, target).ink.any() == (share > 1.0)
        found = printed(1.0 - covered([gap], box, per_mm), target)
        assert (~found.ink).any() == (share > 1.0)
        assert found.closed.any() == (share < 1.0)


def test_ink_spreads_and_is_seen_as_darker():
    field = field_of([SQUARE])
    rings = list(laid(field, straight_net(field, 0.0), 0.3)[0].strokes.rings())
    assert coverage(rings, field.area) == pytest.approx(0.3, abs=0.003)
    fine, cloth = (prints(rings, field.area, STANDARD[name]) for name in ("fine offset", "screen print on cloth"))
    assert 0.3 < fine.coverage < 0.4 and fine.lost == 0.0
    # Strokes of 0.2 mm do not hold on cloth.
    assert cloth.coverage == 0.0 and cloth.lost == pytest.approx(0.3, abs=0.04)
    assert fine.reads > fine.coverage
    assert fine.reflectance == pytest.approx(fine.coverage * INK + (1 - fine.coverage) * PAPER)


def test_reflectance_is_murray_and_davies_and_meets_them_at_solid_and_paper():
    assert reflectance(0.5) == pytest.approx((INK + PAPER) / 2)
    for n in (1.0, 1.7, 4.0):
        assert reflectance(0.0, n) == pytest.approx(PAPER) and reflectance(1.0, n) == pytest.approx(INK)
    assert reflectance(0.5, 1.7) < reflectance(0.5)


def test_cells_are_rhombs():
    """Two sets of one pitch p that cross by c: sides p / sin c, diagonals 2 side cos(c / 2) and 2 side sin(c / 2)."""
    cells = cells_of([0.8, 0.8], 30.0)
    side = 0.8 / np.sin(np.radians(30.0))
    long, short = 2 * side * np.cos(np.radians(15.0)), 2 * side * np.sin(np.radians(15.0))
    assert cells.area == pytest.approx(long * short / 2) and cells.elongation == pytest.approx(long / short)
    assert cells_of([0.8], 30.0) is None
    assert reads_as_grid(2.0, 300.0) and not reads_as_grid(0.7, 300.0)


def test_few_strokes_and_strays_measure_too():
    assert evenness_of([], np.zeros(0)).pairs == 0
    two = [np.array([[0.0, 0.0], [10.0, 0.0]]), np.array([[0.0, 1.0], [10.0, 1.0]])]
    assert evenness_of(two, np.full(2, 0.3)).width == pytest.approx(0.3)
    rng = np.random.default_rng(0)
    y = np.arange(30) + rng.normal(0, 0.1, 30)
    strokes = [np.array([[0.0, v], [20.0, v]])[:: (1 if k % 2 else -1)] for k, v in enumerate(y)]
    told = evenness_of(strokes, np.full(30, 0.3))
    gaps = np.diff(y)
    assert told.pairs == 29 and told.cv_pitch == pytest.approx(gaps.std() / gaps.mean(), abs=0.03)
    assert told.pitch == pytest.approx(gaps.mean(), rel=1e-6)


def test_places_inside_a_field_are_spread_evenly():
    field = Field(shapely.Polygon(ROUND))
    assert len(field.inside) > 3000
    assert np.allclose(field.inside.mean(axis=0), 45.0, atol=0.05)
