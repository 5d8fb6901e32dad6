"""A proof as sheets to hand on: the page with its red marks, then each note with its figures and its place before and
after. As one HTML file, and as a PDF."""

import base64
import html
import io
from dataclasses import dataclass
from typing import Any

from plain_stride.finish.pdf import PT_PER_MM
from plain_stride.texts import clean

RED, INK, FAINT = "#B3261E", "#302D33", "#655F66"
RING_MM, AWAY_MM = 2.6, 5.2
MARGIN_MM, PAPER_MM, ROW_MM, CROP_MM = 14.0, (210.0, 297.0), 27.0, 24.0
"""Of the PDF: margins, paper, how high a note is, and the picture of its place."""


@dataclass(frozen=True)
class NoteRow:
    """number; severity; title; figures: what was measured against what; says: the advice; mend: what it would do, ''
    for none; at: mm; before, after: PNG of its place, b'' for none."""

    number: int
    severity: str
    title: str
    figures: str
    says: str
    mend: str
    at: tuple[float, float]
    before: bytes
    after: bytes


@dataclass(frozen=True)
class ProofSheet:
    """title: the job's name; sentence: what it comes to; picture: PNG of the whole page; crop_mm: how wide the pictures
    of places are; remarks: the reviewer's own words."""

    title: str
    sentence: str
    size_mm: tuple[float, float]
    picture: bytes
    rows: tuple[NoteRow, ...]
    crop_mm: float
    remarks: tuple[str, ...] = ()


def proof_html(sheet: ProofSheet) -> bytes:
    """One file that stands alone."""
    wide, high = sheet.size_mm
    marks = "".join(_svg_mark(row, sheet.size_mm) for row in sheet.rows)
    notes = "".join(_html_row(row, sheet.crop_mm) for row in sheet.rows)
    remarks = "".join(f"<li>{html.escape(clean(words))}</li>" for words in sheet.remarks)
    own = f"<h2>Remarks</h2><ul>{remarks}</ul>" if remarks else ""
    page = (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Proof of {html.escape(clean(sheet.title))}'
        f"</title><style>{_STYLE}</style></head><body><h1>Proof of {html.escape(clean(sheet.title))}</h1>"
        f"<p>{html.escape(sheet.sentence)}</p>"
        f'<svg viewBox="0 0 {wide:g} {high:g}" class="page"><image width="{wide:g}" height="{high:g}" '
        f'href="{_data(sheet.picture)}"/>{marks}</svg>{own}<table>{notes}</table></body></html>\n'
    )
    return page.encode()


_STYLE = (
    f"body{{font:15px/1.4 sans-serif;color:{INK};max-width:62em;margin:2em auto;padding:0 1em}}"
    f".page{{width:100%;border:1px solid #CBC1B0;background:#fff}}table{{border-collapse:collapse;margin-top:1.5em}}"
    f"td{{vertical-align:top;padding:.5em .8em .5em 0;border-top:1px solid #CBC1B0}}.n{{color:{RED};font-weight:600}}"
    f".s{{color:{FAINT}}}td img{{width:9em;border:1px solid #CBC1B0}}h2{{font-size:1em}}"
)


def _svg_mark(row: NoteRow, size_mm: tuple[float, float]) -> str:
    x, y = row.at
    u, v = _ring_at(row.at, size_mm)
    return (f'<g stroke="{RED}" fill="none" stroke-width=".35"><path d="M{x:.2f} {y:.2f}L{u:.2f} {v:.2f}"/>'
            f'<circle cx="{u:.2f}" cy="{v:.2f}" r="{RING_MM}" fill="#fff"/></g>'
            f'<text x="{u:.2f}" y="{v + 0.9:.2f}" font-size="2.6" text-anchor="middle" fill="{RED}">{row.number}'
            "</text>")  # fmt: skip


def _ring_at(at: tuple[float, float], size_mm: tuple[float, float]) -> tuple[float, float]:
    """Beside its place, towards the middle of the page where it lies near an edge."""
    x, y = at
    return (x + AWAY_MM if x < size_mm[0] - 2.0 * AWAY_MM else x - AWAY_MM,
            y - AWAY_MM if y > 2.0 * AWAY_MM else y + AWAY_MM)  # fmt: skip


def _html_row(row: NoteRow, crop_mm: float) -> str:
    pictures = "".join(f'<td><img src="{_data(png)}" alt="{word}"><br><span class="s">{word}</span></td>'
                       if png else "<td></td>" for png, word in ((row.before, f"{crop_mm:g} mm, now"),
                                                                 (row.after, "mended")))  # fmt: skip
    mend = f"<br>Mend: {html.escape(row.mend)}." if row.mend else ""
    return (f'<tr><td class="n">{row.number}</td><td><b>{html.escape(row.title)}</b> <span class="s">'
            f"{row.severity}, {row.at[0]:.1f}, {row.at[1]:.1f} mm</span><br>{html.escape(row.figures)}<br>"
            f"{html.escape(row.says)}{mend}</td>{pictures}</tr>")  # fmt: skip


def _data(png: bytes) -> str:
    return f"data:image/png;base64,{base64.b64encode(png).decode()}"


def proof_pdf(sheet: ProofSheet) -> bytes:
    """The page with its marks on the first sheet of A4, the notes on those that follow."""
    from reportlab.pdfgen.canvas import Canvas

    out = io.BytesIO()
    page = Canvas(out, pagesize=tuple(v * PT_PER_MM for v in PAPER_MM), invariant=1, pageCompression=1)
    page.setTitle(f"Proof of {clean(sheet.title)}")
    page.setProducer("Plain Stride")
    y = _pdf_head(page, sheet)
    y = _pdf_page(page, sheet, y)
    for words in sheet.remarks:
        y = _pdf_line(page, y, f"Remark: {clean(words)}")
    page.showPage()
    y = MARGIN_MM
    for row in sheet.rows:
        if y + ROW_MM > PAPER_MM[1] - MARGIN_MM:
            page.showPage()
            y = MARGIN_MM
        _pdf_row(page, row, y)
        y += ROW_MM
    if sheet.rows:
        page.showPage()
    page.save()
    return out.getvalue()


def _text(page: Any, x: float, y: float, words: str, size: float = 9.0, bold: bool = False, red: bool = False) -> None:
    """Words whose foot lies at x, y mm from the upper left; letters that the font lacks become question marks."""
    page.setFont("Helvetica-Bold" if bold else "Helvetica", size)
    page.setFillColor(RED if red else INK)
    page.drawString(x * PT_PER_MM, (PAPER_MM[1] - y) * PT_PER_MM, words.encode("cp1252", "replace").decode("cp1252"))


def _pdf_head(page: Any, sheet: ProofSheet) -> float:
    _text(page, MARGIN_MM, MARGIN_MM + 5.0, f"Proof of {clean(sheet.title)}", 15.0, True)
    return _pdf_line(page, MARGIN_MM + 12.0, sheet.sentence)


def _pdf_line(page: Any, y: float, words: str) -> float:
    for line in _wrapped(words, 100):
        _text(page, MARGIN_MM, y, line, 10.0)
        y += 5.0
    return y


def _pdf_page(page: Any, sheet: ProofSheet, y: float) -> float:
    """The page with rings; the y below it, mm."""
    room = PAPER_MM[0] - 2.0 * MARGIN_MM, PAPER_MM[1] - y - 2.0 * MARGIN_MM
    scale = min(room[0] / sheet.size_mm[0], room[1] / sheet.size_mm[1])
    wide, high = (v * scale for v in sheet.size_mm)
    _pdf_image(page, sheet.picture, MARGIN_MM, y, wide, high)
    for row in sheet.rows:
        u, v = _ring_at(row.at, sheet.size_mm)
        at, ring = ((MARGIN_MM + a * scale, PAPER_MM[1] - y - b * scale) for a, b in (row.at, (u, v)))
        page.setStrokeColor(RED)
        page.setFillColor("#ffffff")
        page.setLineWidth(0.8)
        page.line(*(value * PT_PER_MM for value in (*at, *ring)))
        page.circle(*(value * PT_PER_MM for value in ring), 2.0 * PT_PER_MM, fill=1)
        page.setFont("Helvetica-Bold", 6.5)
        page.setFillColor(RED)
        page.drawCentredString(ring[0] * PT_PER_MM, (ring[1] - 0.8) * PT_PER_MM, str(row.number))
    return y + high + 8.0


def _pdf_row(page: Any, row: NoteRow, y: float) -> None:
    left = MARGIN_MM + 2.0 * (CROP_MM + 3.0)
    for k, png in enumerate((row.before, row.after)):
        if png:
            _pdf_image(page, png, MARGIN_MM + k * (CROP_MM + 3.0), y, CROP_MM, CROP_MM)
    _text(page, left, y + 4.0, f"{row.number}", 11.0, True, True)
    _text(page, left + 8.0, y + 4.0, f"{row.title}  ({row.severity}, {row.at[0]:.1f}, {row.at[1]:.1f} mm)", 10.0, True)
    lines = [row.figures, *_wrapped(row.says, 78), *(_wrapped(f"Mend: {row.mend}.", 78) if row.mend else ())]
    for n, line in enumerate(lines[:4]):
        _text(page, left + 8.0, y + 9.0 + 4.4 * n, line)


def _pdf_image(page: Any, png: bytes, x: float, y: float, wide: float, high: float) -> None:
    from reportlab.lib.utils import ImageReader

    page.drawImage(ImageReader(io.BytesIO(png)), x * PT_PER_MM, (PAPER_MM[1] - y - high) * PT_PER_MM,
                   wide * PT_PER_MM, high * PT_PER_MM)  # fmt: skip
    page.setStrokeColor("#CBC1B0")
    page.setLineWidth(0.4)
    page.rect(x * PT_PER_MM, (PAPER_MM[1] - y - high) * PT_PER_MM, wide * PT_PER_MM, high * PT_PER_MM)


def _wrapped(words: str, letters: int) -> list[str]:
    import textwrap

    return textwrap.wrap(words, letters) or [""]
