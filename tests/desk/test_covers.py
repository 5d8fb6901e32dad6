"""Covers, the pen's button and the history, by the window."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit, QMenu

from plain_stride.desk.margins.cover_menu import cover_menu
from plain_stride.desk.player import on_glass
from plain_stride.desk.sheet.ink_layer import InkLayer
from tests.conftest import samples_along
from tests.desk.test_sheet_speed import pixels, whole
from tests.desk.test_window import said

ROUND = [(40, 20), (80, 20), (80, 70), (40, 70), (40, 20.3)]


def choose(menu: QMenu, words: str) -> None:
    next(action for action in menu.actions() if action.text().startswith(words)).trigger()


@pytest.fixture
def covered(window):
    """A far line, and a box in front of it whose cover is on."""
    window.session.make("part", name="Hill", tier="far")
    window.session.take(part="Hill", role="inner")
    window.pull((10, 45), (110, 45))
    window.session.make("part", name="Box", tier="near")
    window.session.take(part="Box", role="outer")
    window.box = window.pull(*ROUND, seconds=4.0, n=800)
    choose(cover_menu(window.main_window, window.session, lambda: None), "hides what lies behind")
    return window


def test_a_cover_hides_on_the_sheet_and_can_be_taken_off(covered):
    assert covered.ink_at((60, 45)) < 40 and covered.ink_at((20, 45)) > 150
    row = next(r for r in covered.main_window.desk.parts.rows() if r.part.name == "Box")
    assert "covers" in row.accessibleName()
    choose(cover_menu(covered.main_window, covered.session, lambda: None), "hides what lies behind")
    assert covered.ink_at((60, 45)) > 150
    covered.session.timeline.undo()
    assert covered.ink_at((60, 45)) < 40


@pytest.mark.parametrize("change", ["line of the edge gone", "swollen", "undone", "new line behind"])
def test_a_changed_edge_repaints_what_it_hid(covered, change):
    covered.session.make("cover", name="Box", gap=1.0)
    covered.settle()
    if change == "line of the edge gone":
        covered.session.make("delete", lines=[covered.box])
    elif change == "swollen":
        covered.session.make("swell", line=covered.box, factor=4.0)
    elif change == "undone":
        covered.session.make("swell", line=covered.box, factor=4.0)
        covered.settle()
        covered.session.timeline.undo()
    else:
        covered.session.take(part="Hill")
        covered.pull((10, 30), (110, 60))
    covered.settle()
    # A line that a cover reaches is painted by its outline, any other in a small view by a strip within 0.02 mm: the
    # rest of a line that has just come free may still be the one where a new picture has the other.
    assert np.abs(pixels(covered.sheet.layer.image) - whole(InkLayer(covered.session), covered)).max() <= 50


def test_pulling_behind_a_cover_shows_the_hidden_stretch_pale(covered):
    covered.session.take(part="Hill")
    samples = on_glass(samples_along([(10, 55), (70, 55)], 0.6, 120), covered.sheet.view.to_glass)
    covered.pen.send(QEvent.Type.TabletPress, samples[0], Qt.MouseButton.LeftButton)
    for row in samples[1:]:
        covered.pen.send(QEvent.Type.TabletMove, row)
        covered.settle() if row is samples[-1] else None
    pale, full = covered.ink_at((55, 55)), covered.ink_at((25, 55))
    covered.pen.send(QEvent.Type.TabletRelease, samples[-1], Qt.MouseButton.LeftButton)
    assert 30 < pale < 120 < full
    assert covered.ink_at((55, 55)) < 40


def test_what_is_hidden_is_not_under_the_pen(covered):
    assert covered.sheet.context.line_under(covered.px((60, 45))) is None
    assert covered.sheet.context.line_under(covered.px((20, 45))) is not None


def test_a_cover_is_drawn_by_the_next_pull(covered):
    choose(cover_menu(covered.main_window, covered.session, lambda: None), "draw its edge")
    assert "becomes its cover" in said(covered)
    count = len(covered.lines())
    covered.pull((15, 40), (35, 40), (35, 50), (15, 50), (15, 41), seconds=2.0, n=400)
    assert len(covered.lines()) == count
    assert covered.ink_at((25, 45)) < 40 and covered.ink_at((60, 45)) > 150
    choose(cover_menu(covered.main_window, covered.session, lambda: None), "edge found")
    assert covered.ink_at((25, 45)) > 150 and covered.ink_at((60, 45)) < 40


def test_escape_gives_the_drawing_of_a_cover_up(covered):
    covered.session.draw_cover()
    QTest.keyClick(covered.main_window, Qt.Key.Key_Escape)
    assert covered.pull((10, 80), (60, 80)) is not None


def test_a_cover_that_encloses_nothing_says_so(window):
    window.pull((10, 20), (60, 20))
    window.session.make("cover", name="Lines", on=True)
    assert "enclose nothing yet" in said(window)


@pytest.mark.parametrize(("typed", "gap"), [("0,7", 0.7), ("1 mm", 1.0), ("much", 0.0)])
def test_another_gap_is_typed(covered, typed, gap):
    covered.main_window.desk.show_parts(True)
    covered.main_window.desk.parts._ask_gap()
    entry = next(
        e for e in covered.main_window.desk.parts.findChildren(QLineEdit) if e.accessibleName() == "White round it"
    )
    entry.clear()
    QTest.keyClicks(entry, typed)
    QTest.keyClick(entry, Qt.Key.Key_Return)
    assert covered.session.part.cover_gap == gap


# The pen's button


def press_button(window, mm, down=True):
    row = np.array([*window.sheet.view.to_glass(np.array([mm], float))[0], 0.0, 0.0, np.nan])
    kind = QEvent.Type.TabletPress if down else QEvent.Type.TabletRelease
    window.pen.send(kind, row, Qt.MouseButton.RightButton)


def test_the_pens_button_is_the_key_that_was_chosen(window):
    """Held it is the held key: here D, which moves the board under the pen."""
    window.main_window.preferences.use_pen_button("D")
    before = window.sheet.view
    press_button(window, (60, 45))
    for mm in ((60, 45), (62, 47), (64, 49)):
        row = np.array([*before.to_glass(np.array([mm], float))[0], 0.0, 0.1, np.nan])
        window.pen.send(QEvent.Type.TabletMove, row)
    press_button(window, (64, 49), down=False)
    assert window.sheet.view.centre != before.centre and window.lines() == {}
    assert window.sheet.gestures.held == ""
    assert window.main_window.settings.get("pen_button") == "D"


def test_a_short_press_of_the_pens_button_is_a_tap(window):
    window.pull((10, 20), (60, 20))
    window.main_window.preferences.use_pen_button("Z")
    press_button(window, (60, 45))
    press_button(window, (60, 45), down=False)
    assert window.lines() == {}


# History


def test_the_history_tells_its_size_and_forgets_before_a_mark(window, monkeypatch):
    window.pull((10, 20), (60, 20))
    window.session.timeline.mark("First line")
    window.pull((10, 40), (60, 40))
    window.session.document.writer.tell_sizes()
    window.wait_until(lambda: "steps of its history take" in said(window))

    def forget_button(box):
        return next(button for button in box.buttons() if button.text() == "Forget them")

    monkeypatch.setattr("plain_stride.desk.dialogs.dialogs.QMessageBox.exec", lambda box: forget_button(box).click())
    monkeypatch.setattr("plain_stride.desk.dialogs.dialogs.QMessageBox.clickedButton", forget_button)
    window.main_window.desk.dialogs.ask_forget("First line")
    window.wait_until(lambda: "takes" in said(window) and "of it history" in said(window))
    window.session.timeline.undo()
    assert len(window.lines()) == 1
    window.session.timeline.undo()
    assert len(window.lines()) == 1 and "Nothing is left" in said(window)


def test_other_parts_are_dimmed_while_o_is_held(window):
    window.session.make("part", name="Hut", tier="far")
    window.pull((10, 20), (90, 20))
    window.session.take(part="Hut")
    window.pull((10, 50), (90, 50))
    window.settle()

    def grey(mm):
        window.wait_until(lambda: not window.sheet.layer.busy)
        place = window.px(mm).toPoint()
        return window.sheet.grab().toImage().pixelColor(place).lightness()

    assert grey((50, 20)) < 60 and grey((50, 50)) < 60
    window.hold(Qt.Key.Key_O)
    window.settle()
    assert 150 < grey((50, 20)) < 230 and grey((50, 50)) < 60
    window.let_go(Qt.Key.Key_O)
    window.settle()
    assert grey((50, 20)) < 60
