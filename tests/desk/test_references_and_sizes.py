"""References beside the board, the working size beside the true one, sheets faded together, scans that come turned."""

import io

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from plain_stride.cli.entry import main
from plain_stride.measure import MeasureError, parse_times
from tests.desk.test_window import press, type_into

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def picture(size=(200, 100), exif=None):
    image = Image.new("RGB", size, (200, 60, 40))
    image.paste((30, 90, 200), (0, 0, size[0] // 2, size[1]))
    out = io.BytesIO()
    image.save(out, "jpeg", quality=95, dpi=(100, 100), **({"exif": exif} if exif is not None else {}))
    return out.getvalue()


@pytest.fixture
def card(window):
    key = window.session.make("pencils-add", data=picture(), name="heron", kind="reference").results[0]
    window.settle()
    return window.main_window.desk.references.cards[key]


def test_a_reference_stays_where_it_is_whatever_the_view_does(window, card):
    place, before = card.geometry(), card.grab().toImage()
    view = window.sheet.view
    window.sheet.viewport.set_view(view.turned(40, window.px((60, 45))).moved(80, -60))
    window.sheet.viewport.print_size()
    window.sheet.viewport.mirror()
    window.settle()
    assert card.isVisible() and card.geometry() == place and card.grab().toImage() == before
    # In its own colours, blue at the left and red at the right.
    blue, red = (before.pixelColor(round(card.width() * x), card.height() // 2 + 8) for x in (0.25, 0.75))
    assert blue.blue() > 150 > blue.red() and red.red() > 150 > red.blue()


def test_it_is_enlarged_moved_sized_and_hidden_on_its_own(window, card):
    at = QPointF(card.width() * 0.25, card.height() * 0.6)
    card.enlarge(8.0, at)
    assert card.times == 8.0
    seen = card.grab().toImage()
    assert all(seen.pixelColor(x, card.height() // 2).blue() > 150 for x in range(6, card.width() - 6, 9))
    QTest.mouseDClick(card, LEFT, NONE, QPoint(40, 60))
    assert card.times == 1.0
    before = card.pos()
    QTest.mousePress(card, LEFT, NONE, QPoint(30, 8))
    QTest.mouseMove(card, QPoint(-70, 48))
    QTest.mouseRelease(card, LEFT, NONE, QPoint(-70, 48))
    assert card.pos() != before and not window.lines()
    size, corner = card.size(), QPoint(card.width() - 4, card.height() - 4)
    QTest.mousePress(card, LEFT, NONE, corner)
    QTest.mouseMove(card, corner + QPoint(-60, 30))
    QTest.mouseRelease(card, LEFT, NONE, corner + QPoint(-60, 30))
    assert (card.width(), card.height()) == (size.width() - 60, size.height() + 30)
    (key,) = window.main_window.desk.references.cards
    window.session.make("pencils", sheet=key, hidden=True)
    window.settle()
    assert not card.isVisible()
    window.session.make("pencils-remove", sheet=key)
    window.settle()
    assert not window.main_window.desk.references.cards


def test_it_cannot_be_lost_beyond_the_edge(window, card):
    QTest.mousePress(card, LEFT, NONE, QPoint(30, 8))
    QTest.mouseMove(card, QPoint(5000, 5000))
    QTest.mouseRelease(card, LEFT, NONE, QPoint(5000, 5000))
    assert window.sheet.rect().intersects(card.geometry())
    window.main_window.resize(1024, 700)
    window.settle()
    assert window.sheet.rect().intersects(card.geometry())


def test_the_working_size_is_typed_in_per_cent_and_shown_by_its_key(window):
    window.main_window.desk.show_station("Board")
    type_into(window, "Inked larger by", "200 %")
    assert window.session.job.page.enlarge == 2.0
    page = window.main_window.desk.stations["Board"].page("Sheet")
    assert "240 × 180 mm" in page._working.accessibleName() and "200%" in page._working.accessibleName()
    nib, before = window.session.nib_now, window.sheet.view
    window.sheet.setFocus()
    window.hold(Qt.Key.Key_Equal)
    assert window.sheet.viewport.per_cent() == pytest.approx(200.0)
    assert window.session.nib_now == nib
    window.let_go(Qt.Key.Key_Equal)
    assert window.sheet.view == before
    type_into(window, "Inked larger by", "many")
    assert "200 %" in page._fault.accessibleName() and window.session.job.page.enlarge == 2.0


@pytest.mark.parametrize(("text", "times"), [("2", 2.0), ("1,5 times", 1.5), ("150%", 1.5), ("3 x", 3.0)])
def test_enlargements_typed_by_hand(text, times):
    assert parse_times(text) == times


@pytest.mark.parametrize("text", ["", "-2", "two", "2 mm", "nan"])
def test_what_is_no_enlargement(text):
    with pytest.raises(MeasureError):
        parse_times(text)


def test_the_command_line_takes_per_cent(tmp_path):
    job = tmp_path / "a.stride"
    assert main(["new", str(job), "--size", "100x80mm", "--dpi", "300", "--enlarge", "150%"]) == 0
    assert main(["new", str(tmp_path / "b.stride"), "--size", "100x80mm", "--dpi", "300", "--enlarge", "much"]) == 1


def test_all_sheets_are_faded_together_in_one_step(window):
    for name in ("one", "two", "three"):
        window.session.make("pencils-add", data=picture(), name=name)
    window.session.make("pencils-add", data=picture(), name="ref", kind="reference")
    keys = [key for key, row in window.session.job.pencils() if row.kind == "rough"]
    window.session.make("pencils", sheet=keys[-1], fade=0.4)
    window.main_window.desk.show_station("Pencils")
    notes = window.main_window.desk.pencils()
    notes.show_page("Clean")
    window.settle()
    steps = window.session.job.history.undo_count()
    press(window, "fade all so")
    fades = {row.kind: set() for _, row in window.session.job.pencils()}
    for _, row in window.session.job.pencils():
        fades[row.kind].add(row.fade)
    assert len(fades["rough"]) == 1 and fades["reference"] == {1.0}
    assert window.session.job.history.undo_count() == steps + 1


@pytest.mark.parametrize("turned", [6, 8])
def test_a_scan_in_portrait_that_its_camera_turned_lies_upright(window, turned):
    exif = Image.Exif()
    exif[0x0112] = turned
    window.session.make("pencils-add", data=picture((400, 200), exif), name="photo")
    ((_, row),) = window.session.job.pencils()
    assert row.h_mm > row.w_mm and row.h_mm / row.w_mm == pytest.approx(2.0, rel=0.02)


def test_a_scan_larger_than_the_board_and_one_that_tells_no_dpi(window):
    big = Image.fromarray(np.full((3000, 4000), 220, np.uint8))
    for dpi in ({"dpi": (100, 100)}, {"dpi": (0, 0)}, {}):
        out = io.BytesIO()
        big.save(out, "jpeg", **dpi)
        assert window.session.make("pencils-add", data=out.getvalue(), name="big") is not None
    rows = [row for _, row in window.session.job.pencils()]
    assert rows[0].w_mm == pytest.approx(1016.0, abs=1.0)
    w, h = window.session.job.page.size_mm
    assert all(row.w_mm <= w + 1e-6 and row.h_mm <= h + 1e-6 for row in rows[1:])


@pytest.mark.parametrize("size", ["0 px", "-5 px", "1000000 px"])
def test_sizes_in_pixels_that_no_board_has(window, size):
    window.main_window.desk.show_station("Board")
    before = window.session.job.page
    type_into(window, "Width", size)
    page = window.main_window.desk.stations["Board"].page("Sheet")
    said = page._fault.accessibleName() + window.main_window.desk.message.accessibleName()
    assert window.session.job.page == before and ("not possible" in said or "too many" in said)
