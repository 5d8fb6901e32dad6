"""The rest of what hands do: the eraser end, two fingers, a palm, a tablet that goes away, the size of the screen."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from plain_stride.desk.player import PenPlayer, on_glass
from plain_stride.desk.settings import Settings
from tests.conftest import samples_along
from tests.desk.test_window import said, type_into

TOUCH = QTest.createTouchDevice()


def rub(window, *places):
    """The eraser end put down at the first place, moved along the others, lifted."""
    eraser = PenPlayer(window.sheet, eraser=True)
    rows = [np.array([*(lambda p: (p.x(), p.y()))(window.px(mm)), 0.5, 0.1 * k, 30.0]) for k, mm in enumerate(places)]
    eraser.send(QEvent.Type.TabletPress, rows[0])
    for row in rows[1:]:
        eraser.send(QEvent.Type.TabletMove, row)
    eraser.send(QEvent.Type.TabletRelease, rows[-1])
    window.settle()


def fingers(window, before, after):
    """Two fingers put down at two pixels each, moved, lifted."""
    QTest.touchEvent(window.sheet, TOUCH).press(0, before[0], window.sheet).press(1, before[1], window.sheet).commit()
    for share in (0.0, 0.5, 1.0):
        now = [a + (b - a) * share for a, b in zip(before, after, strict=True)]
        QTest.touchEvent(window.sheet, TOUCH).move(0, now[0], window.sheet).move(1, now[1], window.sheet).commit()
    QTest.touchEvent(window.sheet, TOUCH).release(0, after[0], window.sheet).release(1, after[1], window.sheet).commit()


def test_a_touch_of_the_eraser_trims(window):
    key = window.pull((10, 20), (110, 20))
    window.pull((80, 10), (80, 40))
    rub(window, (100, 20))
    assert window.session.shapes[key].length == pytest.approx(70, abs=1)
    assert window.session.job.history.steps[window.session.job.history.head].name == "trim"


def test_a_stroke_of_the_eraser_shaves(window):
    key = window.pull((10, 50), (110, 50))
    before = window.session.shapes[key].body.full.max()
    rub(window, (60, 50), (60, 46), (60, 40))
    assert window.session.shapes[key].widths.full[len(window.session.shapes[key].widths.s) // 2] < before * 0.9
    assert len(window.lines()) == 1


def test_two_fingers_move_turn_and_enlarge(window):
    view, middle = window.sheet.view, QPoint(450, 300)
    fingers(
        window, [middle - QPoint(100, 0), middle + QPoint(100, 0)], [middle - QPoint(0, 150), middle + QPoint(0, 150)]
    )
    assert window.sheet.view.scale == pytest.approx(view.scale * 1.5, rel=0.02)
    assert abs(window.sheet.view.turn) == pytest.approx(90, abs=1)
    assert window.lines() == {}


def test_one_finger_does_nothing(window):
    view = window.sheet.view
    QTest.touchEvent(window.sheet, TOUCH).press(0, QPoint(200, 200), window.sheet).commit()
    QTest.touchEvent(window.sheet, TOUCH).move(0, QPoint(300, 260), window.sheet).commit()
    QTest.touchEvent(window.sheet, TOUCH).release(0, QPoint(300, 260), window.sheet).commit()
    assert window.sheet.view == view
    assert window.lines() == {}


def test_a_palm_beside_the_pen_is_left_out_and_told(window):
    window.pull((10, 20), (60, 20))
    view = window.sheet.view
    fingers(window, [QPoint(200, 200), QPoint(300, 200)], [QPoint(200, 300), QPoint(500, 300)])
    assert window.sheet.view == view
    assert "left out" in said(window)


def test_a_tablet_that_goes_away_keeps_the_line_so_far(window):
    rows = on_glass(samples_along([(10, 30), (110, 60)], 0.6, 120), window.sheet.view.to_glass)
    for k, row in enumerate(rows[:70]):
        window.pen.send(QEvent.Type.TabletPress if k == 0 else QEvent.Type.TabletMove, row)
    QApplication.sendEvent(QApplication.instance(), QEvent(QEvent.Type.TabletLeaveProximity))
    window.settle()
    (key,) = window.lines()
    assert len(window.session.job.pull(window.lines()[key].pull).samples) == 70
    assert "kept" in said(window)


def test_the_screen_is_measured_with_a_ruler(window):
    glass = window.sheet.viewport.glass_px_per_mm
    window.main_window.desk.show_station("Board")
    type_into(window, "100 mm are", "96 mm")
    assert window.sheet.viewport.glass_px_per_mm == pytest.approx(glass / 0.96)
    assert window.sheet.viewport.per_cent() == pytest.approx(100)
    assert Settings().number("glass_px_per_mm", 0) == pytest.approx(glass / 0.96)
    type_into(window, "100 mm are", "3 mm")
    assert window.sheet.viewport.glass_px_per_mm == pytest.approx(glass / 0.96)


def test_nothing_moves_while_the_pen_is_down(window):
    rows = on_glass(samples_along([(10, 30), (110, 60)], 0.6, 120), window.sheet.view.to_glass)
    view = window.sheet.view
    for k, row in enumerate(rows[:60]):
        window.pen.send(QEvent.Type.TabletPress if k == 0 else QEvent.Type.TabletMove, row)
    window.sheet.viewport.set_view(view.turned(30, window.px((60, 45))))
    window.sheet.viewport.mirror()
    assert window.sheet.view == view
    window.pen.send(QEvent.Type.TabletRelease, rows[60])
    window.sheet.viewport.mirror()
    assert window.sheet.view != view


def test_a_pen_that_leaves_does_not_end_a_pull_of_the_mouse(window):
    QTest.mousePress(
        window.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, window.px((10, 40)).toPoint()
    )
    QTest.mouseMove(window.sheet, window.px((50, 40)).toPoint(), 20)
    QApplication.sendEvent(QApplication.instance(), QEvent(QEvent.Type.TabletLeaveProximity))
    assert window.sheet.compositor.live is not None
    QTest.mouseRelease(
        window.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, window.px((50, 40)).toPoint()
    )
    assert len(window.lines()) == 1
