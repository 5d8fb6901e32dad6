"""The history as a list, ways not taken, then and now, the Weigh station."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from shiboken6 import isValid

from plain_stride.desk.dialogs.compare import Compare
from plain_stride.desk.dialogs.history import History
from plain_stride.desk.stations.weigh_range import MeasureRow
from tests.desk.test_window import said

KEY = Qt.Key


@pytest.fixture
def history(window):
    opened = []

    def show():
        main_window = window.main_window
        opened.append(
            History(main_window, main_window.session, main_window.desk.sheet.layer, lambda step: None, lambda: None)
        )
        opened[-1].show()
        return opened[-1]

    yield show
    for box in opened:
        if isValid(box):
            box.close()


def test_ways_not_taken_stay_and_are_gone_back_to(window, history):
    left = window.pull((10, 20), (60, 20))
    old = window.session.job.history.head
    window.session.timeline.undo()
    other = window.pull((10, 40), (60, 40))
    box = history()
    told = [box.moments.data(box.moments.index(row)) for row in range(box.moments.rowCount())]
    assert len(told) == 3 and "now" in told[0] and "a way not taken" in told[1] and "line pulled: Lines" in told[1]
    box.choose(old)
    box.go.click()
    assert set(window.lines()) == {left}
    assert box.moments.here == old and "history" in said(window)
    box.choose(0)
    box.go.click()
    assert window.lines() == {}
    states = [box.moments.state(step) for step in box.moments.steps]
    assert states == ["taken back", "a way not taken", "now"]
    QTest.keyClick(
        window.main_window, KEY.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    )
    assert set(window.lines()) == {other}


def test_small_pictures_show_each_state(window, history):
    window.pull((10, 45), (110, 45), pressure=1.0)
    window.pull((60, 5), (60, 85), pressure=1.0)
    box = history()
    window.wait_until(lambda: len(box._kept) == 3)

    def dark(step):
        picture = box._kept[step]
        return sum(
            255 - picture.pixelColor(x, y).green() for x in range(picture.width()) for y in range(picture.height())
        )

    steps = box.moments.steps
    assert dark(steps[0]) > dark(steps[1]) > dark(steps[2])
    assert len(window.lines()) == 2  # looking changed nothing


def test_the_history_is_still_there_after_a_restart(window, window_on, history):
    window.pull((10, 20), (60, 20))
    old = window.session.job.history.head
    window.session.timeline.undo()
    window.pull((10, 40), (60, 40))
    window.main_window.close()
    again = window_on(window.session.job.path)
    again.session.timeline.go_to(old)
    again.session.saving.save_all()
    assert len(again.lines()) == 1 and again.session.job.history.head == old


def test_the_list_goes_with_its_job(window, tmp_path):
    window.pull((10, 20), (60, 20))
    window.main_window.desk.dialogs.show_history()
    assert window.main_window.desk.dialogs.history.isVisible()
    path = tmp_path / "walk copy.stride"
    window.session.document.writer.do(lambda store: store.save_copy(path))
    window.main_window.open_job(path)
    assert window.main_window.desk.dialogs.history is None


def test_q_marks_and_shows_what_was(window):
    window.pull((10, 20), (60, 20))
    window.tap(KEY.Key_Q)
    assert len(window.session.job.history.marks) == 1 and "Marked as" in said(window)
    window.tap(KEY.Key_Q)
    assert "marked already" in said(window) and len(window.session.job.history.marks) == 1
    window.pull((10, 40), (60, 40))
    window.hold(KEY.Key_Q)
    assert window.ink_at((40, 40)) < 40 and window.ink_at((40, 20)) > 150
    window.sheet.viewport.set_view(window.sheet.view.enlarged(1.5, window.px((40, 40))))
    assert window.ink_at((40, 40)) < 40
    window.let_go(KEY.Key_Q)
    assert window.ink_at((40, 40)) > 150


def test_another_job_is_opened_while_what_was_is_shown(window, tmp_path):
    window.pull((10, 20), (60, 20))
    window.hold(KEY.Key_Z)
    path = tmp_path / "walk copy.stride"
    window.session.document.writer.do(lambda store: store.save_copy(path))
    assert window.main_window.open_job(path)
    window.let_go(KEY.Key_Z)
    assert window.ink_at((40, 20)) > 150 and not window.session.now.looking_back


def test_then_and_now_side_by_side(window):
    window.pull((10, 20), (60, 20))
    window.tap(KEY.Key_Q)
    marked = window.session.job.history.head
    window.pull((10, 40), (60, 40))
    box = Compare(window.main_window, window.session, window.sheet.layer, window.session.timeline.step_before())
    box.show()
    window.wait_until(lambda: not (box.then.busy or box.now.busy))
    assert "now 2" in box._figures.accessibleName() and "1 new" in box._figures.accessibleName()
    assert [a.text() for a in box.menu().actions()] == list(window.session.job.history.marks)
    box._mirror()
    assert box.then.mirrored and box.now.mirrored
    box.back.click()
    assert window.session.job.history.head == marked and len(window.lines()) == 1
    box.deleteLater()


def test_nothing_goes_back_in_a_job_for_reading_only(window, window_on):
    window.pull((10, 20), (60, 20))
    reader = window_on(window.session.job.path)
    reader.session.timeline.go_to(0)
    assert len(reader.lines()) == 1
    assert "reading it works" in said(reader)


# Weigh


def test_weigh_tells_tiers_and_roles_and_chooses_their_lines(window):
    window.session.make("part", name="Hill", tier="far")
    a = window.pull((10, 20), (100, 20), pressure=1.0)
    window.session.take(part="Hill", role="detail")
    b = window.pull((10, 60), (100, 60), pressure=0.1)
    station = window.main_window.desk.stations["Weigh"]
    window.main_window.desk.show_station("Weigh")
    station.show_page("Range")
    window.wait_until(lambda: station.findChildren(MeasureRow))
    shown = {row.text(): row for row in station.findChildren(MeasureRow)}
    assert "1 line, " in shown["Far"].accessibleName() and "mean" in shown["Middle"].accessibleName()
    assert not shown["Near"].isEnabled()
    shown["detail"].click()
    assert window.session.chosen == [b]
    shown["Middle"].click()
    assert window.session.chosen == [a]


def test_h_lifts_the_plan_while_held(window):
    window.pull((10, 45), (110, 45), pressure=0.05)
    window.session.make("plan", share=100.0)
    window.settle()
    at = (60.0, 45.0 + 0.2)
    assert window.ink_at(at) > 100
    window.hold(KEY.Key_H)
    assert window.ink_at(at) < 100
    window.let_go(KEY.Key_H)
    assert window.ink_at(at) > 100
    QApplication.processEvents()
