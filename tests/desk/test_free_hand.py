"""Keys that are moved and mirrored, hold-spots, nudging, drawing round, the clipboard, what is dropped on the window."""

import json
import os
import subprocess
import sys

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QGuiApplication, QKeyEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from plain_stride.board.page import Page
from plain_stride.desk.actions.line_actions import paste_here
from plain_stride.desk.dialogs.key_sheet import KeySheet
from plain_stride.desk.keys.key_plan import KEYS, MIRROR, PLACES, KeyPlan
from plain_stride.desk.keys.keyboard_layout import printed_letters
from plain_stride.desk.margins.hold_spots import SPOTS
from plain_stride.desk.session.clipboard import OWN, SVG, copy_chosen
from plain_stride.desk.settings import Settings
from plain_stride.finish.svg_in import read_svg
from plain_stride.job.changes import make
from plain_stride.job.job_files import new_job
from plain_stride.lines.black import black_of_rings
from plain_stride.pencils.scanner import scan
from tests.desk.test_window import said

KEY = Qt.Key
TOUCH = QTest.createTouchDevice()


@pytest.fixture(autouse=True)
def plain_keys():
    KEYS.own.clear()
    KEYS.seen.clear()
    KEYS.left_handed = False
    yield
    KEYS.own.clear()
    KEYS.left_handed = False


def key_to(widget, key, text=""):
    QApplication.sendEvent(widget, QKeyEvent(QKeyEvent.Type.KeyPress, key, Qt.KeyboardModifier.NoModifier, text))


# The plan of keys


def test_every_use_has_a_place_of_its_own_for_either_hand(window):
    uses = window.main_window.desk.all_actions.by_key
    for left in (False, True):
        plan = KeyPlan(left_handed=left)
        places = [plan.place(use) for use in uses]
        assert len(set(places)) == len(uses) and set(places) <= set(PLACES)
    assert all(MIRROR[MIRROR[place]] == place for place in MIRROR)


def test_a_key_is_moved_and_a_clash_refused(window):
    sheet = KeySheet(
        window.main_window, window.main_window.desk.all_actions, KEYS, window.main_window.desk.keys_changed
    )
    sheet.show()
    sheet.words["A"].click()
    key_to(sheet, KEY.Key_S, "s")
    assert "taken" in sheet.said.accessibleName() and "swell" in sheet.said.accessibleName()
    sheet.words["A"].click()
    key_to(sheet, KEY.Key_F5)
    assert "desktop's" in sheet.said.accessibleName()
    sheet.words["A"].click()
    key_to(sheet, KEY.Key_Escape)
    assert KEYS.own == {}
    sheet.words["A"].click()
    key_to(sheet, KEY.Key_Minus, "-")
    assert KEYS.place("A") == "-" and sheet.words["A"].text() == "-"
    sheet.close()
    window.settle()
    window.main_window.activateWindow()
    window.settle()
    window.hold(KEY.Key_Minus)
    assert window.sheet.layer.look.pencils_off
    window.let_go(KEY.Key_Minus)
    assert not window.sheet.layer.look.pencils_off
    again = KeyPlan()
    again.load(window.main_window.settings)
    assert again.place("A") == "-"
    sheet._as_made()
    assert KEYS.place("A") == "A"
    sheet.deleteLater()


def test_left_handed_mirrors_keys_and_margins(window):
    gauge, notes = (
        window.main_window.desk.gauge.mapTo(window.main_window, QPoint()).x(),
        window.main_window.desk.notes.mapTo(window.main_window, QPoint()).x(),
    )
    assert gauge < notes
    window.main_window.preferences.toggle_hand()
    QApplication.processEvents()
    assert (
        window.main_window.desk.gauge.mapTo(window.main_window, QPoint()).x()
        > window.main_window.desk.notes.mapTo(window.main_window, QPoint()).x()
    )
    window.hold(KEY.Key_Semicolon)
    assert window.sheet.layer.look.pencils_off
    window.let_go(KEY.Key_Semicolon)
    role = window.session.now.role
    window.tap(KEY.Key_X)  # the mirror of the full stop
    assert window.session.now.role != role
    kept = KeyPlan()
    kept.load(Settings())
    assert kept.left_handed


def test_the_sheet_shows_what_is_printed_here(window, monkeypatch):
    """libxkbcommon's own German layout: z and y change places (ISO/IEC 9995 places, DIN 2137 letters)."""
    monkeypatch.setenv("XKB_DEFAULT_LAYOUT", "de")
    printed_letters.cache_clear()
    printed = printed_letters(tuple(PLACES.items()))
    printed_letters.cache_clear()
    if printed:
        assert printed["Z"] == "Y" and printed["Y"] == "Z" and printed[";"] == "Ö" and printed["A"] == "A"
    KEYS.seen["Z"] = "Y"
    assert KEYS.shown("Z") == "Y"


def test_unreadable_settings_count_as_not_set(window):
    window.main_window.settings.put("keys", "nonsense")
    plan = KeyPlan()
    plan.load(window.main_window.settings)
    assert plan.own == {}


# Hold-spots


def spot(window, use):
    return next(s for s in window.main_window.desk.spots.spots if s.use == use)


def test_hold_spots_latch_by_mouse_and_hold_by_finger(window):
    assert window.main_window.desk.spots.isHidden()
    window.main_window.preferences.toggle_spots()
    QApplication.processEvents()
    assert window.main_window.desk.spots.isVisible() and {s.use for s in window.main_window.desk.spots.spots} <= set(
        window.main_window.desk.all_actions.by_key
    )
    QTest.mouseClick(spot(window, "D"), Qt.MouseButton.LeftButton)
    assert window.sheet.gestures.held == "move" and spot(window, "D").isChecked()
    before = window.sheet.view
    QTest.mouseMove(window.sheet, QPoint(300, 300))
    QTest.mouseMove(window.sheet, QPoint(340, 310))
    assert window.sheet.view.centre != before.centre
    QTest.mouseClick(spot(window, "D"), Qt.MouseButton.LeftButton)
    assert window.sheet.gestures.held == "" and not spot(window, "D").isChecked()
    at = spot(window, "A").rect().center()
    QTest.touchEvent(spot(window, "A"), TOUCH).press(0, at, spot(window, "A")).commit()
    window.main_window.desk.keys.begin_hold()
    assert window.sheet.layer.look.pencils_off
    QTest.touchEvent(spot(window, "A"), TOUCH).release(0, at, spot(window, "A")).commit()
    assert not window.sheet.layer.look.pencils_off
    assert set(SPOTS) <= set(window.main_window.desk.all_actions.by_key)


def test_a_short_touch_is_a_tap(window):
    window.main_window.preferences.toggle_spots()
    window.pull((10, 20), (60, 20))
    at = spot(window, "Z").rect().center()
    QTest.touchEvent(spot(window, "Z"), TOUCH).press(0, at, spot(window, "Z")).commit()
    QTest.touchEvent(spot(window, "Z"), TOUCH).release(0, at, spot(window, "Z")).commit()
    assert window.lines() == {}


# Nudging, choosing, moving


def drag(window, *places):
    pixels = [window.px(p).toPoint() for p in places]
    QTest.mousePress(window.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, pixels[0])
    for pixel in pixels[1:]:
        QTest.mouseMove(window.sheet, pixel)
    QTest.mouseRelease(window.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, pixels[-1])


def test_w_held_nudges_a_line_and_draws_round_many(window):
    a, b = window.pull((10, 20), (60, 20)), window.pull((10, 40), (60, 40))
    far = window.pull((10, 80), (110, 80))
    window.hover((30, 20))
    window.hold(KEY.Key_W)
    drag(window, (30, 20), (35, 25), (40, 30))
    window.let_go(KEY.Key_W)
    assert window.session.shapes[a].flat[0][:, 1].mean() == pytest.approx(30, abs=0.5)
    window.hold(KEY.Key_W)
    drag(window, (5, 15), (115, 15), (115, 60), (5, 60), (5, 15))
    window.let_go(KEY.Key_W)
    assert set(window.session.chosen) == {a, b}
    QTest.keyClick(window.main_window.windowHandle(), KEY.Key_Delete)
    assert set(window.lines()) == {far}


def test_the_right_button_draws_round_as_well(window):
    a, b = window.pull((10, 20), (60, 20)), window.pull((10, 70), (60, 70))
    loop = [window.px(p).toPoint() for p in ((5, 10), (70, 10), (70, 30), (5, 30))]
    QTest.mousePress(window.sheet, Qt.MouseButton.RightButton, Qt.KeyboardModifier.NoModifier, loop[0])
    for at in loop[1:]:
        QTest.mouseMove(window.sheet, at)
    QTest.mouseRelease(window.sheet, Qt.MouseButton.RightButton, Qt.KeyboardModifier.NoModifier, loop[-1])
    assert window.session.chosen == [a]
    assert b in window.lines()


def test_chosen_lines_move_by_arrows_while_nudge_is_held(window):
    key = window.pull((10, 20), (60, 20))
    window.session.choose([key])
    x = window.session.shapes[key].flat[0][:, 0].mean()
    window.sheet.setFocus()
    window.hold(KEY.Key_W)
    QTest.keyClick(window.sheet, KEY.Key_Right)
    QTest.keyClick(window.sheet, KEY.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    window.let_go(KEY.Key_W)
    assert window.session.shapes[key].flat[0][:, 0].mean() == pytest.approx(x + 1.1, abs=0.01)


def test_points_are_dropped_by_escape_and_taken_back_by_backspace(window):
    window.sheet.setFocus()
    for key in (KEY.Key_Return, KEY.Key_Right, KEY.Key_Right, KEY.Key_Return, KEY.Key_Backspace):
        QTest.keyClick(window.sheet, key)
    assert len(window.sheet.key_points.points) == 1
    QTest.keyClick(window.main_window.windowHandle(), KEY.Key_Escape)
    assert window.sheet.key_points.points == [] and window.lines() == {}


def test_pressure_by_plus_and_minus_swells_the_line(window):
    window.sheet.setFocus()
    window.hover((20, 45))
    for keys in ([KEY.Key_Minus] * 4, [KEY.Key_Return], [KEY.Key_Right] * 40, [KEY.Key_Plus] * 9, [KEY.Key_Return],
                 [KEY.Key_Return]):  # fmt: skip
        for key in keys:
            QTest.keyClick(window.sheet, key)
    window.settle()
    shape = window.session.shapes[next(iter(window.lines()))]
    w = np.interp([10, 30], shape.body.s, shape.body.full)
    assert shape.length == pytest.approx(40, abs=0.5) and w[1] > w[0] * 1.4


def test_home_and_end_go_from_line_to_line_and_say_which(window):
    a, b = window.pull((10, 20), (60, 20)), window.pull((10, 40), (60, 40))
    window.sheet.setFocus()
    QTest.keyClick(window.sheet, KEY.Key_End)
    assert window.session.chosen == [a] and "mm long" in window.sheet.accessibleDescription()
    QTest.keyClick(window.sheet, KEY.Key_End)
    assert window.session.chosen == [b]
    QTest.keyClick(window.sheet, KEY.Key_Home)
    assert window.session.chosen == [a]


def test_true_print_size_by_key_without_pencils(window):
    before = window.sheet.view
    window.hold(KEY.Key_U)
    assert window.sheet.viewport.per_cent() == pytest.approx(100) and window.sheet.layer.look.pencils_off
    window.let_go(KEY.Key_U)
    assert window.sheet.view == before and not window.sheet.layer.look.pencils_off


def test_the_strip_is_large_while_v_is_held_and_folds_by_station(window):
    high = window.main_window.desk.strip.height()
    window.hold(KEY.Key_V)
    QApplication.processEvents()
    assert window.main_window.desk.strip.height() > 2 * high
    window.let_go(KEY.Key_V)
    window.tap(KEY.Key_V)
    assert window.main_window.desk.strip.isHidden()
    window.main_window.desk.show_station("Board")
    assert not window.main_window.desk.strip.isHidden()
    window.main_window.desk.show_station("Pull")
    assert window.main_window.desk.strip.isHidden()


def test_a_touch_mirrors_arms_length(window):
    QTest.mouseClick(window.main_window.desk.arms._small, Qt.MouseButton.LeftButton)
    assert window.main_window.desk.arms.mirrored


# Blacks on the sheet


def test_a_black_is_chosen_shown_and_taken_away(window):
    ring = np.array([(20, 20), (60, 20), (60, 60), (20, 60)], float)
    window.session.make("black", black=black_of_rings([ring]), part="Lines")
    assert window.ink_at((40, 40)) > 200
    at = window.px((40, 40)).toPoint()
    QTest.mouseClick(window.sheet, Qt.MouseButton.RightButton, Qt.KeyboardModifier.NoModifier, at)
    assert len(window.session.chosen) == 1
    window.session.make("move", lines=list(window.session.chosen), by=[45.0, 0.0])
    assert window.ink_at((40, 40)) < 40 and window.ink_at((90, 40)) > 200
    QTest.keyClick(window.main_window.windowHandle(), KEY.Key_Delete)
    assert window.ink_at((90, 40)) < 40
    for notes in window.main_window.desk.stations.values():
        window.main_window.desk.show_station(notes.name)  # none of them minds a black that is chosen


# Clipboard and drops


def test_copy_carries_svg_and_pastes_into_another_job(window, window_on, tmp_path):
    from plain_stride.board.page import Page
    from plain_stride.job.job_files import new_job

    key = window.pull((10, 20), (60, 20))
    control = Qt.KeyboardModifier.ControlModifier
    QTest.keyClick(window.main_window, KEY.Key_C, control)
    assert "Nothing is chosen" in said(window)
    window.session.choose([key])
    QTest.keyClick(window.main_window, KEY.Key_C, control)
    data = QGuiApplication.clipboard().mimeData()
    assert data.hasFormat(OWN) and data.hasFormat(SVG) and data.text().startswith("<?xml")
    assert len(read_svg(bytes(data.data(SVG).data())).things) == 1
    path = tmp_path / "other.stride"
    new_job(path, Page((120.0, 90.0), 300.0))
    other = window_on(path)
    QTest.keyClick(other.main_window, KEY.Key_V, control)
    other.settle()
    new = next(iter(other.lines()))
    assert np.allclose(other.session.shapes[new].curve, window.session.shapes[key].curve)
    assert other.session.job.rows.lines[new].pull is not None and other.session.chosen == [new]
    QTest.keyClick(other.main_window, KEY.Key_D, control)
    assert len(other.lines()) == 2
    QTest.keyClick(other.main_window, KEY.Key_X, control)
    assert len(other.lines()) == 1


@pytest.mark.parametrize("data", [b"{}", b"nonsense", b'{"plain-stride": "lines", "version": 1}'])
def test_damaged_clipboards_change_nothing(window, data):
    mime = QMimeData()
    mime.setData(OWN, data)
    QGuiApplication.clipboard().setMimeData(mime)
    paste_here(window.session)
    assert window.lines() == {}
    assert "damaged" in said(window) or "no lines" in said(window)


def dropped(window, mime):
    event = QDropEvent(QPointF(300, 300), Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton,
                       Qt.KeyboardModifier.NoModifier)  # fmt: skip
    window.main_window.dropEvent(event)
    window.settle()


def files(*paths):
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    return mime


def test_what_is_dropped_finds_its_place(window, tmp_path):
    from plain_stride.board.page import Page
    from plain_stride.job.job_files import new_job

    svg, lines, rough = tmp_path / "a.svg", tmp_path / "b.json", tmp_path / "c.png"
    svg.write_text('<svg xmlns="http://www.w3.org/2000/svg"><path d="M9 9h99" stroke="red"/><text>x</text></svg>')
    lines.write_text(json.dumps({"lines": [{"points": [[10, 10], [50, 10]]}]}))
    rough.write_bytes(scan([np.array([[10.0, 45.0], [110.0, 45.0]])], (120.0, 90.0), 100.0, 1))
    dropped(window, files(svg, lines, rough))
    assert len(window.lines()) == 2 and len(window.session.job.rows.pencils) == 1
    assert window.main_window.desk.station() == "Pencils"
    svg.write_text("<svg")
    dropped(window, files(svg))
    assert "cannot be read" in said(window) and len(window.lines()) == 2
    job = tmp_path / "d.stride"
    new_job(job, Page((50.0, 50.0), 300.0))
    dropped(window, files(job))
    assert window.session.job.path == job


def test_what_cannot_be_read_of_a_drawing_is_told(window, tmp_path):
    svg = tmp_path / "a.svg"
    svg.write_text('<svg xmlns="http://www.w3.org/2000/svg"><path d="M9 9h99" stroke="red"/><text>x</text></svg>')
    dropped(window, files(svg))
    assert "texts" in said(window)
    steps = window.session.job.history.undo_count()
    window.session.timeline.undo()
    assert window.lines() == {} and steps == 1


def test_nothing_is_copied_of_a_job_that_changed_meanwhile(window):
    key = window.pull((10, 20), (60, 20))
    window.session.choose([key])
    assert copy_chosen(window.session)
    make(window.session.job, window.session.shapes, "delete", {"lines": [key]})
    paste_here(window.session)
    assert len(window.lines()) == 1


COPY_AND_END = """
import sys
from pathlib import Path
from plain_stride.desk.start import application
app = application()
from plain_stride.desk.main_window import MainWindow
from plain_stride.desk.session.clipboard import copy_chosen
from plain_stride.desk.settings import Settings
window = MainWindow(Path(sys.argv[1]), Settings())
window.show()
window.session.make("draw", shape="straight", points=[[10, 20], [60, 20]], nib="3")
window.session.choose(list(window.session.job.rows.lines))
assert copy_chosen(window.session)
window.close()
app.processEvents()
"""


def test_the_program_ends_well_after_something_was_copied(tmp_path):
    path = tmp_path / "copied.stride"
    new_job(path, Page((120.0, 90.0), 300.0))
    around = os.environ | {"QT_QPA_PLATFORM": "offscreen", "XDG_CONFIG_HOME": str(tmp_path)}
    done = subprocess.run([sys.executable, "-c", COPY_AND_END, str(path)], env=around, capture_output=True, timeout=120)
    assert done.returncode == 0, done.stderr.decode()[-500:]
