"""Hand over in the window: files, inks, finishes, flats, deliveries and paper, by mouse, keys and typed fields."""

import io
import json

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from plain_stride.desk.sheet.finish_sight import FINISHED, FLATS, INKED
from plain_stride.desk.stations.hand_over import FILES, FINISH, FLATS_PAGE, INKS, PAPER, SEND
from plain_stride.job.finished import passes_of
from plain_stride.job.inks import Colours
from tests.core.test_paper_way import SIZE, TURNED, there_and_back
from tests.desk.test_drawing_tools import drag
from tests.desk.test_weigh_station import press
from tests.desk.test_window import said


def hand_over(window, page=FILES):
    desk = window.main_window.desk
    desk.show_station("Hand over")
    station = desk.hand_over()
    station.pages.words[page].click()
    window.settle()
    return station.page(page)


def box(window, *corners, part="Box"):
    corners = corners or ((20, 20), (60, 20), (60, 70), (20, 70), (20, 20))
    for a, b in zip(corners[:-1], corners[1:], strict=True):  # noqa: RUF007
        window.session.make("draw", shape="straight", points=[list(a), list(b)], nib="7", part=part, role="outer")
    return list(window.lines())[1 - len(corners) :]


def typed(field, text):
    field.entry.setFocus()
    field.entry.selectAll()
    QTest.keyClick(field.entry, Qt.Key.Key_Delete)
    QTest.keyClicks(field.entry, text)
    QTest.keyClick(field.entry, Qt.Key.Key_Return)


def seen(window, mm):
    """(r, g, b) of the window's own picture at a place."""
    window.settle()
    colour = window.sheet.grab().toImage().pixelColor(window.px(mm).toPoint())
    return colour.red(), colour.green(), colour.blue()


def looked(window):
    """The finished art is shown of the job as it is."""
    sight = window.main_window.desk.hand_over()._sight
    window.sheet.update()
    window.wait_until(lambda: sight._version == window.session.job.version and sight._seen is not None)


def test_an_ink_is_made_laid_seen_and_taken_away(window):
    lines = box(window)
    page = hand_over(window, INKS)
    typed(page._name, "umber")
    typed(page._colour, "#c04000")
    press(page, "new ink")
    ink = window.session.job.rows.inks[page._picked]
    assert (ink.name, ink.colour) == ("umber", "#c04000")
    window.session.choose(lines[:1])
    window.settle()
    press(page, "on the chosen lines")
    assert Colours(window.session.job).of(lines[0]) == "#c04000"
    looked(window)
    r, g, b = seen(window, (40, 20))
    assert r > 150 and g < 100 and b < 60
    typed(page._colour, "#0040c0")
    looked(window)
    assert seen(window, (40, 20))[2] > 150 and "umber · L* 33 · 1 line" in page._list.item(2).text()
    typed(page._colour, "blue")
    assert "#rrggbb" in said(window) and window.session.job.rows.inks[page._picked].colour == "#0040c0"
    press(page, "take it away")
    assert not window.session.job.rows.inks and Colours(window.session.job).of(lines[0]) == "black"


def test_lines_darker_than_their_flats_are_seen_first_and_then_taken(window):
    lines = box(window)
    window.session.make("flat", at=[40, 45], colour="#d0a070")
    page = hand_over(window, INKS)
    press(page, "see what lines would be")
    window.wait_until(lambda: page._would[0])
    assert "4 lines** would take **1 colour**." in page._found._raw and not window.session.job.rows.inks
    page._would_list.setCurrentRow(0)
    assert page._would_list.count() == 1 and sorted(window.session.chosen) == sorted(lines)
    page._take.click()
    assert len({Colours(window.session.job).of(key) for key in lines}) == 1
    assert Colours(window.session.job).of(lines[0]) != "black"
    window.tap(Qt.Key.Key_Z)
    assert Colours(window.session.job).of(lines[0]) == "black"


def test_lines_that_no_colour_is_darker_for_are_listed_and_looked_at(window):
    lines = box(window)
    window.session.make("flat", at=[40, 45], colour="#d0a070")
    alone = window.pull((90, 10), (110, 20))
    page = hand_over(window, INKS)
    looked_at = []
    page.place_wanted.connect(lambda x, y: looked_at.append((x, y)))
    press(page, "see what lines would be")
    window.wait_until(lambda: page._would[0])
    assert "4 lines** would take **1 colour**. **1 line** cannot." in page._found._raw
    assert page._would_list.item(1).text() == f"{alone}: no flat lies beside it"
    page._would_list.setCurrentRow(1)
    assert window.session.chosen == [alone] and looked_at[0] == pytest.approx((100.0, 15.0), abs=1.0)
    page._take.click()
    assert Colours(window.session.job).of(alone) == "black" != Colours(window.session.job).of(lines[0])


def test_finishes_are_added_set_ordered_switched_and_lifted_off(window, tmp_path):
    box(window)
    page = hand_over(window, FINISH)
    press(page, "soft")
    press(page, "off register")
    assert [one.kind for one in passes_of(window.session.job)] == ["soft", "off-register"]
    page._list.setCurrentRow(0)
    typed(page._fields[0], "0,8 mm")
    typed(page._fields[1], "25 %")
    soft = passes_of(window.session.job)[0]
    assert (soft.radius, soft.strength) == (0.8, 0.25)
    page._choices["way"].words["along"].click()
    window.settle()
    assert not page._fields[2].isHidden() and passes_of(window.session.job)[0].way == "along"
    typed(page._fields[0], "99")
    assert "0.01 to 20" in page.fault.text() and passes_of(window.session.job)[0].radius == 0.8
    press(page, "later")
    press(page, "switch off")
    assert [(one.kind, one.on) for one in passes_of(window.session.job)] == [("off-register", True), ("soft", False)]
    window.session.take(part="Box")
    window.settle()
    page._scope.words["this part"].click()
    window.settle()
    assert "Box" in page._list.item(1).text()
    page.save_set(tmp_path / "set.json")
    press(page, "take it off")
    assert len(passes_of(window.session.job)) == 1
    page.open_set(tmp_path / "set.json")
    assert len(passes_of(window.session.job)) == 2
    (tmp_path / "bad.json").write_text('{"finishes": [{"pass": "glow"}]}')
    page.open_set(tmp_path / "bad.json")
    assert len(passes_of(window.session.job)) == 2
    assert "glow" in said(window) or "finish" in said(window)


def test_before_and_after_under_a_key(window):
    box(window)
    page = hand_over(window, FINISH)
    press(page, "off register")
    page._list.setCurrentRow(0)
    typed(page._fields[0], "6 6")
    colour = next(field for n, field in enumerate(page._fields) if page._shown[n : n + 1] == ["colour"])
    typed(colour, "#d02000")
    looked(window)
    assert seen(window, (40, 26))[1] < 120
    window.sheet.setFocus()
    window.hold(Qt.Key.Key_QuoteLeft)
    assert seen(window, (40, 26))[1] > 200
    window.let_go(Qt.Key.Key_QuoteLeft)
    assert seen(window, (40, 26))[1] < 120
    window.tap(Qt.Key.Key_QuoteLeft)
    assert page.sight.current() == INKED and seen(window, (40, 26))[1] > 200
    window.main_window.desk.show_station("Pull")
    assert seen(window, (40, 26))[1] > 200


def test_what_is_inked_meanwhile_is_seen_at_once(window):
    box(window)
    page = hand_over(window, FINISH)
    press(page, "soft")
    looked(window)
    window.pull((70, 30), (110, 30), pressure=1.0)
    assert max(255 - seen(window, (90, y))[1] for y in np.linspace(29.5, 30.5, 9)) > 120


def test_ink_alone_is_shown_as_it_is_inked(window):
    box(window)
    hand_over(window, FINISH)
    window.settle()
    assert window.main_window.desk.hand_over()._sight._seen is None


def test_flats_are_shown_coloured_joined_parted_and_named(window):
    box(window)
    box(window, (70, 20), (100, 20), (100, 60), (70, 60), (70, 20), part="Other")
    page = hand_over(window, FLATS_PAGE)
    station = window.main_window.desk.hand_over()
    window.wait_until(lambda: station.link.known)
    assert station._sight.shows == FLATS and "2 areas** in **2 parts" in page._says._raw
    press(page, "take in hand")
    drag(window, (40, 45), (40, 45.1))
    assert page._what._raw.startswith("An area **Box**, **2000.0 mm²**")
    typed(page._colour, "#40a060")
    window.wait_until(lambda: station.link.known)
    looked(window)
    assert seen(window, (52, 55)) == pytest.approx((0x40, 0xA0, 0x60), abs=3)
    press(page, "colour")
    drag(window, (85, 40), (85, 40.1))
    window.wait_until(lambda: station.link.known)
    assert station.link.found.at(85, 40).colour == "#40a060"
    press(page, "join")
    drag(window, (40, 45), (85, 40))
    window.wait_until(lambda: station.link.known)
    assert len(station.link.found.at(40, 45).areas) == 2
    press(page, "part by a line")
    drag(window, (15, 60), (65, 60))
    window.wait_until(lambda: station.link.known)
    assert station.link.found.at(40, 65).id != station.link.found.at(40, 45).id
    press(page, "take the last parting line away")
    window.session.take(part="Other")
    window.wait_until(lambda: station.link.known)
    station.link.pick(station.link.found.at(40, 45).id)
    press(page, "of the part in hand")
    window.wait_until(lambda: station.link.known)
    assert station.link.found.at(40, 45).part == "Other"
    press(page, "as it was found")
    assert not window.session.job.rows.flats
    typed(page._bridge, "2 mm")
    assert window.session.job.rows.hand_over["hand-over"].bridge == 2.0
    typed(page._bridge, "many")
    assert page.fault.text()


def test_a_leak_is_listed_looked_at_and_said_to_be_meant(window):
    box(window, (20, 20), (60, 20), (60, 70), (20, 70), (20, 23.5))
    page = hand_over(window, FLATS_PAGE)
    station = window.main_window.desk.hand_over()
    window.wait_until(lambda: station.link.known)
    assert page._leaks.count() == 1
    page._leaks.setCurrentRow(0)
    assert window.sheet.view.centre == pytest.approx((20.0, 21.75), abs=0.3)
    press(page, "open on purpose")
    window.wait_until(lambda: station.link.known)
    assert page._leaks.isHidden() and window.session.job.rows.meant


def test_a_delivery_is_written_noted_and_compared_with_what_changed(window, tmp_path):
    lines = box(window)
    page = hand_over(window, SEND)
    page._list.setCurrentRow(2)
    assert page.deliver(tmp_path / "out")
    window.wait_until(lambda: not page.working, 60)
    assert "Delivered:" in page.status._raw and (tmp_path / "out" / "manifest.json").exists()
    assert json.loads((tmp_path / "out" / "manifest.json").read_text())["to"] == "screen"
    assert "nothing has changed since" in page._since._raw
    window.session.make("delete", lines=lines[:1])
    page.refresh()
    assert "1 line gone" in page._since._raw
    assert page.deliver(tmp_path / "out")
    window.wait_until(lambda: not page.working, 60)
    assert "is there already" in page.fault.text()
    told = tmp_path / "own.json"
    told.write_text(json.dumps({"name": "Mine", "to": "me", "files": [{"name": "x", "kind": "svg"}]}))
    page.open_own(told)
    assert page._list.currentItem().text() == "Mine"
    press(page, "take it away")
    window.settle()
    assert page._list.count() == 5
    told.write_text("{}")
    page.open_own(told)
    assert "as they were" in page.fault.text()


def test_files_of_each_kind_are_written_at_another_size(window, tmp_path):
    box(window)
    page = hand_over(window, FILES)
    typed(page._dpi, "60")
    assert "283 × 213 px" in page._size._raw
    for name in ("a.png", "a.tif", "a.ora", "a.pdf", "a.svg", "a.csv", "a.json"):
        assert page.write(tmp_path / name), page.fault.text()
        window.wait_until(lambda: not page.working, 60)
        assert (tmp_path / name).exists(), page.fault.text()
    assert Image.open(io.BytesIO((tmp_path / "a.tif").read_bytes())).size == (283, 213)
    typed(page._dpi, "many")
    assert "dpi go from 1" in page._size._raw
    assert not page.write(tmp_path / "b.png") and not (tmp_path / "b.png").exists()
    typed(page._dpi, "")
    assert page.write(tmp_path / "b.png")
    window.wait_until(lambda: not page.working, 60)


def test_paper_goes_out_and_comes_back(window_on, tmp_path):
    from plain_stride.board.page import Page
    from plain_stride.job.job_files import new_job
    from plain_stride.pencils.scanner import scan

    new_job(tmp_path / "paper.stride", Page(SIZE, 300.0))
    window = window_on(tmp_path / "paper.stride")
    page = hand_over(window, PAPER)
    page.write(tmp_path / "blue.pdf")
    window.wait_until(lambda: not page.working, 60)
    assert "no pencils" in page.fault.text()
    data = scan([np.array([[10.0, 10.0], [80.0, 60.0]])], SIZE, 150.0, 1)
    window.session.make("pencils-add", data=data, name="rough")
    page.write(tmp_path / "blue.pdf")
    window.wait_until(lambda: not page.working, 60)
    assert (tmp_path / "blue.pdf").read_bytes().startswith(b"%PDF")
    (tmp_path / "back.png").write_bytes(there_and_back(TURNED, 300)[0])
    page.read_back(tmp_path / "back.png", True)
    window.wait_until(lambda: not page.working, 60)
    window.settle()
    kinds = [row.kind for _, row in window.session.job.pencils()]
    assert kinds == ["rough", "final art"] and "4 register marks found" in page.status._raw
    page.read_back(tmp_path / "back.png", False)
    window.wait_until(lambda: not page.working and len(window.lines()) >= 7, 90)
    (tmp_path / "blank.png").write_bytes(data)
    page.read_back(tmp_path / "blank.png", True)
    window.wait_until(lambda: not page.working, 60)
    assert "0 of 4 register marks" in page.fault.text()


def test_two_jobs_in_one_sitting_and_an_empty_board(window_on, tmp_path):
    from plain_stride.board.page import Page
    from plain_stride.job.job_files import new_job

    for name in ("one", "two"):
        new_job(tmp_path / f"{name}.stride", Page((120.0, 90.0), 300.0))
    window = window_on(tmp_path / "one.stride")
    box(window)
    hand_over(window, FINISH)
    press(window.main_window.desk.hand_over().finish, "soft")
    window.main_window.open_job(tmp_path / "two.stride")
    window.settle()
    for page in (FILES, INKS, FINISH, FLATS_PAGE, SEND, PAPER):
        assert not hand_over(window, page).fault.isVisible()
    station = window.main_window.desk.hand_over()
    assert "Nothing is inked yet" in station.files._what._raw and "would be empty" in station.send._since._raw
    assert station.finish.sight.current() == FINISHED and not passes_of(window.session.job)


def test_no_two_keys_lie_at_one_place(window):
    keys = [one.key for one in window.main_window.desk.all_actions.all if one.key]
    assert sorted(keys) == sorted(set(keys))
