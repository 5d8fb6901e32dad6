"""Units. Outside values: the inch is 25.4 mm exactly (1959); ISO 216 A4; page sums that are common practice."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plain_stride import measure
from plain_stride.board.page import Page, placed
from plain_stride.measure import MeasureError


@pytest.mark.parametrize(
    ("size_mm", "dpi", "pixels"),
    [
        ((15.5 * 25.4, 18 * 25.4), 400, (6200, 7200)),  # common practice: 15.5 x 18 in at 400 dpi
        ((338.6667, 508.0), 300, (4000, 6000)),  # common practice: 4,000 x 6,000 px at 300 dpi
        ((210.0, 297.0), 300, (2480, 3508)),  # A4 of ISO 216 at 300 dpi, common practice
        ((120.0, 90.0), 300, (1417, 1063)),
    ],
)
def test_page_pixels(size_mm, dpi, pixels):
    assert measure.page_pixels(size_mm, dpi) == pixels


def test_thinnest_visible_at_reading_distance():
    assert measure.thinnest_visible_mm(300.0) == pytest.approx(0.0873, abs=5e-5)  # one arcmin at 300 mm


def test_ladder_steps_by_about_sqrt_2():
    steps = [b / a for a, b in zip(measure.LADDER[:-1], measure.LADDER[1:], strict=True)]
    assert min(steps) > 1.35
    assert max(steps) < 1.45


def test_points_are_seventy_seconds_of_an_inch():
    assert measure.pt_from_mm(25.4) == pytest.approx(72.0)


@given(st.floats(0.1, 4000), st.floats(0.1, 4000))
def test_sizes_are_read_as_they_are_written(w, h):
    assert measure.parse_size(f"{w:.4f}x{h:.4f}mm") == pytest.approx((w, h), abs=1e-4)


@pytest.mark.parametrize("text", ["8x10in", "8×10 in", " 8 X 10IN "])
def test_inches(text):
    assert measure.parse_size(text) == pytest.approx((203.2, 254.0))


@pytest.mark.parametrize(
    "text", ["", "120", "120x", "axbmm", "0x5mm", "-1x5mm", "1e9x1mm", "12x9px", "1.2.3x4mm", "6000x1mm"]
)
def test_nonsense_sizes_are_refused(text):
    with pytest.raises(MeasureError):
        measure.parse_size(text)


@pytest.mark.parametrize(("text", "mm"), [("0.3", 0.3), ("0,3 mm", 0.3), ("1in", 25.4), (".5 mm", 0.5), ("2 cm", 20.0)])
def test_typed_lengths(text, mm):
    assert measure.parse_length_mm(text) == pytest.approx(mm)


@pytest.mark.parametrize("text", ["", "mm", "1.2.3", "one", "3 px", "nan"])
def test_nonsense_lengths_are_refused(text):
    with pytest.raises(MeasureError):
        measure.parse_length_mm(text)


def test_a_page_that_no_export_could_hold_is_refused():
    with pytest.raises(MeasureError, match="too many"):
        Page((4000.0, 4000.0), 1200.0)


def test_enlargement_never_changes_the_export():
    assert Page((120.0, 90.0), 300.0, 2.0).pixels == (1417, 1063)


def test_a_scan_lies_at_its_own_dpi_from_the_corner():
    assert placed((400, 300), (100.0, 100.0), Page((120.0, 90.0), 300.0)) == pytest.approx((0, 0, 101.6, 76.2))


def test_a_scan_of_an_enlarged_sheet_is_reduced():
    assert placed((400, 300), (100.0, 100.0), Page((120.0, 90.0), 300.0, 2.0))[2] == pytest.approx(50.8)


def test_a_scan_without_dpi_is_fitted_and_centred():
    x, y, w, h = placed((400, 200), None, Page((120.0, 90.0), 300.0))
    assert (w, h) == pytest.approx((120.0, 60.0))
    assert (x, y) == pytest.approx((0.0, 15.0))


@pytest.mark.parametrize("dpi", [72.0, 300.0, 600.0, 1200.0])
@pytest.mark.parametrize("pixels", [(1, 1), (1417, 1063), (5669, 3780), (13999, 7)])
def test_a_size_in_pixels_has_just_so_many(dpi, pixels):
    w, h = pixels
    size = measure.parse_size(f"{w}x{h}px", dpi)
    assert measure.page_pixels(size, dpi) == pixels
    assert size[0] == pytest.approx(w * 25.4 / dpi, abs=1e-6)
    assert measure.parse_length_mm(f"{w} px", dpi) == pytest.approx(w * 25.4 / dpi)


@pytest.mark.parametrize("text", ["0x100px", "1000000x1000000px", "-3x4px"])
def test_pixels_that_make_no_board_are_refused(text):
    with pytest.raises(measure.MeasureError):
        measure.parse_size(text, 300.0)


def test_pixels_are_no_length_where_no_resolution_goes_with_them():
    for read, text in ((measure.parse_size, "100x100px"), (measure.parse_length_mm, "100 px")):
        with pytest.raises(measure.MeasureError, match="pixels are no length here"):
            read(text)
