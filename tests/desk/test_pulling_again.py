"""Again, rehearsal, follow and pressure in the real window, by pen, mouse and keys."""

import json

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from plain_stride.desk.player import on_glass
from plain_stride.job.job_files import opened
from plain_stride.pencils.scanner import SOFT, scan
from tests.conftest import samples_along
from tests.desk.test_window import press, said

KEY = Qt.Key


def page(window, name):
    window.main_window.desk.show_station("Pull")
    notes = window.main_window.desk.stations["Pull"]
    notes.show_page(name)
    window.settle()
    return notes.page(name)


def test_r_makes_the_next_pull_another_take_that_can_be_chosen(window):
    key = window.pull((10, 20), (100, 20))
    first = window.lines()[key].pull
    window.tap(KEY.Key_R)
    assert window.session.now.again
    window.pull((10.5, 20.5), (100, 24))
    row = window.lines()[key]
    assert len(window.lines()) == 1 and row.takes == (first, row.pull) and not window.session.now.again
    again = page(window, "Again")
    assert again._takes.count() == 2
    again._takes.setCurrentRow(next(k for k in range(2) if "chosen" not in again._takes.item(k).text()))
    assert window.lines()[key].pull == first
    assert len(window.session.strokes.other_takes(window.session.shown_line())) == 1
    window.session.timeline.undo()
    window.session.timeline.undo()
    assert window.lines()[key].takes is None
    assert window.pull((10, 50), (100, 50)) is not None


def test_the_tail_and_the_next_section_join_on(window):
    key = window.pull((10, 20), (60, 20))
    window.tap(KEY.Key_R)
    window.pull((60.5, 20.3), (110, 40))
    shape = window.session.shapes[key]
    assert len(window.lines()) == 1
    assert shape.curve[0, 0] == pytest.approx([10, 20], abs=0.3)
    assert shape.curve[-1, 3] == pytest.approx([110, 40], abs=0.4)
    window.tap(KEY.Key_R)
    window.pull((40, 20.2), (60, 60))
    shape = window.session.shapes[key]
    assert shape.curve[-1, 3] == pytest.approx([60, 60], abs=0.5)
    assert shape.curve[0, 0] == pytest.approx([10, 20], abs=0.3)
    assert len(window.lines()[key].takes) == 3


def test_a_pull_elsewhere_is_a_new_line_though_again_was_asked_for(window):
    window.pull((10, 20), (60, 20))
    window.tap(KEY.Key_R)
    window.hover((30, 60))
    assert window.session.what_again((30, 60)).what == ""
    assert window.pull((30, 60), (90, 60)) is not None
    assert len(window.lines()) == 2
    window.tap(KEY.Key_Escape)
    assert not window.session.now.again


def test_r_without_a_line_says_so(window):
    window.tap(KEY.Key_R)
    assert "no line yet" in said(window)


def test_a_rehearsed_pull_is_told_and_not_kept(window):
    window.hold(KEY.Key_R)
    window.pull((10, 20), (100, 20))
    window.let_go(KEY.Key_R)
    assert window.lines() == {} and "Rehearsed, not kept" in said(window)
    assert window.pull((10, 20), (100, 20)) is not None


def test_a_mouse_pulls_again_by_the_page(window):
    key = window.mouse_pull((10, 20), (100, 20)) or next(iter(window.lines()))
    page(window, "Again")
    press(window, "pull the line in hand again")
    window.mouse_pull((10, 20), (100, 22))
    assert len(window.lines()[key].takes) == 2


def test_pulls_follow_the_pencils_as_far_as_asked(window):
    lines = [np.array([[10.0, 45.0], [110.0, 45.0]])]
    window.session.make("pencils-add", data=scan(lines, (120.0, 90.0), 200.0, 1, SOFT), name="r")
    again = page(window, "Again")
    again._set_follow(0.5)
    assert "Read the pencils first" in said(window)
    window.main_window.desk.pencils().reader.read()
    window.wait_until(lambda: bool(window.session.strokes.guides.lines), 60)
    free = window.pull((12, 47), (108, 47))
    assert window.lines()[free].follow.share == 0.5
    middle = window.session.shapes[free].arc.point(np.array([48.0]))[0]
    assert middle[1] == pytest.approx(46.0, abs=0.25)
    again._set_follow(1.0)
    window.session.choose([free])
    window.settle()
    press(window, "draw the chosen lines so")
    assert window.session.shapes[free].arc.point(np.array([48.0]))[0][1] == pytest.approx(45.0, abs=0.2)
    window.session.make("follow", lines=[free], share=0.0)
    assert window.session.shapes[free].arc.point(np.array([48.0]))[0][1] == pytest.approx(47.0, abs=0.1)
    away = window.pull((12, 80), (108, 80))
    assert window.lines()[away].follow is None


def test_the_response_is_dragged_and_given_to_all_nibs(window):
    pressure = page(window, "Press")
    curve = pressure._curve
    middle = curve._at(0.5, 0.5).toPoint()
    QTest.mousePress(curve, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, middle)
    QTest.mouseMove(curve, middle - QPoint(0, 40))
    QTest.mouseRelease(curve, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, middle - QPoint(0, 40))
    response = window.session.nib.response
    assert len(response.points) == 3 and response.share(np.array([0.5]))[0] > 0.6
    soft = window.pull((10, 20), (100, 20), pressure=0.5)
    assert window.session.shapes[soft].widths.full.max() > 0.68
    press(window, "give it to all nibs")
    assert all(nib.response == response for nib in window.session.job.nibs().values())
    curve.setFocus()
    QTest.keyClick(curve, KEY.Key_Down)
    assert window.session.nib.response.share(np.array([0.5]))[0] < response.share(np.array([0.5]))[0]
    press(window, "pressure as it is")
    assert window.session.nib.response.plain


def test_three_rows_of_marks_calibrate_the_hand(window, tmp_path):
    pressure = page(window, "Press")
    press(window, "calibrate with marks…")
    for level in (0.15, 0.4, 0.8):
        for k in range(12):
            window.pull((20 + 5 * k, 20), (20 + 5 * k, 26), pressure=level, n=20)
    assert window.lines() == {}
    assert [len(marks) for marks in pressure._marks.values()] == [12, 12, 12]
    press(window, "that is my hand")
    assert "15%" in pressure._range.accessibleName() and "steady" in pressure._range.accessibleName()
    press(window, "fit the curve to them")
    share = window.session.nib.response.share(np.array([0.15, 0.4, 0.8]))
    assert share == pytest.approx([0.05, 0.5, 1.0], abs=0.05)
    pressure.give(tmp_path / "my hand.json")
    assert json.loads((tmp_path / "my hand.json").read_text())["of"] == "my hand"
    press(window, "pressure as it is")
    pressure.take(tmp_path / "my hand.json")
    assert not window.session.nib.response.plain
    pressure.take(tmp_path / "none.json")
    assert "as it was" in pressure._fault.accessibleName()


def test_takes_and_responses_are_there_after_a_restart(window):
    key = window.pull((10, 20), (100, 20))
    window.tap(KEY.Key_R)
    window.pull((10, 20), (100, 26))
    window.session.make("nib", key="3", response=[[0, 0], [0.3, 0.6], [1, 1]])
    window.session.saving.save_all()
    with opened(window.session.job.path) as (job, _):
        assert len(job.rows.lines[key].takes) == 2
        assert job.nibs()["3"].response.points[1] == (0.3, 0.6)


def test_leeway_is_auto_or_as_far_as_the_inker_says(window):
    hand = page(window, "Hand")
    window.pull((10, 20), (60, 24), (110, 20))
    press(window, "as far as I say")
    assert window.session.nib.steadying.leeway == pytest.approx(0.1)
    hand._leeway.show_value(0.3)
    hand._leeway.settled.emit(0.3)
    window.settle()
    assert window.session.nib.steadying.leeway == 0.3
    window.wait_until(lambda: "A circle of 3 mm" in hand._effect.accessibleName())
    assert "along its length" in hand._effect.accessibleName()
    press(window, "auto")
    assert window.session.nib.steadying.leeway is None


def test_while_the_leeway_is_dragged_the_last_line_is_shown_as_it_would_be(window):
    key = window.pull((10, 20), (60, 24), (100, 20))
    hand = page(window, "Hand")
    QTest.mouseClick(hand._given.words["as far as I say"], Qt.MouseButton.LeftButton)
    window.settle()
    track, steps = hand._leeway.track, len(window.session.job.history.steps)
    y = track.height() // 2
    QTest.mousePress(track, Qt.MouseButton.LeftButton, pos=QPoint(2, y))
    QTest.mouseMove(track, QPoint(track.width() // 2, y))
    window.wait_until(lambda: window.session.strokes.tried is not None)
    assert "would lie" in hand._line.text()
    shape = window.session.shapes[key]
    dense = shape.arc.point(np.linspace(0.0, shape.length, 4000))
    away = np.hypot(*np.moveaxis(window.session.strokes.tried[:, None] - dense[None], 2, 0)).min(axis=1)
    assert 0.0 < away.max() <= 2.0 * hand._leeway.value + 0.03
    assert len(window.session.job.history.steps) == steps
    QTest.mouseRelease(track, Qt.MouseButton.LeftButton, pos=QPoint(track.width() // 2, y))
    window.settle()
    # What the line measures is worked out beside the window, and takes its time on a busy machine.
    window.wait_until(lambda: "would lie" not in hand._line.text())
    assert window.session.strokes.tried is None
    assert window.session.nib.steadying.leeway == pytest.approx(hand._leeway.value)


def test_a_bend_that_steadying_flattened_is_offered_less_in_bends(window):
    a = np.linspace(-np.pi / 2, np.pi / 2, 40)
    arc = np.column_stack([50 + 1.6 * np.cos(a), 41.6 + 1.6 * np.sin(a)])
    key = window.pull((20, 40), *arc, (20, 43.2), seconds=0.35, n=70)
    hand = page(window, "Hand")
    assert "Steadying hurt it" in hand._line.text() and hand._less.isVisible()
    before = window.session.shapes.centre(window.lines()[key]).moved_mm
    press(window, "steady this line less in bends")
    assert window.lines()[key].less_in_bends and not hand._less.isVisible()
    assert window.session.shapes.centre(window.lines()[key]).moved_mm < before
    window.session.timeline.undo()
    assert not window.lines()[key].less_in_bends
    hand._bends.chosen.emit("less in bends")
    assert window.session.nib.steadying.less_in_bends
    key = window.pull((20, 60), (90, 60))
    assert window.lines()[key].less_in_bends


def test_the_swell_limit_is_lifted_for_a_nib_and_laid_again(window):
    """A broad nib, whose pressure jumps from light to firm in the middle of a slow pull."""
    window.session.take(nib="9")
    press_page = page(window, "Press")
    slopes = []
    for word in ("none", "0.35 mm for each mm"):
        press_page._limit.chosen.emit(word)
        window.settle()
        samples = samples_along([(10, 30), (50, 30)], 1.0, 200)
        samples[:, 2] = np.where(samples[:, 0] < 30.0, 0.05, 1.0)
        before = set(window.lines())
        window.pen.play(on_glass(samples, window.sheet.view.to_glass))
        window.settle()
        (key,) = set(window.lines()) - before
        body = window.session.shapes[key].body
        slopes.append(float(np.abs(np.diff(body.full) / np.diff(body.s)).max()))
        assert press_page._limit.words[word].isChecked()
    assert slopes[0] > 0.5 and slopes[1] <= 0.35 + 1e-6
