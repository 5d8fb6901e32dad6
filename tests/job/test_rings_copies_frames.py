"""Closed lines that are trimmed, copies that keep the hand's widths, halos, borders of frames, pinned pictures, what is
weighed, our own SVG brought back."""

import io
import json
from dataclasses import replace

import numpy as np
import pytest
import shapely
from PIL import Image

from plain_stride import cli
from plain_stride.job.art import art_of
from plain_stride.job.errors import JobError
from plain_stride.job.job_files import opened
from plain_stride.job.reports import lines, weigh
from plain_stride.job.shapes import Shapes
from plain_stride.texts import counted

CENTRE, R = np.array([60.0, 45.0]), 20.0


def ring(open_job, **more):
    points = [[float(CENTRE[0]), float(CENTRE[1])], [float(CENTRE[0] + R), float(CENTRE[1] + R)]]
    return open_job.do("draw", shape="ellipse", points=points, role="outer", **more)


def spoke(open_job, degrees, reach=(10.0, 30.0)):
    way = np.array([np.cos(np.radians(degrees)), np.sin(np.radians(degrees))])
    return open_job.do("draw", shape="straight", points=[(CENTRE + way * r).tolist() for r in reach])


def at(degrees):
    return (CENTRE + R * np.array([np.cos(np.radians(degrees)), np.sin(np.radians(degrees))])).tolist()


def left_of(open_job, key) -> tuple[float, float]:
    """(least, greatest) angle of what is left of a ring, counted on from where it was cut open."""
    points = open_job.shapes[key].flat[0] - CENTRE
    angles = np.degrees(np.unwrap(np.arctan2(points[:, 1], points[:, 0])))
    return float(angles.min() % 360), float(np.ptp(angles))


@pytest.mark.parametrize("seam", [0, 90, 200, 300])
@pytest.mark.parametrize("where", [0.2, 0.5, 0.9])
def test_a_trim_takes_the_stretch_that_was_pointed_at(open_job, seam, where):
    """Also the one that holds the seam, where the ring begins: once the wrong arc was left."""
    key = ring(open_job, turn=float(seam))
    start = seam - 30.0
    spoke(open_job, start), spoke(open_job, start + 80.0)
    assert open_job.do("trim", line=key, at=at(start + 80.0 * where)) == [key]
    first, sweep = left_of(open_job, key)
    assert sweep == pytest.approx(280.0, abs=0.1)
    assert (first - (start + 80.0)) % 360.0 == pytest.approx(0.0, abs=0.1) or first == pytest.approx(
        (start + 80.0) % 360.0, abs=0.1)  # fmt: skip
    assert not open_job.shapes[key].closed


def test_a_ring_that_is_crossed_once_stays(open_job):
    key = ring(open_job)
    spoke(open_job, 40.0)
    with pytest.raises(JobError, match="not crossed twice"):
        open_job.do("trim", line=key, at=at(200))
    assert key in open_job.job.rows.lines and open_job.shapes[key].closed


def test_a_black_is_no_line_that_is_not_there(open_job):
    from plain_stride.lines.black import black_of_rings

    key = open_job.do("black", black=black_of_rings([np.array([[0, 0], [9, 0], [0, 9]])]))
    with pytest.raises(JobError, match="is a black"):
        open_job.do("swell", line=key, factor=2)


# Widths


@pytest.mark.parametrize("copy", ["beside", "mirror", "around", "straight"])
def test_copies_have_the_hands_widths_under_the_plan(open_job, copy):
    """The plan lifted off, a copy is as wide as what it was copied from."""
    key = open_job.pull((10, 20), (60, 21), (110, 20), role="outer", pressure=0.9)
    hand = open_job.shapes[key].widths.full.max()
    open_job.do("plan", share=100, base=0.2)
    assert open_job.shapes[key].widths.full.max() < 0.6 * hand
    if copy == "straight":
        open_job.do("reshape", lines=[key], shape="straight")
        made = key
    else:
        made = {"beside": lambda: open_job.do("beside", line=key, gap=5)[0],
                "mirror": lambda: open_job.do("mirror", lines=[key], axis=[[60, 0], [60, 90]])[0],
                "around": lambda: open_job.do("around", lines=[key], centre=[60, 45], count=2)[0]}[copy]()  # fmt: skip
    open_job.do("plan", share=0)
    assert open_job.shapes[made].widths.full.max() == pytest.approx(hand, rel=0.02)


@pytest.mark.parametrize("shape", ["straight", "round"])
def test_what_is_made_a_shape_keeps_its_pull_takes_and_swells(open_job, shape):
    key = open_job.pull((10, 20), (60, 30), (110, 20))
    open_job.do("swell", line=key, factor=1.5)
    before = open_job.job.rows.lines[key]
    open_job.do("reshape", lines=[key], shape=shape)
    after = open_job.job.rows.lines[key]
    assert after.pull == before.pull and after.edits == before.edits


@pytest.mark.parametrize("share", [0, 25, 50, 100])
def test_a_halo_has_its_own_width_at_every_share(open_job, share):
    key = open_job.pull((10, 20), (110, 20), role="halo", pressure=0.9)
    open_job.do("set", lines=[key], ends="flat")
    open_job.do("plan", share=share)
    full = open_job.shapes[key].widths.at(np.linspace(20, 80, 9))
    assert full[0] + full[1] == pytest.approx(np.full(9, open_job.job.plan.halo), abs=1e-6)


def test_drafts_and_hidden_parts_are_not_weighed(open_job):
    open_job.pull((10, 20), (110, 20), role="outer", pressure=0.3)
    told = weigh(open_job.job, open_job.shapes)
    open_job.pull((10, 40), (110, 40), role="inner", pressure=1.0, part="Hidden")
    open_job.do("part", name="Hidden", hidden=True)
    heavy = open_job.pull((10, 60), (110, 60), role="inner", pressure=1.0)
    assert [one["lines"][0] for one in weigh(open_job.job, open_job.shapes)["clashes"]] == [heavy]
    rows = open_job.job.rows.lines
    open_job.job.put("lines", heavy, replace(rows[heavy], draft=True))
    assert weigh(open_job.job, open_job.shapes) == told


# Frames and pinned pictures


def borders(open_job):
    return sorted(tuple(round(v) for v in shapely.LineString(open_job.shapes[key].flat[0]).bounds)
                  for key in open_job.job.rows.lines)  # fmt: skip


def test_borders_are_laid_once_and_go_with_their_frames(open_job):
    a, b = open_job.do("frame", x=5, y=5, w=50, h=40), open_job.do("frame", x=60, y=5, w=50, h=40)
    open_job.do("frame-lines", width=1.0)
    open_job.do("frame-lines", width=1.0)
    assert borders(open_job) == [(5, 5, 55, 45), (60, 5, 110, 45)]
    open_job.do("frame", frame=a, x=5, y=10, w=50, h=40)
    assert borders(open_job) == [(5, 10, 55, 50), (60, 5, 110, 45)]
    open_job.do("frame-delete", frames=[b])
    assert borders(open_job) == [(5, 10, 55, 50)]
    open_job.do("frame-split", frame=a, way="down")
    assert len(borders(open_job)) == 2
    line = open_job.do("draw", shape="straight", points=[[10, 20], [50, 20]])
    open_job.do("frame-delete", frames=list(open_job.job.rows.frames))
    assert list(open_job.job.rows.lines) == [line]


def test_a_pinned_picture_makes_room_for_a_board_that_grows(open_job):
    data = io.BytesIO()
    Image.new("L", (40, 30), 200).save(data, "PNG")
    key = open_job.do("pencils-add", data=data.getvalue(), name="heron", kind="reference")
    open_job.do("board", width_mm=200)
    assert open_job.job.rows.pencils[key].x_mm >= 200
    open_job.do("pencils", sheet=key, fade=0.5)


def test_passes_have_no_picture_to_square_up(open_job):
    open_job.do("pencil-pass", points=[[10, 20, 0.5], [60, 20, 0.5]])
    (sheet,) = open_job.job.rows.pencils
    for corners in (None, [[0, 0], [1, 0], [1, 1], [0, 1]]):
        with pytest.raises(JobError, match="no picture"):
            open_job.do("pencils", sheet=sheet, corners=corners)


# JSON and SVG


def test_a_line_that_a_cover_only_touches_can_be_told(open_job):
    """The demo once could not be: an ellipse at (60, 45) of 20 mm, a far straight from (30, 45) to (45, 20)."""
    ring(open_job, part="Near")
    open_job.do("part", name="Near", tier="near")
    open_job.do("cover", name="Near", on=True)
    open_job.do("part", name="Far", tier="far")
    far = open_job.do("draw", shape="straight", points=[[30, 45], [45, 20]], part="Far")
    told = {line["id"]: line for line in lines(open_job.job, open_job.shapes)["lines"]}
    crossed = shapely.LineString([[30, 45], [45, 20]]).intersection(shapely.Point(60, 45).buffer(20, quad_segs=400))
    hidden = sum(b - a for a, b in told[far]["hidden"])
    assert hidden == pytest.approx(crossed.length, abs=0.02)


def test_our_own_svg_brings_tiers_order_covers_and_white_ink_back(open_job, tmp_path, capsys):
    ring(open_job, part="Lantern")
    open_job.do("part", name="Lantern", tier="near", ink="white")
    open_job.do("cover", name="Lantern", on=True, gap=0.4)
    open_job.pull((10, 45), (110, 45), part="Sky")
    open_job.do("part", name="Sky", tier="far", over_frames=True)
    open_job.do("cover", name="Sky", on=True, shape=[[[5, 5], [20, 5], [20, 20]]])
    path = open_job.path
    open_job.store.close()
    assert cli.main(["export", str(path), str(tmp_path / "a.svg")]) == 0
    back = tmp_path / "back.stride"
    assert cli.main(["new", str(back), "--size", "120x90mm", "--dpi", "300"]) == 0
    assert cli.main(["import", str(back), str(tmp_path / "a.svg")]) == 0
    told = []
    for one in (path, back):
        with opened(one) as (job, _):
            rows = {p.name: job.rows.parts[p.id] for p in job.parts()}
            told.append([(p.name, p.tier, p.ink, p.cover, p.cover_gap, p.over_frames, rows[p.name].cover_form)
                         for p in job.parts()])  # fmt: skip
            art = art_of(job, Shapes(job))
            told[-1].append([len(line.covers) for part in art.parts for line in part.lines])
    assert told[0] == told[1]
    assert (
        cli.main(["edit", str(back), str(_written(tmp_path, {"change": "part", "name": "Sky", "tier": "middle"}))]) == 0
    )
    capsys.readouterr()
    assert cli.main(["import", str(back), str(tmp_path / "a.svg")]) == 0
    assert "'Sky' is far in the file and stays middle" in capsys.readouterr().err


def _written(tmp_path, change):
    path = tmp_path / "e.json"
    path.write_text(json.dumps({"changes": [change]}))
    return path


@pytest.mark.parametrize(("n", "words"), [(0, "0 lines"), (1, "1 line"), (2, "2 lines"), (1234, "1,234 lines")])
def test_plurals(n, words):
    assert counted(n, "line") == words
    assert counted(n, "pass", "passes").endswith("pass" if n == 1 else "passes")
