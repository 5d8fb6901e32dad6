"""Tone in the window: fields hatched by mouse and pen, laid anew while they are seen, blacks, halos, strokes offered."""

import json

import numpy as np
import pytest
from PySide6.QtCore import QCoreApplication, Qt
from PySide6.QtTest import QTest

from plain_stride.cli import main
from plain_stride.desk.stations.tone import BLACKS, BY_HAND, HATCH, LIGHT, REPEATS
from plain_stride.job.tone_fields import AreasOfJob
from tests.desk.test_drawing_tools import click, drag
from tests.desk.test_weigh_station import press, word
from tests.desk.test_window import said


def tone(window, page=HATCH):
    window.main_window.desk.show_station("Tone")
    station = window.main_window.desk.stations["Tone"]
    station.show_page(page)
    return station.page(page)


def loop(window, *places):
    """A loop drawn with the mouse."""
    left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    QTest.mousePress(window.sheet, left, none, window.px(places[0]).toPoint())
    for place in (*places[1:], places[0]):
        QTest.mouseMove(window.sheet, window.px(place).toPoint())
    QTest.mouseRelease(window.sheet, left, none, window.px(places[0]).toPoint())
    window.settle()


SQUARE = [(20, 20), (60, 20), (60, 60), (20, 60)]


def box(window, x=20, y=20, size=40):
    corners = [(x, y), (x + size, y), (x + size, y + size), (x, y + size)]
    keys = []
    for k in range(4):
        window.session.make("draw", shape="straight", points=[corners[k], corners[(k + 1) % 4]], nib="7", role="outer")
        keys.append(list(window.lines())[-1])
    return keys


def tones(window):
    return window.session.job.rows.tones


def wait_for(window, sentence, *words):
    """Until a sentence tells some words: what is measured is told a moment later."""
    window.wait_until(lambda: all(one in sentence._raw.replace(",", "") for one in words))


def slide(slider, value):
    slider.show_value(value)
    slider.moving.emit(value)
    slider.settled.emit(value)


def test_a_field_is_drawn_round_measured_and_laid_anew(window):
    page = tone(window)
    press(page, "draw round")
    assert "draw round the field" in said(window)
    loop(window, *SQUARE)
    (key,) = tones(window)
    strokes = window.session.job.tone_ink(key)
    assert len(strokes) > 40 and page._in_hand.text() == "THE HATCHING IN HAND"
    wait_for(window, page._measures, "measured **30.0%**")
    assert "fine offset" in page._prints._raw
    slide(page._grey, 50.0)
    assert tones(window)[key].told["grey"] == 0.5
    wait_for(window, page._measures, "measured **50")
    page._second.entry.setText("70")
    page._second.entry.editingFinished.emit()
    window.settle()
    assert tones(window)[key].told["second"] == 70
    wait_for(window, page._prints, "Cells")
    press(page, "to the light")
    assert tones(window)[key].told["grey"] == [0.5, 0.08] and not page._light.isHidden()
    slide(page._even, 60.0)
    before = [window.session.shapes[k].flat[0] for k in window.session.job.tone_ink(key)]
    press(page, "another hand")
    after = [window.session.shapes[k].flat[0] for k in window.session.job.tone_ink(key)]
    assert len(before) != len(after) or not all(np.array_equal(a, b) for a, b in zip(before, after, strict=True))
    page._angle.entry.setText("steep")
    page._angle.entry.editingFinished.emit()
    assert "not a number" in page.fault._raw
    press(page, "take away")
    assert not tones(window) and not window.lines()
    window.tap(Qt.Key.Key_Z)
    assert len(tones(window)) == 1


def test_strokes_are_shown_as_they_would_be_while_a_slider_moves(window):
    page = tone(window)
    press(page, "draw round")
    loop(window, *SQUARE)
    (key,) = tones(window)
    sheet = window.sheet
    window.wait_until(lambda: not sheet.layer.busy)

    def darkness():
        QCoreApplication.processEvents()
        image = sheet.grab().toImage()
        places = [window.px((x, y)).toPoint() for x in np.linspace(25, 55, 60) for y in np.linspace(25, 55, 7)]
        return np.mean([image.pixelColor(p).lightness() < 128 for p in places])

    before = darkness()
    page._grey.show_value(80.0)
    page._grey.moving.emit(80.0)
    assert tones(window)[key].told["grey"] == 0.3
    assert darkness() > before + 0.25
    page._grey.settled.emit(80.0)
    window.settle()
    window.wait_until(lambda: not sheet.layer.busy)
    assert tones(window)[key].told["grey"] == 0.8 and darkness() > before + 0.25


def test_the_field_of_a_touched_area_is_found_once_while_a_slider_moves_and_anew_when_its_lines_do(window, monkeypatch):
    keys, found = box(window), []
    page = tone(window)
    press(page, "touch an area")
    click(window, (40, 40))
    window.settle()
    assert len(tones(window)) == 1
    real = AreasOfJob.round_place
    monkeypatch.setattr(AreasOfJob, "round_place", lambda *a: found.append(real(*a)) or found[-1])
    seen = []
    page.seen.connect(seen.append)
    for grey in (40.0, 50.0, 60.0):
        page.try_grey(grey)
    assert len(found) <= 1 and len(seen) == 3
    window.session.make("affine", lines=keys, matrix=[1.5, 0.0, 0.0, 1.5, -20.0, -20.0])
    page.try_grey(60.0)
    assert found[-1].area == pytest.approx(60.0**2, rel=0.01)
    assert max(edges[..., 0].max() for edges in seen[-1][0]) == pytest.approx(70.0, abs=1.0)


def test_a_core_shadows_points_can_be_taken_off(window):
    box(window)
    window.session.make("hatch", at=[40, 40], core=0.5, light=315)
    (key,) = tones(window)
    page = tone(window)
    window.session.choose(window.session.job.tone_ink(key)[:1])
    window.settle()
    assert page._tips.entry.text() == "2 mm"
    page._tips.entry.setText("0")
    page._tips.entry.editingFinished.emit()
    window.settle()
    assert tones(window)[key].told["tips"] == 0.0 and page._tips.entry.text() == "0 mm"


def test_an_area_is_touched_and_a_form_hatched_between_two_lines(window):
    keys = box(window)
    page = tone(window)
    press(page, "touch an area")
    click(window, (40, 40))
    window.settle()
    assert word(page, "new hatching").isVisible()
    click(window, (100, 80))
    assert len(tones(window)) == 1 and "open" in said(window)
    QTest.keyClick(window.sheet, Qt.Key.Key_Escape)
    window.session.choose([])
    page.refresh()
    assert not word(page, "between two lines").isEnabled()
    window.session.choose([keys[0], keys[2]])
    page.refresh()
    press(page, "across")
    press(page, "between two lines")
    assert len(tones(window)) == 2
    new = list(tones(window))[-1]
    shape = window.session.shapes[window.session.job.tone_ink(new)[5]]
    assert abs(shape.flat[0][-1] - shape.flat[0][0])[1] == pytest.approx(40, abs=0.5)


def test_a_stroke_that_is_chosen_takes_its_hatching_in_hand_with_its_settings(window):
    page = tone(window)
    for grey, places in ((30.0, SQUARE), (60.0, [(70, 20), (110, 20), (110, 60), (70, 60)])):
        page._grey.show_value(grey)
        press(page, "draw round")
        loop(window, *places)
        window.session.choose([])
        page.refresh()
    first, second = tones(window)
    for key, grey in ((first, 30.0), (second, 60.0)):
        window.session.choose(window.session.job.tone_ink(key)[3:4])
        page.refresh()
        assert page._grey.value == grey
    press(page, "choose all")
    assert len(window.session.chosen) == len(window.session.job.tone_ink(second))
    press(page, "take apart")
    assert list(tones(window)) == [first] and "keep their widths" in said(window)


def test_a_locked_part_and_a_reading_window_say_why_nothing_is_laid(window, window_on):
    page = tone(window)
    press(page, "draw round")
    loop(window, *SQUARE)
    window.session.make("part", name="Hatching", locked=True)
    press(page, "new hatching")
    window.settle()
    press(page, "draw round")
    loop(window, *SQUARE)
    assert "locked" in said(window) and len(tones(window)) == 1
    window.session.choose(window.session.job.tone_ink(next(iter(tones(window))))[:1])
    page.refresh()
    slide(page._grey, 70.0)
    assert "locked" in said(window) and page._grey.value == 30.0
    other = window_on(window.session.job.path)
    there = tone(other)
    press(there, "draw round")
    loop(other, *SQUARE)
    assert len(tones(other)) == 1


def test_blacks_by_touch_and_edge_and_their_balance(window):
    box(window)
    page = tone(window, BLACKS)
    assert "Touch an area" in page._says._raw
    press(page, "touch an area")
    click(window, (40, 40))
    window.settle()
    (key,) = tones(window)
    wait_for(window, page._measures, "1600 mm²")
    wait_for(window, page._balance, "of the sheet is black")
    QTest.keyClick(window.sheet, Qt.Key.Key_Escape)
    press(page, "draw its edge")
    loop(window, (70, 20), (100, 20), (100, 50))
    assert len(tones(window)) == 2
    window.session.choose(window.session.job.tone_ink(key))
    page.refresh()
    page._width.entry.setText("0.6 mm")
    page._width.entry.editingFinished.emit()
    press(page, "cut a halo")
    wait_for(window, page._measures, "all the way round", "0.60")
    halo = list(tones(window))[-1]
    assert tones(window)[halo].told["mm"] == 0.6
    page._width.entry.setText("1 mm")
    page._width.entry.editingFinished.emit()
    window.settle()
    assert tones(window)[halo].told["mm"] == 1.0
    press(page, "outside")
    assert tones(window)[halo].told["side"] == "outside"
    press(page, "take it away")
    assert halo not in tones(window)


def test_a_doubled_edge_is_offered_its_cure(window):
    for x in (20, 60):
        box(window, x, 20, 40)
    page = tone(window, BLACKS)
    press(page, "touch an area")
    click(window, (40, 40), (80, 40))
    window.settle()
    first, second = tones(window)
    window.session.choose(window.session.job.tone_ink(first))
    page.refresh()
    assert word(page, "cut a halo").isEnabled()
    press(page, "cut a halo")
    wait_for(window, page._measures, "white on both sides")
    press(page, "only between blacks")
    halo = list(tones(window))[-1]
    assert tones(window)[halo].told["between"] is True
    window.wait_until(lambda: "white on both sides" not in page._measures._raw)
    assert second in tones(window)


def test_white_is_drawn_over_black_on_grey_paper(window):
    page = tone(window, BLACKS)
    press(page, "draw in white")
    part = window.session.job.part_named("White")
    assert part.ink == "white" and part.order == 1
    assert window.session.now.part == "White" and window.session.now.grey_ground
    key = window.pull((20, 20), (60, 40))
    assert window.session.job.part_of(key).name == "White"


def test_the_next_stroke_is_offered_taken_by_a_key_and_measured(window):
    page = tone(window, BY_HAND)
    assert not page._take.isEnabled()
    window.pull((20, 20), (60, 20))
    window.pull((20, 23), (60, 23))
    assert page._take.isEnabled() and "takes" in page._offer_says._raw
    window.tap(Qt.Key.Key_Slash)
    assert len(window.lines()) == 3
    assert window.session.shapes[list(window.lines())[-1]].flat[0][:, 1].mean() == pytest.approx(26, abs=0.3)
    press(page, "the next 8")
    press(page, "take them")
    assert len(window.lines()) == 11
    wait_for(window, page._says, "**11** strokes", "pitch **3.0")
    page._pitch.entry.setText("1 mm")
    page._pitch.entry.editingFinished.emit()
    press(page, "take them")
    ys = [window.session.shapes[key].flat[0][:, 1].mean() for key in list(window.lines())[-2:]]
    assert ys[1] - ys[0] == pytest.approx(1.0, abs=0.02)
    window.main_window.desk.show_station("Pull")
    window.settle()


def test_planes_core_and_cast_shadows_by_touch(window):
    keys = box(window)
    page = tone(window, LIGHT)
    press(page, "touch planes")
    click(window, (40, 40))
    window.settle()
    assert len(tones(window)) == 1
    press(page, "shadow")
    press(page, "touch planes")
    click(window, (30, 50))
    window.settle()
    (key,) = tones(window)
    assert tones(window)[key].told["grey"] == 0.5
    press(page, "touch a form")
    click(window, (40, 40))
    window.settle()
    assert list(tones(window).values())[-1].told["core"] == 0.35
    QTest.keyClick(window.sheet, Qt.Key.Key_Escape)
    window.session.choose(keys[2:3])
    page.refresh()
    press(page, "cast by")
    click(window, (90, 75))
    window.settle()
    assert list(tones(window).values())[-1].kind == "black"


def test_textures_and_speed_lines(window):
    page = tone(window, REPEATS)
    for motif in ("bark", "scales", "stipple"):
        press(page, motif)
        press(page, "draw round")
        loop(window, *SQUARE)
    assert [row.told["motif"] for row in tones(window).values()] == ["bark", "scales", "stipple"]
    assert not page._grey.isHidden() and page._vary.isHidden()
    press(page, "another hand")
    assert list(tones(window).values())[-1].told["seed"] == 2
    press(page, "take away")
    assert len(tones(window)) == 2
    window.session.choose(window.session.job.tone_ink(list(tones(window))[-1])[:1])
    window.settle()
    press(page, "another hand")
    press(page, "another hand")
    assert list(tones(window).values())[-1].told["seed"] == 3
    press(page, "to a place")
    click(window, (60, 45))
    window.settle()
    assert list(tones(window).values())[-1].kind == "speed"
    page._count.entry.setText("many")
    press(page, "to a place")
    click(window, (60, 45))
    assert "whole number" in page.fault._raw


def test_what_the_window_laid_is_what_the_command_line_tells(window, capsys):
    page = tone(window)
    press(page, "draw round")
    loop(window, *SQUARE)
    window.wait_until(lambda: not window.session.document.writer.waiting())
    path = window.session.job.path
    assert main(["tone", str(path)]) == 0
    (told,) = json.loads(capsys.readouterr().out)["tones"]
    wait_for(window, page._measures, f"measured **{told['grey']['measured']:.1%}**")


def test_hatching_by_pen_alone(window):
    """The tool is taken by mouse or a spot; the field is drawn with the pen."""
    page = tone(window)
    press(page, "draw round")
    assert window.pull(*SQUARE, SQUARE[0], n=200) is not None or tones(window)
    assert len(tones(window)) == 1
    drag(window, (5, 5), (8, 8))
