"""Proof in the window: notes listed, shown on the sheet, mended, meant; looks, print, remarks, sheets; by mouse and
keys."""

import json

import numpy as np
import pypdfium2
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from plain_stride.desk.stations.proof import LIMITS, LOOKS, MEANT, NOTES, OUT, REMARKS
from tests.desk.test_drawing_tools import drag
from tests.desk.test_weigh_station import press, word
from tests.desk.test_window import said


def proof(window, page=NOTES):
    station = window.main_window.desk.stations["Proof"]
    window.main_window.desk.show_station("Proof")
    station.show_page(page)
    window.wait_until(lambda: station.proofer.known)
    window.settle()
    return station.page(page)


def straight(window, *points, nib="7"):
    window.session.make("draw", shape="straight", points=[list(p) for p in points], nib=nib)
    return list(window.lines())[-1]


def rail(window):
    """A rail, a post that stops short of it, and one that runs past."""
    keys = [
        straight(window, (10, 40), (110, 40)),
        straight(window, (40, 80), (40, 41.2)),
        straight(window, (70, 80), (70, 38.4)),
    ]
    return keys


def kinds(page):
    return [one.kind for one in page.rows if one.kind in ("gap", "overshoot")]


def known(window):
    window.wait_until(lambda: window.main_window.desk.stations["Proof"].proofer.known)
    window.settle()


def test_notes_are_listed_shown_stepped_through_and_mended(window):
    rail(window)
    page = proof(window)
    assert sorted(kinds(page)) == ["gap", "overshoot"]
    press(page, "next")
    first = page._in_hand()
    assert first is not None and first.at == pytest.approx(window.sheet.view.centre, abs=0.01)
    assert "Measured" in page._what._raw and page._list.currentRow() == 0
    QTest.keyClick(window.main_window, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    assert page._in_hand() is not first
    QTest.keyClick(window.main_window, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert page._in_hand() is first
    marks = window.main_window.desk.stations["Proof"]._marks
    assert marks.shown == tuple(page.rows) and marks._mended(first)
    steps = window.session.job.history.undo_count()
    page.pick_row(next(n for n, one in enumerate(page.rows) if one.kind == "gap"))
    page._mend.click()
    known(window)
    assert kinds(page) == ["overshoot"] and window.session.job.history.undo_count() == steps + 1
    press(page, "mend all")
    known(window)
    assert not kinds(page) and "made as one step" in said(window)


def test_what_is_previewed_changes_nothing(window):
    rail(window)
    page = proof(window)
    before, rows = window.session.job.history.head, dict(window.session.job.rows.lines)
    for one in page.rows:
        window.main_window.desk.stations["Proof"].proofer.mended(one)
    assert window.session.job.history.head == before and dict(window.session.job.rows.lines) == rows


def test_rings_stand_beside_what_they_point_at(window):
    rail(window)
    page = proof(window)
    marks, view = window.main_window.desk.stations["Proof"]._marks, window.sheet.view
    spots = marks._places(view)
    places = [window.px(one.at) for one in page.rows]
    assert all((spot - place).manhattanLength() > 14 for spot, place in zip(spots, places, strict=True))
    apart = [(a - b).manhattanLength() for k, a in enumerate(spots) for b in spots[:k]]
    assert not apart or min(apart) > 12
    assert marks.ring_at(spots[0], view) == 0 and marks.ring_at(window.px((5, 5)), view) is None
    lines = len(window.lines())
    QTest.mouseClick(window.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, spots[1].toPoint())
    assert page._in_hand() is page.rows[1] and len(window.lines()) == lines


def test_filters_orders_and_meant_so(window):
    rail(window)
    page = proof(window)
    page._severity.words["must"].click()
    assert not kinds(page)
    page._severity.words["all"].click()
    page._order.words["place"].click()
    assert [one.at[0] for one in page.rows if one.kind in ("gap", "overshoot")] == [
        40.0,
        pytest.approx(70.0, abs=0.5),
    ] or kinds(page)
    gap = next(n for n, one in enumerate(page.rows) if one.kind == "gap")
    page.pick_row(gap)
    page._reason.entry.setText("light comes in there")
    press(page, "meant so")
    known(window)
    assert kinds(page) == ["overshoot"]
    (row,) = window.session.job.rows.meant.values()
    assert row.reason == "light comes in there"
    meant = proof(window, MEANT)
    meant._list.setCurrentRow(0)
    assert "light comes in" in meant._reason._raw
    press(meant, "take it back")
    known(window)
    assert sorted(kinds(proof(window))) == ["gap", "overshoot"]


def test_limits_are_typed_kept_as_a_file_and_taken(window, tmp_path):
    rail(window)
    page = proof(window, LIMITS)
    page._list.setCurrentRow(1)
    page._value.entry.setText("4")
    page._value.entry.editingFinished.emit()
    page._severity.words["look"].click()
    known(window)
    assert "overshoot" not in kinds(proof(window))
    page = proof(window, LIMITS)
    page._value.entry.setText("900")
    page._value.entry.editingFinished.emit()
    assert "goes from" in page.fault._raw
    page.give(tmp_path / "poster.json")
    assert json.loads((tmp_path / "poster.json").read_text())["limits"] == {"overshoot": 4.0}
    press(page, "all the usual")
    page.take(tmp_path / "poster.json")
    assert window.session.job.rows.manners["manners"].manners.name == "poster"
    (tmp_path / "other.json").write_text('{"form": "plain-stride print targets"}')
    page.take(tmp_path / "other.json")
    assert "as they were" in page.fault._raw


def test_looks_turn_and_print_is_seen_in_a_glass(window):
    straight(window, (20, 45), (100, 45), nib="6")
    page = proof(window, LOOKS)
    view = window.sheet.view
    press(page, "upside down")
    assert abs(window.sheet.view.turn - view.turn) % 360 == 180
    press(page, "mirror left")
    assert window.sheet.view.mirror != view.mirror
    press(page, "pencils off")
    assert window.main_window.desk.moments.ink_alone() and word(page, "pencils on")
    window.session.make("board", target="newsprint")
    window.hover((60, 45))
    page.print.words["in a glass"].click()
    sight = next(one.__self__ for one in window.sheet.overlay._under if type(one.__self__).__name__ == "PrintSight")
    window.sheet.grab()
    window.wait_until(lambda: window.sheet.grab() is not None and sight._seen is not None)
    assert sight._seen[0].printed.ink.any() and sight._seen[0].target == "newsprint"
    window.main_window.desk.show_station("Pull")
    assert sight.shows == "off" and page.print.current() == "off"


def test_remarks_are_drawn_typed_answered_and_seen_to(window):
    page = proof(window, REMARKS)
    press(page, "draw a remark")
    assert "in red" in said(window)
    drag(window, (20, 20), (50, 30))
    drag(window, (22, 26), (48, 36))
    QTest.keyClick(window.main_window, Qt.Key.Key_Escape)
    window.settle()
    (key,) = window.session.job.rows.remarks
    assert len(window.session.job.rows.remarks[key].strokes) == 2 and not window.lines()
    page._words.entry.setText("calmer")
    page._words.entry.editingFinished.emit()
    page._answer.entry.setText("yes")
    page._answer.entry.editingFinished.emit()
    press(page, "seen to")
    row = window.session.job.rows.remarks[key]
    assert (row.words, row.answer, row.done) == ("calmer", "yes", True)
    press(page, "take it away")
    assert not window.session.job.rows.remarks


def test_sheets_are_written_compared_and_inks_read_beside_the_window(window, tmp_path):
    rail(window)
    page = proof(window, OUT)
    page.write(tmp_path / "p.pdf")
    window.wait_until(lambda: not page._number)
    assert len(pypdfium2.PdfDocument(tmp_path / "p.pdf")) >= 2
    page.write(tmp_path / "p.json")
    window.wait_until(lambda: not page._number)
    notes = proof(window)
    page = proof(window, OUT)
    page.compare(tmp_path / "p.json")
    assert f"{len(notes.rows)} still there" in page._compared._raw
    page.compare(tmp_path / "p.pdf")
    assert page.fault._raw
    from PIL import Image, ImageDraw

    picture = Image.new("L", (900, 600), 255)
    ImageDraw.Draw(picture).line([(100, 300), (800, 300)], fill=0, width=12)
    picture.save(tmp_path / "inks.png", dpi=(300, 300))
    before = len(window.lines())
    page.read_inks(tmp_path / "inks.png")
    window.wait_until(lambda: not page._number)
    assert len(window.lines()) == before + 1
    shape = window.session.shapes[list(window.lines())[-1]]
    assert float(np.median(shape.widths.full)) == pytest.approx(12 / 300 * 25.4, abs=0.1)
    page.read_inks(tmp_path / "p.pdf")
    window.wait_until(lambda: not page._number)
    assert page.fault._raw


def test_an_empty_board_is_told_and_nothing_can_be_stepped_to(window):
    page = proof(window)
    assert "Nothing is inked yet" in page._says._raw and not page.rows
    QTest.keyClick(window.main_window, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    assert "no note" in said(window)
