"""Blacks joined, cut out, made larger, pushed; filled from lines, edges made lines; parts merged. Outside: shapely's
areas, closed forms."""

import numpy as np
import pytest
import shapely

from plain_stride.job.errors import JobError
from plain_stride.lines.black import black_of_rings
from tests.conftest import plain_rows
from tests.job.test_mending import straight


def black(open_job, *rings, part="Lines"):
    return open_job.do("black", black=black_of_rings([np.array(ring, float) for ring in rings]), part=part)


def area(open_job, key):
    out = shapely.Polygon()
    for ring in open_job.shapes.black(key).rings:
        out = out.symmetric_difference(shapely.Polygon(ring))
    return out


def box(x0, y0, x1, y1):
    return [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]


def test_blacks_are_joined_and_cut_as_shapely_has_it(open_job):
    a, b = black(open_job, box(10, 10, 40, 40)), black(open_job, box(30, 30, 60, 50))
    wanted = area(open_job, a).union(area(open_job, b))
    assert open_job.do("black-join", blacks=[a, b]) == a and b not in open_job.job.rows.blacks
    assert area(open_job, a).symmetric_difference(wanted).area < 0.05
    hole = black(open_job, box(15, 15, 25, 25))
    open_job.do("black-cut", black=a, by=[hole])
    assert area(open_job, a).area == pytest.approx(wanted.area - 100.0, abs=0.1)
    line = straight(open_job, (5, 45), (70, 45))
    ink = shapely.Polygon(open_job.shapes[line].rings[0])
    before = area(open_job, a)
    open_job.do("black-cut", black=a, by=[line])
    assert area(open_job, a).symmetric_difference(before.difference(ink)).area < 0.1


def test_a_black_grows_all_round_by_the_closed_form_and_back(open_job):
    a = black(open_job, box(10, 10, 40, 30))
    open_job.do("black-offset", blacks=[a], mm=2.0)
    assert area(open_job, a).area == pytest.approx(34 * 24, abs=0.1)
    open_job.do("black-offset", blacks=[a], mm=-2.0)
    assert area(open_job, a).area == pytest.approx(30 * 20, abs=0.1)
    with pytest.raises(JobError, match="nothing would be left"):
        open_job.do("black-offset", blacks=[a], mm=-20.0)


def test_a_rings_inside_is_filled_and_its_edge_is_a_line_again(open_job):
    ring = open_job.do("draw", shape="ellipse", points=[[50, 40], [70, 55]])
    (filled,) = open_job.do("fill", lines=[ring])
    assert area(open_job, filled).area == pytest.approx(np.pi * 20 * 15, rel=2e-3)
    (edge,) = open_job.do("black-edges", black=filled, mm=0.5)
    assert open_job.shapes[edge].closed
    assert open_job.shapes[edge].body.full.max() == pytest.approx(0.5, abs=0.3)
    open_job.do("bend", line=edge, at=[70, 40], by=[4, 0], reach=8)
    open_job.do("black-push", blacks=[filled], path=[[70, 40], [74, 40]], reach=10)
    assert area(open_job, filled).contains(shapely.Point(72.5, 40))
    with pytest.raises(JobError, match="is open"):
        open_job.do("fill", lines=[straight(open_job, (0, 0), (9, 9))])


def test_parts_are_merged_in_one_step_and_apart_again(open_job):
    a = open_job.pull((10, 10), (60, 10), part="Coat")
    b, spot = open_job.pull((10, 20), (60, 20), part="Hat"), black(open_job, box(10, 30, 20, 40), part="Hat")
    before = plain_rows(open_job.job)
    open_job.do("part-merge", name="Hat", into="Coat")
    assert open_job.job.part_named("Hat") is None
    assert {open_job.job.part_of(key).name for key in (a, b, spot)} == {"Coat"}
    assert open_job.job.ink_ids() == [a, b, spot]
    open_job.undo()
    assert plain_rows(open_job.job) == before
    open_job.do("part", name="Coat", locked=True)
    for arguments, words in (({"name": "Hat", "into": "Coat"}, "locked"), ({"name": "Hat", "into": "Hat"}, "itself"),
                             ({"name": "Hat", "into": "Shoe"}, "no part 'Shoe'")):  # fmt: skip
        with pytest.raises(JobError, match=words):
            open_job.do("part-merge", **arguments)
