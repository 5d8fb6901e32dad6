"""Live symmetry: what is pulled is shown and laid in all its copies, in one step."""

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from plain_stride.desk.player import on_glass
from tests.conftest import samples_along

KEY = Qt.Key


def take(window, words):
    menu = window.main_window.desk.in_hand.word("Symmetry").menu()
    next(a for a in menu.actions() if a.text() == words).trigger()
    menu.deleteLater()


def test_a_pull_is_laid_in_all_its_copies_and_taken_back_as_one(window):
    take(window, "mirrored about two axes")
    assert window.main_window.desk.in_hand.word("Symmetry").text() == "2 axes"
    window.pull((20, 20), (40, 25))
    lines = window.lines()
    assert len(lines) == 4
    starts = sorted(tuple(np.round(window.session.shapes[k].flat[0][0], 0)) for k in lines)
    assert starts == [(20, 20), (20, 70), (100, 20), (100, 70)]
    window.tap(KEY.Key_Z)
    assert not window.lines()


def test_ink_is_shown_in_its_copies_while_it_is_pulled(window):
    take(window, "mirrored about an axis")
    window.pull((20, 60), (40, 60))
    dark = []
    samples = samples_along([(20, 30), (50, 30)], 0.6, 90, 0.9)
    count = [0]

    def between():
        count[0] += 1
        from PySide6.QtCore import QCoreApplication

        QCoreApplication.processEvents()
        if count[0] == 70:
            dark.append(window.sheet.grab().toImage().pixelColor(window.px((90, 30)).toPoint()).lightness())

    window.pen.play(on_glass(samples, window.sheet.view.to_glass), between=between)
    window.settle()
    assert dark and dark[0] < 128
    assert window.ink_at((90, 30)) > 120 and window.ink_at((30, 30)) > 120


def test_the_key_switches_it_and_holding_it_lasts_a_pull(window):
    window.tap(KEY.Key_M)
    assert window.session.now.symmetry is not None
    window.hold(KEY.Key_M)
    window.pull((20, 20), (40, 25))
    window.let_go(KEY.Key_M)
    assert len(window.lines()) == 1
    window.pull((20, 30), (40, 35))
    assert len(window.lines()) == 3
    window.tap(KEY.Key_M)
    assert window.session.now.symmetry is None


def test_its_axis_is_laid_elsewhere_by_a_drag(window):
    take(window, "mirrored about an axis")
    take(window, "lay its axis or middle elsewhere…")
    left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    QTest.mousePress(window.sheet, left, none, window.px((10, 45)).toPoint())
    QTest.mouseMove(window.sheet, window.px((110, 45)).toPoint())
    QTest.mouseRelease(window.sheet, left, none, window.px((110, 45)).toPoint())
    assert window.session.now.symmetry.angle == pytest.approx(90.0, abs=0.5)
    window.pull((20, 20), (40, 25))
    ends = [window.session.shapes[k].flat[0][0] for k in window.lines()]
    assert sorted(np.round([e[1] for e in ends])) == [20, 70] and np.ptp([e[0] for e in ends]) < 0.5


def test_a_locked_part_is_said_and_nothing_is_laid(window):
    window.pull((20, 20), (40, 25))
    window.session.make("part", name="Lines", locked=True)
    take(window, "turned round, 6 in all")
    window.pull((20, 30), (40, 35))
    assert len(window.lines()) == 1 and "is locked" in window.main_window.desk.message.accessibleName()
