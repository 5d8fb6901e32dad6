"""A sheet of all nibs at all pressures, at true print size: to be printed and laid beside the work."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from plain_stride.finish.svg import ring_d
from plain_stride.hand.nib import Nib
from plain_stride.lines.edits import End
from plain_stride.lines.given import form_from_points
from plain_stride.lines.profile import Widths
from plain_stride.lines.recipe import Recipe, given_centreline, shape_of
from plain_stride.lines.shape import Shape
from plain_stride.measure import MM_PER_INCH
from plain_stride.texts import clean

SIZE_MM = (210.0, 297.0)
LEFT_MM, TOP_MM, ROW_MM, STROKE_MM = 14.0, 26.0, 28.5, 108.0
STEPS = (0.0, 0.2, 0.4, 0.6, 0.8, 1.0)
STEP_LEFT_MM, STEP_MM, BAR_MM = 132.0, 12.6, 7.5
TITLE_MM, NAME_MM, LABEL_MM = 5.0, 3.6, 2.8
FAMILY = "sans-serif"


@dataclass(frozen=True)
class Label:
    """Words whose foot begins at x, y mm, so many mm high."""

    x: float
    y: float
    high: float
    words: str


@dataclass(frozen=True, eq=False)
class NibSheet:
    """strokes: of each nib, a long one from no pressure to all and back, then one at each of STEPS. All in mm."""

    size_mm: tuple[float, float]
    strokes: tuple[Shape, ...]
    labels: tuple[Label, ...]


def nib_sheet(nibs: Mapping[str, Nib], title: str) -> NibSheet:
    """The sheet of nibs by their keys, titled with the name of a job or a set."""
    strokes: list[Shape] = []
    labels = [Label(LEFT_MM, 14.0, TITLE_MM, f"Nibs of {clean(title)}, at print size"),
              Label(LEFT_MM, 20.0, LABEL_MM, "From no pressure to all and back; then at steps of it, with the width in"
                    " mm. Print at 100 %.")]  # fmt: skip
    for row, (key, nib) in enumerate(nibs.items()):
        y = TOP_MM + row * ROW_MM
        name = "" if nib.name == key else f"{clean(nib.name)}, "
        words = f"{key}   {name}{nib.lightest:g} to {nib.heaviest:g} mm"
        labels.append(Label(LEFT_MM, y + 4.0, NAME_MM, words))
        strokes.append(_long(nib, y + 15.0))
        for n, pressure in enumerate(STEPS):
            x = STEP_LEFT_MM + n * STEP_MM
            width = float(nib.width(np.array([pressure]))[0])
            strokes.append(_stroke(nib, np.array([[x, y + 15.0], [x + BAR_MM, y + 15.0]]), np.full(2, width)))
            labels += [
                Label(x, y + 4.0, LABEL_MM, f"{pressure * 100:.0f} %"),
                Label(x, y + 22.0, LABEL_MM, f"{width:.2f}"),
            ]
    return NibSheet(SIZE_MM, tuple(strokes), tuple(labels))


def _long(nib: Nib, y: float) -> Shape:
    u = np.linspace(0.0, 1.0, 240)
    points = np.column_stack([LEFT_MM + u * STROKE_MM, y + 2.0 * np.sin(2.0 * np.pi * u)])
    return _stroke(nib, points, nib.width(1.0 - np.abs(2.0 * u - 1.0)))


def _stroke(nib: Nib, points: np.ndarray, full: np.ndarray) -> Shape:
    form = form_from_points(points, full / 2.0, full / 2.0, False)
    widths = Widths(form.widths.s, form.widths.left, form.widths.right)
    end = End("round" if nib.ends != "flat" else "flat")
    return shape_of(Recipe(given_centreline(form.curve), nib, (end, end), given=widths))


def nib_sheet_svg(sheet: NibSheet) -> bytes:
    """The sheet as SVG in mm: each stroke a filled outline, words as text."""
    w, h = sheet.size_mm
    out = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{w:g}mm" height="{h:g}mm"'
        f' viewBox="0 0 {w:g} {h:g}">',
    ]
    for shape in sheet.strokes:
        out.append(f'<path d="{" ".join(ring_d(ring) for ring in shape.edge_curves)}"/>')
    for label in sheet.labels:
        words = label.words.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
        out.append(f'<text x="{label.x:g}" y="{label.y:g}" font-family="{FAMILY}" font-size="{label.high:g}"'
                   f' xml:space="preserve">{words}</text>')  # fmt: skip
    return "\n".join([*out, "</svg>", ""]).encode()


def nib_sheet_pdf(sheet: NibSheet) -> bytes:
    """The sheet as a page of PDF."""
    import io

    from reportlab.pdfgen.canvas import Canvas

    per_mm = 72.0 / MM_PER_INCH
    w, h = (v * per_mm for v in sheet.size_mm)
    out = io.BytesIO()
    page = Canvas(out, pagesize=(w, h), invariant=1, pageCompression=1)
    page.setTitle("Nibs")
    page.setFillGray(0.0)
    for label in sheet.labels:
        page.setFont("Helvetica", label.high * per_mm)
        page.drawString(label.x * per_mm, h - label.y * per_mm, label.words)
    page.transform(per_mm, 0.0, 0.0, -per_mm, 0.0, h)
    for shape in sheet.strokes:
        path = page.beginPath()
        for curve in shape.edge_curves:
            path.moveTo(*curve[0, 0].tolist())
            for piece in np.asarray(curve):
                path.curveTo(*piece[1:].ravel().tolist())
            path.close()
        page.drawPath(path, stroke=0, fill=1, fillMode=1)
    page.showPage()
    page.save()
    return out.getvalue()


WRITERS = {".svg": nib_sheet_svg, ".pdf": nib_sheet_pdf}
