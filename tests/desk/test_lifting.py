"""Between the lift of the pen and its line: the live ink stays, nothing is told as saved too soon, nothing is lost."""

import numpy as np
from PySide6.QtCore import QEvent, Qt
from PySide6.QtTest import QTest

from plain_stride.desk.player import on_glass
from plain_stride.job.job_files import opened
from tests.conftest import samples_along
from tests.desk.test_sheet_speed import pixels, whole


def lift(window, *points):
    """A pull whose line is not made yet when this returns."""
    window.pen.play(on_glass(samples_along(points, 0.4, 80), window.sheet.view.to_glass))
    assert window.session.strokes.coming() > 0


def test_the_live_ink_stays_until_its_line_is_in_the_picture(window):
    lift(window, (20, 40), (100, 40))
    assert not window.session.job.rows.lines
    shot = pixels(window.sheet.grab().toImage())
    x, y = (int(v) for v in window.sheet.view.to_glass(np.array([[60.0, 40.0]]))[0])
    assert shot[y - 2 : y + 3, x].min() < 90
    window.settle()
    assert len(window.lines()) == 1
    assert np.abs(pixels(window.sheet.layer.image) - whole(type(window.sheet.layer)(window.session), window)).max() <= 2


def test_taking_back_right_after_the_lift_takes_back_that_line(window):
    kept = window.pull((10, 20), (100, 20))
    lift(window, (10, 60), (100, 60))
    QTest.keyClick(window.main_window.windowHandle(), Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert list(window.lines()) == [kept]
    QTest.keyClick(
        window.main_window.windowHandle(),
        Qt.Key.Key_Z,
        Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
    )
    assert len(window.lines()) == 2


def test_what_changes_under_the_pen_is_shown_while_it_is_down(window):
    window.pull((10, 20), (110, 20), pressure=1.0)
    rows = on_glass(samples_along([(10, 60), (100, 60)], 0.4, 80), window.sheet.view.to_glass)
    for k, row in enumerate(rows[:40]):
        window.pen.send(QEvent.Type.TabletPress if k == 0 else QEvent.Type.TabletMove, row)
    shown = []
    update = window.sheet.update
    window.sheet.update = lambda *region: (shown.append(region), update(*region))[-1]
    window.sheet.compositor.redraw()
    window.wait_until(lambda: not window.sheet.layer.busy and not window.sheet.compositor._unshown)
    del window.sheet.update
    tall = sum(region[0].boundingRect().height() for region in shown if region)
    assert window.sheet.compositor.live is not None
    assert tall >= window.sheet.height()
    window.pen.send(QEvent.Type.TabletRelease, rows[40])
    assert len(window.lines()) == 2


def test_quick_pulls_become_lines_in_their_order(window):
    for y in (20, 35, 50, 65):
        lift(window, (10, y), (100, y))
    window.settle()
    order = [float(window.session.shapes[key].flat[0][:, 1].mean()) for key in window.session.job.line_ids()]
    assert order == sorted(order)
    assert len(order) == 4


def test_saved_is_told_when_it_is_true_only(window):
    told = []
    window.session.saving.waiting.connect(told.append)
    lift(window, (10, 20), (100, 20))
    assert told[-1] > 0
    window.wait_until(lambda: told[-1] == 0)
    with opened(window.session.job.path) as (job, _):
        assert len(job.rows.lines) == 1


def test_a_window_closed_right_after_a_lift_keeps_the_line(window):
    lift(window, (10, 20), (100, 20))
    window.main_window.close()
    with opened(window.session.job.path) as (job, _):
        assert len(job.rows.lines) == 1


def test_a_line_made_beside_the_window_is_the_one_that_a_job_makes_again(window):
    key = window.pull((10, 20), (60, 50), (100, 20))
    window.settle()
    made = window.session.shapes[key]
    with opened(window.session.job.path) as (job, _):
        from plain_stride.job.shapes import Shapes

        again = Shapes(job)[key]
    assert (made.curve == again.curve).all()
    assert (made.widths.full == again.widths.full).all()


def test_a_line_under_others_is_painted_under_them(window):
    window.pull((60, 10), (60, 80), pressure=1.0)
    window.session.make("part", name="Lines", ink="white", tier="near")
    window.session.make("part", name="hill", tier="far")
    window.session.take(part="hill")
    window.settle()
    window.pull((20, 45), (100, 45), pressure=1.0)
    window.settle()
    assert np.abs(pixels(window.sheet.layer.image) - whole(type(window.sheet.layer)(window.session), window)).max() <= 2
    assert window.ink_at((60, 45)) < 60
    assert window.ink_at((40, 45)) > 150
