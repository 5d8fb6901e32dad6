"""An edge laid on the sheet: pulls are led along it as they are inked, and their own samples stay."""

import numpy as np
import pytest
import shapely
from PySide6.QtCore import QCoreApplication, Qt

from plain_stride.desk.player import on_glass
from plain_stride.job.changes import make
from plain_stride.job.job_files import opened
from plain_stride.job.shapes import Shapes
from tests.conftest import samples_along
from tests.desk.test_drawing_tools import click, drag

KEY = Qt.Key


def lay(window, words):
    window.sheet.gestures.take_tool(window.main_window.desk._rails.tools()[words]())


def off_level(window, key, y):
    return np.abs(window.session.shapes[key].flat[0][:, 1] - y).max()


def test_pulls_are_led_along_a_straight_live_and_laid(window):
    lay(window, "a straight…")
    drag(window, (10, 40), (110, 40))
    assert window.main_window.desk.in_hand.word("What a drag does").text() == "pull along a straight"
    shown = []

    def between():
        QCoreApplication.processEvents()
        live = window.sheet.compositor.live
        if live is not None and len(live.rows) == 100:
            shown.append(window.sheet.grab().toImage())

    wobbly = [(20 + k, 43 + 1.5 * np.sin(k / 3)) for k in range(60)]
    window.pen.play(on_glass(samples_along(wobbly, 0.8, 140, 0.8), window.sheet.view.to_glass), between=between)
    window.settle()
    (key,) = window.lines()
    a = window.sheet.view.to_board(window.px((60, 40)))[1]
    assert off_level(window, key, a) < 1.5 / window.sheet.view.scale
    (picture,) = shown
    assert picture.pixelColor(window.px((45, 40)).toPoint()).lightness() < 110
    pull = window.session.job.pull(window.lines()[key].pull)
    assert np.ptp(pull.samples[:, 1]) > 2.0
    # Its hand's own way is still there.
    window.session.make("follow", lines=[key], share=0.0)
    assert off_level(window, key, 40) > 3.0


def test_the_key_lifts_it_off_and_lays_it_again(window):
    lay(window, "a fan to a point…")
    click(window, (100, 20))
    assert window.sheet.gestures.tool is None and window.session.now.rail is not None
    window.tap(KEY.Key_0)
    assert window.session.now.rail is None
    window.tap(KEY.Key_0)
    key = window.pull((20, 60), (60, 42))
    points = window.session.shapes[key].flat[0]
    way = np.array([100, 20]) - points[0]
    away = np.abs(way[0] * (points - points[0])[:, 1] - way[1] * (points - points[0])[:, 0]) / np.hypot(*way)
    assert away.max() < 0.1


def test_a_perspective_of_three_points_then_pulls_the_line_in_hand_as_an_edge(window):
    lay(window, "a perspective…")
    click(window, (118, 30), (2, 30), (60, 88))
    assert window.sheet.gestures.tool is None and len(window.session.now.rail.points) == 3
    key = window.pull((40, 60), (80, 46))
    window.main_window.desk._rails.lay_curve()
    other = window.pull((42, 62), (82, 48))
    edge, led = (shapely.LineString(window.session.shapes[k].flat[0]) for k in (key, other))
    assert max(edge.distance(led.interpolate(share, normalized=True)) for share in (0.0, 0.3, 0.6, 0.9)) < 0.05


def test_nothing_in_hand_is_said(window):
    window.main_window.desk._rails.lay_curve()
    assert "no line in hand" in window.main_window.desk.message.accessibleName()
    window.tap(KEY.Key_0)
    assert "No edge was laid yet" in window.main_window.desk.message.accessibleName()


def test_a_led_line_is_kept_in_the_file(window):
    lay(window, "parallels…")
    drag(window, (20, 20), (60, 20))
    key = window.pull((20, 50), (80, 53))
    window.session.saving.save_all()
    with opened(window.session.job.path) as (job, store):
        row = job.rows.lines[key]
        assert row.follow.strict and row.follow.share == 1.0
        assert np.ptp(Shapes(job, store)[key].flat[0][:, 1]) < 0.3


@pytest.mark.parametrize("follow", [{"share": 1.0}, {"share": 1.0, "line": [[1, 1]] * 3, "strict": "very"}])
def test_a_rail_that_cannot_be_read_is_refused(open_job, follow):
    from plain_stride.errors import StrideError

    key = open_job.pull((10, 20), (60, 20))
    pull = open_job.job.pull(open_job.job.rows.lines[key].pull)
    with pytest.raises(StrideError):
        make(open_job.job, open_job.shapes, "pull", {"pull": pull, "follow": follow})
