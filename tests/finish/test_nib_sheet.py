"""The sheet of nibs: widths on it are measured by independent readers (resvg for SVG, pdfium for PDF)."""

import io

import numpy as np
import pypdfium2 as pdfium
import pytest
import resvg_py
from PIL import Image

from plain_stride.cli.entry import main
from plain_stride.finish.nib_sheet import (
    BAR_MM,
    ROW_MM,
    STEP_LEFT_MM,
    STEP_MM,
    STEPS,
    TOP_MM,
    nib_sheet,
    nib_sheet_pdf,
    nib_sheet_svg,
)
from plain_stride.hand.nib import standard_nibs

PER_MM = 20.0
SHEET = nib_sheet(standard_nibs(), "Lock keeper")
"""Made once: the edges of its strokes take seconds."""


def from_svg(data):
    png = resvg_py.svg_to_bytes(svg_string=data.decode(), dpi=round(PER_MM * 25.4), background="#ffffff")
    return np.asarray(Image.open(io.BytesIO(bytes(png))).convert("L"), float)


def from_pdf(data):
    (page,) = pdfium.PdfDocument(data)
    assert [v * 25.4 / 72 for v in page.get_size()] == pytest.approx([210, 297], abs=0.1)
    return page.render(scale=PER_MM * 25.4 / 72.0).to_numpy()[:, :, :3].mean(axis=2)


@pytest.mark.parametrize("read", [(nib_sheet_svg, from_svg), (nib_sheet_pdf, from_pdf)])
def test_every_nib_is_as_wide_on_it_as_it_says_at_every_pressure(read):
    write, reader = read
    nibs = standard_nibs()
    grey = reader(write(SHEET))
    for row, nib in enumerate(nibs.values()):
        if nib.grain:
            continue
        y = TOP_MM + row * ROW_MM + 15.0
        for n, pressure in enumerate(STEPS):
            x = STEP_LEFT_MM + n * STEP_MM + BAR_MM / 2.0
            column = 255.0 - grey[int((y - 4.0) * PER_MM) : int((y + 4.0) * PER_MM), int(x * PER_MM)]
            wide = column.sum() / 255.0 / PER_MM
            assert wide == pytest.approx(float(nib.width(np.array([pressure]))[0]), abs=0.03)


def test_the_command_line_writes_it_and_refuses_what_it_cannot(tmp_path, capsys):
    job = tmp_path / "a.stride"
    assert main(["new", str(job), "--size", "100x80mm", "--dpi", "300"]) == 0
    for kind in ("svg", "pdf"):
        assert main(["nibs", str(job), "--sheet", str(tmp_path / f"nibs.{kind}")]) == 0
        assert (tmp_path / f"nibs.{kind}").stat().st_size > 5000
    assert b"&lt;" not in (tmp_path / "nibs.svg").read_bytes()
    assert main(["nibs", str(job), "--sheet", str(tmp_path / "nibs.bmp")]) == 1
    assert "written as .svg or .pdf" in capsys.readouterr().err
