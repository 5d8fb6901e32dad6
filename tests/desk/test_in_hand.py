"""What stands in the way every hour: what lies over the sheet, tools that stay, menus that hide their keys."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, QRect, QSize, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu

from plain_stride.board.page import Page
from plain_stride.desk.controls.controls import Word
from plain_stride.desk.look.theme import DAY, GREY_GROUND, PART_INKS, THEME
from plain_stride.desk.session.pencil_reader import LINES, LOST
from plain_stride.desk.sheet.tools.drawing import BoxTool
from plain_stride.job.job_files import new_job
from plain_stride.pencils.read.reading import Reading, ReadLine

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
KEYS = {"New board": "Ctrl+N", "Open a job…": "Ctrl+O", "Save a copy…": "Ctrl+Shift+S", "Take back": "Ctrl+Z",
        "Do again": "Ctrl+Shift+Z", "Cut": "Ctrl+X", "Copy": "Ctrl+C", "Paste": "Ctrl+V", "Choose all": "Ctrl+A",
        "Choose nothing": "Ctrl+Shift+A", "The whole board": "Ctrl+0", "100 % of print size": "Ctrl+1",
        "The whole screen": "F11", "Keys": "F1", "Quit": "Ctrl+Q"}  # fmt: skip


def actions_of(menu: QMenu):
    """All entries of a menu and of the menus in it, by their words."""
    out = {}
    for action in menu.actions():
        out |= actions_of(action.menu()) if action.menu() is not None else {action.text(): action}
    return out


def test_the_menu_shows_its_keys_and_the_keys_work_with_it(window):
    menu = window.main_window.desk.job_menu()
    shown = {words: action.shortcut().toString() for words, action in actions_of(menu).items()}
    assert {words: shown[words] for words in KEYS} == KEYS
    # With a menu about, a shortcut is not ambiguous: the window's own does it.
    key = window.pull((10, 20), (60, 20))
    handle = window.main_window.windowHandle()
    QTest.keyClick(handle, Qt.Key.Key_A, CONTROL)
    assert window.session.chosen == [key]
    QTest.keyClick(handle, Qt.Key.Key_A, CONTROL | SHIFT)
    assert window.session.chosen == []
    QTest.keyClick(handle, Qt.Key.Key_Z, CONTROL)
    assert key not in window.lines()
    menu.deleteLater()


def test_the_views_that_every_desktop_has(window):
    whole, handle = window.sheet.view, window.main_window.windowHandle()
    QTest.keyClick(handle, Qt.Key.Key_1, CONTROL)
    assert window.sheet.viewport.per_cent() == pytest.approx(100.0)
    QTest.keyClick(handle, Qt.Key.Key_0, CONTROL)
    assert window.sheet.view == whole
    QTest.keyClick(handle, Qt.Key.Key_F11)
    assert window.main_window.windowState() & Qt.WindowState.WindowFullScreen
    QTest.keyClick(handle, Qt.Key.Key_F11)
    assert not window.main_window.windowState() & Qt.WindowState.WindowFullScreen


def test_a_board_that_is_enlarged_and_turned_stays_so_whatever_is_set(window):
    sheet, preferences, pen_at = window.sheet, window.main_window.preferences, QPointF(300.0, 200.0)
    sheet.viewport.set_view(sheet.view.turned(30.0, pen_at).enlarged(2.0, pen_at))
    lies = sheet.view
    window.main_window.desk.margins.fold_strip()
    window.session.take(unsteadied=frozenset({"texture"}))
    preferences.use_cautions(20)
    preferences.toggle_spots()
    window.settle()
    assert (sheet.view.scale, sheet.view.turn) == (lies.scale, lies.turn) and preferences.unsteadied == {"texture"}


def test_a_board_that_is_fitted_leaves_the_spots_room(window):
    whole = window.sheet.view
    window.main_window.preferences.toggle_spots()
    assert window.sheet.view.centre[0] < whole.centre[0] or window.sheet.view.scale < whole.scale
    window.main_window.preferences.toggle_spots()
    assert window.sheet.view == whole


class Painted(QObject):
    """The largest share of a widget that was painted in one go."""

    def __init__(self, widget):
        super().__init__()
        self.share = 0.0
        widget.installEventFilter(self)

    def eventFilter(self, widget, event):
        if event.type() == QEvent.Type.Paint:
            area = sum(r.width() * r.height() for r in event.region())
            self.share = max(self.share, area / (widget.width() * widget.height()))
        return False


def test_a_lift_paints_no_more_than_its_line(window):
    window.pull((10, 20), (60, 20))
    window.settle()
    painted = Painted(window.sheet)
    assert window.pull((10, 30), (40, 30)) is not None
    window.settle()
    assert 0.0 < painted.share < 0.5
    window.session.take(chosen=tuple(window.lines()))
    window.settle()
    assert painted.share == pytest.approx(1.0)


def test_minutes_that_were_pulled_count_on_in_the_next_job(window, tmp_path):
    cautions = window.main_window.cautions
    cautions.use(2)
    window.pull((10, 20), (60, 20))
    cautions.tick()
    new_job(tmp_path / "second.stride", Page((80.0, 60.0), 300.0))
    assert window.main_window.open_job(tmp_path / "second.stride")
    window.pull((10, 20), (60, 20))
    cautions.tick()
    assert "let the hand lie open" in window.main_window.desk.message.accessibleName()


def test_a_tool_goes_with_its_station(window):
    window.main_window.desk.show_station("Board")
    window.sheet.gestures.take_tool(BoxTool("a box", lambda *_: None))
    window.main_window.desk.show_station("Board")
    assert window.sheet.gestures.tool is not None
    window.main_window.desk.show_station("Pull")
    assert window.sheet.gestures.tool is None
    assert window.pull((10, 20), (60, 20)) is not None


def shown_over(window, mm) -> bool:
    """Whether something lies over the paper at a place."""
    window.settle()
    at = window.px(mm).toPoint()
    picture = window.sheet.grab().toImage()
    near = [picture.pixelColor(at + QPoint(0, dy)) for dy in range(-3, 4)]
    return any(abs(colour.red() - THEME.color("paper").red()) > 20 for colour in near)


@pytest.fixture
def reader(window, monkeypatch):
    """A reading of one line, as the worker would have told it."""
    reader = window.main_window.desk.pencils().reader
    points = np.column_stack([np.linspace(20.0, 100.0, 50), np.full(50, 45.0)])
    monkeypatch.setattr(reader, "reading", Reading("clean", [ReadLine(points, False, 0.9, 0.4)], [], [], 1.0))
    window.sheet.viewport.point(None)
    return reader


def test_what_was_read_lies_over_the_sheet_at_pencils_alone(window, reader):
    desk = window.main_window.desk
    desk.show_station("Pencils")
    reader.show(LINES)
    assert shown_over(window, (60, 45))
    for station in ("Pull", "Weigh", "Hand over", "Board"):
        desk.show_station(station)
        assert not shown_over(window, (60, 45)), station
    desk.show_station("Pencils")
    assert shown_over(window, (60, 45))


def test_at_pull_it_shows_round_the_pen_if_wanted(window, reader):
    desk = window.main_window.desk
    desk.show_station("Pull")
    window.hover((60, 50))
    assert not shown_over(window, (63, 45))
    window.main_window.preferences.toggle_reading_near()
    window.hover((60, 50))
    assert shown_over(window, (63, 45)) and not shown_over(window, (95, 45))
    desk.show_station("Weigh")
    window.hover((60, 50))
    assert not shown_over(window, (63, 45))


def test_a_chosen_line_is_plainly_told_from_the_others_at_every_zoom(window):
    one, other = window.pull((10, 20), (110, 20)), window.pull((10, 60), (110, 60))
    window.session.choose([one])
    for _ in range(2):
        window.sheet.viewport.point(None)
        window.settle()
        picture, beside = window.sheet.grab().toImage(), []
        for y, key in ((20, one), (60, other)):
            half = window.session.shapes[key].body.full.max() / 2.0 * window.sheet.view.scale
            at = window.px((60, y)).toPoint() + QPoint(0, round(half) + 3)
            beside.append(picture.pixelColor(at))
        assert beside[0].lightness() < beside[1].lightness() - 25
        window.sheet.viewport.show_box((50.0, 15.0, 70.0, 65.0))


def test_the_cursor_and_the_place_in_hand_tell_the_tool(window):
    desk = window.main_window.desk
    window.hover((60, 50))
    window.settle()
    before = window.sheet.grab().toImage()
    desk.stations["Pull"].tool_wanted.emit(desk.stations["Pull"].shapes.tools()["straights"]())
    window.settle()
    at = window.px((60, 50)).toPoint()
    box = QRect(at + QPoint(12, 8), QSize(70, 20))
    assert window.sheet.grab().toImage().copy(box) != before.copy(box)
    assert "straights" in desk.in_hand.word("What a drag does").text()
    desk.show_station("Weigh")
    assert window.sheet.gestures.tool is None
    window.tap(Qt.Key.Key_Apostrophe)
    window.sheet.gestures.toggle_pinned()
    desk.show_station("Pull")
    assert window.sheet.gestures.word() == "straights"
    window.tap(Qt.Key.Key_Escape)
    assert window.sheet.gestures.word() == "pull" and window.sheet.grab().toImage().copy(box) == before.copy(box)


def test_what_the_ink_lost_is_shown_wherever_its_key_is_held(window, reader, monkeypatch):
    dark = QImage(40, 30, QImage.Format.Format_Grayscale8)
    dark.fill(255)
    monkeypatch.setattr(reader, "lost_map", (dark, (40.0, 30.0), 1.0))
    window.main_window.desk.show_station("Pull")
    assert not shown_over(window, (60, 45))
    window.hold(Qt.Key.Key_L)
    assert reader.shown == LOST and shown_over(window, (60, 45))
    window.let_go(Qt.Key.Key_L)
    assert reader.shown != LOST and not shown_over(window, (60, 45))


def rows_under(word: Word) -> int:
    """How many rows of pixels below the letters are marked."""
    picture = word.grab().toImage()
    low = range(word.height() // 2 + THEME.px(8), word.height())
    ground = picture.pixelColor(word.width() - 1, 1)
    return sum(any(picture.pixelColor(x, y) != ground for x in range(0, word.width() - 2, 2)) for y in low)


def test_a_verb_under_the_pointer_does_not_look_chosen(window):
    words = [word for word in window.main_window.findChildren(Word) if word.isVisible()]
    verb = next(word for word in words if not word.isCheckable() and not set("gjpqy,") & set(word.text()))
    chosen = next(word for word in words if word.isChecked() and not set("gjpqy,") & set(word.text()))
    assert rows_under(verb) == 0
    QTest.mouseMove(verb, verb.rect().center())
    window.settle()
    assert rows_under(verb) <= 2 < rows_under(chosen)


def test_the_board_is_typed_in_pixels(window):
    desk = window.main_window.desk
    desk.show_station("Board")
    page = desk.stations["Board"].page("Sheet")
    page._width.typed.emit("2000 px")
    page._height.typed.emit("1500px")
    assert window.session.job.page.pixels == (2000, 1500)
    for text in ("0 px", "1000000 px", "many px"):
        desk.message.tell("nothing yet", False)
        page._width.typed.emit(text)
        assert window.session.job.page.pixels == (2000, 1500)
        assert page._fault.accessibleName() or "nothing yet" not in desk.message.accessibleName()


def test_parts_are_told_apart_by_colours_on_the_screen_alone(window, tmp_path):
    window.pull((10, 20), (110, 20), pressure=0.9)
    window.session.make("part", name="Moon")
    window.session.take(part="Moon")
    window.pull((10, 60), (110, 60), pressure=0.9)
    before = [pixel(window, (60, y)) for y in (20, 60)]
    assert before[0] == before[1]
    window.tap(Qt.Key.Key_BracketLeft)
    window.sheet.viewport.point(None)
    window.settle()
    now = [pixel(window, (60, y)) for y in (20, 60)]
    assert now[0] != now[1] and all(c.saturation() > 60 for c in now)
    window.tap(Qt.Key.Key_BracketLeft)
    assert [pixel(window, (60, y)) for y in (20, 60)] == before


def pixel(window, mm):
    window.sheet.viewport.point(None)
    window.settle()
    return window.sheet.grab().toImage().pixelColor(window.px(mm).toPoint())


def test_white_ink_is_seen_on_a_grey_ground_while_its_key_is_held(window):
    window.session.make("part", name="Lines", ink="white")
    window.pull((10, 20), (110, 20), pressure=0.9)
    paper, ink = pixel(window, (60, 45)).lightness(), pixel(window, (60, 20)).lightness()
    assert abs(paper - ink) < 4
    window.hold(Qt.Key.Key_BracketRight)
    assert pixel(window, (60, 20)).lightness() - pixel(window, (60, 45)).lightness() > 80
    window.let_go(Qt.Key.Key_BracketRight)
    assert pixel(window, (60, 45)).lightness() == paper


def test_the_inks_of_parts_are_readable_on_the_paper():
    """WCAG 2.1, relative luminance and contrast ratio (from memory)."""

    def luminance(code):
        linear = [(v / 255 / 12.92) if v / 255 <= 0.03928 else ((v / 255 + 0.055) / 1.055) ** 2.4
                  for v in bytes.fromhex(code[1:])]  # fmt: skip
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    paper = luminance(DAY.paper)
    assert all((paper + 0.05) / (luminance(ink) + 0.05) >= 4.5 for ink in PART_INKS)
    grey = luminance(GREY_GROUND)
    assert (paper + 0.05) / (grey + 0.05) >= 3.0 and (grey + 0.05) / (luminance(DAY.ink) + 0.05) >= 4.5
