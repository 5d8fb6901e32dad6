"""Mend's pages: pushed, bent together, points, stretches, held meetings, tidied with refusals, placed, joined, chosen."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from plain_stride.desk.margins.part_menu import merge, part_menu
from plain_stride.job.board_facts import floor_of_job
from plain_stride.lines import nodes
from tests.desk.test_mend_station import drag, faults, mend, points_of, press, write  # noqa: F401

KEY = Qt.Key
LEFT, NONE, SHIFT = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier


def click(window, place, keys=NONE):
    QTest.mouseClick(window.sheet, LEFT, keys, window.px(place).toPoint())
    window.settle()


def said(window):
    return window.main_window.desk.message.accessibleName()


def y_at(window, key, x):
    points = points_of(window, key)
    order = np.argsort(points[:, 0])
    return float(np.interp(x, points[order, 0], points[order, 1]))


# Shape


def test_lines_that_meet_are_bent_together(window, mend):  # noqa: F811
    bar, stem = window.pull((10, 40), (90, 40)), window.pull((50, 40), (50, 70))
    far = window.pull((10, 60), (40, 60))
    press(mend, "what meets it")
    press(mend, "bend…")
    window.session.choose([bar])
    drag(window, (50, 40), (50, 45), False)
    assert y_at(window, bar, 50.0) == pytest.approx(45.0, abs=0.6)
    assert points_of(window, stem)[0, 1] - 40.0 == pytest.approx(5.0, abs=1.0)
    assert not window.lines()[far].bends
    window.tap(KEY.Key_Z)
    assert not window.lines()[bar].bends and not window.lines()[stem].bends


@pytest.mark.parametrize("by_pen", [True, False])
def test_a_round_pushes_what_it_comes_to(window, mend, by_pen):  # noqa: F811
    key = window.pull((10, 40), (90, 40))
    press(mend, "push…")
    drag(window, (50, 33), (50, 43), by_pen)
    assert 42.0 < y_at(window, key, 50.0) < 47.0
    assert len(window.lines()) == 1


def test_points_are_dragged_added_made_corners_and_taken_away(window, mend):  # noqa: F811
    key = window.pull((10, 40), (30, 30), (60, 48), (90, 40))
    press(mend, "points…")
    tool = window.sheet.gestures.tool
    before = tool.curve()
    k = len(before) // 2
    x, y = nodes.node_at(before, k)
    drag(window, (x, y), (x, y + 4), False)
    assert window.lines()[key].fixed is not None
    assert np.abs(nodes.nodes_of(tool.curve(), False) - (x, y + 4)).sum(axis=1).min() < 0.4
    n = len(tool.curve())
    at = points_of(window, key)[len(points_of(window, key)) // 7]
    click(window, at, SHIFT)
    assert len(tool.curve()) == n + 1
    press(mend, "corner")
    assert not nodes.is_smooth(tool.curve(), tool.node, False)
    press(mend, "smooth")
    assert nodes.is_smooth(tool.curve(), tool.node, False)
    window.tap(KEY.Key_Backspace)
    assert len(tool.curve()) == n and tool.node is None
    press(mend, "as it was pulled")
    assert window.lines()[key].fixed is None


def test_how_few_points_would_do_is_told_before_and_is_true(window, mend):  # noqa: F811
    key = window.pull(*((10 + 4 * k, 40 + 8 * np.sin(k)) for k in range(20)))
    write(mend, "Points within", "0.3 mm")
    mend.page("Shape").refresh()
    words = mend.page("Shape")._few.text()
    press(mend, "make them few")
    curve = window.session.shapes[key].curve
    assert f"; {nodes.count_of(curve, False)} would" in words
    assert "pieces are" in said(window)


def test_a_stretch_is_straightened_and_smoothed_by_dragging_along_it(window, mend):  # noqa: F811
    key = window.pull((10, 40), (30, 34), (60, 46), (90, 40))
    press(mend, "straighten…")
    points = points_of(window, key)
    a, b = (points[int(len(points) * share)] for share in (0.3, 0.7))
    drag(window, a, b, False)
    x = (a[0] + b[0]) / 2
    assert y_at(window, key, x) == pytest.approx(np.interp(x, [a[0], b[0]], [a[1], b[1]]), abs=0.3)
    press(mend, "smooth…")
    write(mend, "Smoothed within", "far")
    drag(window, a, b, False)
    assert "far" in faults(mend)


def test_a_pull_from_the_line_and_back_draws_the_stretch_anew_also_of_a_shaped_line(window, mend):  # noqa: F811
    key = window.pull((10, 40), (90, 40))
    for _ in range(2):
        before = points_of(window, key)
        window.session.choose([key])
        press(mend, "pull it anew")
        window.pull((35, y_at(window, key, 35.0)), (50, 52), (65, y_at(window, key, 65.0)))
        assert "stretch" in said(window)
        assert 49.0 < y_at(window, key, 50.0) < 54.0
        assert y_at(window, key, 15.0) == pytest.approx(float(np.interp(15.0, before[:, 0], before[:, 1])), abs=0.15)
        assert len(window.lines()) == 1
        window.session.make("as-pulled", lines=[key])
        window.tap(KEY.Key_Z)
        window.session.make("simplify", line=key, tolerance=0.05)


# Ends


def test_lines_are_held_where_one_points_and_loosed(window, mend):  # noqa: F811
    a, b = window.pull((10, 40), (50, 40)), window.pull((51, 41), (60, 70))
    mend.show_page("Ends")
    press(mend, "hold where I point…")
    click(window, (50.5, 40.5))
    assert "Held" in said(window) and len(window.session.job.rows.holds) == 1
    window.session.make("move", lines=[a], by=[0.0, 4.0])
    ends = points_of(window, a)[-1], points_of(window, b)[0]
    assert np.abs(ends[0] - ends[1]).max() < 0.01
    mend.refresh()
    assert "1 meeting" in mend.page("Ends")._held.text()
    press(mend, "loose…")
    click(window, ends[0])
    assert not window.session.job.rows.holds
    click(window, (100, 20))
    assert "Nothing is held there" in said(window)
    press(mend, "hold where I point…")
    click(window, (100, 20))
    assert "must meet there" in said(window)


def test_a_held_partner_is_seen_to_follow_while_the_drag_goes_on(window, mend):  # noqa: F811
    a, b = window.pull((10, 40), (50, 40)), window.pull((50, 40), (90, 40))
    window.session.make("hold", lines=[a, b], at=[50.0, 40.0])
    before = [window.lines()[key].bends for key in (a, b)]
    press(mend, "bend…")
    window.session.choose([a])
    QTest.mousePress(window.sheet, LEFT, NONE, window.px((50, 40)).toPoint())
    QTest.mouseMove(window.sheet, window.px((50, 46)).toPoint())
    shown = window.sheet.gestures.tool._seen.shapes
    assert set(shown) == {a, b} and shown[b].flat[0][0] == pytest.approx(shown[a].flat[0][-1], abs=0.01)
    QTest.mouseRelease(window.sheet, LEFT, NONE, window.px((50, 46)).toPoint())
    window.settle()
    assert points_of(window, b)[0] == pytest.approx(points_of(window, a)[-1], abs=0.01)
    window.tap(KEY.Key_Z)
    assert [window.lines()[key].bends for key in (a, b)] == before


def test_what_would_be_tidied_is_listed_and_each_can_be_refused(window, mend):  # noqa: F811
    window.pull((60, 20), (60, 70))
    short, other = window.pull((20, 30), (59.0, 30)), window.pull((20, 50), (59.0, 50))
    mend.show_page("Ends")
    press(mend, "show them first")
    press(mend, "the part in hand")
    page = mend.page("Ends")
    rows = [page._list.item(k).text() for k in range(page._list.count())]
    assert len(rows) == 2 and all("end +" in row for row in rows)
    lengths = [window.session.shapes[key].length for key in (short, other)]
    refused = next(k for k, mended in enumerate(page._found) if mended[0] == other)
    page._list.setCurrentRow(refused)
    assert page._list.item(refused).text().startswith("left: ") and window.session.chosen == [other]
    press(mend, "do them")
    after = [window.session.shapes[key].length for key in (short, other)]
    assert after[0] > lengths[0] + 0.5 and after[1] == lengths[1]
    assert "1 line" in said(window)


# Place and join


def test_lines_are_lined_up_and_placed_by_numbers(window, mend):  # noqa: F811
    keys = [window.pull((10, 30), (30, 30)), window.pull((40, 50), (60, 50))]
    window.session.choose(keys)
    mend.show_page("Place")
    press(mend.page("Place"), "left")
    assert points_of(window, keys[0])[:, 0].min() == pytest.approx(points_of(window, keys[1])[:, 0].min(), abs=0.3)
    before = points_of(window, keys[0])
    write(mend.page("Place"), "Right", "5 mm")
    write(mend.page("Place"), "Down", "-2 mm")
    press(mend, "place them so")
    assert points_of(window, keys[0]) - before == pytest.approx(np.tile([5.0, -2.0], (len(before), 1)), abs=1e-6)


def test_a_corner_of_the_box_is_dragged_into_perspective(window, mend):  # noqa: F811
    key = window.pull((20, 30), (60, 30), (60, 60))
    mend.show_page("Place")
    press(mend, "perspective…")
    box = window.sheet.gestures.tool._box()
    drag(window, box[1], box[1] + (8, 4), False)
    row = window.lines()[key]
    assert row.fixed is not None
    assert points_of(window, key)[:, 0].max() > box[1, 0] + 4


def test_copies_are_laid_along_a_line_that_is_pointed_at(window, mend):  # noqa: F811
    guide, link = window.pull((10, 60), (90, 60)), window.pull((10, 20), (16, 20))
    window.session.choose([link])
    mend.show_page("Place")
    write(mend, "Count", "5")
    press(mend, "along a line…")
    click(window, (50, 60))
    assert len(window.lines()) == 7 and guide in window.lines()


def test_lines_are_joined_broken_and_rubbed(window, mend):  # noqa: F811
    a, b = window.pull((10, 40), (50, 40)), window.pull((51, 40), (90, 40))
    mend.show_page("Join")
    window.session.choose([a, b])
    window.settle()
    press(mend, "join them")
    assert set(window.lines()) == {a} and "pulls stay" in said(window)
    press(mend, "break them")
    assert len(window.lines()) > 3
    window.tap(KEY.Key_Z)
    window.session.choose([])
    press(mend, "rub inside a loop…")
    left = sum(window.session.shapes[key].length for key in window.lines())
    window.mouse_pull((30, 30), (50, 30), (50, 50), (30, 50), (30, 31))
    assert left - sum(window.session.shapes[key].length for key in window.lines()) == pytest.approx(20.0, abs=1.0)


# Chosen


def test_lines_are_chosen_by_what_they_are(window, mend):  # noqa: F811
    long, short = window.pull((10, 30), (90, 30)), window.pull((10, 50), (30, 50))
    window.session.take(role="detail")
    detail = window.pull((10, 60), (90, 60))
    mend.show_page("Pick")
    write(mend, "Long", "50 mm")
    press(mend, "choose those")
    assert set(window.session.chosen) == {long, detail}
    press(mend, "detail")
    press(mend, "among the chosen")
    assert window.session.chosen == [detail]
    window.settle()
    assert mend.page("Pick")._told.text().startswith("<b>1 line") or "1 line" in mend.page("Pick")._told.text()
    write(mend, "Long", "long")
    press(mend, "choose those")
    assert "long" in faults(mend) and window.session.chosen == [detail]
    assert short in window.lines()


def test_a_loop_chooses_what_it_touches_if_asked_and_never_what_is_locked(window, mend):  # noqa: F811
    a, b = window.pull((10, 30), (90, 30)), window.pull((10, 50), (90, 50))
    loop = np.array([[40, 20], [60, 20], [60, 60], [40, 60]], float)
    hits = window.sheet.context.hits
    assert hits.inside(loop) == []
    mend.show_page("Pick")
    press(mend, "touching")
    assert window.session.now.loop_touching and hits.inside(loop, True) == [a, b]
    window.session.make("part", name=window.session.now.part, locked=True)
    assert hits.inside(loop, True) == []


def test_the_choice_grows_along_what_meets(window, mend):  # noqa: F811
    a, b, c = window.pull((10, 30), (50, 30)), window.pull((50, 30), (50, 60)), window.pull((50, 60), (90, 60))
    far = window.pull((10, 70), (20, 70))
    window.session.choose([a])
    mend.show_page("Pick")
    press(mend, "what meets them")
    assert window.session.chosen == [a, b]
    press(mend, "what meets them")
    assert set(window.session.chosen) == {a, b, c} and far not in window.session.chosen


# Edges and the strip


def half_at(window, key, s):
    return [float(v[0]) for v in window.session.shapes[key].body.at(np.array([s]))]


def test_one_edge_is_dragged_on_the_sheet(window, mend):  # noqa: F811
    key = window.pull((10, 40), (90, 40))
    s = window.session.shapes[key].length / 2
    left, right = half_at(window, key, s)
    mend.show_page("Ends")
    write(mend, "over", "6 mm")
    press(mend, "drag an edge…")
    x, y = window.session.shapes[key].arc.point(np.array([s]))[0]
    drag(window, (x, y - 0.4), (x, y - 1.2), False)
    wide, other = half_at(window, key, s)
    px = 1.0 / window.sheet.view.scale
    assert wide == pytest.approx(1.2, abs=1.5 * px) and wide > left and other == pytest.approx(right, abs=1e-3)
    window.tap(KEY.Key_Z)
    assert half_at(window, key, s) == pytest.approx([left, right], abs=1e-9)


def test_a_line_is_gone_over_heavier_and_lighter_within_nib_and_print(window, mend):  # noqa: F811
    key = window.pull((10, 40), (90, 40))
    nib, length = window.lines()[key].nib, window.session.shapes[key].length
    places = np.array([20.0, 40.0, 60.0])
    before = np.add(*window.session.shapes[key].body.at(places))
    mend.show_page("Ends")
    press(mend, "heavier…")
    drag(window, (40, 40), (60, 40), False)
    after = np.add(*window.session.shapes[key].body.at(places))
    assert after[1] > 1.2 * before[1] and after[0] == pytest.approx(before[0], abs=1e-9)
    for _ in range(8):
        drag(window, (40, 40), (60, 40), False)
    wide = np.add(*window.session.shapes[key].body.at(np.linspace(0, length, 300)))
    assert 0.95 * nib.heaviest < wide.max() <= nib.heaviest * 1.001
    assert "as heavy as its nib draws" in said(window)
    assert np.abs(np.diff(wide)).max() < 0.35 * length / 299 + 1e-6
    press(mend, "lighter…")
    press(mend, "left")
    right = window.session.shapes[key].body.at(places[1:2])[1]
    for _ in range(12):
        drag(window, (40, 40), (60, 40), False)
    left, still = window.session.shapes[key].body.at(places[1:2])
    assert still == pytest.approx(right, abs=1e-6)
    assert left + still >= floor_of_job(window.session.job).mm - 1e-6


def strip_px(window, s, half):
    """The pixel of a place on the strip: mm along, mm to the left."""
    strip = window.main_window.desk.strip
    key = window.session.shown_line()
    laid = strip.laid(key, window.session.shapes[key])
    return QPoint(round(laid.left + s * laid.along), round(laid.middle - half * laid.across))


def strip_drag(window, a, b):
    strip = window.main_window.desk.strip
    QTest.mousePress(strip, LEFT, NONE, a)
    QTest.mouseMove(strip, b)
    seen = dict(strip._edit._seen.shapes)
    QTest.mouseRelease(strip, LEFT, NONE, b)
    window.settle()
    return seen


def test_the_strip_edits_an_edge_both_edges_and_an_end_and_the_sheet_shows_it_at_once(window, mend):  # noqa: F811
    key = window.pull((10, 40), (90, 40))
    length = window.session.shapes[key].length
    left, right = half_at(window, key, 40.0)
    seen = strip_drag(window, strip_px(window, 40.0, left), strip_px(window, 40.0, left * 1.6))
    assert key in seen
    now = half_at(window, key, 40.0)
    assert now[0] == pytest.approx(left * 1.6, rel=0.08) and now[1] == pytest.approx(right, abs=1e-3)
    strip_drag(window, strip_px(window, 40.0, 0.02), strip_px(window, 40.0, right * 1.3))
    assert sum(half_at(window, key, 40.0)) > sum(now) * 0.9
    strip_drag(window, strip_px(window, length, 0.0), strip_px(window, length - 15.0, 0.0))
    assert window.session.shapes[key].length == pytest.approx(length - 15.0, abs=0.5)
    window.session.make("part", name=window.session.now.part, locked=True)
    strip_drag(window, strip_px(window, 30.0, left), strip_px(window, 30.0, left * 2))
    assert "locked" in said(window)


def test_chosen_lines_get_the_widths_of_the_first(window, mend):  # noqa: F811
    a, b = window.pull((10, 30), (90, 30)), window.pull((10, 50), (90, 50))
    window.session.make("swell", line=a, factor=2.0)
    window.session.choose([a, b])
    mend.show_page("Ends")
    press(mend, "like the first chosen")
    assert sum(half_at(window, b, 40.0)) == pytest.approx(sum(half_at(window, a, 40.0)), rel=0.05)


# Drawn again


def test_places_to_be_drawn_again_are_marked_worked_through_and_crossed_off(window, mend):  # noqa: F811
    key = window.pull((10, 40), (90, 40))
    mend.show_page("Again")
    page = mend.page("Again")
    for x in (20, 60):
        press(mend, "mark a place…")
        window.mouse_pull((x, 35), (x + 10, 35), (x + 10, 45), (x, 45), (x, 36))
    window.tap(KEY.Key_Escape)
    window.settle()
    assert page._list.count() == 2 and "2 places" in page._says.text()
    press(mend, "next")
    first = page._now
    press(mend, "choose its lines")
    assert window.session.chosen == [key]
    press(mend, "cross it off")
    window.settle()
    assert first not in window.session.job.rows.areas and page._now in window.session.job.rows.areas
    assert page._list.count() == 1
    press(mend, "cross it off")
    window.settle()
    assert not window.session.job.rows.areas and page._list.count() == 0
    window.tap(KEY.Key_Z)
    assert len(window.session.job.rows.areas) == 1


# Blacks and parts


def box_of(window, black):
    points = np.concatenate(window.session.shapes.black(black).rings)
    return (*points.min(axis=0), *points.max(axis=0))


def test_rings_are_filled_and_blacks_joined_cut_and_made_larger(window, mend):  # noqa: F811
    for x in (40, 55):
        window.session.make("draw", shape="ellipse", points=[[x, 40], [x + 12, 50]])
    mend.show_page("Join")
    press(mend, "join blacks")
    assert "two blacks" in said(window)
    window.session.choose(list(window.lines()))
    window.settle()
    press(mend, "fill rings")
    blacks = list(window.session.job.rows.blacks)
    assert len(blacks) == 2
    window.session.choose(blacks)
    press(mend, "join blacks")
    (black,) = window.session.job.rows.blacks
    window.session.choose([black])
    before = box_of(window, black)
    write(mend, "Larger by", "1 mm")
    press(mend, "make larger")
    after = box_of(window, black)
    assert before[0] - after[0] == pytest.approx(1.0, abs=0.05) and after[3] - before[3] == pytest.approx(1.0, abs=0.05)
    press(mend, "edges as lines")
    assert len(window.lines()) == 3


def chosen_in(menu, *words):
    """Presses a word of a menu, through those that open others."""
    for word in words[:-1]:
        menu = next(action.menu() for action in menu.actions() if action.text() == word)
    next(action for action in menu.actions() if action.text() == words[-1]).trigger()


def test_a_part_is_put_inside_another_and_goes_along_with_it(window, mend):  # noqa: F811
    for name in ("Head", "Eye"):
        window.session.take(part=name)
        window.pull((10, 40), (60, 40 if name == "Head" else 50))
    parts = window.main_window.desk.parts
    part = window.session.part
    chosen_in(part_menu(parts, window.session, part), "put it inside", "Head")
    window.settle()
    names = [row.part.name for row in parts.rows()]
    assert names.index("Eye") + 1 == names.index("Head")
    assert any("inside another" in row.accessibleName() for row in parts.rows() if row.part.name == "Eye")
    window.session.take(part="Head")
    parts._toggle_lock()
    assert window.session.job.part_named("Eye").locked
    menu = part_menu(parts, window.session, window.session.job.part_named("Eye"))
    assert not any(action.text() == "to far" for action in menu.actions())
    chosen_in(menu, "take it out of Head")
    assert window.session.job.part_named("Eye").inside is None
    window.tap(KEY.Key_Z)
    assert window.session.job.part_named("Eye").inside is not None


def test_chosen_lines_are_put_into_a_part_that_is_made_for_them_and_parts_are_merged(window, mend):  # noqa: F811
    a, b = window.pull((10, 30), (90, 30)), window.pull((10, 50), (90, 50))
    first = window.session.job.part_of(a).name
    window.session.choose([b])
    mend.show_page("Pick")
    write(mend, "Into part", "Sleeve")
    press(mend, "put them there")
    assert window.session.job.part_of(b).name == "Sleeve" and window.session.job.part_of(a).name == first
    merge(window.session, "Sleeve", first)
    assert window.session.job.part_named("Sleeve") is None and window.session.now.part == first
    write(mend, "Into part", "")
    window.session.choose([b])
    press(mend, "put them there")
    assert window.session.job.part_of(b).name == first


def test_a_line_is_bent_by_typed_numbers_and_its_ends_go_along_if_asked(window, mend):  # noqa: F811
    key = window.pull((10, 40), (90, 40))
    before = points_of(window, key)
    write(mend.page("Shape"), "Down", "5 mm")
    write(mend, "Reach", "60 mm")
    press(mend, "bend it by these")
    middle = window.session.shapes[key].arc.point(np.array([window.session.shapes[key].length / 2]))[0]
    assert middle[1] == pytest.approx(before[:, 1].mean() + 5.0, abs=0.3)
    assert points_of(window, key)[0] == pytest.approx(before[0], abs=1e-6)
    window.tap(KEY.Key_Z)
    press(mend, "ends too")
    press(mend, "bend it by these")
    assert points_of(window, key)[0, 1] > before[0, 1] + 0.3


def test_up_and_down_on_the_strip_choose_another_take(window):
    key = window.pull((10, 40), (90, 40))
    strip = window.main_window.desk.strip
    QTest.keyClick(strip, KEY.Key_Down)
    assert "one take" in said(window)
    window.session.choose([key])
    window.session.arm_again()
    window.pull((10, 40), (90, 52))
    assert len(window.lines()[key].tried) == 2
    first, second = window.lines()[key].tried
    assert window.lines()[key].pull == second
    QTest.keyClick(strip, KEY.Key_Down)
    assert window.lines()[key].pull == first and "Take 1 of 2" in said(window)
    QTest.keyClick(strip, KEY.Key_Up)
    assert window.lines()[key].pull == second
