"""The flats map. Outside: areas of known shapes in closed form, Shapely for overlaps; the sheet as a partition."""

import numpy as np
import pytest
import shapely

from plain_stride.form.flat_leaks import leaks_of
from plain_stride.form.flats import Bound, flats_map

SHEET = (0.0, 0.0, 120.0, 90.0)


def line(name, *points, part="A", half=0.2, outer=True):
    return Bound(name, part, np.array(points, float), half, outer)


def box(name, x0, y0, x1, y1, part="A", cut=0.0, **more):
    """Four lines round a box, each short of the next by a gap."""
    corners = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1], [x0, y0]], float)
    out = []
    for k in range(4):
        a, b = corners[k], corners[k + 1]
        way = (b - a) / np.hypot(*(b - a))
        out.append(line(f"{name}{k}", a, b - way * cut, part=part, **more))
    return out


def by_part(found, part):
    return [one for one in found.areas if one.part == part]


def test_a_box_is_an_area_and_the_sheet_round_it_is_the_rest():
    found = flats_map(box("a", 20, 20, 100, 70), ["A"], SHEET, 1.0)
    (inside,) = by_part(found, "A")
    (sheet,) = [one for one in found.areas if one.is_sheet]
    assert inside.area.area == pytest.approx(4000.0, rel=1e-4)
    assert sheet.area.area == pytest.approx(120 * 90 - 4000.0, rel=1e-4)
    assert set(inside.bounds) == {"a0", "a1", "a2", "a3"}


@pytest.mark.parametrize("gap", [0.3, 0.7, 0.98])
def test_gaps_up_to_what_is_bridged_do_not_leak_and_wider_ones_are_told(gap):
    lines = box("a", 20, 20, 100, 70, cut=gap + 0.4)
    closed = flats_map(lines, ["A"], SHEET, 1.0)
    (inside,) = by_part(closed, "A")
    assert inside.area.area == pytest.approx(4000.0, rel=5e-3)
    assert leaks_of(closed, lines, 1.0) == ()
    open_ = flats_map(lines, ["A"], SHEET, gap - 0.1)
    assert not by_part(open_, "A") or by_part(open_, "A")[0].area.area != pytest.approx(4000.0, rel=5e-3)


def test_a_leak_is_told_with_its_place_and_gap():
    a, b, c, _d = box("a", 20, 20, 100, 70)
    lines = [a, b, c, line("short", [20, 70], [20, 22.9])]
    found = flats_map(lines, ["A"], SHEET, 1.0)
    (leak,) = leaks_of(found, lines, 1.0)
    assert leak.at == pytest.approx((20.0, 21.45), abs=0.05)
    assert leak.gap == pytest.approx(2.9 - 0.4, abs=0.05)
    assert "short" in leak.lines and leak.area is None


def test_how_much_a_leak_would_close_is_told_where_it_is_near():
    a, b, c, _ = box("a", 20, 20, 40, 45)
    lines = [a, b, c, line("short", [20, 45], [20, 22.9])]
    (leak,) = leaks_of(flats_map(lines, ["A"], SHEET, 1.0), lines, 1.0)
    assert leak.area == pytest.approx(20 * 25, rel=1e-3)


def test_areas_never_lie_over_each_other_and_fill_the_sheet():
    rng = np.random.default_rng(4)
    lines = []
    for n in range(60):
        at, size = rng.uniform((2, 2), (100, 70)), rng.uniform(5, 18, 2)
        lines += box(f"b{n}-", *at, *(at + size), part=f"P{n % 5}", cut=rng.uniform(0, 0.8))
    found = flats_map(lines, [f"P{k}" for k in range(5)], SHEET, 1.0)
    areas = [one.area for one in found.areas]
    assert sum(one.area for one in areas) == pytest.approx(120 * 90, rel=1e-6)
    tree = shapely.STRtree(areas)
    for a, b in tree.query(areas, predicate="overlaps").T.tolist():
        assert shapely.intersection(areas[a], areas[b]).area < 1e-6


def test_the_nearest_part_that_goes_round_an_area_names_it():
    lines = box("n", 30, 30, 60, 60, part="Near") + box("f", 20, 20, 100, 80, part="Far")
    found = flats_map(lines, ["Near", "Far"], SHEET, 1.0)
    assert by_part(found, "Near")[0].area.area == pytest.approx(900.0, rel=1e-3)
    assert by_part(found, "Far")[0].area.area == pytest.approx(80 * 60 - 900.0, rel=1e-3)


def test_lines_of_several_parts_are_named_after_most_of_what_bounds_the_area():
    a, b, c, _d = box("a", 20, 20, 100, 70)
    other = line("o", [20, 70], [20, 20], part="B")
    found = flats_map([a, b, c, other], ["B", "A"], SHEET, 1.0)
    (inside,) = [one for one in found.areas if not one.edge]
    assert inside.part == "A"


def test_what_shows_between_two_forms_belongs_to_neither():
    """An arm akimbo: the pocket lies outside both."""
    body, arm = box("b", 20, 20, 40, 80, part="Body"), box("a", 60, 20, 80, 80, part="Arm")
    across = [
        line("t", [40, 25], [60, 25], part="Arm", outer=False),
        line("u", [40, 70], [60, 70], part="Arm", outer=False),
    ]
    found = flats_map(body + arm + across, ["Arm", "Body"], SHEET, 1.0)
    pocket = found.areas[int(found.at(np.array([[50.0, 50.0]]))[0])]
    assert pocket.area.area == pytest.approx(20 * 45, rel=1e-3) and pocket.part == ""


def test_a_contour_has_what_lies_below_it():
    hill = line("h", *[[x, 50 + 5 * np.sin(x / 20)] for x in np.linspace(0, 120, 80)], part="Hill")
    found = flats_map([hill], ["Hill"], SHEET, 1.0)
    below, above = (found.areas[k] for k in found.at(np.array([[60.0, 80.0], [60.0, 10.0]])))
    assert (below.part, above.part, above.is_sheet) == ("Hill", "", True)


def test_a_cut_parts_an_area():
    lines = box("a", 20, 20, 100, 70)
    found = flats_map(lines, ["A"], SHEET, 1.0, [np.array([[15.0, 45.0], [105.0, 45.0]])])
    assert sorted(one.area.area for one in by_part(found, "A")) == pytest.approx([2000.0, 2000.0], rel=1e-3)


def test_traps_reach_under_the_lines_and_never_out_of_them():
    lines = box("a", 20, 20, 60, 70, half=0.3) + box("b", 60, 20, 100, 70, part="B", half=0.1)
    found = flats_map(lines, ["A", "B"], SHEET, 1.0)
    ink = shapely.union_all([shapely.LineString(one.points).buffer(one.half) for one in lines])
    for one, area in zip(found.areas, found.trapped(0.2), strict=True):
        assert area.area > one.area.area
        assert shapely.difference(area, one.area.union(ink)).area < 1e-3
    a, b = (
        next(area for one, area in zip(found.areas, found.trapped(0.2), strict=True) if one.part == p) for p in "AB"
    )
    assert shapely.intersection(a, b).area > 0.1 * 50


@pytest.mark.parametrize("lines", [[], [line("dot", [5, 5], [5, 5])], [line("free", [10, 10], [50, 50])],
                                   [line("off", [-50, -50], [-10, -10])]])  # fmt: skip
def test_nothing_that_goes_round_anything_leaves_the_sheet(lines):
    found = flats_map(lines, ["A"], SHEET, 1.0)
    assert [one.is_sheet for one in found.areas] == [True]
    assert leaks_of(found, lines, 1.0) == ()
    assert found.at(np.array([[-5.0, -5.0], [60.0, 45.0]])).tolist() == [-1, 0]


def known_set(seed, gap):
    """Rounds and boxes of many parts with gaps, and what each place belongs to."""
    rng, lines, truth = np.random.default_rng(seed), [], []
    for n in range(40):
        x, y = 14.0 * (n % 8) + 4.0, 16.0 * (n // 8) + 4.0
        w, h = rng.uniform(6.0, 11.0, 2)
        part = f"P{n}"
        if n % 2:
            t = np.linspace(0.0, 2 * np.pi - gap / (w / 2), 60) + rng.uniform(0, 6)
            ring = np.column_stack([x + w / 2 + w / 2 * np.cos(t), y + w / 2 + w / 2 * np.sin(t)])
            lines.append(line(f"r{n}", *ring, part=part, half=0.15))
            truth.append((part, shapely.Point(x + w / 2, y + w / 2).buffer(w / 2, quad_segs=64)))
        else:
            lines += box(f"b{n}-", x, y, x + w, y + h, part=part, cut=gap, half=0.15)
            truth.append((part, shapely.box(x, y, x + w, y + h)))
    return lines, truth


@pytest.mark.parametrize("seed", range(3))
def test_a_set_with_known_areas_and_gaps_to_a_millimetre(seed):
    lines, truth = known_set(seed, 1.0)
    found = flats_map(lines, [part for part, _ in truth], SHEET, 1.0)
    assert leaks_of(found, lines, 1.0) == ()
    right = agree = total = 0.0
    for part, area in truth:
        mine = shapely.union_all([one.area for one in by_part(found, part)])
        agree += shapely.intersection(mine, area).area
        total += shapely.union(mine, area).area
        right += len(by_part(found, part)) == 1
    assert agree / total >= 0.995 and right / len(truth) >= 0.98
