"""A sitting with more than one thing in it: a field typed in and then drawn, a locked line under the pen, another job
opened, a disk that is full when the window closes, another program that takes the file's place."""

import itertools
import os
import signal
import threading
import time
import weakref

import numpy as np
import pytest
from PySide6.QtCore import QCoreApplication, QEvent, QObject, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit, QWidget

from plain_stride.board.page import Page
from plain_stride.desk.actions.line_actions import paste_here
from plain_stride.desk.main_window import MainWindow
from plain_stride.desk.margins.part_menu import take_away
from plain_stride.desk.margins.parts_list import PartsList
from plain_stride.desk.session.drops import lay_file
from plain_stride.desk.session.verbs import choose_all
from plain_stride.desk.sheet.gestures.trimming import rub
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.workers.errands import ErrandsAtWork, WriteArt
from plain_stride.desk.workers.writer_thread import WriterThread
from plain_stride.finish import svg_in
from plain_stride.job import art_files, shapes
from plain_stride.job import errands as errands_module
from plain_stride.job.art_files import Asked
from plain_stride.job.errors import JobError
from plain_stride.job.job_files import new_job, opened
from plain_stride.job.serving import StoppedError
from plain_stride.job.store import Store
from plain_stride.lines import recipe as recipe_module
from plain_stride.lines.given import form_from_points
from plain_stride.pencils.scanner import SOFT, scan
from tests.desk.test_drawing_tools import drag, take
from tests.desk.test_window import press, said, type_into, verb


def test_after_a_field_was_typed_in_the_pens_keys_are_keys(window):
    """Once a `3` after a pull made the board 3,120 mm wide."""
    window.main_window.desk.show_station("Board")
    field = next(e for e in window.main_window.findChildren(QLineEdit) if e.isVisible())
    field.setFocus()
    QTest.keyClicks(field, "1")
    window.pull((10, 20), (110, 20))
    assert window.sheet.hasFocus()
    window.tap("5")
    assert window.session.now.nib == "5"
    assert window.session.job.page.size_mm[0] < 2000


@pytest.mark.parametrize("key", ["S", "E"])
def test_a_locked_line_is_neither_swollen_nor_a_crash(window, key):
    line = window.pull((10, 45), (110, 45))
    window.session.make("part", name=window.session.now.part, locked=True)
    before = window.lines()[line]
    window.hover((60, 45))
    window.hold(key)
    for y in (44, 42, 40):
        window.hover((60, y))
    window.let_go(key)
    assert window.lines()[line] is before
    assert "is locked" in said(window)


def test_the_eraser_leaves_a_locked_line(window):
    line = window.pull((10, 45), (110, 45))
    window.session.make("part", name=window.session.now.part, locked=True)
    before = window.lines()[line]
    window.sheet.viewport.point(window.px((60, 45)))
    window.sheet.gestures.begin_hold("shave")
    window.sheet.gestures.move(PointerEvent(window.px((60, 40)), window.sheet.view))
    window.sheet.gestures.end_hold()
    rub(window.sheet.context, "trim", window.px((60, 45)))
    assert window.lines()[line] is before and "locked" in said(window)


def test_roles_of_locked_lines_are_not_said_to_have_changed(window):
    line = window.pull((10, 45), (110, 45))
    window.session.choose([line])
    window.session.make("part", name=window.session.now.part, locked=True)
    window.tap(".")
    assert "is locked" in said(window) and "chosen lines are" not in said(window)


def test_dimmed_and_hidden_lines_are_not_chosen(window):
    a = window.pull((10, 20), (110, 20))
    window.session.make("part", name="Other")
    window.session.take(part="Other")
    b = window.pull((10, 60), (110, 60))
    window.session.take(alone=True)
    window.sheet.gestures.choosing.choose(window.px((60, 20)), False)
    assert window.session.chosen == []
    choose_all(window.session)
    assert window.session.chosen == [b]
    window.session.take(alone=False)
    choose_all(window.session)
    assert set(window.session.chosen) == {a, b}


def test_another_job_has_nothing_of_the_last_one(window, tmp_path):
    """The strip showed its last line, U and N their views of it, a red sentence its fault."""
    window.pull((10, 20), (110, 20))
    window.main_window.desk.moments.show_print(True)
    window.main_window.say("something was wrong", True)
    new_job(tmp_path / "second.stride", Page((80.0, 60.0), 300.0))
    assert window.main_window.open_job(tmp_path / "second.stride")
    assert not window.main_window.desk.moments.print_shown() and not window.main_window.desk.moments.frame_shown()
    assert window.main_window.desk.strip.accessibleDescription() == "No line yet"
    assert "wrong" not in said(window)
    window.tap("U")
    assert window.main_window.desk.moments.print_shown()
    window.tap("U")
    assert not window.main_window.desk.moments.print_shown()


def test_no_window_opens_while_a_job_does(window, tmp_path, qapp):
    """A control that is shown before it has its place is a window for a moment, and takes the keys."""
    shown = []

    class Watch(QObject):
        def eventFilter(self, watched, event):
            if event.type() == QEvent.Type.Show and isinstance(watched, QWidget) and watched.isWindow():
                shown.append(watched.accessibleName() or type(watched).__name__)
            return False

    watch = Watch()
    qapp.installEventFilter(watch)
    new_job(tmp_path / "second.stride", Page((80.0, 60.0), 300.0))
    assert window.main_window.open_job(tmp_path / "second.stride")
    for station in window.main_window.desk.stations.values():
        window.main_window.desk.show_station(station.name)
    qapp.removeEventFilter(watch)
    assert shown == []


def test_a_red_sentence_goes_when_something_could_be_done_again(window):
    window.session.make("delete", lines=["nobody"])
    assert "no line 'nobody'" in said(window)
    window.pull((10, 20), (110, 20))
    assert "nobody" not in said(window)


def test_again_of_a_drawn_shape_promises_a_stretch_of_it_and_no_more(window):
    line = window.session.make("draw", shape="straight", points=[[10, 20], [110, 20]]).results[0]
    window.session.choose([line])
    window.tap("R")
    assert window.session.now.again and "stretch between" in said(window)
    assert window.session.what_again((10, 20)).what == "stretch" and window.session.what_again((60, 60)).what == ""


def test_a_part_with_a_taken_name_is_said(window):
    window.session.make("part", name="Gate")
    window.session.make("part", name="Boat")
    window.main_window.findChild(PartsList)._made("Gate")
    assert "already" in said(window) and window.session.now.part == "Gate"


def test_undo_in_a_window_for_reading_says_so(window, window_on):
    window.pull((10, 20), (110, 20))
    window.session.saving.save_all()
    second = window_on(window.session.job.path)
    second.session.timeline.undo()
    assert "being written by" in said(second) and "empty job" not in said(second)
    before = window.session.job.path
    second.main_window.rename("Stolen")
    assert window.session.job.path.exists() and before.exists() and "Rename it where" in said(second)


def test_paste_with_an_empty_clipboard_is_said(window, monkeypatch):
    monkeypatch.setattr(QGuiApplication.clipboard().__class__, "mimeData", lambda *_: None)
    paste_here(window.session)
    assert "no SVG drawing on the clipboard" in said(window)


# Nothing is dropped unasked


def full_disk(monkeypatch, name="walk.stride"):
    real = Store.commit

    def refuse(self, what):
        if self.path.name == name:
            raise JobError("the disk is full: walk.stride stays as it was; free some room and do it again")
        return real(self, what)

    monkeypatch.setattr(Store, "commit", refuse)


@pytest.mark.parametrize("way", ["close", "open", "rename"])
def test_lines_that_are_not_saved_are_asked_about(window, tmp_path, monkeypatch, way):
    """Full disk, three pulls, close: once 5 lines in the window and 2 in the file, without a word."""
    window.pull((10, 10), (110, 10))
    window.session.saving.save_all()
    with monkeypatch.context() as patch:
        full_disk(patch)
        for y in (30, 50, 70):
            window.pull((10, y), (110, y))
        new_job(tmp_path / "other.stride", Page((80.0, 60.0), 300.0))
        asked = []
        window.main_window.desk.dialogs.ask_unsaved = lambda changes, why: asked.append((changes, why)) or "stay"
        if way == "close":
            assert not window.main_window.close()
        elif way == "open":
            assert not window.main_window.open_job(tmp_path / "other.stride")
        else:
            window.main_window.rename("Elsewhere")
        assert asked == [(3, asked[0][1])] and "disk is full" in asked[0][1]
        assert window.main_window.isVisible() and len(window.lines()) == 4
    window.session.saving.save_all()
    with opened(window.session.job.path) as (job, _):
        assert len(job.rows.lines) == 4


def test_what_cannot_be_saved_goes_to_another_place_whole(window, tmp_path, monkeypatch):
    window.pull((10, 10), (110, 10))
    window.session.saving.save_all()
    full_disk(monkeypatch)
    for y in (30, 50):
        window.pull((10, y), (110, y))
    answers = iter(["elsewhere"])
    window.main_window.desk.dialogs.ask_unsaved = lambda *_: next(answers)
    window.main_window.desk.dialogs.ask_elsewhere = lambda: tmp_path / "kept.stride"
    assert window.main_window.close()
    with opened(tmp_path / "kept.stride") as (job, _):
        assert len(job.rows.lines) == 3 and job.history.undo_count() == 3


def test_a_file_that_was_copied_over_is_left_and_the_job_goes_on_beside(window, tmp_path):
    window.pull((10, 10), (110, 10))
    window.session.saving.save_all()
    new_job(tmp_path / "other.stride", Page((80.0, 60.0), 300.0))
    window.wait_until(lambda: not window.session.document.writer.pending())
    with (tmp_path / "other.stride").open("rb") as source, window.session.job.path.open("r+b") as target:
        target.write(source.read())
        target.truncate()
    window.pull((10, 30), (110, 30))
    window.wait_until(lambda: "kept 1" in window.session.job.path.name)
    assert "goes on, whole" in said(window)
    window.pull((10, 50), (110, 50))
    window.session.saving.save_all()
    with opened(tmp_path / "walk kept 1.stride") as (job, _):
        assert len(job.rows.lines) == 3
    with opened(tmp_path / "walk.stride") as (job, _):
        assert job.page.size_mm == (80.0, 60.0)


def test_the_writer_outlives_what_nobody_thought_of(window, monkeypatch):
    """A lone surrogate in a part's name once ended its thread: nothing was saved from then on, and nothing said."""
    with monkeypatch.context() as patch:
        patch.setattr(Store, "commit", lambda *_: 1 / 0)
        window.pull((10, 10), (110, 10))
        window.wait_until(lambda: window.session.document.writer.stuck)
    assert "went wrong" in said(window)
    window.session.document.writer.again()
    window.wait_until(lambda: not window.session.document.writer.pending())
    with opened(window.session.job.path) as (job, _):
        assert len(job.rows.lines) == 1
    window.session.make("part", name="a\ud800")
    assert "no text can have" in said(window)


def test_every_thread_of_the_writer_has_one_door(window):
    faults = []
    window.session.document.writer.failed.connect(faults.append)
    window.session.document.writer.run(lambda store: [][1])
    window.wait_until(lambda: faults)
    assert (
        "went wrong" in faults[0]
        and isinstance(window.session.document.writer, WriterThread)
        and isinstance(window.main_window, MainWindow)
    )


# Reading that comes back late


def test_a_reading_of_pencils_that_were_moved_meanwhile_is_none(window):
    lines = [np.array([[10.0, 45.0], [110.0, 45.0]])]
    key = window.session.make("pencils-add", data=scan(lines, (120.0, 90.0), 100.0, 1, SOFT), name="r").results[0]
    window.main_window.desk.show_station("Pencils")
    notes = window.main_window.desk.stations["Pencils"]
    notes.show_page("Read")
    press(window, "read the pencils")
    window.session.make("pencils", sheet=key, placed_mm=[5, 5, 110, 80])
    window.wait_until(lambda: not notes.reader.running, 60)
    assert notes.reader.reading is None and "moved while they were read" in notes.reader.fault


# What the command line can do, the window can as well


def test_one_edge_and_one_end_of_a_line(window):
    line = window.pull((10, 20), (110, 20))
    window.main_window.desk.stations["Pull"].show_page("Line")
    press(window, "its left")
    press(window, "heavier, ¼ step")
    press(window, "its end")
    press(window, "flat")
    row = window.lines()[line]
    assert row.edits[0].side == "left" and [end.kind for end in row.ends] == ["pointed", "flat"]


def test_the_plans_base_and_turned_ellipses_are_typed(window):
    window.pull((10, 20), (110, 20))
    window.main_window.desk.show_station("Weigh")
    type_into(window, "Its base width", "0,5 mm")
    assert window.session.job.plan.base == 0.5
    window.main_window.desk.show_station("Pull")
    window.main_window.desk.stations["Pull"].show_page("Shape")
    type_into(window, "Ellipses turned by", "30°")
    take(window, "ellipse from its middle")
    drag(window, (60, 45), (90, 52))
    points = window.session.shapes[window.session.job.line_ids()[-1]].flat[0] - (60, 45)
    far = points[np.hypot(*points.T).argmax()]
    assert np.degrees(np.arctan2(far[1], far[0])) % 180 == pytest.approx(30, abs=0.5)


def test_frame_lines_have_a_width_and_go_with_their_frames(window):
    window.main_window.desk.show_station("Board")
    window.main_window.desk.stations["Board"].show_page("Frames")
    window.session.make("frame-grid", rows=1, columns=2)
    window.settle()
    type_into(window, "Lines round them", "1.2 mm")
    press(window, "line all frames")
    press(window, "line all frames")
    assert len(window.lines()) == 2
    widths = [float(window.session.shapes[key].widths.full.max()) for key in window.lines()]
    assert widths == pytest.approx([1.2, 1.2])
    press(window, "remove it")
    assert len(window.lines()) == 1 and "outside the frames" in said(window)


def test_a_part_is_taken_away_runs_over_frames_and_comes_back(window):
    line = window.pull((10, 20), (110, 20))
    take_away(window.session, window.session.now.part)
    assert line not in window.lines() and "taken away" in said(window)
    window.session.timeline.undo()
    assert line in window.lines()


def test_a_pencil_stroke_is_rubbed_out(window):
    window.session.make("pencil-pass", points=[[10, 20, 0.5], [60, 20, 0.5]])
    page = window.main_window.desk.pencils().page("Read")
    page._rub_pass(np.array([30.0, 60.0]))
    assert "No pencil stroke" in said(window)
    page._rub_pass(np.array([11.0, 21.0]))
    assert not window.session.job.rows.passes


def wait_quietly(true):
    """Waits while the window does nothing."""
    for _ in range(3000):
        if true():
            return
        time.sleep(0.01)


def test_the_bleed_is_exported_where_it_is_wanted(window, tmp_path):
    window.pull((10, 20), (110, 20))
    window.session.make("board", bleed_mm=5)
    window.main_window.desk.show_station("Hand over")
    window.settle()
    QTest.mouseClick(verb(window, "with its bleed"), Qt.MouseButton.LeftButton)
    notes = window.main_window.desk.hand_over()
    notes.write(tmp_path / "o.svg")
    window.wait_until(lambda: not notes.writing, 60)
    assert 'width="130mm" height="100mm"' in (tmp_path / "o.svg").read_text()


def test_what_is_told_of_a_stopped_export_is_so(window, tmp_path):
    """Once it was said that no file was written while one was being written still."""
    window.pull((10, 20), (110, 20))
    window.main_window.desk.show_station("Hand over")
    notes, worker = window.main_window.desk.hand_over(), window.session.document.errands
    for out, rests in ((tmp_path / "stopped.svg", True), (tmp_path / "written.svg", False)):
        notes.write(out)
        if rests:
            worker.rest(True)
        else:
            # It is there, and its reply is on its way.
            wait_quietly(out.exists)
        QTest.mouseClick(verb(window, "stop") if rests else notes.files.stop_word, Qt.MouseButton.LeftButton)
        worker.rest(False)
        window.wait_until(lambda: not notes.writing, 60)
        told = notes.files.status.accessibleName() + notes.files.fault.accessibleName()
        assert out.exists() == ("is written" in told) == ("no file was written" not in told) == (not rests)


def test_an_export_that_is_stopped_at_its_very_end_leaves_no_file(window, tmp_path, monkeypatch):
    window.pull((10, 20), (110, 20))
    window.session.saving.save_all()
    monkeypatch.setattr(art_files, "art_bytes", lambda *arguments: b"all of it")
    errand = WriteArt(window.session.job.path, tmp_path / "o.svg", Asked())
    with pytest.raises(StoppedError):
        errand.answered(ErrandsAtWork(), lambda share: False)
    assert not (tmp_path / "o.svg").exists()


# Imports


def laid_by(window, tmp_path, monkeypatch, module, name):
    """Whether the window's own thread did a piece of work while a drawing was laid."""
    real, own = getattr(module, name), []

    def watched(*arguments):
        own.append(threading.current_thread() is threading.main_thread())
        return real(*arguments)

    monkeypatch.setattr(module, name, watched)
    (tmp_path / "a.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
        '<path d="M5 5L50 30" fill="none" stroke="black"/></svg>'
    )
    assert lay_file(window.session, tmp_path / "a.svg") and len(window.lines()) == 1 and own
    return any(own)


def test_a_drawing_is_not_read_on_the_windows_thread(window, tmp_path, monkeypatch):
    assert not laid_by(window, tmp_path, monkeypatch, svg_in, "walk_svg")


def test_no_line_of_a_drawing_is_worked_out_on_the_windows_thread(window, tmp_path, monkeypatch):
    own = []
    monkeypatch.setattr(
        shapes, "worked", lambda recipe, before=None: own.append(before) or recipe_module.worked(recipe, before)
    )
    assert not laid_by(window, tmp_path, monkeypatch, recipe_module, "path_of")
    # The job takes over what the thread worked out: nothing of it is made again.
    assert own and own[0] is not None and own[0].shape is next(iter(window.session.shapes._kept.values()))[1].shape


def many_lines(tmp_path, count):
    paths = "".join(f'<path d="M5 {5 + n % 30}L50 {6 + n % 29}" stroke="black"/>' for n in range(count))
    file = tmp_path / "many.svg"
    file.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
                    f"<g fill='none'>{paths}</g></svg>")  # fmt: skip
    return file


def test_a_large_drawing_is_laid_by_a_process_with_progress(window, tmp_path, monkeypatch):
    told, own = [], []
    window.session.document.laying.progressed.connect(told.append)
    real = recipe_module.path_of
    monkeypatch.setattr(recipe_module, "path_of", lambda recipe: own.append(1) or real(recipe))
    assert lay_file(window.session, many_lines(tmp_path, 120)) and len(window.lines()) == 120
    assert not own and told[-1] is None and told[-2] == 1.0 and len(told) > 3
    window.session.timeline.undo()
    assert not window.lines()


def test_laying_is_stopped_with_esc_and_goes_on_after_its_process_died(window, tmp_path):
    file = many_lines(tmp_path, 120)
    laying = window.session.document.laying
    laying.progressed.connect(lambda share: share is not None and window.main_window.desk.give_up())
    assert not lay_file(window.session, file) and not window.lines()
    assert "stopped: nothing was laid" in said(window) and window.main_window.desk.stride.progress is None
    laying.progressed.disconnect()
    errands = window.session.document.errands
    laying.progressed.connect(lambda share: share is not None and os.kill(errands.pid, signal.SIGKILL))
    assert not lay_file(window.session, file) and "ended early" in said(window)
    laying.progressed.disconnect()
    assert lay_file(window.session, file) and len(window.lines()) == 120


def test_a_few_lines_that_were_begun_are_not_laid_after_esc(window, tmp_path, monkeypatch):
    """A batch in the thread cannot be taken back: what comes of it is left."""
    real = errands_module.laid_out

    def stopped_meanwhile(sheets):
        window.session.document.laying.stop()
        return real(sheets)

    monkeypatch.setattr(errands_module, "laid_out", stopped_meanwhile)
    assert not lay_file(window.session, many_lines(tmp_path, 5)) and not window.lines()
    assert "stopped: nothing was laid" in said(window)


def test_nothing_of_the_last_job_is_left_behind(window, tmp_path):
    """Its desk and its session go: what the window keeps, such as preferences, holds neither."""
    window.pull((10, 20), (110, 20))
    gone = [weakref.ref(window.main_window.desk), weakref.ref(window.session), weakref.ref(window.session.job)]
    new_job(tmp_path / "second.stride", Page((80.0, 60.0), 300.0))
    assert window.main_window.open_job(tmp_path / "second.stride")
    # The simulated pen is over the sheet of this job from now on.
    assert window.pen.widget is window.sheet
    window.settle()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    window.wait_until(lambda: not any(ref() is not None for ref in gone))
    window.main_window.preferences.toggle_hand()
    window.main_window.preferences.use_variant("evening")
    window.main_window.preferences.toggle_hand()
    window.main_window.preferences.use_variant("day")
    assert window.pull((10, 20), (60, 20)) is not None


def test_roles_that_nobody_gave_are_found_at_weigh_and_taken_back(window):
    corners = [(20, 20), (90, 20), (90, 70), (20, 70), (20, 20)]
    given = window.pull((40, 40), (60, 45))
    for a, b in itertools.pairwise(corners):
        form = form_from_points(np.array([a, b], float), np.full(2, 0.2), np.full(2, 0.2), False)
        window.session.make("line", form=form, nib=window.session.nib)
    window.main_window.desk.show_station("Weigh")
    window.main_window.desk.stations["Weigh"].show_page("Lines")
    window.settle()
    press(window, "find outer and inner lines")
    window.wait_until(lambda: "Found:" in said(window))
    roles = {key: row.role for key, row in window.lines().items()}
    assert sorted(roles.values()).count("outer") >= 4 and "4 outer lines" in said(window)
    assert roles[given] == window.session.now.role
    window.session.timeline.undo()
    assert sum(row.role == "outer" for row in window.lines().values()) == (roles[given] == "outer")
