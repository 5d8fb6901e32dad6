"""Ladder, floor, enlargement, other uses, targets, frames, job sheet: against handbook sums and closed forms."""

import json
import math
from datetime import date

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plain_stride.board.enlarging import MOST, STEP, after_reduction, worth
from plain_stride.board.frames import Frame, FrameError, drawn, grid, merged, split
from plain_stride.board.job_sheet import JobSheet, SheetError, sheet_from_row
from plain_stride.board.ladder import LOST, RISKY, SAFE, floor_of, ladder, verdict
from plain_stride.board.page import Page
from plain_stride.board.targets import STANDARD, PrintTarget, TargetError, scaled, targets_from_json, targets_json
from plain_stride.board.uses import Use, fallen

A4 = Page((210.0, 297.0), 600.0)


def test_the_ladder_is_that_of_iso_128_in_mm_pt_and_px():
    """ISO 128-2 widths; 1 pt is 1/72 in; px by hand: .35 / 25.4 x 600 = 8.2677."""
    steps = ladder(A4, STANDARD["fine offset"])
    assert [s.mm for s in steps] == [0.13, 0.18, 0.25, 0.35, 0.5, 0.7, 1.0, 1.4, 2.0]
    one = next(s for s in steps if s.mm == 0.35)
    assert one.px == pytest.approx(8.2677, abs=1e-4)
    assert one.pt == pytest.approx(0.99213, abs=1e-5)
    assert one.pen_px == pytest.approx((8.2677, 12.4016, 16.5354), abs=1e-4)


def test_an_enlarged_pen_grows_as_the_trade_has_it():
    """Common practice: at 150 to 200 % a pen of 3 px becomes about 5 to 6."""
    page = Page((210.0, 297.0), 300.0)
    step = next(s for s in ladder(page, STANDARD["fine offset"]) if s.mm == 0.25)
    assert step.px == pytest.approx(2.95, abs=0.01)
    assert 4.4 < step.pen_px[1] < 5.0 < step.pen_px[2] < 6.0


@pytest.mark.parametrize(
    ("target", "dpi", "mm", "why"),
    [
        ("newsprint", 600.0, 0.25, "the print"),
        ("fine offset", 600.0, 0.09, "the print"),
        ("fine offset", 100.0, 0.254, "one pixel"),
        # 1 arcmin at 1 m is 0.2909 mm, at 4 m 1.1636 mm: the eye is the finer one nowhere but close by.
        ("wall projection", 600.0, 3.0, "the print"),
    ],
)
def test_the_floor_is_the_largest_of_three(target, dpi, mm, why):
    floor = floor_of(Page((210.0, 297.0), dpi), STANDARD[target])
    assert floor.mm == pytest.approx(mm, abs=1e-3)
    assert floor.why == why


def test_one_arcmin_at_a_distance():
    """tan(1/60 degree) = 2.90888e-4, from a table."""
    far = PrintTarget("far", 0.05, 0.05, 300.0, 1000.0)
    floor = floor_of(Page((50.0, 50.0), 2400.0), far)
    assert floor.seen_mm == pytest.approx(0.290888, abs=1e-6)
    assert floor.why == "the eye"


def test_a_step_is_lost_below_the_floor_and_safe_a_step_above_it():
    assert verdict(0.249, 0.25) == LOST
    assert verdict(0.25, 0.25) == RISKY
    assert verdict(0.3535, 0.25) == RISKY
    assert verdict(0.3536, 0.25) == SAFE
    words = [s.verdict for s in ladder(A4, STANDARD["newsprint"])]
    assert words == [LOST, LOST, RISKY, RISKY, SAFE, SAFE, SAFE, SAFE, SAFE]


@given(st.floats(0.0, 1.0), st.sampled_from(list(STANDARD)))
def test_the_enlargement_that_is_worth_it_is_the_least_that_hides_the_shake(tremor, name):
    w = worth(tremor, STANDARD[name])
    assert w.times / STEP == pytest.approx(round(w.times / STEP))
    assert 1.0 <= w.times <= MOST
    if w.reached:
        assert w.bump_mm / w.times <= w.seen_mm * (1 + 1e-9)
        assert w.times == 1.0 or w.bump_mm / (w.times - STEP) > w.seen_mm
    else:
        assert w.times == MOST
        assert w.bump_mm / w.times > w.seen_mm


def test_a_pen_after_reduction():
    px, mm = after_reduction(6.0, Page((210.0, 297.0), 300.0, 2.0))
    assert (px, mm) == pytest.approx((3.0, 0.254))


def test_lines_that_fall_below_the_floor_elsewhere():
    """On a card at half the width, a floor of .13 mm in print is .26 mm of this art."""
    card = Use("card", 105.0, STANDARD["digital press"])
    found = fallen(
        card, A4, {"thin": np.full(10, 0.25), "tips": np.r_[0.1, np.full(9, 0.5)], "bold": np.full(10, 0.27)}
    )
    assert found.factor == 0.5
    assert found.floor_mm == pytest.approx(0.26)
    assert found.lines == ("thin",)
    assert found.dpi == 1200.0


def test_scaled_targets_ask_for_more_when_the_art_is_reduced():
    half = scaled(STANDARD["newsprint"], 0.5)
    assert (half.line_mm, half.gap_mm, half.dpi) == (0.5, 0.7, 150.0)


def test_targets_go_out_and_come_in_again():
    own = PrintTarget("riso", 0.3, 0.4, 600.0, 350.0, own=True)
    text = targets_json([own])
    assert json.loads(text)["units"] == "mm"
    assert targets_from_json(json.loads(text)) == [own]


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({}, "no 'targets'"),
        ({"targets": [{"name": "x"}]}, "lacks 'line_mm'"),
        ({"targets": [{"name": "x", "line_mm": -1, "gap_mm": 1, "dpi": 300, "distance_mm": 300}]}, "line_mm"),
        ({"targets": [{"name": "x", "line_mm": "1", "gap_mm": 1, "dpi": 300, "distance_mm": 300}]}, "line_mm"),
        ({"targets": [{"name": "x", "line_mm": 1, "gap_mm": 1, "dpi": float("nan"), "distance_mm": 300}]}, "dpi"),
        ({"targets": [STANDARD["phone"].as_row(), STANDARD["phone"].as_row()]}, "same name"),
    ],
)
def test_targets_that_cannot_be_are_told(data, words):
    with pytest.raises(TargetError, match=words):
        targets_from_json(data)


@given(st.floats(20.0, 400.0), st.floats(20.0, 400.0), st.floats(0.0, 8.0), st.floats(0.2, 0.8))
def test_split_frames_and_the_gutter_fill_the_old_one_and_merge_back(w, h, gutter, share):
    whole = Frame(5.0, 7.0, w, h)
    for way, long, a, b in (("down", w, "w", "x"), ("across", h, "h", "y")):
        one, two = split(whole, way, gutter, share)
        assert getattr(one, a) + gutter + getattr(two, a) == pytest.approx(long)
        assert getattr(two, b) - getattr(one, b) - getattr(one, a) == pytest.approx(gutter)
        again = merged([two, one])
        assert again.box == pytest.approx(whole.box)


def test_an_even_grid():
    frames = grid(Page((210.0, 297.0), 300.0), 10.0, 5.0, 3, 2)
    assert len(frames) == 6
    assert (frames[0].w, frames[0].h) == pytest.approx(((190 - 5) / 2, (277 - 10) / 3))
    assert frames[-1].box[2:] == pytest.approx((200.0, 287.0))


@pytest.mark.parametrize(
    "work",
    [
        lambda: drawn(0, 0, 1, 50),
        lambda: split(Frame(0, 0, 10, 10), "down", 8.0),
        lambda: split(Frame(0, 0, 10, 10), "aslant", 1.0),
        lambda: merged([Frame(0, 0, 10, 10)]),
        lambda: grid(Page((50.0, 50.0), 300.0), 20.0, 5.0, 3, 3),
        lambda: grid(Page((50.0, 50.0), 300.0), 0.0, 0.0, 0, 3),
    ],
)
def test_frames_that_cannot_be_are_told(work):
    with pytest.raises(FrameError):
        work()


def test_a_job_sheet_counts_days_and_refuses_nonsense():
    sheet = JobSheet(due="2026-12-24")
    assert sheet.days_left(date(2026, 11, 25)) == 29
    assert sheet_from_row(sheet.as_row()) == sheet
    assert sheet_from_row(None) == JobSheet()
    for wrong in ({"due": "soon"}, {"ink": "gold"}, {"finish": "shiny"}, {"purpose": "x" * 500}):
        with pytest.raises(SheetError):
            JobSheet(**wrong)


def test_every_standard_target_is_finite():
    assert all(math.isfinite(v) and v > 0 for t in STANDARD.values() for v in (t.line_mm, t.gap_mm, t.dpi))
