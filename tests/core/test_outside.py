"""What is outside, on figures whose truth is known by construction. Outside: shapely's unions and boundaries."""

import numpy as np
import pytest
import shapely

from plain_stride.form.bridges import across, between_ends
from plain_stride.form.outside import Outside
from plain_stride.form.outside import outside_of as outside_at
from plain_stride.form.places import Along

DRAWINGS = 40


def evenly(points):
    """Places half a mm apart along a polyline, nine at least."""
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    at = np.linspace(0.0, s[-1], max(9, int(np.ceil(s[-1] / 0.5)) + 1))
    places = np.column_stack([np.interp(at, s, points[:, k]) for k in (0, 1)])
    way = np.gradient(places, axis=0)
    return Along(at, places, way / np.maximum(np.hypot(*way.T), 1e-12)[:, None])


def outside_of(lines) -> list[Outside]:
    return outside_at(lines, [evenly(line) for line in lines])


def blob(random, at):
    r, a = random.uniform(12, 30), np.linspace(0, 2 * np.pi, 400, endpoint=False)
    bumps = 0.15 * np.sin(random.integers(2, 5) * a + random.uniform(0, 6))
    rim = r * (1 + bumps + 0.06 * np.sin(random.integers(6, 11) * a + random.uniform(0, 6)))
    return shapely.Polygon(at + np.column_stack([rim * np.cos(a), rim * np.sin(a)]))


def along(line, a, b):
    return shapely.get_coordinates(shapely.line_interpolate_point(line, np.arange(a, b, 0.25) % line.length))


def figure(random, gap):
    """(lines, whether each is outside, the body): the outline of several blobs in pieces, one gap in it, seams where
    blobs meet, folds that begin on the outline, lines that run beside it inside."""
    at, blobs = random.uniform(40, 160, 2), []
    for _ in range(random.integers(2, 5)):
        blobs.append(blob(random, at))
        at = at + random.normal(0, 14, 2)
    whole = shapely.get_parts(shapely.union_all(blobs))
    body = shapely.Polygon(max(whole, key=lambda part: part.area).exterior)
    rim, lines, truth = body.exterior, [], []
    cuts = np.sort(random.uniform(0, rim.length, random.integers(3, 8)))
    short = random.integers(len(cuts))
    for k, (a, b) in enumerate(zip(cuts, [*cuts[1:], cuts[0] + rim.length], strict=True)):
        end = b - gap if k == short else b + random.uniform(-0.3, 0.3)
        if end - a > 1:
            lines.append(along(rim, a, end))
            truth.append(True)
    for one in blobs:
        seams = shapely.get_parts(shapely.intersection(one.exterior, body.buffer(-1.0)))
        lines += [along(seam, 0, seam.length) for seam in seams if seam.length > 4]
    middle = shapely.get_coordinates(body.centroid)[0]
    for _ in range(random.integers(2, 9)):
        start, to = (
            along(rim, *(random.uniform(0, rim.length) + np.array([0, 0.1])))[0],
            middle + random.normal(0, 6, 2),
        )
        fold = start + (to - start) * np.linspace(0, random.uniform(0.3, 0.8), 60)[:, None]
        if shapely.contains_xy(body, *fold[3:].T).all():
            lines.append(fold)
    beside = body.buffer(-random.uniform(1.2, 3.5)).exterior
    a = random.uniform(0, beside.length)
    lines.append(along(beside, a, a + random.uniform(8, 30)))
    return lines, truth + [False] * (len(lines) - len(truth)), body


@pytest.mark.parametrize(("gap", "least"), [(0.0, 0.99), (2.0, 0.99), (3.0, 0.97)])
def test_outer_and_inner_are_told_with_a_gap_in_the_outline(gap, least):
    random, right, every = np.random.default_rng(17), 0, 0
    for _ in range(DRAWINGS):
        lines, truth, _ = figure(random, gap)
        for side, outer in zip(outside_of(lines), truth, strict=True):
            right, every = right + int((side.outside == outer).sum()), every + len(side.outside)
    assert right / every >= least


@pytest.mark.parametrize("turned", [False, True])
def test_the_form_lies_on_the_side_on_which_shapely_has_the_body(turned):
    random, right, every = np.random.default_rng(18), 0, 0
    for _ in range(DRAWINGS):
        lines, truth, body = figure(random, 2.0)
        sides = outside_of([line[::-1] if turned else line for line in lines])
        for side, outer in zip(sides, truth, strict=True):
            if outer:
                way = np.gradient(side.points, axis=0)
                left = side.points + np.column_stack([way[:, 1], -way[:, 0]]) / np.hypot(*way.T)[:, None] * 0.5
                wanted = np.where(shapely.contains_xy(body, *left.T), 1, -1)
                right, every = right + int((side.form == wanted).sum()), every + len(wanted)
    assert right / every >= 0.95


def test_the_order_of_lines_makes_no_difference():
    random = np.random.default_rng(19)
    lines, _, _ = figure(random, 3.0)
    order = random.permutation(len(lines))
    first, then = outside_of(lines), outside_of([lines[k] for k in order])
    assert all(np.array_equal(first[k].outside, then[n].outside) for n, k in enumerate(order))


def test_what_encloses_nothing_has_no_outside():
    assert outside_of([]) == []
    dot, stroke = np.array([[5.0, 5.0], [5.0001, 5.0]]), np.array([[0.0, 0.0], [30.0, 0.0]])
    for lines in ([stroke], [dot], [stroke, stroke], [stroke, dot, stroke + 20]):
        assert not any(side.outside.any() or side.form.any() for side in outside_of(lines))


def test_a_ring_within_a_ring_is_inside():
    a = np.linspace(0, 2 * np.pi, 200)
    ring = np.column_stack([np.cos(a), np.sin(a)])
    outer, inner = outside_of([50 + 30 * ring, 50 + 10 * ring])
    assert outer.share == 1.0 and inner.share == 0.0
    assert set(outer.form.tolist()) in ({1}, {-1}) and set(inner.form.tolist()) == {0}


def test_ends_are_bridged_to_ends_but_a_short_line_not_to_itself():
    lines = [np.array([[0.0, 0.0], [10.0, 0.0]]), np.array([[13.0, 0.0], [15.0, 0.0]])]
    assert [bridge.tolist() for bridge in between_ends(lines, 4.0)] == [[[10.0, 0.0], [13.0, 0.0]]]


def test_a_form_that_is_left_open_is_closed_across_and_its_folds_stay_inner():
    a = np.linspace(0.15 * np.pi, 0.85 * np.pi, 120) + np.pi / 2
    back, front = 50 + 20 * np.column_stack([np.cos(a), np.sin(a)]), 50 + 20 * np.column_stack([-np.cos(a), np.sin(a)])
    fold = np.array([[45.0, 45.0], [55.0, 52.0]])
    sides = outside_of([back, front, fold])
    assert [side.share > 0.5 for side in sides] == [True, True, False]
    # Farther open than a form is: nothing is said.
    wide = [np.array([[0.0, 0.0], [60.0, 0.0]]), np.array([[0.0, 60.0], [60.0, 60.0]])]
    assert not any(side.outside.any() for side in outside_of(wide))


def test_each_open_end_is_bridged_once_and_the_nearest_first():
    loose = np.array([[0.0, 0.0], [3.0, 0.0], [5.0, 0.0], [30.0, 0.0]])
    assert [bridge.tolist() for bridge in across(loose, 10.0)] == [[[3.0, 0.0], [5.0, 0.0]]]
    assert len(across(loose, 40.0)) == 2
