"""Practice and Log in the window: drills pulled by pen and mouse, the warm-up, the hand book; the order of work, time,
the diary, notes, marks, the book, a red review."""

import json

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest

from plain_stride.desk.cautions import Cautions
from plain_stride.desk.player import PenPlayer, on_glass
from plain_stride.desk.session import practising as practising_room
from plain_stride.desk.session.drops import lay_file
from plain_stride.desk.sheet.practice_sheet import SHOWN_PULLS, TARGET
from plain_stride.desk.stations.log import BOOK, DIARY, MARKS, NEXT, NOTES, TIME
from plain_stride.desk.stations.log_diary import FOLDER
from plain_stride.desk.stations.log_time import read_due
from plain_stride.desk.stations.practice import DRILL, HAND, SPEED, WARM
from plain_stride.desk.stations.proof import REMARKS
from plain_stride.desk.stations.step_pictures import MOST, StepPictures
from plain_stride.finish.png import png_bytes
from plain_stride.hand.load import load_of
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.job.job_files import opened
from plain_stride.job.log_changes import order_row, schedule_row
from plain_stride.job.places import hand_book_path
from plain_stride.job.serving import Answered, Failed
from plain_stride.practice.drills import drill_named
from plain_stride.practice.hand_book import hand_book
from plain_stride.practice.simulated import practised
from plain_stride.weight.rule_book import RULES
from tests.conftest import samples_along
from tests.desk.test_hand_over_station import typed
from tests.desk.test_weigh_station import press
from tests.desk.test_window import said


def practice(window, page=DRILL):
    desk = window.main_window.desk
    desk.show_station("Practice")
    station = desk.stations["Practice"]
    station.pages.words[page].click()
    window.settle()
    return station.page(page)


def log(window, page=NEXT):
    desk = window.main_window.desk
    desk.show_station("Log")
    station = desk.stations["Log"]
    station.pages.words[page].click()
    window.wait_until(lambda: station.planner.known)
    window.settle()
    return station.page(page)


def pen_pulls(window, count=1, hand="average", seed=1, pace="normal"):
    """Pulls of the drill in hand, by real tablet events over the practice sheet."""
    sheet = window.main_window.desk.apart.sheet
    now = window.main_window.desk.stations["Practice"].practising
    for n in range(count):
        target = now.drill.target(now.number)
        samples = pulled(target.points, HANDS[hand], pace, [seed, n], glass=sheet.glass)
        PenPlayer(sheet).play(on_glass(samples, sheet.view.to_glass))
    window.settle()
    return now


def kept_pulls() -> int:
    with hand_book(hand_book_path()) as book:
        return len(book.pulls())


def words_on(page) -> str:
    from PySide6.QtWidgets import QLabel

    return " ".join(w.accessibleName() for w in page.findChildren(QLabel) if w.isVisible())


def test_a_drill_is_pulled_measured_and_kept(window):
    page = practice(window)
    lines = dict(window.lines())
    page._list.setCurrentRow(page._practising.names.index("circles"))
    now = pen_pulls(window, 12)
    assert now.drill.name == "circles" and now.number == 12
    assert now.last.measures.shake == pytest.approx(0.15, abs=0.06)
    assert "shake" in words_on(page) and "12 pulls" in words_on(page)
    with hand_book(hand_book_path()) as book:
        kept = book.pulls("me", "simulated pen", "circles")
        assert len(kept) == 12 and book.samples_of(kept[-1].id) is not None
        mean = np.sqrt(np.mean([k.measures.shake**2 for k in kept]))
    assert mean == pytest.approx(0.15, rel=0.12)
    assert dict(window.lines()) == lines


def test_the_practice_sheet_stands_in_the_boards_place_and_gives_it_back(window):
    desk = window.main_window.desk
    practice(window)
    assert desk.apart.sheet.isVisible() and not desk.sheet.isVisible() and desk.apart.sheet.hasFocus()
    assert desk.strip.isHidden()
    before = len(window.lines())
    pen_pulls(window, 2)
    desk.show_station("Pull")
    assert desk.sheet.isVisible() and not desk.apart.sheet.isVisible() and not desk.strip.isHidden()
    assert len(window.lines()) == before
    assert window.pull((20, 20), (90, 40)) is not None


def test_nothing_of_the_job_is_changed_while_its_board_is_away(window):
    line = window.pull((20, 20), (90, 40))
    page = practice(window)
    pen_pulls(window, 2)
    window.tap(Qt.Key.Key_Z)
    assert line in window.lines() and "nothing of the job is changed" in said(window)
    window.session.choose([line])
    window.tap(Qt.Key.Key_Delete)
    assert line in window.lines()
    press(page, "take the last pull back")
    assert page._practising.number == 1
    with hand_book(hand_book_path()) as book:
        assert len(book.pulls()) == 1
    window.main_window.desk.show_station("Pull")
    window.tap(Qt.Key.Key_Z)
    assert line not in window.lines()


def test_the_target_is_pale_and_the_pull_is_ink(window):
    practice(window)
    sheet = window.main_window.desk.apart.sheet

    def darkness():
        picture = sheet.grab().toImage()
        at = [sheet.view.to_glass(p[None])[0] for p in sheet._practising.drill.target(0).points[30:110:5]]
        return min(picture.pixelColor(QPoint(round(x), round(y))).lightness() for x, y in at)

    assert 90 < darkness() < 245
    pen_pulls(window, 1, "calm")
    assert darkness() < 70


def test_a_mouse_practises_too_and_a_touch_is_no_pull(window):
    page = practice(window)
    sheet = window.main_window.desk.apart.sheet
    points = [QPoint(*map(round, p)) for p in sheet.view.to_glass(page._practising.drill.target(0).points[::6])]
    QTest.mousePress(sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, points[0])
    for point in points[1:]:
        QTest.mouseMove(sheet, point, 20)
    QTest.mouseRelease(sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, points[-1])
    window.settle()
    assert page._practising.number == 1 and page._practising.device == "mouse"
    QTest.mouseClick(sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, points[0])
    window.settle()
    assert page._practising.number == 1


def test_what_is_too_short_is_said_and_escape_drops_a_pull(window):
    page = practice(window)
    sheet = window.main_window.desk.apart.sheet
    short = np.array([[400.0, 300.0, 0.5, 0.0, 0.0], [402.0, 300.0, 0.5, 0.05, 0.0]])
    PenPlayer(sheet).play(short)
    window.settle()
    assert "no pull of the drill" in words_on(page) and page._practising.number == 0
    PenPlayer(sheet).send(QEvent.Type.TabletPress, short[0])
    PenPlayer(sheet).send(QEvent.Type.TabletMove, np.array([500.0, 340.0, 0.5, 0.6, 0.0]))
    window.tap(Qt.Key.Key_Escape)
    PenPlayer(sheet).send(QEvent.Type.TabletRelease, np.array([600.0, 340.0, 0.0, 0.9, 0.0]))
    assert page._practising.number == 0


def test_the_best_and_the_last_stand_side_by_side(window):
    page = practice(window)
    pen_pulls(window, 4)
    sheet = window.main_window.desk.apart.sheet
    page.sight.words[SHOWN_PULLS].click()
    window.settle()
    best, last = sheet._groups
    assert len(best) == 4 and [k.score for k, _ in best] == sorted(k.score for k, _ in best)
    assert [k.number for k, _ in last] == [3, 2, 1, 0]
    picture = sheet.grab().toImage()
    assert min(picture.pixelColor(x, y).lightness() for x in range(60, 320, 2) for y in range(60, 200, 2)) < 60
    page.sight.words[TARGET].click()
    pen_pulls(window, 1)
    assert page._practising.number == 5


def test_lines_of_the_job_that_went_worst_become_a_drill(window):
    page = practice(window)
    press(page, "lines of this job that went worst")
    assert "No pulled lines" in words_on(page)
    window.main_window.desk.show_station("Pull")
    window.pull((20, 20), (90, 40))
    page = practice(window)
    press(page, "lines of this job that went worst")
    window.settle()
    assert page._practising.drill.name == "your own pencils"
    assert page._practising.drill.target(0).length == pytest.approx(np.hypot(70, 20), rel=0.02)
    pen_pulls(window, 2)
    assert page._practising.number == 2


def test_a_warm_up_goes_through_drills_and_ends_when_the_shake_has_settled(window, monkeypatch):
    clock = [0.0]
    monkeypatch.setattr(practising_room.time, "monotonic", lambda: clock[0])
    page = practice(window, WARM)
    press(page, "warm up")
    now = page._practising
    assert now.warm is not None and "more:" in words_on(page)
    names = set()
    for n in range(40):
        if now.warm is None:
            break
        names.add(now.drill.name)
        clock[0] += 6.0
        target = now.drill.target(now.number)
        hand = HANDS["average"]
        shaky = type(hand)(hand.tremor * (1.0 + 0.6 * np.exp(-n / 3.0)), hand.wander)
        now.pulled(pulled(target.points, shaky, "normal", [2, n]), 1.0, "pen", window.session.nib_now)
    window.settle()
    assert now.warm is None and 30 <= n < 40
    assert len(names) >= 3 and "Your shake fell" in words_on(page) and "you are warm" in words_on(page)


def test_a_warm_up_may_be_left_at_any_time(window):
    page = practice(window, WARM)
    press(page, "warm up")
    pen_pulls(window, 2)
    press(page, "leave it")
    assert page._practising.warm is None
    with hand_book(hand_book_path()) as book:
        assert len(book.pulls()) == 2


def test_speeds_are_tried_and_what_errs_least_becomes_advice(window):
    page = practice(window, SPEED)
    now = page._practising
    assert now.drill.name == "the same stroke" and "0 of 9 pulls" in words_on(page)
    for n in range(18):
        target = now.drill.target(0)
        pace, best = ("careful", "normal", "fast")[n % 3], {"careful": 0.5, "normal": 0.2, "fast": 0.5}
        hand = type(HANDS["calm"])(0.05, best[("careful", "normal", "fast")[n % 3]])
        now.pulled(pulled(target.points, hand, pace, [4, n]), 1.0, "pen", window.session.nib_now)
    window.settle()
    assert "You err least at" in words_on(page)
    press(page, "be told when a line is slower than that")
    slow = window.main_window.preferences.thresholds.slow
    assert window.session.now.thresholds.slow == slow and 20.0 < slow < 80.0
    assert "told to be slow" in said(window)
    page.sizes.words["200 %"].click()
    assert window.main_window.desk.apart.sheet.glass == pytest.approx(2.0, rel=0.01)


def test_the_size_that_errs_least_in_print_is_laid_on_the_board(window):
    page = practice(window, SPEED)
    for n in range(12):
        scale = (1.0, 2.0)[n % 2]
        target = page._practising.drill.target(0)
        samples = pulled(target.points, HANDS["average"], "normal", [4, n], glass=scale)
        page._practising.pulled(samples, scale, "pen", window.session.nib_now)
    window.settle()
    press(page, "enlarge the board to 200 %")
    assert window.session.job.page.enlarge == 2.0


def test_the_hand_book_is_told_taken_out_taken_in_and_deleted(window, tmp_path):
    page = practice(window, HAND)
    assert "hand book is empty" in words_on(page)
    with hand_book(hand_book_path()) as book:
        for hand, seed in (("shaky", 1), ("average", 2)):
            for kept in practised(drill_named("circles"), hand, 60, seed, "me"):
                book.add(type(kept)(**{**kept.__dict__, "device": "pen"}))
    page._practising.be("me")
    window.settle()
    told = words_on(page)
    assert "Shake" in told and "shake" in told and "less" in told and "more than chance" in told
    page.take_out(tmp_path / "book.json")
    assert len(json.loads((tmp_path / "book.json").read_text())["pulls"]) == 120
    press(page, "delete all of it…")
    assert kept_pulls() == 120
    press(page, "yes, for good")
    window.settle()
    assert kept_pulls() == 0 and "hand book is empty" in words_on(page)
    page.take_in(tmp_path / "book.json")
    window.settle()
    assert kept_pulls() == 120
    (tmp_path / "x.json").write_text("{}")
    page.take_in(tmp_path / "x.json")
    assert "no hand book" in words_on(page)
    typed(page._who, "B.")
    window.settle()
    assert page._practising.person == "B." and "hand book is empty" in words_on(page)
    assert window.main_window.preferences.person == "B."


def test_a_hand_book_that_cannot_be_written_is_said_and_practice_goes_on(window):
    hand_book_path().parent.mkdir(parents=True, exist_ok=True)
    hand_book_path().write_bytes(b"no database" * 100)
    page = practice(window)
    pen_pulls(window, 1)
    assert page._practising.number == 1 and "safe" in words_on(page)
    assert hand_book_path().read_bytes().startswith(b"no database")


# The log


def test_the_next_step_is_taken_up_moved_set_aside_and_parted(window):
    session = window.session
    lines = [window.pull((20, 10 + 8 * n), (90, 12 + 8 * n)) for n in range(2)]
    session.make("area", kind="fill", outline=[[10, 40], [30, 40], [30, 60], [10, 60]])
    session.make("remark", at=[60.0, 20.0], words="heavier")
    session.make("remark", at=[62.0, 60.0], words="thinner")
    page = log(window)
    assert [s.kind for s in page._steps] == ["blacks", "to draw again"] and len(lines) == 2
    assert page._list.item(0).text().startswith("1  blacks")
    press(page, "take up the next")
    assert window.sheet.view.to_board(window.sheet.rect().center().toPointF()) == pytest.approx((20.0, 50.0), abs=1.0)
    press(page, "later")
    window.settle()
    assert [s.kind for s in page._steps] == ["to draw again", "blacks"]
    page._list.setCurrentRow(0)
    window.settle()
    press(page, "part it")
    window.settle()
    assert [s.id for s in page._steps][:2] != ["to draw again/", "blacks/"] and len(page._steps) == 3
    press(page, "make whole")
    window.settle()
    assert len(page._steps) == 2
    press(page, "set aside")
    window.settle()
    assert order_row(session.job).aside and "(aside)" in page._list.item(1).text()
    page._schools.setCurrentRow(5)
    window.settle()
    assert order_row(session.job).school == "far to near"
    window.tap(Qt.Key.Key_Z)
    assert order_row(session.job).school == "big to small"


def test_an_empty_board_says_what_comes_next(window):
    for page, words in ((NEXT, "Nothing is left that is known"), (TIME, "Nothing was done"), (DIARY, "Nothing was done"),
                        (NOTES, "No notes yet"), (MARKS, "No marks yet"), (BOOK, "Write a principle")):  # fmt: skip
        assert words in words_on(log(window, page)), page


def test_time_is_told_and_a_deadline_typed(window):
    window.pull((20, 20), (90, 40))
    page = log(window, TIME)
    assert "of work in 1 sitting:" in words_on(page) and "1.0 takes a line" in words_on(page)
    typed(page.pause, "120")
    assert window.main_window.preferences.pause == 120.0 and page._planner.pause == 120.0
    typed(page.pause, "1")
    assert "stays as it was" in words_on(page) and page._planner.pause == 120.0
    typed(page.due, "2030-12-24 18:00")
    assert schedule_row(window.session.job).deadline == read_due("2030-12-24 18:00")
    typed(page.hours, "5,5")
    assert schedule_row(window.session.job).hours == 5.5
    QTest.mouseClick(page.days.words["Sa"], Qt.MouseButton.LeftButton)
    assert 5 in schedule_row(window.session.job).days
    typed(page.due, "some day")
    assert "stays as it was" in words_on(page) and schedule_row(window.session.job).deadline is not None
    press(page, "no deadline")
    assert schedule_row(window.session.job).deadline is None


def test_the_calendar_of_all_jobs_here_is_written(window, tmp_path):
    window.pull((20, 20), (90, 40))
    page = log(window, TIME)
    assert page.write_all(tmp_path / "all.ics")
    window.wait_until(lambda: not page.working, 60.0)
    assert (tmp_path / "all.ics").read_bytes().startswith(b"BEGIN:VCALENDAR")
    assert window.session.job.name in words_on(page)


def test_the_calendar_and_the_log_are_written(window, tmp_path):
    window.pull((20, 20), (90, 40))
    log(window, TIME).write_calendar(tmp_path / "c.ics")
    assert (tmp_path / "c.ics").read_bytes().startswith(b"BEGIN:VCALENDAR")
    page = log(window, DIARY)
    assert "at work: 1 line, " in words_on(page)
    assert page.write(tmp_path / "log.html")
    window.wait_until(lambda: not page.working, 60.0)
    assert "is written" in words_on(page) and b"data:image/png" in (tmp_path / "log.html").read_bytes()
    page.write(tmp_path / "nowhere" / "log.html")
    window.wait_until(lambda: not page.working, 60.0)
    assert page.fault.isVisible()


def test_all_jobs_of_the_folder_are_told_a_month_on_one_page(window, tmp_path):
    window.pull((20, 20), (90, 40))
    folder = window.session.job.path.parent
    page = log(window, DIARY)
    page.scope.words["all jobs here"].click()
    window.wait_until(lambda: page._months is not None, 60.0)
    assert page._list.count() == 1 and "1 line" in page._list.item(0).text()
    assert window.session.job.name in page._days.item(0).text()
    assert page.write(tmp_path / "all.md")
    window.wait_until(lambda: not page.working, 60.0)
    assert (tmp_path / "all.md").read_text().startswith("# Log of all jobs") and folder.exists()
    page.scope.words["this job"].click()
    window.settle()
    assert "The page before the sitting" in words_on(page) and page._days.isHidden()


def test_notes_come_up_where_they_belong_once(window):
    session = window.session
    session.make("part", name="Coat")
    session.make("note", words="wool, not velvet", part="Coat")
    session.make("note", words="undersides heavy", rule="light")
    session.take(part="Coat")
    assert "Note on Coat: wool, not velvet" in said(window)
    window.main_window.desk.show_station("Weigh")
    assert "Note on light: undersides heavy" in said(window)
    session.take(part="Lines")
    window.main_window.say("", False)
    session.take(part="Coat")
    assert "wool" not in said(window)


def test_a_field_to_hatch_is_marked_and_ticked_off_by_hatching(window):
    page = log(window)
    press(page, "mark a field to hatch…")
    loop = samples_along([(20, 20), (70, 20), (70, 60), (20, 60), (20, 21)])
    window.pen.play(on_glass(loop, window.sheet.view.to_glass))
    window.settle()
    window.wait_until(lambda: window.main_window.desk.stations["Log"].planner.known)
    window.settle()
    assert [s.kind for s in page._steps] == ["hatching"] and page._steps[0].done == 0.0
    window.session.make("hatch", around=[[20, 20], [70, 20], [70, 60], [20, 60]], grey=0.3, angle=30.0, nib="2")
    window.settle()
    window.wait_until(lambda: window.main_window.desk.stations["Log"].planner.known)
    window.settle()
    assert page._steps[0].ticked


def test_notes_are_written_pinned_and_found(window):
    line = window.pull((20, 20), (90, 40))
    page = log(window, NOTES)
    typed(page.words, "undersides heavy")
    page.pin.words["here"].click()
    typed(page.words, "leave open")
    page.pin.words["its line"].click()
    typed(page.words, "twice")
    page.pin.words["a rule"].click()
    page.rules.setCurrentRow(list(RULES).index("bends"))
    typed(page.words, "wrists alone")
    rows = {row.words: row for row in window.session.job.rows.notes.values()}
    assert rows["wrists alone"].rule == "bends"
    assert rows["leave open"].x_mm is not None and rows["twice"].line == line and rows["undersides heavy"].part is None
    typed(page.search, "HEAVY")
    assert page._list.count() == 1
    page._list.setCurrentRow(0)
    press(page, "take it away")
    assert len(window.session.job.rows.notes) == 3
    window.settle()
    assert window.main_window.desk.stride.words["Log"].fact == "3 notes"


def test_marks_have_pictures_and_go_out_as_jobs(window, tmp_path):
    window.pull((20, 20), (90, 40))
    window.session.timeline.mark("one line")
    window.pull((20, 60), (90, 40))
    page = log(window, MARKS)
    window.wait_until(lambda: not page.working and page._picture.there, 60.0)
    assert page.write(tmp_path / "then.stride")
    window.wait_until(lambda: not page.working, 60.0)
    with opened(tmp_path / "then.stride") as (job, _):
        assert len(job.rows.lines) == 1 and job.history.redo_count() == 1
    page.write(tmp_path / "then.stride")
    window.wait_until(lambda: not page.working, 60.0)
    assert page.fault.isVisible()
    with opened(tmp_path / "then.stride") as (job, _):
        assert len(job.rows.lines) == 1


def test_a_sitting_shows_the_page_before_and_after(window):
    window.pull((20, 20), (90, 40))
    page = log(window, DIARY)

    def darkest():
        seen = [one.pixmap().toImage().convertToFormat(QImage.Format.Format_Grayscale8) for one in page._seen]
        return [min(image.pixelColor(x, y).red() for x in range(image.width()) for y in range(image.height()))
                for image in seen]  # fmt: skip

    window.wait_until(page.pictured, 60.0)
    before, after = darkest()
    assert before == 255 and after < 128
    page.scope.words[FOLDER].click()
    window.settle()
    assert not any(one.isVisible() for one in page._seen)


def test_pictures_are_asked_for_at_rest_one_at_a_time_and_only_the_last_are_kept(window, monkeypatch):
    asked = []
    monkeypatch.setattr(window.session.document.errands, "ask", lambda question, told: asked.append((question, told)))
    pictures, shown = StepPictures(window.session), [0]
    pictures.changed.connect(lambda: pictures.at(shown[0]))
    for shown[0] in range(1, 5):
        assert pictures.at(shown[0]) is None
    assert not asked
    window.wait_until(lambda: asked)
    assert [question.step for question, _ in asked] == [4] and pictures.at(9) is None and len(asked) == 1
    for shown[0] in range(5, 5 + MOST):
        asked[-1][1](Answered(1, png_bytes(np.zeros((4, 4), np.uint8), None, 72.0, False), 0))
    assert [question.step for question, _ in asked] == [4, *range(5, 5 + MOST)]
    asked[-1][1](Failed(1, "it went wrong"))
    assert len(pictures._made) == MOST and 4 not in pictures._made and pictures.at(5) is not None


def test_principles_are_kept_for_all_jobs_and_a_series_goes_on(window, tmp_path):
    window.pull((20, 20), (90, 40))
    window.session.make("part", name="Coat", tier="near")
    window.session.make("note", words="wool", part="Coat")
    window.session.make("note", words="here", at=[3.0, 4.0])
    page = log(window, BOOK)
    typed(page.words, "Undersides heavy.")
    press(page, "the nib in hand worked here")
    window.settle()
    assert page._list.count() == 2 and page._pages[0].told["nib"]["name"] == "3"
    page._list.setCurrentRow(1)
    window.settle()
    assert not page._picture.pixmap().isNull()
    press(page, "take it out of the book")
    assert page._list.count() == 1
    page.begin_next(tmp_path / "next.stride")
    window.wait_until(lambda: window.session.job.path.name == "next.stride")
    job = window.session.job
    assert not job.rows.lines and job.part_named("Coat").tier == "near"
    assert [row.words for row in job.rows.notes.values()] == ["wool"]
    assert window.pull((20, 20), (90, 40)) is not None
    assert log(window, BOOK)._list.count() == 1


# The review, breaks


def test_a_review_goes_out_and_its_remarks_come_back(window, tmp_path):
    window.pull((20, 20), (90, 40))
    window.session.make("remark", at=[30.0, 30.0], words="mine", by="me")
    desk = window.main_window.desk
    desk.show_station("Proof")
    station = desk.stations["Proof"]
    station.pages.words[REMARKS].click()
    page = station.page(REMARKS)
    copy = tmp_path / "for review.stride"
    assert page.give_out(copy)
    window.wait_until(lambda: not page.working, 60.0)
    assert copy.exists() and (tmp_path / "for review.pdf").read_bytes().startswith(b"%PDF")
    page.bring_back(copy)
    assert "no remarks that are not here" in words_on(page)
    from plain_stride.job.changes import make
    from plain_stride.job.shapes import Shapes

    with opened(copy, write=True) as (job, store):
        stroke = [[40.0, 20.0, 0.5], [42.0, 24.0, 0.6]]
        store.commit(make(job, Shapes(job, store), "remark", {"at": [40.0, 20.0], "words": "heavier", "by": "S.",
                                                              "strokes": [stroke]}).commit)  # fmt: skip
    page.bring_back(copy)
    window.settle()
    rows = window.session.job.rows.remarks
    assert [row.words for row in rows.values()] == ["mine", "heavier"] and list(rows.values())[1].author == "S."
    assert any(name.startswith("before the review of") for name in window.session.job.history.marks)
    page.bring_back(copy)
    assert "no remarks that are not here" in words_on(page) and len(rows) == 2
    window.tap(Qt.Key.Key_Z)
    assert len(window.session.job.rows.remarks) == 1


def test_a_job_that_is_no_copy_brings_nothing(window, tmp_path):
    from plain_stride.board.page import Page
    from plain_stride.job.job_files import new_job

    new_job(tmp_path / "other.stride", Page((50.0, 50.0), 300.0))
    window.main_window.desk.show_station("Proof")
    station = window.main_window.desk.stations["Proof"]
    station.pages.words[REMARKS].click()
    page = station.page(REMARKS)
    page.bring_back(tmp_path / "other.stride")
    assert "no copy of this job" in words_on(page)


def test_what_this_hand_pulled_is_load_and_an_import_is_not(window, tmp_path, monkeypatch):
    loads = []
    monkeypatch.setattr(window.main_window.cautions, "loaded", loads.append)
    window.pull((20, 20), (90, 40), seconds=0.8)
    assert loads == [pytest.approx(0.8, abs=0.01)]
    practice(window)
    pen_pulls(window, 1)
    assert len(loads) == 2 and loads[1] > 0.5
    window.main_window.desk.show_station("Pull")
    file = tmp_path / "p.json"
    file.write_text(json.dumps({"pulls": [{"samples": [[10, 50, 0.5, 0], [40, 50, 0.5, 0.5], [80, 50, 0.5, 1.0]]}]}))
    assert lay_file(window.session, file)
    window.settle()
    assert len(window.lines()) == 2 and len(loads) == 2


def test_breaks_are_by_minutes_and_by_load(qapp):
    samples = np.column_stack([np.zeros(101), np.zeros(101), np.full(101, 0.9), np.linspace(0.0, 10.0, 101)])
    assert load_of(samples) == pytest.approx(10.0 + 4.0 + 10.0)
    samples[:, 2] = 0.3
    assert load_of(samples[:41]) == pytest.approx(4.0)
    said_words = []
    cautions = Cautions(20)
    cautions.due.connect(said_words.append)
    for _ in range(8):
        cautions.pulled()
        cautions.loaded(61.0)
        cautions.tick()
    assert len(said_words) == 1 and "load" in said_words[0]
    cautions.use(0)
    for _ in range(100):
        cautions.pulled()
        cautions.loaded(60.0)
        cautions.tick()
    assert len(said_words) == 1
