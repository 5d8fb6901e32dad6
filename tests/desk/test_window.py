"""Keys, stations, parts, files: the walk of a new user through the real window."""

import multiprocessing.process
import os

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QLineEdit, QMenu, QWidget

from plain_stride.desk.actions.line_menu import line_entries
from plain_stride.desk.controls.controls import Word
from plain_stride.desk.look.theme import THEME, VARIANTS, load_fonts
from plain_stride.desk.margins.parts_list import PartRow, TierHeading
from plain_stride.desk.settings import documents_folder
from plain_stride.job.errors import JobError
from plain_stride.job.job_files import opened
from plain_stride.pencils.scanner import SOFT, scan


def verb(window, text) -> Word:
    window.settle()
    return next(w for w in window.main_window.findChildren(Word) if w.text() == text and w.isVisible())


def press(window, text):
    QTest.mouseClick(verb(window, text), Qt.MouseButton.LeftButton)
    window.settle()


def type_into(window, name, text):
    entry = next(e for e in window.main_window.findChildren(QLineEdit) if e.accessibleName() == name and e.isVisible())
    entry.setFocus()
    entry.selectAll()
    QTest.keyClicks(entry, text)
    QTest.keyClick(entry, Qt.Key.Key_Return)
    window.settle()


def said(window) -> str:
    return window.main_window.desk.message.accessibleName()


# Keys


def test_held_keys_move_turn_and_enlarge_and_taps_bring_back(window):
    fitted = window.sheet.view
    window.hover((60, 45))
    for key, part in ((Qt.Key.Key_D, "centre"), (Qt.Key.Key_F, "turn"), (Qt.Key.Key_G, "scale")):
        before = getattr(window.sheet.view, part)
        window.hold(key)
        QTest.mouseMove(window.sheet, window.px((60, 45)).toPoint() + QPoint(60, -50))
        window.let_go(key)
        assert getattr(window.sheet.view, part) != before, part
    window.tap(Qt.Key.Key_F)
    assert window.sheet.view.turn == pytest.approx(0.0, abs=1e-9)
    window.tap(Qt.Key.Key_G)
    assert window.sheet.viewport.per_cent() == pytest.approx(100.0)
    window.tap(Qt.Key.Key_D)
    assert window.sheet.view == fitted
    assert not window.lines()


def test_a_hold_begins_with_the_first_movement(window):
    window.hover((60, 45))
    QTest.keyPress(window.main_window.windowHandle(), Qt.Key.Key_D)
    assert window.sheet.gestures.held == ""
    QTest.mouseMove(window.sheet, window.px((70, 45)).toPoint())
    assert window.sheet.gestures.held == "move"
    window.let_go(Qt.Key.Key_D)
    assert window.sheet.gestures.held == ""


def test_losing_the_window_lets_every_key_go(window):
    window.hold(Qt.Key.Key_D)
    window.main_window.desk.keys.let_all_go()
    assert window.sheet.gestures.held == ""


def test_pulling_with_the_pen_in_the_hand_goes_on_after_a_hold(window):
    window.hover((60, 45))
    window.hold(Qt.Key.Key_D)
    assert window.pull((30, 30), (40, 40)) is None
    window.let_go(Qt.Key.Key_D)
    assert window.pull((30, 30), (80, 40)) is not None


def test_pencils_go_while_a_key_is_held(window):
    window.session.make(
        "pencils-add", data=scan([np.array([[10.0, 45.0], [110.0, 45.0]])], (120.0, 90.0), 150.0, 1), name="r"
    )
    window.session.make("pencils", sheet=window.session.job.pencils()[0][0], fade=1.0)
    rows = [window.ink_at((60, y)) for y in np.arange(43.5, 46.5, 0.25)]
    assert max(rows) > 60
    window.hold(Qt.Key.Key_A)
    assert max(window.ink_at((60, y)) for y in np.arange(43.5, 46.5, 0.25)) < 20
    window.let_go(Qt.Key.Key_A)
    assert max(window.ink_at((60, y)) for y in np.arange(43.5, 46.5, 0.25)) > 60


def test_number_keys_take_nibs_and_give_them_back(window):
    window.tap(Qt.Key.Key_5)
    assert window.session.now.nib == "5"
    window.hold(Qt.Key.Key_1)
    assert window.session.now.nib == "1"
    window.let_go(Qt.Key.Key_1)
    assert window.session.now.nib == "5"
    window.tap(Qt.Key.Key_S)
    assert window.session.now.nib == "6"
    window.tap(Qt.Key.Key_E)
    assert window.session.now.nib == "5"


def test_z_compares_while_held_and_takes_back_when_tapped(window):
    key = window.pull((10, 20), (60, 20))
    assert window.ink_at((40, 20)) > 150
    window.hold(Qt.Key.Key_Z)
    assert window.ink_at((40, 20)) < 40
    assert window.pull((10, 40), (60, 40)) is None  # what was is only looked at
    assert "looking at what was" in said(window)
    window.let_go(Qt.Key.Key_Z)
    assert window.ink_at((40, 20)) > 150
    assert list(window.lines()) == [key]
    window.tap(Qt.Key.Key_Z)
    assert key not in window.lines()
    QTest.keyClick(
        window.main_window.windowHandle(),
        Qt.Key.Key_Z,
        Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
    )
    assert key in window.lines()
    QTest.keyClick(window.main_window.windowHandle(), Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert key not in window.lines()


def test_w_chooses_and_delete_takes_away(window):
    key = window.pull((10, 20), (60, 20))
    window.hover((40, 20))
    window.tap(Qt.Key.Key_W)
    assert window.session.chosen == [key]
    QTest.keyClick(window.main_window.windowHandle(), Qt.Key.Key_Delete)
    assert not window.lines()


def test_y_shows_and_trims_the_stretch_under_the_pen(window):
    key = window.pull((10, 20), (100, 20))
    window.pull((70, 5), (70, 60))
    window.hover((90, 20))
    window.hold(Qt.Key.Key_Y)
    trimming = window.sheet.gestures._holding
    assert trimming.shown is not None
    window.let_go(Qt.Key.Key_Y)
    assert trimming.shown is None
    window.tap(Qt.Key.Key_Y)
    assert window.session.shapes[key].flat[0][:, 0].max() == pytest.approx(70, abs=0.05)


@pytest.mark.parametrize(("key", "heavier"), [(Qt.Key.Key_S, True), (Qt.Key.Key_E, False)])
def test_swell_and_shave_under_the_pen(window, key, heavier):
    line = window.pull((10, 20), (100, 20))
    window.hover((55, 20))
    window.hold(key)
    QTest.mouseMove(window.sheet, window.px((55, 20)).toPoint() - QPoint(0, 40))
    assert len(window.lines()[line].edits) == 0  # only shown so far
    window.let_go(key)
    w = window.session.shapes[line].widths
    assert (np.interp(55, w.s + 10, w.full) > 0.7) == heavier
    assert np.interp(20, w.s + 10, w.full) == pytest.approx(0.6, abs=0.01)
    window.session.timeline.undo()
    assert window.lines()[line].edits == ()


def test_role_keys_step_through_roles(window):
    key = window.pull((10, 20), (60, 20))
    window.session.choose([key])
    QTest.keyClick(window.main_window.windowHandle(), Qt.Key.Key_Period)
    assert window.lines()[key].role == "inner"
    QTest.keyClick(window.main_window.windowHandle(), Qt.Key.Key_Comma)
    assert window.lines()[key].role == "outer"


def test_the_plan_is_lifted_off_by_key(window):
    key = window.pull((10, 20), (60, 20))
    window.tap(Qt.Key.Key_H)
    assert np.median(window.session.shapes[key].body.full) == pytest.approx(0.35 * 2**0.5)
    window.hold(Qt.Key.Key_H)
    assert window.sheet.layer.look.hand_only
    window.let_go(Qt.Key.Key_H)
    window.tap(Qt.Key.Key_H)
    assert np.median(window.session.shapes[key].body.full) == pytest.approx(0.6)


def test_margins_and_strip_fold_and_come_back(window):
    whole = window.sheet.width() * window.sheet.height()
    window.tap(Qt.Key.Key_V)
    assert window.main_window.desk.strip.isHidden()
    share = window.sheet.width() * window.sheet.height() / (1280 * 800)
    assert share >= 0.64
    window.tap(Qt.Key.Key_V)
    window.hold(Qt.Key.Key_B)
    window.settle()
    assert window.sheet.width() == 1280
    window.let_go(Qt.Key.Key_B)
    window.settle()
    assert window.sheet.width() * window.sheet.height() == whole


def test_letters_typed_into_a_field_are_no_keys(window):
    window.main_window.desk.show_station("Board")
    type_into(window, "Resolution", "450")
    assert window.session.job.page.dpi == 450
    assert window.session.now.nib == "3"


def test_stations_go_by_keys(window):
    assert window.main_window.desk._current().name == "Pull"
    QTest.keyClick(window.main_window.windowHandle(), Qt.Key.Key_PageDown)
    assert window.main_window.desk.station() == "Mend"
    QTest.keyClick(window.main_window.windowHandle(), Qt.Key.Key_B, Qt.KeyboardModifier.AltModifier)
    window.wait_until(lambda: window.main_window.desk._current().name == "Board")


def test_the_sheet_of_keys_says_them_all(window):
    from plain_stride.desk.dialogs.key_sheet import KeySheet
    from plain_stride.desk.keys.key_plan import KEYS

    sheet = KeySheet(window.main_window, window.main_window.desk.all_actions, KEYS, lambda: None)
    words = " ".join(label.accessibleName() for label in sheet.findChildren(QWidget))
    for use in window.main_window.desk.all_actions.by_key.values():
        assert use.tapped in words
    sheet.deleteLater()


# Stations


def test_board_is_changed_by_typing_and_nonsense_is_said(window):
    window.main_window.desk.show_station("Board")
    type_into(window, "Width", "8 in")
    assert window.session.job.page.size_mm == (203.2, 90.0)
    type_into(window, "Width", "-3")
    assert window.session.job.page.size_mm == (203.2, 90.0)
    assert "not possible" in said(window) or "not a" in said(window)
    press(window, "turn it on its side")
    assert window.session.job.page.size_mm == (90.0, 203.2)
    assert "90 × 203.2 mm" in window.main_window.desk.stride.words["Board"].fact


def test_a_scan_is_placed_faded_tinted_and_hidden(window, tmp_path):
    scan_file = tmp_path / "rough.png"
    scan_file.write_bytes(scan([np.array([[10.0, 45.0], [110.0, 45.0]])], (120.0, 90.0), 150.0, 1))
    window.main_window.desk.show_station("Pencils")
    notes = window.main_window.desk.stations["Pencils"]
    notes.place_scan(scan_file)
    row = window.session.job.pencils()[0][1]
    assert (row.fade, row.tint) == (0.15, "pale blue")
    assert (row.x_mm, row.w_mm) == pytest.approx((0, 120), abs=0.1)
    notes.show_page("Clean")
    track = notes.page("Clean")._fade.track
    QTest.mouseClick(track, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(track.width() // 2, 10))
    assert 0.4 < window.session.job.pencils()[0][1].fade < 0.6
    press(window, "to follow, 22 %")
    assert window.session.job.pencils()[0][1].fade == 0.22
    next(a for a in notes.page("Clean").tints().actions() if a.text() == "as drawn").trigger()
    notes.show_page("Place")
    press(window, "hide it")
    row = window.session.job.pencils()[0][1]
    assert (row.tint, row.hidden) == ("as drawn", 1)
    press(window, "show it")
    type_into(window, "Width", "60 mm")
    row = window.session.job.pencils()[0][1]
    assert (row.w_mm, row.h_mm) == pytest.approx((60, 45), abs=0.1)


def test_a_bad_scan_is_said_and_the_board_stays(window, tmp_path):
    window.main_window.desk.show_station("Pencils")
    Image.effect_noise((300, 200), 40).save(tmp_path / "whole.png")
    whole = (tmp_path / "whole.png").read_bytes()
    (tmp_path / "bad.png").write_bytes(whole[: len(whole) // 2])
    window.main_window.desk.stations["Pencils"].place_scan(tmp_path / "bad.png")
    assert "scan or copy it again" in said(window)
    assert window.session.job.pencils() == []


def test_what_steadying_did_is_told_and_can_be_changed(window):
    from plain_stride.desk.player import on_glass
    from plain_stride.hand.simulated import HANDS, pulled

    samples = pulled(np.array([[10.0, 20.0], [110.0, 30.0]]), HANDS["shaky"], "normal", 1)
    window.pen.play(on_glass(samples, window.sheet.view.to_glass))
    window.settle()
    (key,) = window.lines()
    page = window.main_window.desk.stations["Pull"]._pages["Hand"]
    assert "taken out" in page._line.accessibleName()
    press(window, "off")
    assert window.session.nib.steadying.school == "off"
    press(window, "steady this line so")
    assert window.lines()[key].school == "off"
    assert "0.000 mm taken out" in page._line.accessibleName()


def test_the_last_line_is_made_heavier_and_given_another_role(window):
    key = window.pull((10, 20), (60, 20))
    before = window.session.shapes[key].body.full.max()
    window.main_window.desk.stations["Pull"].show_page("Line")
    press(window, "heavier, ¼ step")
    assert window.session.shapes[key].body.full.max() > before
    window.session.choose([key])
    press(window, "detail")
    press(window, "flat")
    assert window.lines()[key].role == "detail"
    assert window.session.shapes[key].ends == ("flat", "flat")


def test_a_nib_is_changed_by_typing(window):
    window.main_window.desk.stations["Pull"].show_page("Nib")
    type_into(window, "Heaviest", "1,5 mm")
    assert window.session.nib.heaviest == 1.5
    type_into(window, "Lightest", "9")
    assert window.session.nib.lightest == 0.2
    assert "lightest" in said(window)


def test_the_gauge_knows_bracket_ceiling_and_live_width(window):
    for y in (20, 40):
        window.pull((10, y), (100, y), pressure=0.5)
    figures = window.main_window.desk.gauge.figures()
    assert (figures["lightest"], figures["heaviest"]) == (0.2, 1.0)
    assert figures["ceiling"] == pytest.approx(0.6, abs=0.02)
    assert figures["pixel"] == pytest.approx(25.4 / 300)
    widths = []
    window.session.live_width.connect(widths.append)
    window.pull((10, 60), (100, 60), pressure=0.9, frames=True)
    assert max(w for w in widths if w) == pytest.approx(0.92, abs=0.02)
    assert widths[-1] is None


def test_final_art_is_written_from_the_window(window, tmp_path):
    window.pull((10, 20), (60, 20))
    window.main_window.desk.show_station("Hand over")
    notes = window.main_window.desk.stations["Hand over"]

    def write(name):
        assert notes.write(tmp_path / name)
        window.wait_until(lambda: not notes.writing)

    for name in ("o.svg", "o.png", "o.json"):
        write(name)
    with Image.open(tmp_path / "o.png") as picture:
        assert picture.size == (1417, 1063)
    notes.choose_pixels("one bit")
    write("b.png")
    with Image.open(tmp_path / "b.png") as picture:
        assert picture.mode == "1"
    write("none/o.png")
    assert "cannot be written" in notes.files.fault.accessibleName()


def test_writing_final_art_can_be_stopped_and_leaves_nothing(window, tmp_path):
    window.pull((10, 20), (60, 20))
    window.main_window.desk.show_station("Hand over")
    notes = window.main_window.desk.stations["Hand over"]
    assert notes.write(tmp_path / "stopped.png")
    assert not notes.write(tmp_path / "second.png")
    key = window.pull((10, 40), (60, 40))  # inking goes on
    press(window, "stop")
    window.wait_until(lambda: not notes.writing)
    assert "stopped" in notes.files.fault.accessibleName() and not notes.files.status.accessibleName()
    assert key in window.lines()
    assert not list(tmp_path.glob("*.png")) + list(tmp_path.glob(".*part"))


def test_an_export_that_cannot_start_is_told(window, tmp_path, monkeypatch):
    window.pull((10, 20), (60, 20))
    window.main_window.desk.show_station("Hand over")
    notes = window.main_window.desk.stations["Hand over"]

    def full(*_):
        raise BlockingIOError("no more processes")

    monkeypatch.setattr(multiprocessing.process.BaseProcess, "start", full)
    notes.write(tmp_path / "o.svg")
    window.wait_until(lambda: "could not be started" in notes.files.fault.accessibleName())
    assert not notes.writing


# Parts


def rows(window) -> dict[str, PartRow]:
    window.main_window.desk.show_parts(True)
    window.settle()
    return {row.part.name: row for row in window.main_window.desk.parts.rows()}


def test_parts_are_taken_in_hand_locked_hidden_renamed_and_made(window):
    window.pull((10, 20), (60, 20))
    window.session.make("part", name="sky", tier="far")
    QTest.mouseClick(rows(window)["sky"], Qt.MouseButton.LeftButton)
    assert window.session.now.part == "sky"
    press(window, "lock")
    assert window.session.part.locked
    press(window, "unlock")
    press(window, "hide")
    assert window.session.part.hidden
    press(window, "show")
    press(window, "rename")
    type_into(window, "Name of the part", "evening sky")
    assert window.session.now.part == "evening sky"
    press(window, "new")
    type_into(window, "Name of the part", "moon")
    assert [p.name for p in window.session.job.parts()] == ["Lines", "moon", "evening sky"]
    assert window.session.now.part == "moon"


def test_dragging_a_row_under_another_heading_changes_its_tier(window):
    window.pull((10, 20), (60, 20))
    window.session.make("part", name="sky")
    window.settle()
    row = rows(window)["sky"]
    heading = next(
        h for h in window.main_window.desk.parts.findChildren(TierHeading) if h.tier == "near" and h.isVisible()
    )
    target = row.mapFromGlobal(heading.mapToGlobal(QPoint(40, heading.height() - 2)))
    QTest.mousePress(row, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(40, 10))
    QTest.mouseMove(row, target)
    QTest.mouseRelease(row, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, target)
    window.settle()
    assert window.session.job.part_named("sky").tier == "near"
    assert [p.name for p in window.session.job.parts()] == ["sky", "Lines"]


# Files


def test_saved_is_said_when_it_is_on_disk(window):
    key = window.pull((10, 20), (60, 20))
    window.wait_until(lambda: window.main_window.desk.stride.saved_words().startswith("all saved"))
    with opened(window.session.job.path) as (job, _):
        assert key in job.rows.lines


def test_undo_goes_on_after_a_restart(window, window_on):
    first, second = window.pull((10, 20), (60, 20)), window.pull((10, 30), (60, 30))
    path = window.session.job.path
    window.main_window.close()
    again = window_on(path)
    assert set(again.lines()) == {first, second}
    again.tap(Qt.Key.Key_Z)
    assert set(again.lines()) == {first}
    again.tap(Qt.Key.Key_Z)
    again.tap(Qt.Key.Key_Z)
    assert not again.lines()
    assert "empty job" in said(again)


def test_a_second_window_is_for_reading_only(window, window_on):
    window.pull((10, 20), (60, 20))
    other = window_on(window.session.job.path)
    assert "reading only" in other.main_window.desk.stride.saved_words()
    assert other.pull((10, 40), (60, 40)) is None
    other.session.make("plan", share=50)
    assert f"process {os.getpid()}" in said(other)


def test_new_rename_copy_and_recent(window, tmp_path):
    first = window.session.job.path
    window.main_window.new_job()
    path = window.session.job.path
    assert path.parent == documents_folder()
    assert path.exists()
    window.pull((50, 50), (90, 90))
    window.main_window.rename("Heron study")
    assert window.session.job.path == path.with_name("Heron study.stride")
    assert not path.exists()
    assert len(window.lines()) == 1
    window.main_window.rename("a/b")
    assert "cannot be its name" in said(window)
    window.session.saving.save_copy(tmp_path / "copy.stride")
    window.session.close()
    with opened(tmp_path / "copy.stride") as (job, _):
        assert len(job.rows.lines) == 1
    assert [p.stem for p in window.main_window.settings.recent()[:2]] == ["Heron study", first.stem]
    assert window.main_window.open_job(first)
    menu = window.main_window.desk.job_menu()
    assert {"New board", "Rename…", "Save a copy…", "Keys", "Quit"} <= {a.text() for a in menu.actions()}
    menu.deleteLater()


def test_a_job_that_cannot_be_opened_is_said_and_this_one_stays(window, tmp_path):
    (tmp_path / "bad.stride").write_bytes(b"not a job")
    before = window.session
    assert not window.main_window.open_job(tmp_path / "bad.stride")
    assert window.session is before
    assert "no Plain Stride job" in said(window)


def test_what_cannot_be_saved_is_said_and_saved_later(window, monkeypatch):
    store = window.session.document.writer._store
    real = store.commit

    def full(_):
        raise JobError("the disk is full")

    monkeypatch.setattr(store, "commit", full)
    first = window.pull((10, 20), (60, 20))
    second = window.pull((10, 30), (60, 30))
    window.settle()
    assert "disk is full" in said(window)
    assert window.main_window.desk.stride.saved_words() == "not saved"
    assert set(window.lines()) == {first, second}
    monkeypatch.setattr(store, "commit", real)
    window.session.document.writer.again()
    window.wait_until(lambda: not window.session.document.writer.pending())
    with opened(window.session.job.path) as (job, _):
        assert set(job.rows.lines) == {first, second}


def test_settings_are_remembered(window, window_on):
    window.main_window.preferences.use_variant("evening")
    window.main_window.resize(1100, 720)
    window.main_window.desk.margins.fold_strip()
    path = window.session.job.path
    window.main_window.close()
    again = window_on(path)
    assert THEME.variant == "evening"
    assert again.main_window.desk.strip.isHidden()
    again.main_window.preferences.use_variant("day")


# Look


def luminance(code: str) -> float:
    """Relative luminance (WCAG 2, from memory)."""
    channels = [int(code[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(a: str, b: str) -> float:
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("variant", VARIANTS)
def test_words_stand_out_from_the_margin(variant):
    p = VARIANTS[variant]
    for name in ("text", "faint", "ahead", "chosen", "red"):
        assert contrast(getattr(p, name), p.margin) >= 4.5, name
    for name in ("text", "faint"):
        assert contrast(getattr(p, name), p.wash) >= 4.5, name


def test_the_shipped_type_is_there(qapp):
    assert {"Rosario", "Noto Sans"} <= set(load_fonts())


def test_every_control_has_a_name(window):
    for name in window.main_window.desk.stations:
        window.main_window.desk.show_station(name)
        for widget in window.main_window.findChildren(QAbstractButton) + window.main_window.findChildren(QLineEdit):
            if widget.isVisible():
                assert widget.accessibleName() or widget.text(), widget


def test_targets_are_at_least_28_px_high(window):
    for name in window.main_window.desk.stations:
        window.main_window.desk.show_station(name)
        window.settle()
        for widget in window.main_window.findChildren(Word) + window.main_window.findChildren(PartRow):
            if widget.isVisible():
                assert widget.height() >= 28, widget.text()


def test_a_chosen_line_chosen_again_opens_what_can_be_done_to_it_at_every_station(window):
    key = window.pull((10, 20), (110, 20))
    before = window.session.shapes[key].body.full.max()
    for station in window.main_window.desk.stations:
        window.main_window.desk.show_station(station)
        window.session.choose([])
        place = window.px((60, 20)).toPoint()
        for _ in range(2):
            QTest.mouseClick(window.sheet, Qt.MouseButton.RightButton, Qt.KeyboardModifier.NoModifier, place)
        menu = QApplication.activePopupWidget()
        assert isinstance(menu, QMenu)
        next(a for a in menu.actions() if a.text().startswith("heavier")).trigger()
        menu.close()
    assert window.session.shapes[key].body.full.max() > before * 1.3
    ends = next(e for e in line_entries(window.session, lambda: None) if e is not None and e.words == "ends")
    ends.entries()[2].run()
    assert window.session.shapes[key].ends == ("flat", "flat")


def test_the_file_is_packed_from_the_menu(window):
    window.pull((10, 20), (110, 20))
    action = next(a for a in window.main_window.desk.job_menu().findChildren(QAction) if a.text().startswith("Pack"))
    action.trigger()
    window.wait_until(lambda: "history" in said(window))


def test_a_job_that_is_replaced_goes_on_beside_it(window):
    window.pull((10, 20), (110, 20))
    window.settle()
    path = window.session.job.path
    path.unlink()
    path.write_bytes(b"something else")
    window.wait_until(lambda: window.session.document.writer.pending() == 0)
    window.pull((10, 40), (110, 40))
    window.wait_until(lambda: "goes on as" in said(window))
    assert window.session.job.path.name == "walk kept 1.stride"
    assert path.read_bytes() == b"something else"


def test_a_job_that_is_deleted_is_put_back_and_that_is_said(window):
    window.pull((10, 20), (110, 20))
    window.wait_until(lambda: window.session.document.writer.pending() == 0)
    window.session.job.path.unlink()
    window.pull((10, 40), (110, 40))
    window.wait_until(lambda: "put back whole" in said(window))
    with opened(window.session.job.path) as (job, _):
        assert len(job.rows.lines) == 2


def test_arms_length_shows_a_change_that_a_pull_put_off(window):
    window.pull((10, 20), (110, 20))
    small = window.main_window.desk.arms._small
    before = small._layer.image.cacheKey()
    # The picture's turn has not come yet when the pen is down again.
    window.session.make("plan", share=100)
    window.main_window.desk.arms.hold(True)
    window.main_window.desk.arms.hold(False)
    window.wait_until(lambda: not small._layer.busy and small._layer.image.cacheKey() != before)


def test_pencils_are_read_shown_and_laid_as_drafts(window):
    lines = [np.array([[10.0, 45.0], [110.0, 45.0]]), np.array([[30.0, 10.0], [30.0, 42.6]])]
    window.session.make("pencils-add", data=scan(lines, (120.0, 90.0), 200.0, 1, SOFT), name="r")
    window.main_window.desk.show_station("Pencils")
    notes = window.main_window.desk.stations["Pencils"]
    notes.show_page("Read")
    press(window, "read the pencils")
    assert notes.reader.running
    window.wait_until(lambda: notes.reader.reading is not None, 60)
    page = notes.page("Read")
    assert "2 lines" in page._told.accessibleName() and notes.reader.shown == "lines"
    before = window.sheet.view
    page._places.setCurrentRow(0)
    window.settle()
    assert window.sheet.view.scale > before.scale and "short" in page._places.currentItem().text()
    assert window.session.strip_picture is not None and "short" in window.session.strip_picture.facts[0]
    press(window, "hide what was read")
    assert not notes.reader.shown
    window.session.make("pencils", sheet=window.session.job.pencils()[0][0], fade=0.4)
    assert notes.reader.reading is not None
    notes.show_page("Draft")
    press(window, "draft the whole sheet")
    assert len(window.lines()) == 2 and window.session.job.part_named("Drafts") is not None
    window.session.timeline.undo()
    assert window.lines() == {}
    window.session.make("pencils", sheet=window.session.job.pencils()[0][0], placed_mm=[5, 5, 120, 90])
    assert notes.reader.reading is None  # it told where they lay before


def test_a_reading_is_stopped_and_a_blank_sheet_told(window):
    window.session.make("pencils-add", data=scan([], (120.0, 90.0), 200.0, 1), name="blank")
    window.main_window.desk.show_station("Pencils")
    notes = window.main_window.desk.stations["Pencils"]
    notes.show_page("Read")
    press(window, "read the pencils")
    press(window, "stop")
    window.wait_until(lambda: not notes.reader.running, 30)
    assert "stopped" in notes.page("Read")._told.accessibleName()
    press(window, "read the pencils")
    window.wait_until(lambda: not notes.reader.running, 60)
    assert "no pencil lines" in notes.page("Read")._told.accessibleName()


def test_a_common_size_is_chosen_and_advice_given(window):
    window.main_window.desk.show_station("Board")
    board = window.main_window.desk.stations["Board"].page("Sheet")
    next(a for a in board.formats().actions() if a.text() == "A5").trigger()
    # The sheet lay on its side and stays so.
    assert window.session.job.page.size_mm == (210.0, 148.0)
    assert "600 dpi" in board._advice.accessibleName()
    type_into(window, "Resolution", "600 dpi")
    assert board._advice.accessibleName() == ""
