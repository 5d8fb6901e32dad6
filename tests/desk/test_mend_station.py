"""Mend: lines bent by dragging, carried on, tapered, set to a width, scaled and turned by what is typed, tidied."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from plain_stride.desk.actions.line_menu import line_entries
from plain_stride.desk.controls.controls import Field, Word
from plain_stride.desk.session.verbs import choose_alike, choose_others
from plain_stride.job.job_files import opened
from plain_stride.job.shapes import Shapes

KEY = Qt.Key


@pytest.fixture
def mend(window):
    window.main_window.desk.show_station("Mend")
    return window.main_window.desk.stations["Mend"]


def press(notes, text):
    next(word for word in notes.findChildren(Word) if word.text() == text).click()


def write(notes, name, text):
    field = next(field for field in notes.findChildren(Field) if field.entry.accessibleName() == name)
    field.entry.setText(text)


def faults(notes):
    return " ".join(notes.page(name).fault.text() for name in notes.pages.words if notes.page(name).fault.text())


def points_of(window, key):
    return window.session.shapes[key].flat[0].copy()


def drag(window, a, b, by_pen):
    """A drag with the pen or the left button."""
    if by_pen:
        window.pull(a, b)
    else:
        window.mouse_pull(a, b)


@pytest.mark.parametrize("by_pen", [True, False])
def test_a_line_is_drawn_where_the_pen_draws_it_and_stays_beyond_its_reach(window, mend, by_pen):
    key = window.pull((10, 40), (90, 40))
    before = points_of(window, key)
    write(mend, "Reach", "10 mm")
    press(mend, "bend…")
    drag(window, (50, 40), (50, 43), by_pen)
    after, px = points_of(window, key), 1.0 / window.sheet.view.scale
    assert abs(float(np.interp(50.0, after[:, 0], after[:, 1])) - 43.0) < 2 * px
    for x in (20.0, 38.0, 62.0, 80.0):
        assert np.interp(x, after[:, 0], after[:, 1]) == pytest.approx(
            np.interp(x, before[:, 0], before[:, 1]), abs=0.01
        )
    assert len(window.lines()) == 1 and window.lines()[key].bends
    window.tap(KEY.Key_Z)
    assert np.abs(points_of(window, key) - before).max() < 1e-9


def test_what_lies_in_a_locked_part_or_is_made_from_another_line_is_not_bent(window, mend):
    key = window.pull((10, 40), (90, 40))
    window.session.make("beside", line=key, gap=8.0, count=1)
    member = next(k for k in window.lines() if k != key)
    y = float(points_of(window, member)[:, 1].mean())
    press(mend, "bend…")
    drag(window, (50, y), (50, y + 4), False)
    assert "release" in window.main_window.desk.message.accessibleName()
    window.session.make("part", name=window.session.now.part, locked=True)
    drag(window, (50, 40), (50, 44), False)
    assert "locked" in window.main_window.desk.message.accessibleName()
    assert not any(row.bends for row in window.lines().values())


def test_on_an_empty_board_nothing_can_be_pressed_that_only_fails(window, mend):
    def words():
        found = {}
        for name in mend.pages.words:
            mend.show_page(name)
            found |= {word.text(): word.isEnabled() for word in mend.page(name).findChildren(Word)}
        return found

    empty = words()
    assert not any(empty[name] for name in ("as it was pulled", "carry on", "taper", "tidy these", "the part in hand",
                                            "make them few", "place them so", "left", "join them", "break them",
                                            "cut at crossings", "all like these", "what meets them"))  # fmt: skip
    window.pull((10, 40), (90, 40))
    window.settle()
    lacking = ["join them", "next", "cross it off", "choose its lines"]
    assert [name for name, on in words().items() if not on] == lacking


def test_the_wheel_widens_the_reach_while_it_drags(window, mend):
    key = window.pull((10, 40), (90, 40))
    press(mend, "bend…")
    left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    scale = window.sheet.view.scale
    QTest.mousePress(window.sheet, left, none, window.px((50, 40)).toPoint())
    QTest.mouseMove(window.sheet, window.px((50, 43)).toPoint())
    at = window.px((50, 43))
    for _ in range(3):
        turn = QWheelEvent(at, window.sheet.mapToGlobal(at), QPoint(), QPoint(0, 120), left, none,
                           Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
        QApplication.sendEvent(window.sheet, turn)
    QTest.mouseRelease(window.sheet, left, none, window.px((50, 43)).toPoint())
    window.settle()
    (bend,) = window.lines()[key].bends
    assert bend.reach == pytest.approx(8.0 * 1.2**3, abs=0.02) and window.sheet.view.scale == scale
    field = next(f for f in mend.findChildren(Field) if f.entry.accessibleName() == "Reach")
    assert field.entry.text() == f"{bend.reach:g} mm"


def test_a_bend_given_up_in_the_middle_leaves_the_line_and_its_picture(window, mend):
    key = window.pull((10, 40), (90, 40))
    before, dark = points_of(window, key), window.ink_at((50, 40))
    press(mend, "bend…")
    left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    QTest.mousePress(window.sheet, left, none, window.px((50, 40)).toPoint())
    QTest.mouseMove(window.sheet, window.px((50, 46)).toPoint())
    assert window.ink_at((50, 40)) < dark / 2
    window.tap(KEY.Key_Escape)
    QTest.mouseRelease(window.sheet, left, none, window.px((50, 46)).toPoint())
    window.settle()
    assert np.array_equal(points_of(window, key), before) and len(window.lines()) == 1
    assert abs(window.ink_at((50, 40)) - dark) <= 2


def test_what_is_chosen_is_bent_before_what_lies_nearer(window, mend):
    chosen, other = window.pull((10, 40), (90, 40)), window.pull((10, 42), (90, 42))
    window.session.choose([chosen])
    press(mend, "bend…")
    drag(window, (50, 41.6), (50, 36), False)
    assert window.lines()[chosen].bends and not window.lines()[other].bends


def test_a_reach_that_cannot_be_read_is_said_and_nothing_is_bent(window, mend):
    key = window.pull((10, 40), (90, 40))
    press(mend, "bend…")
    write(mend, "Reach", "far")
    drag(window, (50, 40), (50, 44), False)
    assert "far" in faults(mend) and not window.lines()[key].bends


def test_the_line_in_hand_is_carried_on_to_the_next_and_by_mm_and_is_as_it_was_pulled_again(window, mend):
    window.pull((90, 20), (90, 60))
    key = window.pull((10, 40), (70, 40))
    length = window.session.shapes[key].length
    press(mend, "carry on")
    middle = float(points_of(window, key)[-1, 0])
    assert middle == pytest.approx(90.0, abs=0.6)
    write(mend, "On", "3 mm")
    press(mend, "carry on")
    assert points_of(window, key)[-1, 0] - middle == pytest.approx(3.0, abs=0.05)
    press(mend, "as it was pulled")
    assert window.session.shapes[key].length == pytest.approx(length, abs=1e-9)


def test_chosen_lines_get_points_of_a_length_and_a_width_where_one_points(window, mend):
    keys = [window.pull((10, y), (90, y)) for y in (30, 50)]
    window.session.choose(keys)
    press(mend, "both")
    write(mend, "Point", "12 mm")
    press(mend, "taper")
    assert all(end.kind == "pointed" and end.mm == 12.0 for key in keys for end in window.lines()[key].ends)
    write(mend, "Point", "25 %")
    press(mend, "taper")
    lengths = [window.session.shapes[key].length for key in keys]
    assert [window.lines()[key].ends[0].mm for key in keys] == pytest.approx(np.array(lengths) / 4, abs=1e-6)
    write(mend, "Width", "0.9 mm")
    press(mend, "set it where I point…")
    QTest.mouseClick(window.sheet, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier,
                     window.px((50, 50)).toPoint())  # fmt: skip
    window.settle()
    shape = window.session.shapes[keys[1]]
    at = float(np.interp(50.0, shape.flat[0][:, 0], shape.flat[1]))
    left, right = shape.body.at(np.array([at]))
    assert left[0] + right[0] == pytest.approx(0.9, abs=0.01)
    assert not window.lines()[keys[0]].edits


def test_typed_sizes_and_turns_map_what_is_chosen_about_its_middle(window, mend):
    key = window.pull((30, 40), (70, 40))
    middle = (window.session.shapes[key].flat[0].min(axis=0) + window.session.shapes[key].flat[0].max(axis=0)) / 2
    long = window.session.shapes[key].length
    write(mend, "Size", "150 %")
    write(mend, "Turned", "90°")
    press(mend, "place them so")
    points = points_of(window, key)
    assert window.session.shapes[key].length == pytest.approx(1.5 * long, abs=0.01)
    assert points[-1, 1] - points[0, 1] > 55 and abs(points[-1, 0] - points[0, 0]) < 1
    assert np.abs((points.min(axis=0) + points.max(axis=0)) / 2 - middle).max() < 0.5
    write(mend, "Size", "0 %")
    press(mend, "place them so")
    assert faults(mend) and window.session.shapes[key].length == pytest.approx(1.5 * long, abs=0.01)


def box_of(window, keys):
    points = np.vstack([window.session.shapes[key].flat[0] for key in keys])
    return points.min(axis=0), points.max(axis=0)


def test_a_drag_inside_moves_a_corner_scales_and_outside_turns_what_is_chosen(window, mend):
    keys = [window.pull((30, 30), (50, 30)), window.pull((30, 44), (50, 44))]
    window.session.choose(keys)
    press(mend, "by dragging…")
    low, high = box_of(window, keys)
    drag(window, (40, 37), (50, 42), False)
    assert np.allclose(box_of(window, keys), (low + (10, 5), high + (10, 5)), atol=0.15)
    low, high = box_of(window, keys)
    boxes = np.array([window.session.shapes[key].box for key in keys])
    corner, fixed = boxes[:, 2:].max(axis=0), boxes[:, :2].min(axis=0)
    drag(window, corner, fixed + 1.5 * (corner - fixed), True)
    assert np.allclose(box_of(window, keys)[1] - box_of(window, keys)[0], 1.5 * (high - low), atol=0.6)
    middle = np.mean(box_of(window, keys), axis=0)
    drag(window, middle + (30, 0), middle + (0, 30), False)
    wide, tall = np.subtract(*box_of(window, keys)[::-1])
    assert wide == pytest.approx(1.5 * (high - low)[1], abs=1) and tall == pytest.approx(1.5 * (high - low)[0], abs=1)
    assert len(window.lines()) == 2
    for _ in range(3):
        window.tap(KEY.Key_Z)
    assert all(row.matrix is None for row in window.lines().values())


def test_a_locked_line_is_not_placed_and_nothing_chosen_is_said(window, mend):
    press(mend, "by dragging…")
    drag(window, (40, 37), (50, 42), False)
    assert "Choose lines first" in window.main_window.desk.message.accessibleName()
    window.tap(KEY.Key_Escape)
    key = window.pull((30, 30), (50, 30))
    window.session.choose([key])
    window.session.make("part", name=window.session.now.part, locked=True)
    press(mend, "by dragging…")
    drag(window, (40, 30), (50, 42), False)
    assert "locked" in window.main_window.desk.message.accessibleName() and window.lines()[key].matrix is None


def test_gaps_and_stubs_of_the_part_are_tidied_and_it_is_told_how_many(window, mend):
    post = window.pull((60, 20), (60, 60))
    short, over = window.pull((20, 30), (59.2, 30)), window.pull((20, 50), (60.9, 50))
    press(mend, "the part in hand")
    wide = float(window.session.shapes[post].body.full.max()) / 2
    for key in (short, over):
        end = points_of(window, key)[-1, 0] - np.interp(
            points_of(window, key)[-1, 1], points_of(window, post)[:, 1], points_of(window, post)[:, 0]
        )
        assert abs(end) <= wide
    assert "2 lines" in window.main_window.desk.message.accessibleName()


def test_what_is_like_the_chosen_and_what_is_not_chosen_is_chosen_but_for_locked_parts(window):
    session = window.session
    a, b = (window.pull((10, y), (70, y)) for y in (20, 30))
    session.take(role="detail")
    c = window.pull((10, 40), (70, 40))
    session.make("part", name="Moon", tier="far")
    session.take(part="Moon", role="outer")
    d = window.pull((10, 50), (70, 50))
    session.make("set", lines=[b], role=session.job.rows.lines[a].role)
    session.choose([a])
    choose_alike(session)
    assert session.chosen == [a, b] and "2 lines" in window.main_window.desk.message.accessibleName()
    choose_others(session)
    assert set(session.chosen) == {c, d}
    session.make("part", name="Moon", locked=True)
    session.choose([a, b])
    choose_others(session)
    assert session.chosen == [c]


def test_the_menu_of_chosen_lines_mends_them_at_every_station(window):
    window.pull((90, 20), (90, 60))
    keys = [window.pull((10, y), (70, y)) for y in (30, 50)]
    before = {key: window.session.shapes[key].length for key in keys}
    window.session.choose(keys)

    def menu(words):
        next(e for e in line_entries(window.session, lambda: None) if e is not None and e.words == words).run()

    menu("carry the end on to the next line")
    assert all(window.session.shapes[key].length - before[key] == pytest.approx(20.0, abs=0.8) for key in keys)
    menu("points at both ends")
    assert all(end.kind == "pointed" for key in keys for end in window.lines()[key].ends)
    menu("as it was pulled")
    assert all(window.session.shapes[key].length == pytest.approx(before[key], abs=1e-9) for key in keys)
    menu("carry the start on to the next line")
    assert "say how many mm" in window.main_window.desk.message.accessibleName()
    assert all(row.growth is None for row in window.lines().values())


def test_what_was_bent_is_there_when_the_job_is_opened_again(window, mend):
    key = window.pull((10, 40), (90, 40))
    press(mend, "bend…")
    drag(window, (50, 40), (50, 44), False)
    kept, path = points_of(window, key), window.session.job.path
    window.main_window.close()
    with opened(path) as (job, _):
        assert np.abs(Shapes(job)[key].flat[0] - kept).max() < 1e-9
