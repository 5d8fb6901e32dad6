"""Printing at true size: a PDF printed by Qt, read by an independent reader (pdfium)."""

import itertools

import numpy as np
import pypdfium2 as pdfium
import pytest
from PySide6.QtWidgets import QApplication

from plain_stride.board.page import Page
from plain_stride.board.sheets_of_paper import OVERLAP_MM, lies_better_on_its_side, pieces
from plain_stride.desk.dialogs.print_out import INK, PENCILS, pdf_printer
from plain_stride.job.job_files import new_job
from plain_stride.pencils.scanner import scan

DPI = 200


@pytest.mark.parametrize("size", [(100.0, 80.0), (198.0, 285.0), (240.0, 160.0), (420.0, 594.0)])
def test_pieces_cover_a_board_and_overlap(size):
    paper = (198.0, 285.0)
    parts = pieces(size, paper)
    grid = np.zeros((round(size[1]), round(size[0])), int)
    for x, y, w, h in parts:
        assert w <= paper[0] + 1e-6 and h <= paper[1] + 1e-6
        grid[round(y) : round(y + h), round(x) : round(x + w)] += 1
    assert grid.min() == 1 and (len(parts) == 1) == (grid.max() == 1)
    columns = sorted({x for x, *_ in parts})
    for a, b in itertools.pairwise(columns):
        assert a + paper[0] - b == pytest.approx(OVERLAP_MM)


def test_a_wide_board_lies_on_its_side():
    assert lies_better_on_its_side((240.0, 160.0), (198.0, 285.0))
    assert not lies_better_on_its_side((160.0, 240.0), (198.0, 285.0))
    with pytest.raises(ValueError, match="no larger"):
        pieces((100.0, 100.0), (9.0, 9.0))


def pages(path):
    """Each page as (mm, rgb at DPI)."""
    out = []
    for page in pdfium.PdfDocument(path):
        size = [v * 25.4 / 72.0 for v in page.get_size()]
        out.append((size, page.render(scale=DPI / 72.0).to_numpy()[:, :, :3]))
    return out


def printed(window, what, path):
    printing, said = window.main_window.desk.dialogs.printing, []
    window.session.said.connect(lambda words, fault: said.append((words, fault)))
    assert printing.begin(what, pdf_printer(path))
    window.wait_until(lambda: any("rinted" in words for words, _ in said))
    QApplication.processEvents()
    return next(words for words, _ in said if "rinted" in words)


def test_ink_is_printed_at_true_size_and_no_pencils(window, tmp_path):
    window.session.make("draw", shape="straight", points=[[20, 30], [100, 30]], nib="9", pressure=0.5)
    window.session.make("draw", shape="straight", points=[[20, 30], [20, 70]], nib="9", pressure=0.5)
    window.session.make("pencils-add", data=scan([np.array([[10.0, 80.0], [110.0, 80.0]])], (120.0, 90.0), 100.0, 1),
                        name="rough")  # fmt: skip
    assert "1 sheet" in printed(window, INK, tmp_path / "ink.pdf")
    ((size, rgb),) = pages(tmp_path / "ink.pdf")
    assert sorted(size) == pytest.approx([210.0, 297.0], abs=0.5)
    dark = rgb.mean(axis=2) < 128
    ys, xs = np.nonzero(dark)
    mm = 25.4 / DPI
    wide, high = (np.ptp(xs) + 1) * mm, (np.ptp(ys) + 1) * mm
    half = float(window.session.job.nibs()["9"].width(np.array([0.5]))[0])
    # A straight of 80 mm, and one of 40 mm, with the ends of the nib.
    assert wide == pytest.approx(80.0 + half, abs=half / 2 + 0.4) and high == pytest.approx(40.0 + half, abs=half)
    # In the middle of the paper: the board's own middle is the paper's.
    left = xs.min() * mm
    assert left == pytest.approx((size[0] - 120.0) / 2.0 + 20.0 - half / 2, abs=0.6 + half / 2)
    coloured = np.ptp(rgb.astype(int), axis=2) > 12
    assert not coloured.any()


def test_pencils_are_printed_in_pale_blue_and_no_ink(window, tmp_path):
    window.session.make("draw", shape="straight", points=[[20, 30], [100, 30]], nib="9", pressure=0.5)
    window.session.make("pencils-add", data=scan([np.array([[10.0, 60.0], [110.0, 60.0]])], (120.0, 90.0), 150.0, 1),
                        name="rough")  # fmt: skip
    printed(window, PENCILS, tmp_path / "pencils.pdf")
    ((_, rgb),) = pages(tmp_path / "pencils.pdf")
    drawn = rgb.reshape(-1, 3)[rgb.min(axis=2).ravel() < 235].astype(int)
    assert len(drawn) > 300
    assert drawn.min() >= 150
    blue = drawn[:, 2] if np.median(drawn[:, 2]) > np.median(drawn[:, 0]) else drawn[:, 0]
    assert (blue >= drawn.min(axis=1)).all() and np.median(blue - drawn.min(axis=1)) >= 20


def test_a_board_larger_than_the_paper_goes_on_several_sheets(window_on, tmp_path):
    path = tmp_path / "large.stride"
    new_job(path, Page((420.0, 297.0), 150.0))
    window = window_on(path)
    window.session.make("draw", shape="straight", points=[[10, 10], [410, 287]], nib="9", pressure=0.5)
    words = printed(window, INK, tmp_path / "large.pdf")
    done = pages(tmp_path / "large.pdf")
    assert len(done) == 4 and "4 sheets" in words and "ticks" in words
    assert all((rgb.mean(axis=2) < 128).any() for _, rgb in done)


def test_what_cannot_be_printed_is_said(window, tmp_path):
    said = []
    window.session.said.connect(lambda words, fault: said.append((words, fault)))
    window.main_window.desk.dialogs.printing.ask(PENCILS)
    assert said[-1] == ("There are no pencils to print: place a scan at Pencils.", True)
    words = printed(window, INK, tmp_path / "missing" / "folder" / "out.pdf")
    assert "Nothing was printed" in words and "cannot be written" in words


def test_printing_is_stopped_by_escape_and_by_what_is_offered(window, tmp_path):
    for k in range(12):
        window.session.make("draw", shape="straight", points=[[10, 10 + 5 * k], [110, 12 + 5 * k]], nib="9")
    printing, said = window.main_window.desk.dialogs.printing, []
    window.session.said.connect(lambda words, fault: said.append(words))
    for stop in (lambda: window.main_window.desk.give_up(), lambda: window.main_window.desk.message.take_offer()):
        said.clear()
        assert printing.begin(INK, pdf_printer(tmp_path / "stopped.pdf"))
        stop()
        window.wait_until(lambda: any("printed" in words.casefold() for words in said))
        assert said == ["Stopped: nothing was printed."]
    assert not (tmp_path / "stopped.pdf").exists()
