"""Board and Pencils in the real window: frames dragged, scans placed, passes pencilled, drafts taken, by real events."""

import json

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from plain_stride.desk.sheet.tools.frames import FrameTool
from plain_stride.desk.sheet.tools.placing import CornersTool
from plain_stride.job.areas import areas_of
from plain_stride.job.art import drafts_of
from plain_stride.job.board_facts import edges_of, frames_of, sheet_of, target_of
from plain_stride.job.pencil_records import FILL, NO_NEED
from plain_stride.pencils.scanner import SOFT, scan
from tests.desk.test_window import press, said, type_into, verb

KEY = Qt.Key
LINES = [np.array([[10.0, 45.0], [110.0, 45.0]]), np.array([[30.0, 10.0], [30.0, 42.6]])]


def board(window, page):
    window.main_window.desk.show_station("Board")
    notes = window.main_window.desk.stations["Board"]
    notes.show_page(page)
    return notes.page(page)


def pencils(window, page, lines=LINES):
    if lines is not None and not window.session.job.pencils():
        window.session.make("pencils-add", data=scan(lines, (120.0, 90.0), 200.0, 1, SOFT), name="r")
    window.main_window.desk.show_station("Pencils")
    notes = window.main_window.desk.pencils()
    notes.show_page(page)
    window.settle()
    return notes.page(page)


def sheet_row(window):
    return window.session.job.pencils()[-1][1]


def read_them(window):
    pencils(window, "Read")
    press(window, "read the pencils")
    reader = window.main_window.desk.pencils().reader
    window.wait_until(lambda: not reader.running and reader.reading is not None, 60)
    return reader


# Board


def test_frames_are_drawn_sized_and_moved_by_mouse_and_pen(window):
    board(window, "Frames")
    press(window, "draw and drag frames")
    assert isinstance(window.sheet.gestures.tool, FrameTool)
    window.mouse_pull((20, 20), (60, 50))
    (key,) = frames_of(window.session.job)
    assert frames_of(window.session.job)[key].box == pytest.approx((20, 20, 60, 50), abs=0.5)
    window.pull((60, 35), (80, 35))
    assert frames_of(window.session.job)[key].box == pytest.approx((20, 20, 80, 50), abs=0.6)
    window.pull((40, 35), (45, 40))
    assert frames_of(window.session.job)[key].box == pytest.approx((25, 25, 85, 55), abs=0.8)
    assert window.lines() == {}
    window.tap(KEY.Key_Escape)
    assert window.sheet.gestures.tool is None
    assert window.pull((10, 80), (100, 80)) is not None


def test_a_frame_comes_to_rest_on_the_margin(window):
    window.session.make("board", margin_mm=10)
    board(window, "Frames")
    press(window, "draw and drag frames")
    window.mouse_pull((10.8, 9.4), (60, 50))
    (frame,) = frames_of(window.session.job).values()
    # The first corner is where the pen came down; the second rests where lines call it.
    window.mouse_pull((60, 50), (109.3, 79.4))
    (frame,) = frames_of(window.session.job).values()
    assert frame.box[2:] == pytest.approx((110, 80), abs=1e-6)


def test_frames_by_numbers_split_merged_and_lined(window):
    page = board(window, "Frames")
    type_into(window, "Even rows × columns", "2 x 2")
    assert len(frames_of(window.session.job)) == 4
    press(window, "split down")
    assert len(frames_of(window.session.job)) == 5
    press(window, "merge with next")
    assert len(frames_of(window.session.job)) == 4
    type_into(window, "From the left", "3 mm")
    assert next(iter(frames_of(window.session.job).values())).x == 3.0
    type_into(window, "Even rows × columns", "many")
    assert "rows × columns" in page._fault.accessibleName()
    press(window, "line all frames")
    assert len(window.lines()) == 4
    press(window, "remove all")
    assert frames_of(window.session.job) == {}
    assert "no frames" in page._what.accessibleName()


def test_n_brings_the_frame_under_the_pen_up_and_back(window):
    window.tap(KEY.Key_N)
    assert "no frames" in said(window)
    window.session.make("frame", x=60, y=40, w=30, h=20)
    window.hover((75, 50))
    before = window.sheet.view
    window.tap(KEY.Key_N)
    assert window.sheet.view.centre == pytest.approx((75, 50))
    assert window.sheet.view.scale > 1.5 * before.scale
    window.tap(KEY.Key_N)
    assert window.sheet.view.scale == pytest.approx(before.scale)


def test_a_print_target_is_chosen_altered_given_and_taken(window, tmp_path):
    page = board(window, "Print")
    next(a for a in page.choices().actions() if a.text().startswith("newsprint")).trigger()
    assert target_of(window.session.job).name == "newsprint"
    window.settle()
    assert "0.250 mm" in page._floor.accessibleName()
    assert "ask your printer" in page._source.accessibleName()
    assert "lost" in page._ladder.accessibleName()
    type_into(window, "Line", "0,3 mm")
    assert target_of(window.session.job).line_mm == 0.3
    type_into(window, "Line", "no")
    assert "not a length" in page._fault.accessibleName()
    page.add_own("riso")
    assert target_of(window.session.job).name == "riso"
    page.give(tmp_path / "t.json")
    assert {t["name"] for t in json.loads((tmp_path / "t.json").read_text())["targets"]} == {"newsprint", "riso"}
    press(window, "back to common values")
    assert target_of(window.session.job).name == "fine offset"
    page.take(tmp_path / "t.json")
    page.take(tmp_path / "none.json")
    assert "as they were" in page._fault.accessibleName()
    window.settle()
    assert window.main_window.desk.gauge.figures()["floor"] == pytest.approx(0.09)


def test_the_job_sheet_and_edges_are_typed(window):
    page = board(window, "Job")
    type_into(window, "It is for", "almanac")
    press_choice(window, "for print")
    type_into(window, "Due", "2020-01-01")
    assert (sheet_of(window.session.job).purpose, sheet_of(window.session.job).finish) == ("almanac", "for print")
    assert "ago" in page._left.accessibleName()
    type_into(window, "Due", "soon")
    assert "is no date" in said(window)
    board(window, "Sheet")
    type_into(window, "Bleed", "3 mm")
    type_into(window, "Margin", "0.25 in")
    assert (edges_of(window.session.job).bleed, edges_of(window.session.job).margin) == (3.0, 6.35)


def press_choice(window, text):
    QTest.mouseClick(verb(window, text), Qt.MouseButton.LeftButton)
    window.settle()


# Placing


def test_a_scan_is_moved_scaled_and_turned_by_dragging(window):
    pencils(window, "Place")
    window.session.make("pencils", sheet=window.session.job.pencils()[0][0], placed_mm=[20, 20, 60, 45])
    press(window, "drag it in place")
    window.pull((50, 40), (60, 35))
    assert sheet_row(window).placing.x == pytest.approx(30, abs=0.5)
    window.pull((90, 60), (105, 71.25))
    assert sheet_row(window).w_mm == pytest.approx(75, abs=1.5)
    before = sheet_row(window).placing
    window.pull((before.middle[0], 88), (before.middle[0] - 12, 87))
    assert sheet_row(window).turn > 8.0
    window.tap(KEY.Key_Escape)
    type_into(window, "Turned", "0")
    assert sheet_row(window).turn == 0.0


def test_a_scan_is_levelled_cropped_and_squared_up(window):
    page = pencils(window, "Place")
    press(window, "level by a line…")
    window.pull((20, 40), (90, 50))
    assert sheet_row(window).turn == pytest.approx(-np.degrees(np.arctan2(10, 70)), abs=0.3)
    press(window, "as it came: whole, upright")
    press(window, "crop…")
    window.mouse_pull((12, 9), (60, 45))
    assert sheet_row(window).crop == pytest.approx([0.1, 0.1, 0.5, 0.5], abs=0.01)
    press(window, "as it came: whole, upright")
    assert sheet_row(window).crop is None
    press(window, "square it up by four corners…")
    assert isinstance(window.sheet.gestures.tool, CornersTool)
    window.pull((9.6, 7.2), (0.0, 0.0))
    press(window, "square it up")
    corners = np.array(sheet_row(window).corners)
    assert corners[0] == pytest.approx([0, 0], abs=0.01)
    assert corners[2] == pytest.approx([0.92, 0.92], abs=0.01)
    assert window.sheet.gestures.tool is None
    press(window, "by the paper's edge")
    assert page._fault.accessibleName()


def test_sheets_are_listed_locked_renamed_and_pinned(window, tmp_path):
    page = pencils(window, "Place")
    Image.new("L", (300, 200), 120).save(tmp_path / "heron.png")
    page.place_file(tmp_path / "heron.png", "reference")
    notes = window.main_window.desk.pencils()
    window.settle()
    assert [notes._sheets.item(k).text() for k in range(2)] == ["heron · reference", "r · rough"]
    notes._sheets.setCurrentRow(1)
    press(window, "lock it")
    assert window.session.job.pencils()[0][1].locked == 1
    window.settle()
    assert notes._sheets.item(1).text() == "r · rough · locked"
    press(window, "take it off")
    assert "locked" in said(window)
    press(window, "unlock it")
    press_choice(window, "layout")
    assert window.session.job.pencils()[0][1].kind == "layout"
    page.write_original(tmp_path / "again.png")
    assert (tmp_path / "again.png").read_bytes() == window.session.job.image(window.session.job.pencils()[0][1].image)
    page.place_file(tmp_path / "none.png")
    assert "as it was" in page._fault.accessibleName()


def test_cleaning_and_the_scan_as_it_came(window):
    page = pencils(window, "Clean")
    press_choice(window, "light flattened")
    assert sheet_row(window).clean.even is True
    type_into(window, "Specks gone below", "0.3 mm")
    type_into(window, "Specks gone below", "9 mm")
    assert "specks" in page._fault.accessibleName()
    assert sheet_row(window).clean.speck_mm == 0.3
    window.sheet.setFocus()
    window.hold(KEY.Key_K)
    assert window.sheet.layer.look.as_scanned
    window.let_go(KEY.Key_K)
    assert not window.sheet.layer.look.as_scanned
    press(window, "as it was scanned")
    assert sheet_row(window).clean is None


# Reading


def test_passes_are_pencilled_with_the_pen_and_make_the_reading_old(window):
    reader = read_them(window)
    press(window, "pencil a pass")
    window.pull((20, 70), (100, 70))
    assert window.lines() == {} and len(window.session.job.rows.passes) == 1
    assert reader.stale
    window.tap(KEY.Key_Escape)
    press(window, "read the pencils again")
    window.wait_until(lambda: not reader.running and not reader.stale, 60)
    assert len(reader.reading.lines) == 3


def test_areas_are_drawn_round_and_taken_off(window):
    pencils(window, "Read")
    press(window, "no need to ink here: draw round…")
    window.pull((20, 20), (60, 20), (60, 60), (20, 60), (20, 22))
    press(window, "mark an area to fill…")
    window.pull((70, 20), (100, 20), (100, 60), (70, 60), (70, 22))
    assert len(areas_of(window.session.job, NO_NEED)) == len(areas_of(window.session.job, FILL)) == 1
    press(window, "ink is needed everywhere")
    press(window, "take the marks off")
    assert window.session.job.rows.areas == {}


def test_x_marks_found_become_areas(window):
    box = [
        np.array([a, b], float)
        for a, b in (((20, 20), (60, 20)), ((60, 20), (60, 60)), ((60, 60), (20, 60)), ((20, 60), (20, 20)))
    ]
    cross = [np.array([[34.0, 34.0], [46.0, 46.0]]), np.array([[46.0, 34.0], [34.0, 46.0]])]
    pencils(window, "Read", [*box, *cross])
    read_them(window)
    press(window, "mark these areas to be filled")
    (area,) = areas_of(window.session.job, FILL)
    assert area.found and np.ptp(area.outline, axis=0) == pytest.approx([40, 40], abs=1.5)


def test_a_line_is_looked_into(window):
    read_them(window)
    press(window, "look into a line…")
    at = window.px((60, 45))
    QTest.mouseClick(window.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at.toPoint())
    assert "100." in said(window) or "99." in said(window)
    QTest.mouseClick(
        window.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, window.px((90, 80)).toPoint()
    )
    assert "No pencil line" in said(window)


# Drafts


def test_drafts_are_laid_by_loop_and_by_line_and_taken_or_refused(window):
    read_them(window)
    pencils(window, "Draft")
    press(window, "draft where I draw round…")
    window.pull((22, 5), (40, 5), (40, 44), (22, 44), (22, 7))
    (one,) = drafts_of(window.session.job)
    assert window.session.shapes[one].length == pytest.approx(33, abs=1.5)
    press(window, "draft line by line…")
    QTest.mouseClick(
        window.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, window.px((60, 45)).toPoint()
    )
    assert len(drafts_of(window.session.job)) == 2
    window.tap(KEY.Key_Escape)
    window.session.choose([one])
    window.settle()
    press(window, "take the chosen")
    assert len(drafts_of(window.session.job)) == 1 and not window.lines()[one].draft
    press(window, "refuse them all")
    assert set(window.lines()) == {one}
    window.session.timeline.undo()
    assert len(drafts_of(window.session.job)) == 1


def test_own_pressure_without_pulls_is_said(window):
    read_them(window)
    page = pencils(window, "Draft")
    press_choice(window, "your own pressure")
    press(window, "draft the whole sheet")
    assert "pull 5 lines first" in said(window)
    page._sure.show_value(1.0)
    page._say_left_out()
    assert "less sure" in page._left_out.accessibleName()


# Ink against pencils


def test_coverage_straying_and_what_was_lost_are_told_and_shown(window):
    window.pull((10, 45), (60, 45.8), (110, 45))
    reader = read_them(window)
    page = pencils(window, "Ink")
    assert "%" in page._inked.accessibleName()
    assert 0.6 < reader.coverage().inked < 0.9
    press(window, "show what has no ink yet")
    assert reader.shown == "bare"
    assert "inked" in window.main_window.desk.stride.words["Pull"].fact or window.session.inked_share is not None
    page._strays.setCurrentRow(0)
    assert len(window.session.chosen) == 1
    window.hold(KEY.Key_L)
    assert reader.shown == "lost" and window.sheet.layer.look.pencils_off
    window.let_go(KEY.Key_L)
    assert not window.sheet.layer.look.pencils_off
    window.pull((30, 10), (30, 42))
    assert reader.coverage().inked > 0.95


def test_without_pencils_each_page_says_what_to_do(window):
    for name, words in (
        ("Read", "Place a scan"),
        ("Clean", "Place a scan"),
        ("Draft", "Read the pencils"),
        ("Ink", "Read the pencils"),
    ):
        page = pencils(window, name, None)
        shown = [label.accessibleName() for label in page.findChildren(type(page._told if name == "Read" else page.__dict__[
            {"Clean": "_empty", "Draft": "_what", "Ink": "_inked"}[name]])) if label.isVisible()]  # fmt: skip
        assert any(words in sentence for sentence in shown), (name, shown)
