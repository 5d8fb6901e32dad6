"""PDF of final art. Outside: PDFium reads and draws it; a point is 1/72 in (PostScript and PDF)."""

import io
from dataclasses import replace

import numpy as np
import pypdfium2
import pypdfium2.raw as raw
import pytest
from PIL import Image

from plain_stride import cli
from plain_stride.finish.art import ExportStopped
from plain_stride.finish.pdf import pdf_bytes
from plain_stride.finish.writers import WRITERS, Choices
from plain_stride.job.art import art_of
from plain_stride.render.export import Pixels, png_of

PT = 72.0 / 25.4


@pytest.fixture
def inked(open_job):
    """Lines that cross, a ring, a cover over a line behind it, white on black."""
    open_job.pull((10, 70), (60, 20), (110, 70), part="Near", role="outer", pressure=0.9)
    open_job.do("draw", shape="ellipse", points=[[60, 45], [75, 60]], part="Near", role="outer")
    open_job.do("part", name="Far", tier="far")
    open_job.pull((5, 45), (115, 47), part="Far")
    open_job.do("cover", name="Near", on=True)
    open_job.do("part", name="Light", tier="near", ink="white")
    open_job.pull((60, 30), (62, 60), part="Light", pressure=1.0)
    return open_job


def drawn(data, dpi):
    page = pypdfium2.PdfDocument(data)[0]
    return np.asarray(page.render(scale=dpi / 72.0, grayscale=True).to_pil(), float)


def test_it_is_drawn_as_our_pixels_are(inked):
    # At four times the board's dpi what is left of other smoothing at edges is small.
    art = art_of(inked.job, inked.shapes)
    art = replace(art, page=replace(art.page, dpi=4.0 * art.page.dpi))
    theirs = drawn(pdf_bytes(art), art.page.dpi)
    ours = np.asarray(Image.open(io.BytesIO(png_of(art, False, False))).convert("L"), float)
    rows, columns = (min(a, b) for a, b in zip(ours.shape, theirs.shape, strict=True))
    apart = np.abs(ours[:rows, :columns] - theirs[:rows, :columns])
    assert abs(ours.shape[0] - theirs.shape[0]) <= 1 and abs(ours.shape[1] - theirs.shape[1]) <= 1
    assert apart.sum() < 0.02 * (255.0 - ours).sum() and (apart > 96).mean() < 5e-4
    assert (255.0 - theirs).sum() == pytest.approx((255.0 - ours).sum(), rel=0.01)


def test_its_boxes_are_the_sheet_and_its_bleed(inked):
    inked.do("board", bleed_mm=3.0)
    page = pypdfium2.PdfDocument(pdf_bytes(art_of(inked.job, inked.shapes, 3.0)))[0]
    w, h = 126 * PT, 96 * PT
    assert page.get_mediabox() == pytest.approx((0, 0, w, h), abs=0.01)
    assert page.get_bleedbox() == pytest.approx((0, 0, w, h), abs=0.01)
    assert page.get_trimbox() == pytest.approx((3 * PT, 3 * PT, w - 3 * PT, h - 3 * PT), abs=0.01)


def test_lines_are_curves_in_drawing_order(inked):
    document = pypdfium2.PdfDocument(pdf_bytes(art_of(inked.job, inked.shapes)))
    paths = [o for o in document[0].get_objects() if o.type == raw.FPDF_PAGEOBJ_PATH]
    assert len(paths) == len(inked.job.rows.lines)
    kinds = [raw.FPDFPathSegment_GetType(raw.FPDFPath_GetPathSegment(paths[-1], k))
             for k in range(raw.FPDFPath_CountSegments(paths[-1]))]  # fmt: skip
    assert raw.FPDF_SEGMENT_BEZIERTO in kinds and raw.FPDF_SEGMENT_LINETO not in kinds
    # The white line lies nearest, and its outline has no more pieces than the contract gives an outline.
    assert len(kinds) <= 3 * 4 * len(inked.shapes[inked.job.line_ids()[-1]].curve) + 4


def test_the_same_art_is_the_same_file_and_stopping_leaves_none(inked):
    art = art_of(inked.job, inked.shapes)
    assert pdf_bytes(art) == pdf_bytes(art)
    with pytest.raises(ExportStopped):
        pdf_bytes(art, progress=lambda share: share < 0.5)
    assert len(pypdfium2.PdfDocument(pdf_bytes(art_of(inked.job, inked.shapes.__class__(inked.job))))) == 1


def test_every_writer_writes_what_its_reader_reads(inked, tmp_path, capsys):
    art = art_of(inked.job, inked.shapes)
    heads = {".svg": b"<?xml", ".pdf": b"%PDF", ".png": b"\x89PNG", ".tif": b"II*", ".ora": b"PK"}
    assert set(heads) == set(WRITERS)
    for ending, writer in WRITERS.items():
        assert writer.write(art, Choices(), Pixels(), None).startswith(heads[ending])
    inked.store.close()
    out = tmp_path / "a.pdf"
    assert cli.main(["export", str(inked.path), str(out)]) == 0 and out.read_bytes().startswith(b"%PDF")
    assert cli.main(["export", str(inked.path), str(tmp_path / "b.pdf"), "--bw"]) == 2
    assert cli.main(["export", str(inked.path), str(tmp_path / "b.eps")]) == 2
    assert "is not known" in capsys.readouterr().err and not (tmp_path / "b.pdf").exists()
