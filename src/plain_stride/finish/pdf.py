"""PDF of final art: one page with its boxes, each line a filled outline of curves, back to front.

The page's own units are points of 1/72 in, y up; the trim box is the finished sheet, the bleed box and the media box
hold its bleed as well.
"""

import io
from collections.abc import Sequence
from typing import Any

import numpy as np

from plain_stride.finish.art import Art, ArtBlack, ArtLine, ExportStopped, Progress
from plain_stride.lines.edge_curves import edge_curves
from plain_stride.measure import MM_PER_INCH

PT_PER_MM = 72.0 / MM_PER_INCH
INKS = {"black": 0.0, "white": 1.0}
EVEN_ODD, NON_ZERO = 0, 1
"""As the library numbers the two ways of filling."""


def pdf_bytes(art: Art, progress: Progress | None = None) -> bytes:
    """The whole file. progress: told the share done after each line; returning False raises ExportStopped."""
    from reportlab.pdfgen.canvas import Canvas

    w, h = (v * PT_PER_MM for v in art.whole.size_mm)
    bleed = art.bleed * PT_PER_MM
    out = io.BytesIO()
    # An invariant file has no time of its making in it: the same art is the same file.
    page = Canvas(out, pagesize=(w, h), trimBox=(bleed, bleed, w - bleed, h - bleed), bleedBox=(0.0, 0.0, w, h),
                  invariant=1, pageCompression=1)  # fmt: skip
    page.setTitle(art.name)
    page.setAuthor("")
    page.setProducer("Plain Stride")
    page.transform(PT_PER_MM, 0.0, 0.0, -PT_PER_MM, bleed, h - bleed)
    done, total = 0, sum(len(part.lines) for part in art.parts)
    for part in art.parts:
        page.setFillGray(INKS[part.ink])
        for line in part.lines:
            _fill(page, line)
            done += 1
            if progress is not None and not progress(done / total):
                raise ExportStopped("the export was stopped: no file was written")
    page.showPage()
    page.save()
    return out.getvalue()


def _fill(page: Any, line: ArtLine | ArtBlack) -> None:
    curves = _curves(line)
    if not curves:
        return
    path = page.beginPath()
    for curve in curves:
        path.moveTo(*curve[0, 0].tolist())
        for piece in np.asarray(curve):
            path.curveTo(*piece[1:].ravel().tolist())
        path.close()
    even_odd = isinstance(line, ArtBlack) and not line.covers and line.shape.rule == "evenodd"
    page.drawPath(path, stroke=0, fill=1, fillMode=EVEN_ODD if even_odd else NON_ZERO)


def _curves(line: ArtLine | ArtBlack) -> Sequence[np.ndarray]:
    """Closed chains of cubics (m, 4, 2), mm, of what is seen of it."""
    if line.covers:
        return edge_curves(line.seen(), _pieces(line))
    return line.shape.curves if isinstance(line, ArtBlack) else line.shape.edge_curves


def _pieces(line: ArtLine | ArtBlack) -> int:
    return len(line.shape.curve) if isinstance(line, ArtLine) else sum(map(len, line.shape.curves))
