"""The first hour: the opening sheet, from a scan to a line, the walk over the demo, stations that say what comes next."""

import io
import shutil

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from plain_stride.board.page import Page
from plain_stride.demo.job import demo_path, examples
from plain_stride.desk import main_window as window_room
from plain_stride.desk.controls.controls import Word
from plain_stride.desk.opening_sheet import JobCard, OpeningSheet
from plain_stride.desk.walk import STEPS
from plain_stride.job.job_files import new_job, opened
from plain_stride.job.pencil_reading import read_job, reading_json
from plain_stride.pencils.scanner import scan

KEY, LEFT, NONE = Qt.Key, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


@pytest.fixture
def on_demo(window_on, drawn_demo):
    demo_path().parent.mkdir(parents=True, exist_ok=True)
    shutil.copy(drawn_demo, demo_path())
    return window_on(demo_path())


def sheet_of(window):
    window.main_window.show_opening()
    window.settle()
    return next(s for s in window.main_window.findChildren(OpeningSheet) if s.isVisible())


def verb(sheet, words):
    return next(w for w in sheet.findChildren(Word) if w.text().startswith(words))


def test_the_opening_sheet_offers_what_can_be_begun_and_is_skipped_for_ever(window):
    sheet = sheet_of(window)
    words = [w.text() for w in sheet.findChildren(Word)]
    assert words[:3] == ["a new board", "a board from a scan…", "open a job…"] and set(examples()) <= set(words)
    assert sheet.rect() == window.main_window.rect()
    QTest.keyClick(sheet, KEY.Key_Escape)
    assert not sheet.isVisible()
    sheet = sheet_of(window)
    QTest.mouseClick(verb(sheet, "never show"), LEFT)
    assert int(window.main_window.settings.number("opening", 1)) == 0 and not sheet.isVisible()


def test_recent_jobs_stand_on_it_with_pictures_of_their_ink(window, tmp_path):
    window.pull((10, 20), (110, 70), pressure=0.9)
    window.settle()
    QTest.qWait(500)
    first = window.session.job.path
    other = tmp_path / "other.stride"
    new_job(other, Page((80.0, 80.0), 300.0))
    assert window.main_window.open_job(other)
    sheet = sheet_of(window)
    cards = {card._name: card for card in sheet.findChildren(JobCard)}
    assert set(cards) == {"walk", "other"}
    image = cards["walk"]._image
    dark = [image.pixelColor(x, y).lightness() < 140 for x in range(image.width()) for y in range(image.height())]
    assert 40 < sum(dark) < 4000
    QTest.mouseClick(cards["walk"], LEFT)
    assert window.session.job.path == first


def test_from_a_scan_to_the_first_line_in_eight_presses(window, tmp_path, monkeypatch):
    """A file is chosen in the system's dialog by two presses, on it and on Open: counted as such."""
    path = tmp_path / "rough.png"
    path.write_bytes(scan([np.array([[20.0, 20.0], [120.0, 80.0]])], (150.0, 100.0), 150.0, 1))
    presses = [0]

    def chosen(*_):
        presses[0] += 2
        return path

    monkeypatch.setattr(window_room, "ask_file", chosen)
    monkeypatch.setattr(window_room, "documents_folder", lambda: tmp_path)
    sheet = sheet_of(window)
    presses[0] += 1
    QTest.mouseClick(verb(sheet, "a board from a scan"), LEFT)
    window.settle()
    presses[0] += 1
    assert window.mouse_pull((20, 20), (120, 80)) is not None
    assert presses[0] <= 8
    assert window.session.job.page.size_mm == pytest.approx((150.0, 100.0), abs=0.2)
    assert window.main_window.desk.station() == "Pull"


def test_a_scan_that_cannot_be_read_is_said_and_the_board_is_there(window, tmp_path, monkeypatch):
    monkeypatch.setattr(window_room, "documents_folder", lambda: tmp_path)
    bad = tmp_path / "bad.png"
    bad.write_bytes(b"no picture")
    window.main_window.begin_from_scan(bad)
    window.settle()
    said = window.main_window.desk.message.accessibleName()
    assert said and window.main_window.desk.station() == "Pencils" and not window.session.job.pencils()


def test_the_walk_watches_what_is_done_and_goes_on_by_itself(on_demo):
    window, main = on_demo, on_demo.main_window
    main.offer_walk()
    said = main.desk.message
    assert "eight short steps" in said.accessibleName()
    window.tap(KEY.Key_Slash)
    assert main.walk.step == 1 and said.accessibleName().startswith("1 of 8.")
    window.hold(KEY.Key_A)
    window.let_go(KEY.Key_A)
    assert main.walk.step == 2
    window.pull((150, 20), (180, 24))
    assert main.walk.step == 3
    window.tap(KEY.Key_Z)
    assert main.walk.step == 4
    key = window.pull((150, 20), (200, 24))
    window.hover((175, 22))
    window.hold(KEY.Key_S)
    at = window.px((175, 22)).toPoint()
    QTest.mousePress(window.sheet, LEFT, NONE, at)
    QTest.mouseMove(window.sheet, at - QPoint(0, 40))
    QTest.mouseRelease(window.sheet, LEFT, NONE, at - QPoint(0, 40))
    window.let_go(KEY.Key_S)
    assert main.walk.step == 5 and window.lines()[key].edits
    window.tap(KEY.Key_Y)
    assert main.walk.step == 6
    window.session.take(part="Cat")
    assert main.walk.step == 7
    main.desk.show_station("Weigh")
    window.hold(KEY.Key_H)
    window.let_go(KEY.Key_H)
    assert main.walk.step == 8
    main.desk.show_station("Hand over")
    assert main.walk.step == 0 and "That was the walk" in said.accessibleName()
    main.offer_walk()
    assert "eight short steps" not in said.accessibleName()


def test_a_step_is_skipped_and_the_walk_ends_with_its_job(on_demo, tmp_path):
    main = on_demo.main_window
    main.walk_over_demo()
    for n in range(1, len(STEPS)):
        assert main.walk.step == n
        on_demo.tap(KEY.Key_Slash)
    path = tmp_path / "other.stride"
    new_job(path, Page((80.0, 80.0), 300.0))
    assert main.open_job(path) and main.walk.step == 0
    assert main.desk.message.accessibleName() == ""


def test_the_sentence_of_the_walk_comes_back_after_others(on_demo):
    main = on_demo.main_window
    main.walk_over_demo()
    main.desk.message.tell("Something else.", True)
    assert main.desk.message.accessibleName() == "Something else."
    main.desk.message.cause_gone()
    assert main.desk.message.accessibleName().startswith("1 of 8.")


def test_the_jobs_to_try_things_on_are_what_they_say():
    made = {words: make() for words, make in examples().items() if "lock keeper" not in words}
    with opened(made["three frames with X marks"]) as (job, _):
        assert len(job.rows.frames) == 3 and not job.rows.lines
        told = reading_json(read_job(job))
    assert len(told["x_marks"]) >= 2
    with opened(made["one figure, nothing inked"]) as (job, _):
        assert not job.rows.lines and len(job.rows.pencils) == 1
        assert len(read_job(job).lines) > 60


def test_every_line_of_the_demo_that_meets_another_is_closed(drawn_demo):
    """Between ends that meet there is ink: the share of such ends that touch other ink, by an independent library."""
    import shapely

    from plain_stride.job.shapes import Shapes

    with opened(drawn_demo) as (job, store):
        shapes = Shapes(job, store)
        ink = {
            k: shapely.unary_union([shapely.Polygon(r).buffer(0) for r in shapes[k].smooth_rings])
            for k in job.rows.lines
        }
        parts = {k: row.part for k, row in job.rows.lines.items()}
        closed = open_ends = 0
        for key, row in job.rows.lines.items():
            near = [ink[o] for o in ink if o != key and parts[o] == parts[key]]
            first, last = shapes[key].flat[0][[0, -1]]
            if np.hypot(*(first - last)) < 2.0:
                continue  # A ring closes on itself.
            for end, kind in zip(shapes[key].flat[0][[0, -1]], row.ends, strict=True):
                if kind.kind == "round":
                    own = ink[key].intersection(shapely.Point(end).buffer(0.8))
                    touches = shapely.distance(own, near).min(initial=np.inf) < 0.05
                    closed += touches
                    open_ends += not touches
    assert closed > 130 and open_ends <= 0.02 * closed


@pytest.mark.parametrize(("station", "words"), [("Pull", "Pull a line"), ("Weigh", "Nothing is inked yet"),
                                                ("Hand over", "Nothing is inked yet"), ("Pencils", "place")])  # fmt: skip
def test_every_empty_station_says_what_comes_next(window, station, words):
    desk = window.main_window.desk
    desk.show_station(station)
    window.settle()
    from PySide6.QtWidgets import QLabel

    told = " ".join(w.accessibleName() for w in desk.stations[station].findChildren(QLabel) if w.isVisible())
    told += " ".join(w.text() for w in desk.stations[station].findChildren(Word) if w.isVisible())
    assert words in told


def test_a_picture_that_came_as_a_portrait_photo_fills_its_board(window, tmp_path, monkeypatch):
    monkeypatch.setattr(window_room, "documents_folder", lambda: tmp_path)
    exif = Image.Exif()
    exif[0x0112] = 6
    out = io.BytesIO()
    Image.fromarray(np.full((300, 500), 230, np.uint8)).save(out, "jpeg", dpi=(100, 100), exif=exif)
    (tmp_path / "photo.jpg").write_bytes(out.getvalue())
    window.main_window.begin_from_scan(tmp_path / "photo.jpg")
    w, h = window.session.job.page.size_mm
    assert h / w == pytest.approx(500 / 300, rel=0.02)
