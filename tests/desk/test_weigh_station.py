"""Weigh in the window: the plan laid and ordered, lamps placed, lines told apart, places decided, views of weight."""

import itertools
import json

import numpy as np
import pytest
from PySide6.QtCore import QCoreApplication, QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QImage, QMouseEvent
from PySide6.QtTest import QTest

from plain_stride.desk.controls.controls import Word
from plain_stride.desk.margins.strip_bands import layers_of
from plain_stride.desk.stations.weigh import CLASH, LEARN, LINES, PLAN, RANGE, SEE
from plain_stride.job.shapes import Shapes
from plain_stride.job.weight_questions import BandsOf, SeenNow, WeightsNow
from plain_stride.lines.given import form_from_points
from plain_stride.weight.lamps import Lamp
from plain_stride.weight.rule_book import RULES
from tests.desk.test_drawing_tools import drag
from tests.desk.test_window import said


def weigh(window, page=PLAN):
    window.main_window.desk.show_station("Weigh")
    station = window.main_window.desk.stations["Weigh"]
    station.show_page(page)
    return station


def word(page, text):
    return next(w for w in page.findChildren(Word) if w.text().startswith(text) and not w.isHidden())


def press(page, text):
    QTest.mouseClick(word(page, text), Qt.MouseButton.LeftButton)


def round_line(window, x=60, y=45, r=20, role="outer", found=False, **more):
    a = np.linspace(0, 2 * np.pi, 60)[:-1]
    form = form_from_points(
        np.column_stack([x + r * np.cos(a), y + r * np.sin(a)]), np.full(59, 0.2), np.full(59, 0.2), True
    )
    window.session.make("line", form=form, nib=window.session.nib, role=role, found=found, **more)
    return list(window.lines())[-1]


def low_and_high(window, key):
    shape = window.session.shapes[key]
    points, s = shape.flat
    return [float(np.sum(shape.body.at(np.array([s[k]])))) for k in (points[:, 1].argmax(), points[:, 1].argmin())]


def lay(window, **more):
    window.session.make("plan", share=100, **more)
    window.wait_until(lambda: window.session.weigher.settled)


def test_a_plan_is_laid_by_pen_and_the_underside_is_heavier(window):
    key = round_line(window)
    page = weigh(window).page(PLAN)
    lay(window)
    low, high = low_and_high(window, key)
    assert low > 1.5 * high
    press(page, "right")
    window.wait_until(lambda: window.session.weigher.settled)
    assert [lamp.degrees for lamp in window.session.job.plan.lamps] == [45.0]
    press(page, "none")
    assert window.session.job.plan.lamps == ()
    window.settle()
    press(page, "lift off")
    assert window.session.job.plan.share == 0.0
    window.session.timeline.undo()
    assert window.session.job.plan.share == 1.0


def test_what_the_window_settles_on_is_what_the_command_line_works_out(window):
    keys = [round_line(window, x, 45, 12, part=part) for x, part in ((40, "A"), (55, "B"), (75, "C"))]
    lay(window)
    for step in range(4):
        window.session.make("affine", lines=[keys[step % 3]], matrix=[1, 0, 0, 1, 3.0, -1.0])
        window.pull((20 + 10 * step, 20), (40 + 10 * step, 60))
        window.wait_until(lambda: window.session.weigher.settled)
        fresh = Shapes(window.session.job)
        for key in window.lines():
            own, other = window.session.shapes[key].body, fresh[key].body
            assert np.interp(other.s, own.s, own.full) == pytest.approx(other.full, abs=0.002)


def drag_on(widget, start, end, steps=8):
    """A drag with the mouse over a control."""
    left, none = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton
    for n, (kind, button, held) in enumerate([(QEvent.Type.MouseButtonPress, left, left),
                                              *[(QEvent.Type.MouseMove, none, left)] * steps,
                                              (QEvent.Type.MouseButtonRelease, left, none)]):  # fmt: skip
        share = min(n / steps, 1.0)
        at = QPointF(start[0] + (end[0] - start[0]) * share, start[1] + (end[1] - start[1]) * share)
        QCoreApplication.sendEvent(widget, QMouseEvent(kind, at, widget.mapToGlobal(at), button, held,
                                                       Qt.KeyboardModifier.NoModifier))  # fmt: skip


def test_rules_are_dragged_into_order_switched_and_their_figures_typed(window):
    round_line(window)
    page = weigh(window).page(PLAN)
    rules = page._rules
    window.settle()
    row = rules.height() // len(RULES)
    drag_on(rules, (120, row * 2 + 5), (120, 4))
    names = [rule.name for rule in window.session.job.plan.rules]
    assert names[:3] == ["light", "outline", "depth"]
    QTest.mouseClick(rules, Qt.MouseButton.LeftButton, pos=QPoint(28, row + 5))
    assert not window.session.job.plan.rule("outline").on
    QTest.keyClick(rules, Qt.Key.Key_Space)
    assert window.session.job.plan.rule("outline").on
    QTest.keyClick(rules, Qt.Key.Key_Down, Qt.KeyboardModifier.ControlModifier)
    assert [rule.name for rule in window.session.job.plan.rules][:3] == ["light", "depth", "outline"]
    rules.pick("light")
    field = page._figures["away"]
    field.entry.setText("0,5")
    QTest.keyClick(field.entry, Qt.Key.Key_Return)
    assert window.session.job.plan.rule("light")["away"] == 0.5
    field.entry.setText("much")
    QTest.keyClick(field.entry, Qt.Key.Key_Return)
    assert "much" in page._fault.text() and window.session.job.plan.rule("light")["away"] == 0.5
    assert rules.accessibleDescription().startswith("1 of 12: away from the light, on")


def test_a_lamp_is_placed_dragged_and_taken_away(window):
    key = round_line(window)
    page = weigh(window).page(PLAN)
    lay(window)
    press(page, "place lamps")
    assert window.sheet.gestures.tool is not None
    drag(window, (20, 45), (22, 45))
    assert window.session.job.plan.lamps[0].at is not None
    window.wait_until(lambda: window.session.weigher.settled)
    points, s = window.session.shapes[key].flat
    right, left = points[:, 0].argmax(), points[:, 0].argmin()
    full = [float(np.sum(window.session.shapes[key].body.at(np.array([s[k]])))) for k in (right, left)]
    assert full[0] > 1.4 * full[1]
    drag(window, window.session.job.plan.lamps[0].at, (100, 70))
    assert np.hypot(*(np.array(window.session.job.plan.lamps[0].at) - (100, 70))) < 1.0
    drag(window, (30, 80), (31, 80))
    assert len(window.session.job.plan.lamps) == 2
    window.sheet.grab()


def test_named_plans_and_plans_as_files(window, tmp_path):
    round_line(window)
    page = weigh(window).page(PLAN)
    names = [action.text() for action in page.menu().actions() if action.text()]
    assert names[:7] == ["Standard", "Even and bold", "Fine and detailed", "Light first", "Depth first",
                         "Silhouette first", "Loose and textured"]  # fmt: skip
    next(a for a in page.menu().actions() if a.text() == "Depth first").trigger()
    assert window.session.job.plan.name == "Depth first"
    page.give(tmp_path / "Lantern nights.json")
    assert json.loads((tmp_path / "Lantern nights.json").read_text())["name"] == "Lantern nights"
    window.session.make("plan", plan="Standard")
    page.take(tmp_path / "Lantern nights.json")
    assert window.session.job.plan.name == "Lantern nights" and window.session.job.plan.rules[0].name == "depth"
    (tmp_path / "bad.json").write_text('{"kind": "plain stride plan", "version": 1, "name": "x", "lean": 9}')
    page.take(tmp_path / "bad.json")
    assert window.session.job.plan.name == "Lantern nights" and "as it was" in page._fault.text()
    page.keep("Mine")
    assert "Mine" in [action.text() for action in page.menu().actions()]


def test_lines_are_told_apart_turned_pinned_and_shared(window):
    key = round_line(window)
    lay(window)
    page = weigh(window, LINES).page(LINES)
    window.session.choose([key])
    page.refresh()
    press(page, "the form is on the other side")
    window.wait_until(lambda: window.session.weigher.settled)
    low, high = low_and_high(window, key)
    assert high > 1.5 * low
    press(page, "keep these widths")
    lay(window, light=180)
    assert low_and_high(window, key) == pytest.approx([low, high], abs=1e-6)
    press(page, "let these widths go")
    window.wait_until(lambda: window.session.weigher.settled)
    assert low_and_high(window, key)[0] > low_and_high(window, key)[1]
    press(page, "it throws a shadow")
    assert window.lines()[key].weight.throws
    page._own.settled.emit(0.0)
    assert window.lines()[key].weight.share == 0.0
    press(page, "as their part")
    assert window.lines()[key].weight.share is None
    page._part.settled.emit(30.0)
    assert window.session.job.rows.parts[window.lines()[key].part].share == 0.3
    press(page, "as the job")
    press(page, "as the plan says")
    assert window.lines()[key].weight.form == "" and not window.lines()[key].weight.throws
    press(page, "detail")
    assert window.lines()[key].role == "detail"


def test_a_locked_part_says_so(window):
    key = round_line(window, part="Lines")
    window.session.make("part", name="Lines", locked=True)
    page = weigh(window, LINES).page(LINES)
    window.session.choose([key])
    page.refresh()
    before = window.lines()[key]
    press(page, "it throws a shadow")
    assert window.lines()[key] is before and "locked" in said(window)


def told(window, question):
    answers = []
    window.session.drawing.ask(question, answers.append)
    window.wait_until(lambda: answers)
    return answers[0]


def a_clash(window):
    """(station, line): an inner line that outweighs its outline, and the page that tells of it."""
    round_line(window)
    heavy = window.pull((48, 45), (72, 45), pressure=1.0)
    window.session.make("swell", line=heavy, factor=2.0)
    window.session.make("set", lines=[heavy], role="inner")
    return weigh(window, CLASH), heavy


def test_places_to_decide_are_listed_shown_and_cured_either_way(window):
    station, _ = a_clash(window)
    page = station.page(CLASH)
    window.settle()
    window.wait_until(lambda: len(page.clashes) == 1)
    assert station.fact() == "1 place to decide"
    page._list.setCurrentRow(0)
    assert set(window.session.chosen) == set(page.clashes[0].lines) and "inner line outweighs" in page._why.text()
    press(page, "thin ")
    window.wait_until(lambda: not page.clashes)
    window.session.timeline.undo()
    window.wait_until(lambda: len(page.clashes) == 1)
    page._list.setCurrentRow(0)
    press(page, "thicken ")
    window.wait_until(lambda: not page.clashes)


def test_what_is_measured_is_shown_and_rows_choose_what_is_seen(window):
    outer = round_line(window)
    window.pull((10, 20), (110, 20))
    window.session.make("part", name="Hidden")
    window.session.take(part="Hidden")
    hidden = window.pull((10, 60), (110, 60))
    window.session.make("part", name="Hidden", hidden=True)
    page = weigh(window, RANGE).page(RANGE)
    weights = told(window, WeightsNow())
    assert all(hidden not in group.lines for group in weights.groups)
    assert sum(len(group.lines) for group in weights.groups[:3]) == 2
    assert sum(group.share for group in weights.groups[:3]) == pytest.approx(1.0, abs=1e-6)
    window.wait_until(lambda: page._rows[1].count() == len(weights.groups))
    rows = [page._rows[1].itemAt(n).widget() for n in range(page._rows[1].count())]
    row = next(r for r in rows if r.text() == "outer")
    QTest.mouseClick(row, Qt.MouseButton.LeftButton)
    assert outer in window.session.chosen and hidden not in window.session.chosen
    page.grab()


def test_the_strip_stacks_what_each_rule_adds_up_to_the_plans_width(window):
    key = round_line(window)
    lay(window)
    weigh(window, PLAN)
    window.session.choose([key])
    bands = told(window, BandsOf(key))
    layers = layers_of(bands)
    assert {"outline", "light"} <= {layer.name for layer in layers}
    top = layers[-1].low if layers[-1].less else layers[-1].high
    wide = window.session.shapes[key].body
    off = np.abs(2 * np.log2(np.interp(bands.s, wide.s, wide.full) / top))
    assert np.mean(off <= 0.25) >= 0.93
    strip = window.main_window.desk.strip
    window.wait_until(lambda: strip._bands[1] is not None)
    assert strip.grab().toImage() != blank(strip)
    assert told(window, BandsOf("nobody")) is None


def blank(widget):
    image = QImage(widget.size(), QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    return image


def test_views_of_weight_change_nothing(window):
    key = round_line(window)
    lay(window)
    station = weigh(window, SEE)
    page, before = station.page(SEE), window.session.job.version
    plain = window.sheet.grab().toImage()
    page._over.settled.emit(2.5)
    shape = window.sheet.compositor.layer.shape(key)
    own = window.session.shapes[key]
    full = np.interp(shape.widths.s, own.widths.s, own.widths.full)
    times = (np.interp(shape.widths.s, own.body.s, own.body.full) / 0.35) ** 1.5
    assert shape.widths.full == pytest.approx(full * times, rel=1e-6)
    page._over.settled.emit(1.0)
    assert window.sheet.compositor.layer.shape(key) is own
    page._map.words["on"].click()
    window.wait_until(lambda: window.main_window.desk._weight._seen is not None)
    assert "0.35 mm" in page._legend.text()
    assert window.sheet.grab().toImage() != plain
    seen = told(window, SeenNow())
    for a, b in itertools.pairwise(seen.starts):
        assert b - a >= 9
    page._map.words["off"].click()
    window.main_window.desk.show_station("Pull")
    assert not window.main_window.desk._weight.at_work and window.session.job.version == before


def test_an_empty_board_says_what_to_do(window):
    station = weigh(window)
    for name in (PLAN, LINES, RANGE, CLASH, SEE):
        station.show_page(name)
        window.settle()
    assert "Nothing is inked" in station.page(PLAN)._says.text()
    window.wait_until(lambda: "Nothing is inked" in station.page(CLASH)._says.text())


def test_a_plan_is_learned_from_pulls_and_laid(window):
    page = weigh(window, LEARN).page(LEARN)
    assert "Nothing is inked" in page._says.text()
    window.pull((10, 20), (60, 20))
    window.settle()
    press(page, "learn from my pulls")
    window.wait_until(lambda: "too little" in page._says.text())
    rng = np.random.default_rng(0)
    for k in range(16):
        role, mm = ("outer", 0.9) if k % 2 else ("inner", 0.45)
        form = form_from_points(
            np.array([[10, 10 + 4 * k], [60, 11 + 4 * k]], float),
            *[np.full(2, mm / 2 * rng.uniform(0.97, 1.03))] * 2,
            False,
        )
        window.session.make("line", form=form, nib=window.session.job.nibs()["6"], role=role)
    window.settle()
    press(page, "learn from my pulls")
    window.wait_until(lambda: page.found is not None)
    outer = next(one for one in page.found.figures if one.name == "outer")
    assert outer.enough and outer.value == pytest.approx(2.0, abs=0.4)
    window.settle()
    press(page, "lay it as the plan")
    assert window.session.job.plan.name == "Learned"
    assert window.session.job.plan.roles["outer"] == pytest.approx(outer.value)


def test_depths_are_suggested_and_laid_by_a_press(window):
    for name, x, y, r in (("Stone", 60, 70, 15), ("Moon", 20, 15, 4)):
        window.session.make("part", name=name, tier="middle")
        round_line(window, x, y, r, part=name)
    page = weigh(window, LEARN).page(LEARN)
    window.settle()
    press(page, "suggest depths")
    window.wait_until(lambda: page._column.count() > 0)
    window.settle()
    press(page, "Moon: far")
    assert window.session.job.part_named("Moon").tier == "far"


def test_the_form_is_turned_by_a_press_on_the_line(window):
    key = round_line(window)
    lay(window)
    page = weigh(window, LINES).page(LINES)
    window.settle()
    press(page, "turn it where I point")
    points = window.session.shapes[key].flat[0]
    for wanted in (True, False):
        QTest.mouseClick(window.sheet, Qt.MouseButton.LeftButton, pos=window.px(points[10]).toPoint())
        window.wait_until(lambda: window.session.weigher.settled)
        low, high = low_and_high(window, key)
        assert (high > 1.5 * low) == wanted
    QTest.mouseClick(window.sheet, Qt.MouseButton.LeftButton, pos=window.px((100, 85)).toPoint())
    assert "No line lies there" in said(window)


def test_weights_are_compared_with_another_job(window, tmp_path):
    from plain_stride.board.page import Page
    from plain_stride.job.job_files import new_job

    round_line(window)
    page = weigh(window, RANGE).page(RANGE)
    new_job(tmp_path / "other.stride", Page((80.0, 60.0), 300.0))
    page.compare(tmp_path / "other.stride")
    window.wait_until(lambda: "no depth or role in common" in page._likeness.text())
    page.compare(window.session.job.path)
    window.wait_until(lambda: "the same weights" in page._likeness.text())
    page.compare(tmp_path / "none.stride")
    window.wait_until(lambda: "none" in page._likeness.text())


def test_the_drawing_follows_a_lamp_that_is_dragged_and_comes_back(window):
    key = round_line(window)
    lay(window)
    before = low_and_high(window, key)
    version = window.session.job.version
    window.session.weigher.try_lamps((Lamp(180.0),))
    window.wait_until(lambda: low_and_high(window, key)[1] > 1.4 * low_and_high(window, key)[0])
    assert window.session.job.version == version
    window.session.weigher.end_trying()
    window.wait_until(lambda: low_and_high(window, key) == pytest.approx(before, abs=1e-6))


def test_marks_go_with_the_lines_and_lie_on_the_same_side_on_a_mirrored_board(window):
    key = round_line(window)
    weigh(window, LINES)
    marks = window.main_window.desk._weight
    window.wait_until(lambda: marks._seen is not None)
    outer = marks._seen.points + marks._seen.outward
    assert (np.hypot(*(outer - (60, 45)).T) > 20.5).all()
    window.session.make("affine", lines=[key], matrix=[1, 0, 0, 1, 10, 0])
    window.wait_until(lambda: marks._seen.points[:, 0].max() > 85)
    moved = marks._seen.points + 2.0 * marks._seen.outward
    assert (np.hypot(*(moved - (70, 45)).T) > 21).all()


def test_the_count_of_places_is_told_only_of_the_job_as_it_was_measured(window):
    station, heavy = a_clash(window)
    window.wait_until(lambda: station.fact() == "1 place to decide")
    window.main_window.desk.show_station("Pull")
    window.session.make("delete", lines=[heavy])
    assert "decide" not in station.fact()


def test_the_print_floor_is_asked_for_at_weigh(window):
    round_line(window)
    page = weigh(window).page(PLAN)
    window.settle()
    press(page, "print floor")
    assert window.session.job.plan.floor
    press(page, "no limit")
    assert not window.session.job.plan.floor
    page.keep("a/b")
    assert "no /" in page._fault.text()


def test_learning_is_stopped_by_its_own_word(window):
    for k in range(70):
        form = form_from_points(np.array([[10, 10 + k], [60, 11 + k]], float), *[np.full(2, 0.1)] * 2, False)
        window.session.make("line", form=form, nib=window.session.job.nibs()["6"], role="inner")
    page = weigh(window, LEARN).page(LEARN)
    window.settle()
    press(page, "learn from my pulls")
    assert "Looking" in page._says.text()
    press(page, "stop")
    assert "nothing was learned" in page._says.text() and page.found is None
    press(page, "learn from my pulls")
    window.wait_until(lambda: page.found is not None, 40)
