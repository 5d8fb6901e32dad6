"""What a screen reader is told, through Qt's accessibility interface; contrast; room for large text and long names."""

import itertools

import pytest
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtGui import QAccessible, QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QLabel, QLineEdit, QScrollArea, QWidget

from plain_stride.desk.controls.controls import Track, Word
from plain_stride.desk.look import theme
from plain_stride.desk.look.theme import DAY, THEME, VARIANTS
from plain_stride.desk.margins.lines_list import LinesList
from plain_stride.desk.margins.parts_list import PartRow

ROLE, TEXT = QAccessible.Role, QAccessible.Text


def told(widget):
    return QAccessible.queryAccessibleInterface(widget)


def reachable(window):
    return [
        w
        for w in window.main_window.findChildren(QWidget)
        if w.isVisible() and w.focusPolicy() & Qt.FocusPolicy.TabFocus
    ]


def at_every_station(window):
    pages = window.main_window.desk.stations["Pull"]
    for name in window.main_window.desk.stations:
        window.main_window.desk.show_station(name)
        for page in pages._pages if name == "Pull" else [""]:
            if page:
                pages.show_page(page)
            window.settle()
            yield f"{name} {page}"


def test_every_control_has_a_name_and_a_role(window):
    window.pull((10, 20), (60, 20))
    roles = set()
    for place in at_every_station(window):
        for widget in reachable(window):
            face = told(widget)
            assert face.text(TEXT.Name).strip(), f"{place}: {widget} has no name"
            assert face.role() != ROLE.NoRole, place
            roles.add(face.role())
            if isinstance(widget, QAbstractButton):
                assert face.role() in (ROLE.Button, ROLE.RadioButton, ROLE.CheckBox), f"{place}: {widget.text()}"
    assert {ROLE.Button, ROLE.RadioButton, ROLE.Slider, ROLE.List, ROLE.EditableText} <= roles


def test_sliders_tell_their_value(window):
    window.main_window.desk.show_station("Weigh")
    track = next(t for t in window.main_window.findChildren(Track) if t.isVisible())
    face = told(track)
    assert face.role() == ROLE.Slider and face.text(TEXT.Name) == "Hand and plan"
    window.session.make("plan", share=40.0)
    window.settle()
    assert face.valueInterface().currentValue() == 400 and face.text(TEXT.Description) == "40 %"


def test_every_line_of_the_sheet_is_told_and_chosen_by_key(window):
    a, b = window.pull((10, 20), (60, 20)), window.pull((10, 40), (100, 40))
    window.main_window.desk.show_station("Pull")
    window.main_window.desk.stations["Pull"].show_page("Line")
    window.settle()
    lines = window.main_window.findChild(LinesList)
    face = told(lines)
    names = [face.child(k).text(TEXT.Name) for k in range(face.childCount())]
    assert face.role() == ROLE.List and len(names) == 2
    assert "Lines (middle): outer, 90." in names[0] and "wide" in names[1]
    lines.setFocus()
    QTest.keyClick(lines, Qt.Key.Key_Down)
    assert window.session.chosen == [b] or window.session.chosen == [a]
    QTest.keyClick(lines, Qt.Key.Key_End)
    assert window.session.chosen == [a]
    window.session.choose([b])
    window.settle()
    assert [i.row() for i in lines.selectedIndexes()] == [0]
    square = [[20, 50], [40, 50], [40, 70], [20, 70]]
    window.session.make("hatch", around=square, grey=0.3)
    window.settle()
    assert face.childCount() > 10 and [lines._lines.keys[k] for k in (0, 1)] == [b, a]


def test_sheet_strip_and_gauge_say_what_they_show(window):
    window.pull((10, 20), (60, 20))
    window.settle()
    assert "mm long" in told(window.main_window.desk.strip).text(TEXT.Description)
    assert "one pixel" in told(window.main_window.desk.gauge).text(TEXT.Description)
    assert "of print size" in told(window.main_window.desk.arms._small).text(TEXT.Description)


def test_tab_goes_from_region_to_region_and_back_round(window):
    window.pull((10, 20), (60, 20))
    window.main_window.activateWindow()
    window.wait_until(window.main_window.isActiveWindow)
    regions = {"stride": window.main_window.desk.stride, "notes": window.main_window.desk.notes}
    first = next(iter(window.main_window.desk.stride.words.values()))
    first.setFocus(Qt.FocusReason.TabFocusReason)
    seen = []
    for _ in range(80):
        now = QApplication.focusWidget()
        where = next((n for n, r in regions.items() if r.isAncestorOf(now)), now.metaObject().className())
        seen.append(where)
        QTest.keyClick(window.main_window.windowHandle(), Qt.Key.Key_Tab)
        if QApplication.focusWidget() is first:
            break
    assert [k for k, _ in itertools.groupby(seen)] == ["stride", "notes", "SheetView", "Strip", "Gauge"]


def test_the_sheet_shows_its_ring_for_the_keyboard_only(window):
    window.main_window.desk.strip.setFocus()
    window.sheet.setFocus(Qt.FocusReason.TabFocusReason)
    assert window.sheet.is_ringed()
    window.main_window.desk.strip.setFocus()
    window.sheet.setFocus(Qt.FocusReason.MouseFocusReason)
    assert not window.sheet.is_ringed()


# Contrast


def luminance(colour):
    """Relative luminance (WCAG 2.1)."""
    c = QColor(colour)
    parts = [v / 12.92 if v <= 0.03928 else ((v + 0.055) / 1.055) ** 2.4 for v in (c.redF(), c.greenF(), c.blueF())]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(a, b):
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


def test_the_measure_of_contrast_is_the_standards():
    """WCAG 2.1: black on white is 21:1; #777 on white 4.48:1 (a value quoted everywhere, from memory)."""
    assert contrast("#000", "#fff") == pytest.approx(21)
    assert contrast("#777777", "#ffffff") == pytest.approx(4.48, abs=0.01)


@pytest.mark.parametrize("variant", VARIANTS)
def test_text_and_marks_stand_out_from_their_ground(variant):
    p = VARIANTS[variant]
    for text in ("text", "faint", "ahead", "chosen", "red"):
        for ground in ("margin", "wash"):
            assert contrast(getattr(p, text), getattr(p, ground)) >= 4.5, (text, ground)
    assert contrast(p.text, p.desk) >= 4.5
    # The rulers stand on the desk, in SemiBold at 11 px.
    assert contrast(getattr(p, theme.RULER_COLOUR), p.desk) >= 4.5
    for mark in ("chosen", "ahead", "ink", "red"):
        assert contrast(getattr(DAY, mark), p.paper) >= 3.0, mark
    for mark in ("chosen", "text", "red"):
        assert contrast(getattr(p, mark), p.margin) >= 3.0, mark


# Room


def clipped(window):
    """Texts that have less room than they need, of widgets that are in sight; those that shorten themselves do so with
    an ellipsis of their own, and tell the whole on hover."""
    out = []
    for widget in window.main_window.findChildren(QWidget):
        if not widget.isVisible() or isinstance(widget, QLineEdit | PartRow):
            continue
        if isinstance(widget, QLabel) and widget.text():
            need = widget.heightForWidth(widget.width()) if widget.wordWrap() else widget.sizeHint().height()
            if widget.height() < need - 1 or (not widget.wordWrap() and widget.width() < widget.sizeHint().width() - 1):
                out.append(widget.accessibleName() or widget.text())
        elif isinstance(widget, Word):
            need = widget.sizeHint()
            if widget.width() < need.width() - 1 or widget.height() < need.height() - 1:
                out.append(widget.text())
    return out


def overlapping(window):
    """Pairs of siblings in the notes that lie over each other."""
    out = []
    inner = window.main_window.findChild(QScrollArea).widget()
    for parent in [inner, *inner.findChildren(QWidget)]:
        boxes = [(w, w.geometry()) for w in parent.children() if isinstance(w, QWidget) and w.isVisible()]
        out += [(a, b) for (a, g), (b, h) in itertools.combinations(boxes, 2) if g.adjusted(1, 1, -1, -1).intersects(h)]
    return out


def beyond(window):
    """Words and sentences that reach past the right edge of the notes."""
    right = window.main_window.desk.notes.width()
    return [w.accessibleName() for w in window.main_window.desk.notes.findChildren(QWidget)
            if w.isVisible() and isinstance(w, QLabel | QAbstractButton)
            and w.mapTo(window.main_window.desk.notes, QPoint(w.width(), 0)).x() > right]  # fmt: skip


LONG = "A part whose name goes on and on, since somebody wrote down everything that lies in it, number"


@pytest.fixture(params=[1.0, 1.5])
def scaled(request, window_on, tmp_path):
    from plain_stride.board.page import Page
    from plain_stride.desk.settings import Settings
    from plain_stride.job.job_files import new_job

    path = tmp_path / "A job with a rather long name of its own.stride"
    new_job(path, Page((120.0, 90.0), 300.0))
    Settings().put("text_scale", request.param)
    window = window_on(path)
    yield window
    THEME.text_scale = 1.0


def test_nothing_is_clipped_with_forty_parts_of_long_names(scaled):
    window = scaled
    window.session.make_several(
        [("part", {"name": f"{LONG} {n}", "tier": ("near", "middle", "far")[n % 3]}) for n in range(40)], "parts"
    )
    window.pull((10, 20), (60, 20))
    for place in at_every_station(window):
        QTest.qWait(30)
        assert clipped(window) == [], place
        assert overlapping(window) == [], place
        assert beyond(window) == [], place
    rows = window.main_window.findChildren(PartRow)
    assert len(rows) >= 40 and all(LONG in row.toolTip() for row in rows if "goes on" in row.text())


@pytest.mark.parametrize("size", [(1280, 800), (1024, 700)])
def test_the_sheet_has_its_share_of_the_window(window, size):
    window.main_window.resize(*size)
    window.main_window.desk.margins.fold_strip()
    QApplication.processEvents()
    share = window.sheet.width() * window.sheet.height() / (size[0] * size[1])
    assert window.main_window.desk.strip.isHidden()
    assert share >= (0.64 if size[0] == 1280 else 0.55)


def test_text_size_is_chosen_from_the_menu_and_kept(window):
    asked = []
    window.main_window.made_anew.connect(lambda: asked.append(True))
    window.main_window.use_text_scale(1.25)
    assert asked and window.main_window.settings.number("text_scale", 1.0) == 1.25
    assert QRect(window.main_window.rect()).contains(window.sheet.geometry().topLeft())
