"""Lines of the middle of the view are there before the whole sheet is read."""

import numpy as np
import pytest

from plain_stride.job.pencil_reading import lines_from_json, lines_round
from plain_stride.pencils.scanner import SOFT, scan

SIZE = (240.0, 160.0)
RING = 22.0


def a_scan():
    t = np.linspace(0.0, 2.0 * np.pi, 200)
    rings = [np.column_stack([x + RING * np.cos(t), y + RING * np.sin(t)]) for x in (40, 120, 200) for y in (40, 120)]
    return scan(rings, SIZE, 200.0, 3, SOFT)


def test_what_lies_round_a_place_is_read_in_mm_of_the_sheet(open_job):
    open_job.do("pencils-add", data=a_scan(), name="rings")
    lines = lines_from_json(lines_round(open_job.job, (120.0, 40.0), lambda share: True))
    (ring,) = [line for line in lines if line.closed]
    assert np.hypot(*(ring.points - (120.0, 40.0)).T) == pytest.approx(RING, abs=0.3)
    assert all(np.abs(line.points - (120.0, 40.0)).max() < 45.0 for line in lines)


@pytest.mark.parametrize("place", [(80.0, 400.0), (-50.0, 40.0)])
def test_off_the_pencils_there_are_none(open_job, place):
    open_job.do("pencils-add", data=a_scan(), name="rings")
    assert lines_round(open_job.job, place, lambda share: True) == []


def test_the_window_shows_them_before_the_reading_is_there(window):
    window.session.make("pencils-add", data=a_scan(), name="rings")
    window.main_window.desk.show_station("Pencils")
    pencils = window.main_window.desk.pencils()
    seen = []
    pencils.reader.changed.connect(lambda: seen.append((len(pencils.reader.first), pencils.reader.reading is not None)))
    pencils.reader.read((120.0, 40.0))
    window.wait_until(lambda: pencils.reader.reading is not None, 60.0)
    assert any(first and not whole for first, whole in seen)
    assert pencils.reader.first == []
