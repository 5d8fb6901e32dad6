"""What is in hand stands in one place; sentences have theirs; pages fit; what is known is not explained again."""

import itertools

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QAbstractSlider, QLineEdit, QScrollBar, QWidget

from plain_stride.board.page import Page
from plain_stride.desk.controls.controls import Word
from plain_stride.desk.controls.hints import ENOUGH, HINTS, Explained
from plain_stride.desk.job_desk import STATIONS
from plain_stride.desk.margins.in_hand import SCHOOL_WORDS
from plain_stride.desk.stations.base import PagedNotes
from plain_stride.form.roles import ROLES
from plain_stride.hand.follow import SUGGESTED
from plain_stride.job.job_files import new_job

KEY = Qt.Key
NAMES = [station.name for station in STATIONS]


def take(word, words):
    """Chooses an entry of a word's list."""
    menu = word.menu()
    next(a for a in menu.actions() if a.text() == words).trigger()
    menu.deleteLater()


def test_what_is_in_hand_is_told_at_every_station_in_one_place(window):
    hand = window.main_window.desk.in_hand
    window.session.make("part", name="Moon", tier="far", locked=True)
    window.session.take(part="Moon", role="detail", nib="2")
    places = set()
    for name in NAMES:
        window.main_window.desk.show_station(name)
        window.settle()
        told = " ".join(hand.words())
        for words in ("Moon", "far", "locked", "pull", "detail", "nib 2, 0.13–0.50 mm", "steadied after", "hand free"):
            assert words in told, words
        places.add((hand.mapTo(window.main_window, QPoint(0, 0)).toTuple(), hand.size().toTuple()))
        assert hand.isVisible()
    assert len(places) == 1


def test_each_word_is_changed_by_its_list_its_wheel_and_its_key(window):
    hand, session = window.main_window.desk.in_hand, window.session
    window.pull((10, 20), (60, 20))
    take(hand.word("Role of the next line"), "texture")
    take(hand.word("Depth of the part"), "near")
    take(hand.word("Steadying"), SCHOOL_WORDS["live"])
    take(hand.word("Following the pencils"), f"follows {SUGGESTED:.0%}")
    take(hand.word("What a drag does"), "straights")
    window.settle()
    assert (session.now.role, session.part.tier, session.nib.steadying.school) == ("texture", "near", "live")
    assert session.now.follow_share == SUGGESTED and window.sheet.gestures.word() == "straights"
    window.tap(KEY.Key_Escape)
    assert "pull" in hand.word("What a drag does").text()
    window.tap(KEY.Key_Apostrophe)
    assert window.sheet.gestures.word() == "straights"
    window.tap(KEY.Key_Apostrophe)
    assert window.sheet.gestures.tool is None
    window.tap(KEY.Key_I)
    assert session.nib.steadying.school == "after"
    window.tap(KEY.Key_Semicolon)
    assert session.now.follow_share == 0.0
    word = hand.word("Role of the next line")
    QTest.keyClick(word, KEY.Key_Down)
    assert session.now.role == ROLES[ROLES.index("texture") + 1]
    lock = next(w for w in hand.findChildren(Word) if w.text() == "open")
    QTest.mouseClick(lock, Qt.MouseButton.LeftButton)
    assert session.part.locked


def test_a_held_key_takes_the_steadying_off_for_a_pull(window):
    window.hold(KEY.Key_I)
    raw = window.pull((10, 20), (60, 20))
    window.let_go(KEY.Key_I)
    steadied = window.pull((10, 30), (60, 30))
    assert [window.lines()[k].school for k in (raw, steadied)] == ["off", "after"]


def test_the_parts_that_were_in_hand_are_within_reach(window):
    session, desk = window.session, window.main_window.desk
    for name in "ABCDEFG":
        session.make("part", name=name)
        session.take(part=name)
    assert session.parts_lately() == ["F", "E", "D", "C", "B"]
    window.tap(KEY.Key_P)
    assert session.now.part == "F"
    window.hold(KEY.Key_P)
    assert desk.parts.isVisible()
    word = next(w for w in desk.parts.findChildren(Word) if w.text() == "G" and w.isVisible())
    QTest.mouseClick(word, Qt.MouseButton.LeftButton)
    window.let_go(KEY.Key_P)
    assert session.now.part == "G" and not desk.parts.isVisible()


@pytest.mark.parametrize("station", NAMES)
def test_all_parts_are_one_press_away_with_their_pictures(window, station):
    desk = window.main_window.desk
    window.pull((10, 20), (60, 20))
    desk.show_station(station)
    desk.in_hand._part.click()
    window.settle()
    assert desk.parts.isVisible() and desk.parts.height() > 0.6 * desk.notes.height()
    row = desk.parts.rows()[0]
    window.wait_until(lambda: desk.parts._pictures.of(row.part.id) is not None)
    picture = desk.parts._pictures.of(row.part.id)
    dark = sum(picture.pixelColor(x, y).alpha() > 60 for x, y in itertools.product(range(36), range(24)))
    assert dark >= 30
    desk.in_hand._part.click()
    assert not desk.parts.isVisible()


def test_forty_parts_are_found_by_typing_and_their_headings_fold(window):
    desk = window.main_window.desk
    for n in range(40):
        window.session.make("part", name=f"reed {n}" if n else "Cottage")
    desk.show_parts(True)
    window.settle()
    assert len(desk.parts.rows()) == 40
    QTest.keyClicks(desk.parts._find, "cot")
    assert [row.part.name for row in desk.parts.rows()] == ["Cottage"]
    QTest.keyClick(desk.parts._find, KEY.Key_Return)
    assert window.session.now.part == "Cottage" and len(desk.parts.rows()) == 40
    desk.parts._toggle_fold("middle")
    assert desk.parts.rows() == []


def test_a_pull_that_lies_in_another_part_is_told_and_put_there_by_one_press(window):
    session = window.session
    for y in (60, 66, 72):
        window.pull((70, y), (110, y))
    session.make("part", name="Moon")
    session.take(part="Moon")
    first = window.pull((10, 10), (30, 10))
    assert "far from all" not in window.main_window.desk.message.accessibleName()
    astray = window.pull((72, 63), (108, 63))
    window.wait_until(lambda: "This lies in Lines" in window.main_window.desk.message.accessibleName())
    moon = session.job.part_named("Moon").id
    assert session.job.rows.lines[astray].part == moon == session.job.rows.lines[first].part
    window.tap(KEY.Key_Slash)
    assert session.job.part_of(astray).name == "Lines" and session.now.part == "Lines"
    window.pull((75, 69), (105, 69))
    window.settle()
    assert "This lies" not in window.main_window.desk.message.accessibleName()


def test_a_sentence_pushes_nothing_and_is_never_covered(window):
    desk = window.main_window.desk
    window.settle()
    shown = [w for w in desk.findChildren(QWidget) if w.isVisible() and w is not desk.message]
    before = {w: (w.mapTo(desk, QPoint(0, 0)).toTuple(), w.size().toTuple()) for w in shown}
    for words in ("Short.", "A long sentence. " * 20):
        desk.message.tell(words, True)
        window.settle()
        now = {w: (w.mapTo(desk, QPoint(0, 0)).toTuple(), w.size().toTuple()) for w in shown if w.isVisible()}
        assert {w: place for w, place in now.items() if w.parent() is not desk.message} == {
            w: before[w] for w in now if w.parent() is not desk.message
        }
        assert desk.childAt(desk.message.geometry().center()) in (desk.message, *desk.message.findChildren(QWidget))
        assert desk.message.height() >= desk.message._sentence.heightForWidth(desk.message._sentence.width())
    desk.margins.show(False)
    desk.message.tell("Still in sight.", True)
    assert desk.message.isVisible() and desk.message.geometry().bottom() == desk.height() - 1


def controls_out_of_reach(desk, notes):
    """Names of controls of a page that lie below the fold or beyond the right edge."""
    room, out = desk.notes.fold.viewport(), []
    for one in notes.findChildren(QWidget):
        if isinstance(one, QAbstractButton | QLineEdit | QAbstractSlider) and not isinstance(one, QScrollBar):
            corner = one.mapTo(room, QPoint(one.width(), one.height()))
            if one.isVisible() and (corner.y() > room.height() + 1 or corner.x() > room.width() + 1):
                out.append(one.accessibleName())
    return out


def test_nearly_every_page_is_reached_without_scrolling(window_on, tmp_path):
    path = tmp_path / "pages.stride"
    new_job(path, Page((240.0, 160.0), 600.0))
    window = window_on(path)
    desk = window.main_window.desk
    for y in (30, 50, 70):
        window.pull((20, y), (200, y))
    window.session.make("pencils-add", data=_scan(), name="rough")
    window.settle()
    short = []
    for notes in desk.stations.values():
        desk.show_station(notes.name)
        for page in notes._pages if isinstance(notes, PagedNotes) else [""]:
            if page:
                notes.show_page(page)
            window.settle()
            short.append((notes.name, page, controls_out_of_reach(desk, notes)))
    reached = [page for page in short if not page[2]]
    assert len(reached) >= 0.9 * len(short), [page for page in short if page[2]]


def _scan():
    from plain_stride.pencils.scanner import scan

    return scan([np.array([[20.0, 20.0], [200.0, 140.0]])], (240.0, 160.0), 72.0, 1)


def test_what_scrolls_says_that_it_does(window):
    desk = window.main_window.desk
    desk.show_station("Board")
    desk.stations["Board"].show_page("Print")
    window.main_window.resize(1280, 700)
    window.settle()
    fold = desk.notes.fold
    assert fold.below() > 0 and fold._more.isVisible()
    fold.verticalScrollBar().setValue(fold.verticalScrollBar().maximum())
    assert not fold._more.isVisible()


def test_what_was_done_twice_is_explained_behind_a_question_mark(window, window_on, tmp_path):
    notes = window.main_window.desk.stations["Pull"]
    notes.show_page("Nib")
    explained = next(e for e in notes.page("Nib").findChildren(Explained))
    assert explained._sentence.isVisible() and not explained._ask.isVisible()
    for n in range(ENOUGH):
        window.session.make("nib", key="3", end_mm=1.0 + n)
    window.settle()
    assert not explained._sentence.isVisible() and explained._ask.isVisible()
    QTest.mouseClick(explained._ask, Qt.MouseButton.LeftButton)
    assert explained._sentence.isVisible()
    path = tmp_path / "other.stride"
    new_job(path, Page((100.0, 80.0), 300.0))
    window_on(path)
    assert HINTS.known("nib") and not HINTS.known("again")
