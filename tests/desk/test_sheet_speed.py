"""What keeps the sheet quick: pictures painted in slices, changes that repaint only what they touch."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, QRect
from PySide6.QtGui import QImage

from plain_stride.desk.sheet.bands import band_of
from plain_stride.desk.sheet.ink_index import InkIndex
from plain_stride.desk.sheet.ink_layer import InkLayer


def pixels(image: QImage) -> np.ndarray:
    image = image.convertToFormat(QImage.Format.Format_Grayscale8)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : image.width()].astype(int)


def whole(layer: InkLayer, window) -> np.ndarray:
    layer.begin(window.sheet.view, window.sheet.size(), 1.0)
    while layer.busy:
        layer.work(1.0)
    return pixels(layer.image)


@pytest.fixture
def drawn(window):
    for y in range(15, 80, 8):
        window.pull((10, y), (60, y + 9), (110, y))
    return window


def test_slices_and_one_stroke_paint_the_same_picture(drawn):
    at_once = whole(InkLayer(drawn.session), drawn)
    layer = InkLayer(drawn.session)
    layer.begin(drawn.sheet.view, drawn.sheet.size(), 1.0)
    slices = 0
    while layer.busy:
        layer.work(0.0)
        slices += 1
    assert slices > 4
    assert (pixels(layer.image) == at_once).all()


@pytest.mark.parametrize("change", ["pull", "swell", "delete", "undo"])
def test_a_mended_picture_is_that_of_a_new_one(drawn, change):
    key = next(iter(drawn.lines()))
    drawn.settle()
    if change == "pull":
        drawn.pull((20, 20), (100, 70))
    elif change == "swell":
        drawn.session.make("swell", line=key, factor=1.8)
    elif change == "delete":
        drawn.session.make("delete", lines=[key])
    else:
        drawn.session.timeline.undo()
    drawn.settle()
    assert np.abs(pixels(drawn.sheet.layer.image) - whole(InkLayer(drawn.session), drawn)).max() <= 2


def test_a_turned_board_is_shown_at_once_and_sharp_soon_after(drawn):
    drawn.sheet.viewport.set_view(drawn.sheet.view.turned(30, QPointF(300, 300)))
    assert drawn.ink_at(drawn.session.shapes[next(iter(drawn.lines()))].arc.point(np.array([50.0]))[0]) > 100
    drawn.wait_until(lambda: drawn.sheet.layer.view == drawn.sheet.view and not drawn.sheet.layer.busy)


def test_a_change_while_a_view_is_being_painted_is_in_it(drawn):
    layer = drawn.sheet.layer
    layer.begin(drawn.sheet.view, drawn.sheet.size(), 1.0)
    layer.work(0.0)
    drawn.session.make("delete", lines=list(drawn.lines()))
    drawn.sheet.repaint()
    while layer.busy:
        layer.work(1.0)
    assert drawn.ink_at((60, 20)) < 20


def test_strips_and_true_outlines_look_alike(drawn, monkeypatch):
    quick = whole(InkLayer(drawn.session), drawn)
    monkeypatch.setattr("plain_stride.desk.sheet.ink_layer.QUICK_SCALES", ())
    assert np.abs(quick - whole(InkLayer(drawn.session), drawn)).mean() < 0.05


def test_the_index_finds_what_touches_a_box(drawn):
    index, shapes = InkIndex(), drawn.session.shapes
    for key in drawn.lines():
        index.put(key, shapes[key])
    box = (0.0, 14.0, 120.0, 22.0)
    wanted = {k for k in drawn.lines() if shapes[k].box[1] <= 22.0 and shapes[k].box[3] >= 14.0}
    assert set(index.touching(box)) == wanted
    assert len(wanted) < len(drawn.lines())
    gone = wanted.pop()
    index.put(gone, None)
    assert set(index.touching(box)) == wanted
    assert index.shape(gone) is None


def test_the_band_of_a_line_holds_its_ink_and_little_more(drawn):
    shape = drawn.session.shapes[next(iter(drawn.lines()))]
    region = band_of(shape, drawn.sheet.view)
    for ring in shape.rings:
        for x, y in drawn.sheet.view.to_glass(ring)[::7]:
            assert region.contains(QRect(int(x), int(y), 1, 1))
    area = sum(r.width() * r.height() for r in list(region))
    bounds = region.boundingRect()
    assert area < 0.5 * bounds.width() * bounds.height()


def test_the_view_of_a_whole_page_needs_no_true_outlines(window, monkeypatch):
    """A true outline of a line takes twenty times as long as the strip that serves the eye at this size."""
    from plain_stride.lines.shape import Shape

    window.pull((10, 20), (110, 70))
    asked = []
    monkeypatch.setattr(Shape, "rings", property(lambda shape: asked.append(shape) or []))
    window.sheet.layer._paths.clear()
    window.sheet.compositor.redraw()
    window.settle()
    assert window.sheet.view.scale < 8.0 and asked == []
