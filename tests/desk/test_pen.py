"""Pen and mouse on the sheet."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtTest import QTest

from plain_stride.desk.player import on_glass
from plain_stride.hand.simulated import HANDS, pulled
from tests.conftest import samples_along


def test_every_sample_of_a_pen_is_kept(window):
    samples = pulled(np.array([[10.0, 20.0], [60.0, 40.0], [110.0, 20.0]]), HANDS["average"], "normal", 1)
    window.pen.play(on_glass(samples, window.sheet.view.to_glass))
    (row,) = window.lines().values()
    pull = window.session.job.pull(row.pull)
    assert len(pull.samples) == len(samples) + 0  # the lift itself brings no new place
    assert pull.samples[:, :2] == pytest.approx(samples[:, :2], abs=1e-3)
    assert pull.samples[:, 2] == pytest.approx(samples[:, 2], abs=1e-4)
    assert pull.samples[:, 3] == pytest.approx(samples[:, 3] - samples[0, 3], abs=1.1e-3)
    assert pull.samples[:, 4] == pytest.approx(35.0)


def test_a_pull_remembers_how_the_board_lay(window):
    window.sheet.viewport.set_view(window.sheet.view.turned(30, window.px((60, 45))))
    window.tap(Qt.Key.Key_X)
    key = window.pull((30, 40), (80, 40))
    pull = window.session.job.pull(window.lines()[key].pull)
    assert pull.view.turn == pytest.approx(-30)
    assert pull.view.mirror
    assert pull.view.scale == pytest.approx(window.sheet.view.scale / window.sheet.viewport.glass_px_per_mm)
    assert pull.nib == window.session.nib
    assert pull.device == "pen"
    ends = window.session.shapes[key].curve[[0, -1], [0, 3]]
    assert ends == pytest.approx(np.array([[30, 40], [80, 40]]), abs=0.5 / window.sheet.view.scale)


def test_there_is_ink_in_every_frame_and_its_ends_stay(window):
    """While pulling, at the lift and after it: the middle of the line is never bare."""
    samples = pulled(np.array([[10.0, 30.0], [110.0, 30.0]]), HANDS["calm"], "normal", 3)
    rows = on_glass(samples, window.sheet.view.to_glass)
    for k, row in enumerate(rows):
        window.pen.send(QEvent.Type.TabletPress if k == 0 else QEvent.Type.TabletMove, row)
    live = window.sheet.compositor.live
    window.settle()
    tip = live._ink.tail[-1, :2].copy()
    middle = samples[np.abs(samples[:, 0] - 60).argmin(), :2]
    assert window.ink_at(middle) > 200
    window.pen.send(QEvent.Type.TabletRelease, rows[-1])
    assert window.ink_at(middle) > 200
    (key,) = window.lines()
    assert np.hypot(*(window.session.shapes[key].curve[-1, 3] - tip)) <= 0.05


def test_the_mouse_is_an_equal(window):
    key = window.mouse_pull((10, 60), (60, 70), (110, 60))
    shape = window.session.shapes[key]
    assert shape.curve[0, 0] == pytest.approx([10, 60], abs=0.3)
    assert np.median(shape.body.full) == pytest.approx(window.session.nib.middle, abs=1e-6)
    assert window.session.job.pull(window.lines()[key].pull).device == "mouse"


def test_a_click_is_a_dot(window):
    QTest.mouseClick(
        window.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, window.px((50, 50)).toPoint()
    )
    (key,) = window.lines()
    assert window.session.shapes[key].length < 0.01
    assert window.ink_at((50, 50)) > 150


def test_steadying_and_nib_in_hand_go_with_the_pull(window):
    window.session.take(nib="5", role="detail")
    window.session.make("nib", key="5", school="off")
    key = window.pull((10, 20), (60, 20))
    row = window.lines()[key]
    assert (row.school, row.nib.heaviest, row.role) == ("off", 2.0, "detail")


@pytest.mark.parametrize("state", ["locked", "hidden"])
def test_a_part_that_cannot_be_inked_is_said_at_once(window, state):
    window.pull((10, 20), (60, 20))
    window.session.make("part", name="Lines", **{state: True})
    assert window.pull((10, 40), (60, 40)) is None
    assert state in window.main_window.desk.message.accessibleName()


def test_a_pen_button_chooses(window):
    key = window.pull((10, 20), (60, 20))
    row = np.array([*window.sheet.view.to_glass(np.array([[40.0, 20.0]]))[0], 0.0, 0.0, np.nan])
    window.pen.send(QEvent.Type.TabletPress, row, Qt.MouseButton.RightButton)
    window.pen.send(QEvent.Type.TabletRelease, row, Qt.MouseButton.RightButton)
    assert window.session.chosen == [key]
    assert len(window.lines()) == 1


def test_the_right_button_chooses_and_shift_adds(window):
    a, b = window.pull((10, 20), (60, 20)), window.pull((10, 50), (60, 50))
    for mm, keys in (((30, 20), Qt.KeyboardModifier.NoModifier), ((30, 50), Qt.KeyboardModifier.ShiftModifier)):
        QTest.mouseClick(window.sheet, Qt.MouseButton.RightButton, keys, window.px(mm).toPoint())
    assert window.session.chosen == [a, b]
    QTest.mouseClick(
        window.sheet, Qt.MouseButton.RightButton, Qt.KeyboardModifier.ShiftModifier, window.px((30, 20)).toPoint()
    )
    assert window.session.chosen == [b]
    QTest.mouseClick(
        window.sheet, Qt.MouseButton.RightButton, Qt.KeyboardModifier.NoModifier, window.px((90, 80)).toPoint()
    )
    assert window.session.chosen == []


def test_lines_and_their_absence_are_painted(window):
    key = window.pull((10, 20), (110, 20), pressure=0.9)
    assert window.ink_at((60, 20)) > 200
    window.session.make("swell", line=key, factor=3.0)
    assert window.ink_at((60, 20.8)) > 150
    window.session.timeline.undo()
    assert window.ink_at((60, 20.8)) < 40
    window.session.make("delete", lines=[key])
    assert window.ink_at((60, 20)) < 40


def test_a_far_part_is_painted_under_a_near_one(window):
    window.pull((60, 10), (60, 80), pressure=1.0)
    window.session.take(part="white")
    window.session.make("part", name="white", ink="white")
    window.pull((60, 10), (60, 80), pressure=1.0)
    assert window.ink_at((60, 45)) > 150  # the new part stands behind
    window.session.make("part", name="white", tier="near")
    assert window.ink_at((60, 45)) < 40


def test_wheel_and_middle_button_move_the_view(window):
    view = window.sheet.view
    at = window.px((40, 40))
    from PySide6.QtGui import QWheelEvent

    def wheel(keys):
        event = QWheelEvent(at, window.sheet.mapToGlobal(at), QPoint(0, 0), QPoint(0, 120), Qt.MouseButton.NoButton, keys,
                            Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
        window.sheet.wheelEvent(event)

    wheel(Qt.KeyboardModifier.NoModifier)
    assert window.sheet.view.scale > view.scale
    assert window.sheet.view.to_board(at) == pytest.approx((40, 40), abs=1e-6)
    wheel(Qt.KeyboardModifier.ShiftModifier)
    assert window.sheet.view.turn == pytest.approx(5.0)
    assert window.sheet.view.to_board(at) == pytest.approx((40, 40), abs=1e-6)
    before = window.sheet.view.centre
    QTest.mousePress(window.sheet, Qt.MouseButton.MiddleButton, Qt.KeyboardModifier.NoModifier, QPoint(300, 300))
    QTest.mouseMove(window.sheet, QPoint(360, 320))
    QTest.mouseRelease(window.sheet, Qt.MouseButton.MiddleButton, Qt.KeyboardModifier.NoModifier, QPoint(360, 320))
    assert window.sheet.view.centre != before


def test_no_nib_no_pressure_pens_still_draw(window):
    samples = samples_along([(10, 20), (60, 20)], 0.5, 60, 0.0)
    window.pen.play(on_glass(samples, window.sheet.view.to_glass))
    (key,) = window.lines()
    assert np.median(window.session.shapes[key].widths.full) == pytest.approx(0.2, abs=1e-6)
