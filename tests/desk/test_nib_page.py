"""Pull, page Nib: the card, names, copies, sets kept and taken."""

from datetime import date

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from plain_stride.desk import library
from plain_stride.desk.settings import library_folder
from plain_stride.hand.nib import standard_nibs
from plain_stride.lines.edges import CRISP, ToothedEdge
from tests.desk.test_window import said


@pytest.fixture
def nib_page(window):
    window.main_window.desk.show_station("Pull")
    notes = window.main_window.desk.stations["Pull"]
    notes.show_page("Nib")
    window.settle()
    return notes.page("Nib")


def test_the_card_tells_widths_by_pressure(window, nib_page):
    assert "50%: 0.60 mm" in nib_page._card.accessibleName()
    window.tap(Qt.Key.Key_1)
    assert "100%: 0.25 mm" in nib_page._card.accessibleName()
    glass = nib_page._card.grab().toImage()
    middle = [glass.pixelColor(x, glass.height() // 4).value() for x in range(glass.width())]
    assert max(middle) - min(middle) > 60


def test_a_set_is_kept_and_taken_in_one_step(window, nib_page):
    nib_page._name.typed.emit("reeds")
    nib_page.copy_to("7")
    assert window.session.job.nibs()["7"].name == "reeds"
    nib_page.keep("canal")
    nib_page._heavy.typed.emit("3 mm")
    nib_page.keep("canal")
    kept = [(library_folder("nibs") / f"{name}.json").read_text() for name in ("canal", "canal, before")]
    assert '"heaviest": 3.0' in kept[0] and '"heaviest": 3.0' not in kept[1]
    mine = window.session.job.nibs()
    nib_page.lay(standard_nibs(), "nibs taken")
    assert window.session.job.nibs() == standard_nibs()
    taken = next(a for a in nib_page.sets().actions() if a.text() == "take: canal")
    taken.trigger()
    assert window.session.job.nibs() == mine
    window.session.timeline.undo()
    assert window.session.job.nibs() == standard_nibs()


def test_the_library_is_copied_once_a_day_and_a_set_comes_back_from_there(window, nib_page):
    nib_page.keep("reeds")
    folder = library.back_up("nibs", date(2026, 11, 1))
    assert [path.name for path in folder.iterdir()] == ["reeds.json"]
    assert library.back_up("nibs", date(2026, 11, 1)) is None
    mine = window.session.job.nibs()
    nib_page._heavy.typed.emit("3 mm")
    nib_page.keep("reeds")
    before = next(a.menu() for a in nib_page.sets().actions() if a.text() == "as they were")
    assert [a.text() for a in before.actions()] == ["take: reeds, 2026-11-01"]
    before.actions()[0].trigger()
    assert window.session.job.nibs() == mine
    assert library.back_up("nibs", date(2026, 12, 24)) is not None
    assert [day for day, _ in library.copies("nibs")] == ["2026-12-24"]


def test_a_file_that_is_no_set_changes_nothing(window, nib_page, tmp_path):
    path = tmp_path / "other.json"
    path.write_text('{"form": "something else"}')
    before = window.session.job.nibs()
    nib_page.take(path)
    assert window.session.job.nibs() == before
    assert "as they were" in nib_page._fault.text()


def test_a_pull_keeps_the_nib_it_was_made_with(window, nib_page):
    key = window.pull((10, 20), (90, 20))
    before = window.lines()[key].nib
    nib_page._heavy.typed.emit("2 mm")
    assert window.lines()[key].nib == before
    assert window.session.nib.heaviest == 2.0


def test_lines_of_some_roles_are_never_steadied_and_that_is_remembered(window):
    window.main_window.desk.show_station("Pull")
    notes = window.main_window.desk.stations["Pull"]
    notes.show_page("Hand")
    window.settle()
    word = notes.page("Hand")._free.words["texture"]
    QTest.mouseClick(word, Qt.MouseButton.LeftButton)
    steadied = window.pull((10, 20), (90, 20))
    window.session.take(role="texture")
    window.settle()
    assert "left as your hand" in notes.page("Hand")._effect.accessibleName()
    free = window.pull((10, 40), (90, 40))
    assert window.lines()[steadied].school == "after"
    assert window.lines()[free].school == "off"
    assert window.main_window.settings.get("unsteadied") == "texture"
    assert window.session.nib.steadying.school == "after"


def test_c_steps_through_the_nibs_of_a_group(window, nib_page):
    window.tap(Qt.Key.Key_C)
    assert window.session.now.nib == "3" and "alone" in said(window)
    nib_page._group.typed.emit("reeds")
    for key in "58":
        window.session.make("nib", key=key, group="reeds")
    taken = []
    for _ in range(3):
        window.tap(Qt.Key.Key_C)
        taken.append(window.session.now.nib)
    assert taken == ["5", "8", "3"]
    window.hold(Qt.Key.Key_C)
    assert window.session.now.nib == "5"
    window.let_go(Qt.Key.Key_C)
    assert window.session.now.nib == "3"


def test_an_edge_is_given_grain_and_lines_are_worn_by_it(window, nib_page):
    crisp = window.pull((10, 20), (90, 20))
    QTest.mouseClick(nib_page._edge.words["textured"], Qt.MouseButton.LeftButton)
    assert window.session.nib.grain == 0.06 and "textured by 0.06 mm" in nib_page._card.accessibleName()
    nib_page._grain.typed.emit("0.1 mm")
    worn = window.pull((10, 40), (90, 40))
    shapes = window.session.shapes
    assert shapes[crisp].edge == CRISP and shapes[worn].edge == ToothedEdge(0.1)
    assert len(shapes[worn].rings[0]) > len(shapes[worn].smooth_rings[0])
    QTest.mouseClick(nib_page._edge.words["crisp"], Qt.MouseButton.LeftButton)
    assert window.session.nib.grain == 0.0
    nib_page._grain.typed.emit("9 mm")
    assert "not possible" in said(window) and window.session.nib.grain == 0.0


def test_a_width_held_on_the_screen_is_finer_on_an_enlarged_board(window, nib_page):
    QTest.mouseClick(nib_page._held.words["on the screen"], Qt.MouseButton.LeftButton)
    widths = []
    for times in (1.0, 2.0):
        window.sheet.viewport.set_view(window.sheet.view.enlarged(times, window.sheet.viewport.about()))
        key = window.pull((40, 40 + 10 * times), (70, 40 + 10 * times), pressure=1.0)
        assert window.lines()[key].nib.held == "paper"
        assert window.lines()[key].nib.heaviest == pytest.approx(1.0 / window.sheet.viewport.glass())
        assert window.main_window.desk.gauge.figures()["heaviest"] == pytest.approx(1.0 / window.sheet.viewport.glass())
        widths.append(float(window.session.shapes[key].widths.full.max()))
    assert widths[0] / widths[1] == pytest.approx(2.0, rel=0.05)


def test_textured_lines_are_handed_over_as_outlines_or_pictures(window, nib_page, tmp_path):
    hand_over = window.main_window.desk.stations["Hand over"].files
    hand_over.refresh()
    assert hand_over._grain.isHidden()
    nib_page._set(grain=0.1)
    window.pull((10, 40), (90, 40))
    window.main_window.desk.show_station("Hand over")
    window.settle()
    assert not hand_over._grain.isHidden()
    QTest.mouseClick(hand_over._grain.words["as pictures"], Qt.MouseButton.LeftButton)
    out = tmp_path / "o.svg"
    assert hand_over.write(out)
    window.wait_until(lambda: not hand_over.working)
    assert out.read_text().count("<image ") == 1
