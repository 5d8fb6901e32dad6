"""Frames, targets, sheets of pencils, areas and drafts in a job: changed, undone, exported, told by the command line."""

import gzip
import io
import json
import re
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw
from skimage import data as pictures

from plain_stride import cli
from plain_stride.errors import StrideError
from plain_stride.form.cover import drawn_cover
from plain_stride.hand.pull import Pull
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.job.areas import no_need
from plain_stride.job.art import art_of, drafts_of
from plain_stride.job.board_facts import frames_of, sheet_of, target_of, targets_of
from plain_stride.job.board_report import other_uses, tremor_of
from plain_stride.job.errors import JobError
from plain_stride.job.job_files import opened
from plain_stride.job.own_pressure import own_widths
from plain_stride.job.pencil_reading import draft_changes, read_job, sure_lines, without
from plain_stride.job.pencil_sheets import picture_to_sheet, raster_to_read, sheet_to_picture
from plain_stride.job.schema import SCHEMA_VERSION
from plain_stride.pencils.read.reading import Reading, ReadLine
from plain_stride.pencils.scanner import SOFT, scan
from plain_stride.render.export import png_of

OLD = Path(__file__).parent / "old"
LINES = [np.array([[10.0, 20.0], [110.0, 20.0]]), np.array([[10.0, 50.0], [110.0, 70.0]])]


def scanned(lines=LINES, size=(120.0, 90.0), dpi=150.0):
    return scan(lines, size, dpi, 1, SOFT)


def pixels(job, bleed=0.0):
    png = png_of(art_of(job.job, job.shapes, bleed), False, False)
    return np.asarray(Image.open(io.BytesIO(png)).convert("L"))


# Frames


def test_frames_clip_what_is_exported_and_a_part_may_run_over_them(open_job):
    open_job.do("board", dpi=100)
    open_job.pull((5, 45), (115, 45), part="Far", pressure=1.0)
    open_job.do("frame", x=20, y=20, w=40, h=50)
    grey = pixels(open_job)
    at = [int(x / 25.4 * 100) for x in (10, 40, 80)]
    middle = int(45 / 25.4 * 100)
    assert [int(grey[middle, x]) < 128 for x in at] == [False, True, False]
    open_job.do("part", name="Far", over_frames=True)
    assert [int(pixels(open_job)[middle, x]) < 128 for x in at] == [True, True, True]


def test_frames_are_split_merged_lined_and_taken_back(open_job):
    keys = open_job.do("frame-grid", rows=2, columns=2)
    open_job.do("frame-split", frame=keys[0], way="down")
    assert len(frames_of(open_job.job)) == 5
    open_job.do("frame-merge", frames=list(frames_of(open_job.job)))
    (whole,) = frames_of(open_job.job).values()
    assert whole.box == pytest.approx((0, 0, *open_job.job.page.size_mm))
    lines = open_job.do("frame-lines", width=0.7)
    part = open_job.job.part_named("Frames")
    assert part.over_frames and len(lines) == 1
    assert open_job.shapes[lines[0]].closed
    for _ in range(4):
        open_job.undo()
    assert frames_of(open_job.job) == {} and open_job.job.rows.lines == {}


@pytest.mark.parametrize(
    ("change", "arguments"),
    [
        ("frame", {"x": 0, "y": 0, "w": 1, "h": 1}),
        ("frame", {"x": 0, "y": 0, "w": 10, "h": 10, "frame": "nope"}),
        ("frame-split", {"frame": "nope", "way": "down"}),
        ("frame-merge", {"frames": []}),
        ("frame-delete", {"frames": "all"}),
        ("frame-lines", {}),
        ("board", {"margin_mm": 45.0}),
        ("board", {"bleed_mm": -1}),
        ("board", {"target": "stone"}),
        ("target", {"name": "x", "line_mm": 0}),
        ("target-delete", {"name": "phone"}),
        ("job-sheet", {"due": "tomorrow"}),
        ("area", {"kind": "sky", "outline": [[0, 0], [1, 0], [1, 1]]}),
        ("area", {"kind": "fill", "outline": [[0, 0], [1, 0]]}),
        ("area-delete", {"areas": ["a9"]}),
        ("pencil-pass", {"points": [[1, 2]]}),
        ("pencil-pass", {"points": [[1, 2, 0.5]], "sheet": "s9"}),
        ("take-drafts", {"lines": ["l9"]}),
        ("pass-delete", {"passes": ["q9"]}),
    ],
)
def test_nonsense_is_refused_and_nothing_changes(open_job, change, arguments):
    before = open_job.job.rows.copied()
    with pytest.raises(StrideError):
        open_job.do(change, **arguments)
    assert open_job.job.rows == before


# Targets and the job sheet


def test_a_target_is_altered_chosen_and_brought_back(open_job):
    open_job.do("target", name="newsprint", line_mm=0.4)
    open_job.do("target", name="riso", line_mm=0.3)
    open_job.do("board", target="riso")
    assert target_of(open_job.job).own and target_of(open_job.job).line_mm == 0.3
    assert targets_of(open_job.job)["newsprint"].line_mm == 0.4
    again = open_job.again()
    assert target_of(again.job).name == "riso"
    again.do("target-delete", name="newsprint")
    assert targets_of(again.job)["newsprint"].line_mm == 0.25
    again.do("target-delete", name="riso")
    assert target_of(again.job).name == "fine offset"


def test_the_job_sheet_is_kept(open_job):
    open_job.do("job-sheet", purpose="almanac", finish="for print", due="2026-12-24")
    open_job.do("job-sheet", ink="for colour")
    sheet = sheet_of(open_job.again().job)
    assert (sheet.purpose, sheet.finish, sheet.ink, sheet.due) == ("almanac", "for print", "for colour", "2026-12-24")


def test_the_hand_is_measured_from_its_own_pulls(open_job):
    """Of level pulls a shaky simulated hand's shake is how far it lies above and below the same hand without any; an
    average one's is told before it has pulled."""
    assert tremor_of(open_job.job, open_job.shapes) == (pytest.approx(0.106, abs=1e-3), False)
    there = []
    for k in range(14):
        way = np.array([[10.0, 10 + 3.0 * k], [90.0, 10 + 3.0 * k]])
        hands = (HANDS["shaky"], replace(HANDS["shaky"], tremor=0.0))
        shaky, still = (pulled(way, hand, "normal", k) for hand in hands)
        there.append(float(np.sqrt(np.mean((shaky - still)[:, 1] ** 2))))
        open_job.do("pull", pull=Pull(shaky), part="Far")
    tremor, measured = tremor_of(open_job.job, open_job.shapes)
    assert measured and tremor == pytest.approx(np.median(there), rel=0.06)
    # A mouse's whole pixels are no hand's shake.
    for k in range(20):
        samples = pulled(np.array([[10.0, 10 + 3.0 * k], [90.0, 40 + 3.0 * k]]), HANDS["calm"], "normal", k)
        samples[:, :2] = np.round(samples[:, :2] / 0.25) * 0.25
        open_job.do("pull", pull=Pull(samples, device="mouse"), part="Far")
    assert tremor_of(open_job.job, open_job.shapes) == (tremor, True)


def test_other_uses_name_the_lines_that_would_be_lost(open_job):
    thin = open_job.pull((10, 20), (100, 20), pressure=0.0)
    bold = open_job.pull((10, 50), (100, 50), pressure=1.0)
    by_name = {one.use.name: one.lines for one in other_uses(open_job.job, open_job.shapes)}
    news = next(lines for name, lines in by_name.items() if name.startswith("newspaper"))
    assert thin in news and bold not in news


def test_the_board_is_told_and_targets_go_from_job_to_job(open_job, tmp_path, capsys):
    open_job.do("target", name="riso", line_mm=0.3)
    open_job.store.close()
    out = tmp_path / "targets.json"
    assert cli.main(["board", str(open_job.path), "--targets-out", str(out)]) == 0
    other = tmp_path / "other.stride"
    cli.main(["new", str(other), "--size", "120x120mm", "--dpi", "300"])
    assert cli.main(["board", str(other), "--targets-in", str(out)]) == 0
    capsys.readouterr()
    assert cli.main(["board", str(other), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["units"] == "mm"
    assert next(t for t in told["targets"] if t["name"] == "riso") == {
        "name": "riso", "line_mm": 0.3, "gap_mm": 0.15, "dpi": 600.0, "distance_mm": 300.0, "own": True,
        "source": "own value"}  # fmt: skip
    assert [s["mm"] for s in told["ladder"]] == [0.13, 0.18, 0.25, 0.35, 0.5, 0.7, 1.0, 1.4, 2.0]
    (tmp_path / "bad.json").write_text('{"targets": [{"name": "x"}]}')
    assert cli.main(["board", str(other), "--targets-in", str(tmp_path / "bad.json")]) == 1
    assert "lacks" in capsys.readouterr().err


# Bleed


def test_bleed_is_drawn_round_the_finished_sheet(open_job, tmp_path):
    open_job.do("board", dpi=100, bleed_mm=5)
    open_job.pull((-4, 45), (124, 45), pressure=1.0)
    assert pixels(open_job, 5.0).shape == (round(100 / 25.4 * 100), round(130 / 25.4 * 100))
    row = pixels(open_job, 5.0)[round(50 / 25.4 * 100)]
    assert row[round(2.5 / 25.4 * 100)] < 128
    open_job.store.close()
    out = tmp_path / "o.svg"
    assert cli.main(["export", str(open_job.path), str(out), "--bleed"]) == 0
    assert re.search(r'width="130mm" height="100mm" viewBox="-5 -5 130 100"', out.read_text())


# Sheets of pencils


def test_a_turned_sheet_is_read_where_it_lies(open_job):
    key = open_job.do("pencils-add", data=scanned(), name="r")
    straight = read_job(open_job.job)
    open_job.do("pencils", sheet=key, turn=8.0)
    turned = read_job(open_job.job)
    a = np.radians(8.0)
    middle = np.array([60.0, 45.0])
    back = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
    truth = [(line - middle) @ back.T + middle for line in LINES]
    for line in truth:
        ends = min(np.hypot(*(r.points[[0, -1]] - line).T).max() for r in [*turned.lines, *flipped(turned.lines)])
        assert ends < 0.8
    assert len(turned.lines) == len(straight.lines) == 2


def flipped(lines):
    return [replace(line, points=line.points[::-1]) for line in lines]


def test_a_crop_keeps_the_rest_out_of_the_reading(open_job):
    key = open_job.do("pencils-add", data=scanned(), name="r")
    open_job.do("pencils", sheet=key, crop=[0.0, 0.0, 1.0, 0.4])
    (line,) = read_job(open_job.job).lines
    assert line.points[:, 1] == pytest.approx(20.0, abs=0.5)
    open_job.do("pencils", sheet=key, crop=None)
    assert len(read_job(open_job.job).lines) == 2


def test_a_photo_is_squared_up_and_places_go_both_ways(open_job):
    corners = [[0.02, 0.05], [0.97, 0.02], [0.98, 0.95], [0.03, 0.97]]
    key = open_job.do("pencils-add", data=scanned(), name="r")
    open_job.do("pencils", sheet=key, corners=corners)
    row = open_job.job.rows.pencils[key]
    shares = np.array([[0.3, 0.4], [0.7, 0.6]])
    there = picture_to_sheet(row, shares)
    assert sheet_to_picture(row, there) == pytest.approx(shares, abs=1e-9)
    assert picture_to_sheet(row, np.array(corners)[:1])[0] == pytest.approx([row.x_mm, row.y_mm])
    truth = picture_to_sheet(row, LINES[0] / (120.0, 90.0))
    best = min(np.hypot(*(r.points[[0, -1]] - truth).T).max() for r in
               [*read_job(open_job.job).lines, *flipped(read_job(open_job.job).lines)])  # fmt: skip
    assert best < 1.0
    original = open_job.job.image(str(row.image))
    assert original == scanned()


def test_a_locked_sheet_is_only_faded_and_hidden(open_job):
    key = open_job.do("pencils-add", data=scanned(), name="r")
    open_job.do("pencils", sheet=key, locked=True)
    for wrong in ({"placed_mm": [0, 0, 5, 5]}, {"turn": 3}, {"crop": [0, 0, 0.5, 0.5]}, {"clean": {"even": True}}):
        with pytest.raises(JobError, match="locked"):
            open_job.do("pencils", sheet=key, **wrong)
    with pytest.raises(JobError, match="locked"):
        open_job.do("pencils-remove", sheet=key)
    open_job.do("pencils", sheet=key, fade=0.5, hidden=True, tint="#ff8800")
    open_job.do("pencils", sheet=key, locked=False, turn=3)
    assert open_job.job.rows.pencils[key].turn == 3


def test_a_reference_lies_beside_the_board_and_is_never_read(open_job):
    key = open_job.do("pencils-add", data=scanned(), name="ref", kind="reference")
    assert open_job.job.rows.pencils[key].x_mm > open_job.job.page.size_mm[0]
    with pytest.raises(JobError, match="beside"):
        open_job.do("pencils", sheet=key, placed_mm=[10, 10, 50, 50])
    with pytest.raises(Exception, match="no pencils"):
        read_job(open_job.job)


def test_a_shown_clean_up_is_read_instead_of_the_rough(open_job):
    open_job.do("pencils-add", data=scanned(), name="rough")
    key = open_job.do("pencils-add", data=scanned(LINES[:1]), name="clean", kind="clean-up")
    open_job.do("pencils-add", data=scanned(LINES * 2), name="guides", kind="layout")
    assert len(read_job(open_job.job).lines) == 1
    open_job.do("pencils", sheet=key, hidden=True)
    assert len(read_job(open_job.job).lines) == 2


def test_passes_are_read_like_a_scan_and_never_exported(open_job):
    open_job.do("board", dpi=100)
    points = [[float(x), 30.0, 0.7] for x in np.arange(20.0, 100.0, 0.5)]
    first = open_job.do("pencil-pass", points=points)
    (line,) = read_job(open_job.job).lines
    assert line.points[:, 1] == pytest.approx(30.0, abs=0.3)
    assert pixels(open_job).min() == 255
    open_job.do("pencils-add", data=scanned(), name="r")
    assert len(read_job(open_job.job).lines) == 3
    sheet = open_job.job.rows.passes[first].sheet
    open_job.do("pencils", sheet=sheet, locked=True)
    second = open_job.do("pencil-pass", points=points)
    assert open_job.job.rows.passes[second].sheet != sheet
    with pytest.raises(JobError, match="locked"):
        open_job.do("pencil-pass", points=points, sheet=sheet)
    open_job.do("pass-delete", passes=[second])
    assert set(open_job.job.rows.passes) == {first}


def test_cleaning_changes_what_is_read_and_not_the_file(open_job):
    picture = Image.new("RGB", (600, 450), (250, 250, 250))
    pen = ImageDraw.Draw(picture)
    pen.line((50, 100, 550, 100), (80, 80, 80), 3)
    pen.line((50, 300, 550, 300), (70, 110, 215), 3)
    out = io.BytesIO()
    picture.save(out, "PNG")
    key = open_job.do("pencils-add", data=out.getvalue(), name="two pencils")
    assert len(read_job(open_job.job).lines) == 2
    open_job.do("pencils", sheet=key, clean={"pencil": "graphite"})
    (line,) = read_job(open_job.job).lines
    assert line.points[:, 1] == pytest.approx(20.0, abs=0.4)
    open_job.do("pencils", sheet=key, clean={"pencil": "colour"})
    (line,) = read_job(open_job.job).lines
    assert line.points[:, 1] == pytest.approx(60.0, abs=0.4)
    open_job.do("pencils", sheet=key, clean=None)
    assert raster_to_read(open_job.job).dark.shape == (450, 600)


# Areas and drafts


def test_where_no_ink_is_needed_nothing_is_read(open_job):
    open_job.do("pencils-add", data=scanned(), name="r")
    open_job.do("area", kind="no-need", outline=[[0, 0], [60, 0], [60, 90], [0, 90]])
    lines = read_job(open_job.job).lines
    assert len(lines) == 2
    assert min(line.points[:, 0].min() for line in lines) > 59.9
    open_job.do("frame", x=0, y=0, w=120, h=40)
    (line,) = read_job(open_job.job).lines
    assert line.points[:, 1].max() < 40.0
    assert no_need(open_job.job).holds(np.array([[30.0, 30.0], [100.0, 60.0], [100.0, 20.0]])).tolist() == [
        True,
        True,
        False,
    ]


def laid(open_job, **more):
    from plain_stride.job.changes import make_all

    open_job.do("pencils-add", data=scanned(), name="r")
    made = make_all(
        open_job.job, open_job.shapes, draft_changes(open_job.job, read_job(open_job.job).lines, **more), "draft lines"
    )
    open_job.store.commit(made.commit)
    return drafts_of(open_job.job)


def test_drafts_are_no_ink_before_they_are_taken(open_job):
    open_job.do("board", dpi=100)
    one, two = laid(open_job)
    assert pixels(open_job).min() == 255
    open_job.do("take-drafts", lines=[one], part="Near arm", role="outer")
    assert pixels(open_job).min() < 100
    assert drafts_of(open_job.job) == [two]
    part = open_job.job.part_named("Near arm")
    assert open_job.job.rows.lines[one].part == part.id
    with pytest.raises(JobError, match="no draft"):
        open_job.do("refuse-drafts", lines=[one])
    open_job.do("refuse-drafts", lines=[two])
    assert set(open_job.job.rows.lines) == {one}
    open_job.undo()
    open_job.undo()
    assert drafts_of(open_job.again().job) == [one, two] or set(drafts_of(open_job.job)) == {one, two}


def test_drafts_swell_as_the_hand_does(open_job):
    with pytest.raises(Exception, match="pull 5 lines"):
        own_widths(open_job.job)
    for k in range(6):
        open_job.pull((10, 10 + k), (100, 10 + k), pressure=0.25)
    widths = own_widths(open_job.job)
    assert widths[12] == pytest.approx(0.2 + 0.8 * 0.25, abs=0.02)
    drafts = laid(open_job, widths=widths)
    full = open_job.shapes[drafts[0]].widths.full
    assert full.max() == pytest.approx(0.4, abs=0.02) and full.min() < 0.1


def test_guides_come_below_the_confidence_that_lines_have():
    line = ReadLine(np.array([[0.0, 0.0], [9.0, 0.0]]), False, 0.8, 0.5)
    reading = Reading("rough", [line], [], [], 1.0, [replace(line, confidence=0.3)])
    assert sure_lines(reading, 0.4) == reading.lines
    assert sure_lines(reading, 0.0) == [*reading.lines, *reading.guides]
    assert sure_lines(reading, 0.9) == []


def test_a_line_along_the_edge_of_an_area_stays_one_and_a_line_into_it_is_cut_there():
    x = np.linspace(5.0, 95.0, 300)
    along = ReadLine(np.column_stack([x, 50.0 + 0.5 * np.sin(x)]), False, 0.9, 0.4)
    into = ReadLine(np.column_stack([np.full(300, 30.0), np.linspace(20.0, 90.0, 300)]), False, 0.9, 0.4)
    area = drawn_cover([np.array([[0.0, 50.0], [100.0, 50.0], [100.0, 120.0], [0.0, 120.0]])], [])
    left = without(Reading("clean", [along, into], [], [], 1.0), area).lines
    assert len(left) == 2 and left[0].length == pytest.approx(along.length)
    assert left[1].points[-1] == pytest.approx((30.0, 50.0), abs=0.3)


# The command line


def test_coverage_and_what_the_ink_lost_are_told_with_the_reading(open_job, capsys):
    open_job.do("pencils-add", data=scanned(), name="r")
    open_job.pull((10, 20), (110, 20))
    open_job.store.close()
    assert cli.main(["read", str(open_job.path), "--json", "--map"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["coverage"]["inked"] == pytest.approx(0.5, abs=0.05)
    assert told["lost"]["per_mm"] == 2.0 and told["lost"]["map"]
    assert told["doubt"] is None


def test_strokes_of_a_tone_do_not_stray_from_pencils(open_job, capsys):
    open_job.do("pencils-add", data=scanned(), name="r")
    line = open_job.pull((10, 20), (110, 20))
    open_job.do("hatch", around=[[10, 18], [60, 18], [60, 24], [10, 24]], grey=0.3, angle=90, pitch=1.0)
    open_job.store.close()
    assert cli.main(["read", str(open_job.path), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)["coverage"]
    assert [s["line"] for s in told["straying"]] == [line] and not told["own"]


def test_a_photo_of_something_else_is_told_and_not_laid_unasked(tmp_path, capsys):
    """A general picture that a package carries."""
    photo = tmp_path / "photo.png"
    Image.fromarray(pictures.camera()).save(photo)
    path = tmp_path / "j.stride"
    cli.main(["new", str(path), "--size", "200x200mm", "--dpi", "150", "--pencils", str(photo)])
    capsys.readouterr()
    assert cli.main(["read", str(path), "--json"]) == 0
    assert "not like a drawing" in json.loads(capsys.readouterr().out)["sentence"]
    assert cli.main(["trace", str(path)]) == 1
    assert "No drafts were laid" in capsys.readouterr().err
    with opened(path) as (job, _):
        assert job.rows.lines == {}
    assert cli.main(["trace", str(path), "--anyway"]) == 0


def test_export_tells_of_drafts_that_it_left_out(open_job, tmp_path, capsys):
    laid(open_job)
    open_job.store.close()
    assert cli.main(["export", str(open_job.path), str(tmp_path / "o.svg")]) == 0
    assert "2 drafts" in capsys.readouterr().err
    assert "<path" not in (tmp_path / "o.svg").read_text()
    assert cli.main(["lines", str(open_job.path), "--json"]) == 0
    assert all(line["draft"] for line in json.loads(capsys.readouterr().out)["lines"])


# The schema


def test_a_file_of_the_third_schema_is_brought_up_to_date(tmp_path):
    path = tmp_path / "schema-3.stride"
    path.write_bytes(gzip.decompress((OLD / "schema-3.stride.gz").read_bytes()))
    before = path.read_bytes()
    with opened(path, write=True) as (job, store):
        assert (tmp_path / "schema-3 schema 3.stride").read_bytes() == before
        (row,) = job.rows.pencils.values()
        assert (row.kind, row.turn, row.crop, row.locked) == ("rough", 0.0, None, 0)
        assert target_of(job).name == "fine offset" and not sheet_of(job).purpose
        assert not any(line.draft for line in job.rows.lines.values())
        while commit := job.undo():
            store.commit(commit)
        assert job.ink_ids() == [] and job.rows.pencils == {}
        for _ in range(2):
            store.commit(job.redo())
    with opened(path) as (job, _):
        assert job.schema == SCHEMA_VERSION


def test_a_file_of_the_fourth_schema_is_brought_up_to_date(tmp_path):
    path = tmp_path / "schema-4.stride"
    path.write_bytes(gzip.decompress((OLD / "schema-4.stride.gz").read_bytes()))
    with opened(path, write=True) as (job, _):
        assert [job.pull(row.pull).view.origin for row in job.rows.lines.values()] == [None, None]
        assert job.schema == SCHEMA_VERSION
