"""`?` on any figure explains it in one sentence."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from plain_stride.desk.controls.controls import Word
from plain_stride.desk.controls.terms import ALIASES, TERMS, meanings
from plain_stride.desk.explaining import UNKNOWN


def ask(window, widget):
    """Presses `?`, then a widget of the window; gives what is said."""
    desk = window.main_window.desk
    mark = next(w for w in desk.in_hand.findChildren(Word) if w.text() == "?")
    QTest.mouseClick(mark, Qt.MouseButton.LeftButton)
    assert desk.explainer.isVisible()
    at = widget.mapTo(desk, widget.rect().center())
    QTest.mouseClick(desk.explainer, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
    assert not desk.explainer.isVisible()
    return desk.message.accessibleName()


def test_figures_of_the_window_are_explained_and_nothing_is_pressed(window):
    window.pull((10, 20), (60, 20))
    desk = window.main_window.desk
    desk.show_station("Pull")
    window.settle()
    page = desk.stations["Pull"].page("Hand")
    assert "RMS" in ask(window, page._line)
    assert "pixel" in ask(window, desk.gauge).casefold() or "nib" in ask(window, desk.gauge).casefold()
    before = window.session.now.role
    assert "Outer" in ask(window, desk.in_hand.word("Role of the next line"))
    assert window.session.now.role == before
    assert ask(window, desk.stride.menu) == UNKNOWN


def test_escape_leaves_it(window):
    desk = window.main_window.desk
    desk.explainer.ask()
    window.tap(Qt.Key.Key_Escape)
    assert not desk.explainer.isVisible() and desk.message.accessibleName() == ""


@pytest.mark.parametrize("station", ["Board", "Pull", "Weigh"])
def test_every_stations_first_sentence_of_figures_is_known(window, station):
    window.pull((10, 20), (60, 20))
    desk = window.main_window.desk
    desk.show_station(station)
    window.settle()
    room = desk.notes.fold.viewport()
    places = [QPoint(40, y) for y in range(10, room.height(), 14)]
    said = {desk.explainer.words_at(room.mapTo(desk, at)) for at in places}
    assert len(said - {""}) >= 2


def test_meanings_are_single_sentences_and_longer_terms_win():
    for words in TERMS.values():
        assert words.endswith(".") and words.count("**") == 2 and len(words) < 190
    assert set(ALIASES.values()) <= set(TERMS)
    assert meanings("the print floor of 0.09 mm") == TERMS["print floor"]
    assert meanings("nothing to see") == ""
    assert meanings("tremor, then leeway, then flow") == f"{TERMS['shake']} {TERMS['leeway']}"
