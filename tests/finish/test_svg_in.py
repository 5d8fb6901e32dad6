"""SVG files from anywhere: shapes by closed forms, looks by the specification, pixels against resvg."""

import io
import math

import numpy as np
import pytest
import resvg_py
from PIL import Image

from plain_stride.board.page import Page
from plain_stride.finish.svg import svg_text
from plain_stride.finish.svg_in import SvgBlack, SvgLine, read_svg
from plain_stride.finish.svg_tree import SvgError
from plain_stride.hand.nib import DEFAULT_NIB
from plain_stride.job.art import art_of
from plain_stride.job.changes import make_all
from plain_stride.job.job_files import new_job, opened
from plain_stride.job.reading import svg_changes
from plain_stride.job.shapes import Shapes
from plain_stride.lines.curve import Arc
from plain_stride.render.export import png_of

PX = 25.4 / 96.0


def svg(body, more='width="100mm" height="60mm" viewBox="0 0 100 60"'):
    return f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {more}>{body}</svg>'.encode()


def one(body, **kw):
    things = read_svg(svg(body, **kw)).things
    assert len(things) == 1
    return things[0]


STROKED = 'fill="none" stroke="black"'


@pytest.mark.parametrize(
    ("shape", "length", "closed"),
    [
        ('<line x1="10" y1="10" x2="40" y2="50" {}/>', 50.0, False),
        ('<circle cx="50" cy="30" r="20" {}/>', 2 * math.pi * 20, True),
        ('<rect x="5" y="5" width="40" height="20" {}/>', 120.0, True),
        ('<rect x="5" y="5" width="40" height="20" rx="4" {}/>', 120 - 32 + 2 * math.pi * 4, True),
        ('<polyline points="0,0 30,40 60,40" {}/>', 80.0, False),
        ('<polygon points="0 0,30 40,60 0" {}/>', 160.0, True),
        ('<path d="M10 30a20 20 0 0 1 40 0" {}/>', math.pi * 20, False),
        ('<path d="M10 30h20v10H10z" {}/>', 60.0, True),
        ('<path d="M0 0Q50 0 50 50" {}/>', None, False),
    ],
)
def test_every_basic_shape_has_its_length(shape, length, closed):
    line = one(shape.format(STROKED))
    assert isinstance(line, SvgLine) and line.form.closed == closed
    if length is not None:
        assert Arc(line.form.curve).length == pytest.approx(length, rel=1e-5)
    assert line.form.widths.full.max() == pytest.approx(1.0)


def test_an_ellipse_has_its_length():
    """Ramanujan's second approximation, good to 1e-9 here."""
    a, b = 30.0, 20.0
    h = ((a - b) / (a + b)) ** 2
    wanted = math.pi * (a + b) * (1 + 3 * h / (10 + math.sqrt(4 - 3 * h)))
    assert Arc(one(f'<ellipse cx="50" cy="30" rx="30" ry="20" {STROKED}/>').form.curve).length == pytest.approx(
        wanted, rel=1e-5
    )


@pytest.mark.parametrize(
    ("unit", "mm"), [("mm", 1), ("cm", 10), ("in", 25.4), ("pt", 25.4 / 72), ("pc", 25.4 / 6), ("px", PX), ("", PX)]
)
def test_units(unit, mm):
    """CSS: 96 px, 72 pt and 6 pc an inch."""
    line = one(f'<path d="M0 0h10" {STROKED} stroke-width="2{unit}"/>', more="")
    assert line.form.widths.full.max() == pytest.approx(2 * mm)
    assert Arc(line.form.curve).length == pytest.approx(10 * PX)


@pytest.mark.parametrize(
    ("more", "scale"),
    [
        ('width="50mm" height="30mm" viewBox="0 0 100 60"', 0.5),
        ('viewBox="0 0 100 60"', PX),
        ('width="200" viewBox="0 0 100 60"', 2 * PX),
        ('width="100%" height="100%" viewBox="0 0 100 60"', PX),
        ('width="100mm" height="100mm" viewBox="0 0 100 50" preserveAspectRatio="xMinYMin slice"', 2.0),
    ],
)
def test_the_view_box_says_how_large(more, scale):
    line = one(f'<path d="M10 10h10" {STROKED}/>', more=more)
    assert Arc(line.form.curve).length == pytest.approx(10 * scale)
    assert line.form.widths.full.max() == pytest.approx(scale)


def test_transforms_nest_and_swell_the_pen():
    line = one(
        f'<g transform="translate(10 5) scale(2)"><g transform="rotate(90)"><path d="M0 0h10" {STROKED}/></g></g>'
    )
    assert np.allclose(line.form.curve[0, 0], (10, 5)) and np.allclose(line.form.curve[-1, 3], (10, 25))
    assert line.form.widths.full.max() == pytest.approx(2.0)


def test_a_stretched_pen_is_wide_one_way():
    across = one(f'<path transform="scale(3 1)" d="M1 1v10" {STROKED}/>')
    along = one(f'<path transform="scale(3 1)" d="M1 1h10" {STROKED}/>')
    assert across.form.widths.full.max() == pytest.approx(3.0)
    assert along.form.widths.full.max() == pytest.approx(1.0)
    same = one(f'<path transform="scale(3 1)" d="M1 1h10" {STROKED} vector-effect="non-scaling-stroke"/>')
    assert same.form.widths.full.max() == pytest.approx(PX)


def test_styles_cascade():
    """Attributes below style sheets, these below style attributes; ids above classes above tags (CSS 2.1, 6.4)."""
    body = """<style>/* a */ path{stroke-width:2} .a{stroke-width:3} #b{stroke-width:4} g > .c{stroke-width:5}
    svg g .d{stroke-width:6} @media print{path{stroke-width:9}} path:hover{stroke-width:8}</style><g fill="none" stroke="#000">
    <path d="M0 0h1" stroke-width="7"/><path class="a" d="M0 0h2"/><path class="a" id="b" d="M0 0h3"/>
    <path class="c" d="M0 0h4"/><path class="d" d="M0 0h5"/><path class="a" style="stroke-width:1 !important" d="M0 0h6"/></g>"""
    art = read_svg(svg(body))
    assert [round(t.form.widths.full.max(), 6) for t in art.things] == [2, 3, 4, 5, 6, 1]
    assert "path:hover" in art.sentence()


def test_use_symbol_and_nested_svg():
    body = f"""<defs><path id="p" d="M0 0h10"/><symbol id="s" viewBox="0 0 10 10"><path d="M0 0h10" {STROKED}/></symbol></defs>
    <use href="#p" x="5" y="6" {STROKED}/><use xlink:href="#s" x="20" y="20" width="30" height="30"/>
    <svg x="50" y="5" width="20" height="20" viewBox="0 0 5 5"><path d="M0 0h5" {STROKED}/></svg><use href="#p2"/>"""
    art = read_svg(svg(body))
    starts = [tuple(np.round(t.form.curve[0, 0], 6)) for t in art.things]
    assert starts == [(5, 6), (20, 20), (50, 5)]
    assert [round(Arc(t.form.curve).length, 6) for t in art.things] == [10, 30, 20]
    assert "uses of what is not in the file" in art.sentence()


def test_use_that_uses_itself_ends():
    read = read_svg(svg(f'<g id="g"><path d="M0 0h9" {STROKED}/><use href="#g" x="1"/></g>'))
    assert "nested too deeply" in read.sentence() or len(read.things) > 1


def test_fills_are_blacks_and_light_ones_white_in_parts_of_their_own():
    art = read_svg(
        svg(
            '<rect width="40" height="20"/><circle cx="20" cy="10" r="4" fill="white"/><path d="M0 0h9v9z" fill="#222" fill-rule="evenodd"/>'
        )
    )
    assert [type(t) for t in art.things] == [SvgBlack] * 3
    assert [t.part for t in art.things] == ["Lines", "Lines, white", "Lines 2"]
    assert art.inks == {"Lines, white": "white"} and art.parts()[0] == "Lines 2"
    assert [t.black.rule for t in art.things] == ["nonzero", "nonzero", "evenodd"]


def test_ends_dashes_and_dots():
    for cap, kind, length in (("butt", "flat", 10), ("round", "round", 10), ("square", "flat", 14)):
        line = one(f'<path d="M20 20h10" {STROKED} stroke-width="4" stroke-linecap="{cap}"/>')
        assert line.ends == (kind, kind) and Arc(line.form.curve).length == pytest.approx(length)
    dashes = read_svg(svg(f'<path d="M0 0h20" {STROKED} stroke-dasharray="4 2" stroke-dashoffset="1"/>')).things
    assert [round(Arc(d.form.curve).length, 6) for d in dashes] == [3, 4, 4, 3]
    dot = one(f'<path d="M20 20z" {STROKED} stroke-width="3" stroke-linecap="round"/>')
    assert np.allclose(dot.form.curve[0, 0], (20, 20)) and dot.form.widths.full.max() == pytest.approx(3)
    with pytest.raises(SvgError):
        read_svg(svg(f'<path d="M20 20z" {STROKED}/>'))


@pytest.mark.parametrize("hidden", ['display="none"', 'visibility="hidden"', 'opacity="0"', 'style="display:none"'])
def test_what_is_not_drawn_does_not_come(hidden):
    assert len(read_svg(svg(f'<path d="M0 0h9" {STROKED}/><path d="M0 5h9" {STROKED} {hidden}/>')).things) == 1


def test_what_cannot_be_read_is_told():
    body = f"""<text>a</text><image href="a.png"/><path d="M0 0h9" {STROKED} opacity=".5" clip-path="url(#c)" marker-end="url(#m)"/>
    <rect width="9" height="9" fill="url(#g)"/><line x1="nonsense" {STROKED}/><polyline points="0 0 5 9 9 0" {STROKED}/>"""
    told = read_svg(svg(body)).sentence()
    for words in ("texts", "pictures", "see-through", "clips", "gradients", "arrow heads", "'nonsense'", "corners"):
        assert words in told


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"\x89PNG",
        b"<html/>",
        svg(""),
        svg("<path d='M0 0'/>"),
        b"<!DOCTYPE svg [<!ENTITY a 'aaaa'>]><svg xmlns='http://www.w3.org/2000/svg'><path d='M0 0h9' stroke='red'/>&a;</svg>",
        svg("<g>" * 5000 + "</g>" * 5000),
    ],
)
def test_what_is_no_drawing_is_refused_in_a_sentence(data):
    with pytest.raises(SvgError, match=r"nothing was imported|nested"):
        read_svg(data)


def test_a_doctype_of_old_files_is_no_trouble():
    head = b'<?xml version="1.0"?><!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd">'
    assert len(read_svg(head + svg(f'<path d="M0 0h9" {STROKED}/>')).things) == 1


def brought_in(data, tmp_path, size=(100.0, 60.0), dpi=254.0):
    """(job, shapes, page as grey pixels) of a job with the file in it."""
    path = tmp_path / "in.stride"
    new_job(path, Page(size, dpi))
    with opened(path, write=True) as (job, store):
        shapes = Shapes(job, store)
        made = make_all(job, shapes, svg_changes(data, DEFAULT_NIB, set())[0])
        store.commit(made.commit)
        page = np.asarray(Image.open(io.BytesIO(png_of(art_of(job, shapes), False, False))), float)
        return job, shapes, page, svg_text(art_of(job, shapes))


PICTURE = f"""<g transform="rotate(8 50 30)"><rect x="8" y="6" width="50" height="30" rx="3" {STROKED} stroke-width="2"
stroke-linejoin="round"/><circle cx="30" cy="20" r="9"/><circle cx="30" cy="20" r="5" fill="white"/></g>
<g transform="matrix(1 .2 -.4 1.3 30 2)"><path d="M10 30C20 10 40 50 60 20S70 5 75 9" {STROKED} stroke-width="3" stroke-linecap="round"/></g>
<path d="M60 40l10 14-16-9h19l-15 9z" fill-rule="evenodd"/><path d="M80 40l10 14-16-9h19l-15 9z"/>
<path d="M5 50h40" {STROKED} stroke-width="1.5" stroke-dasharray="5 2 1 2"/>"""


def test_pixels_agree_with_resvg(tmp_path):
    _, _, ours, _ = brought_in(svg(PICTURE), tmp_path)
    theirs = resvg_py.svg_to_bytes(svg_string=svg(PICTURE).decode(), dpi=254, background="#ffffff", width=1000)
    theirs = np.asarray(Image.open(io.BytesIO(bytes(theirs))).convert("L"), float)
    assert ours.shape == theirs.shape
    assert np.abs(ours - theirs).mean() / 255 < 0.002


def test_ours_comes_back_as_it_was_with_its_blacks(tmp_path):
    job, _, _, text = brought_in(svg(PICTURE), tmp_path)
    again = read_svg(text.encode())
    assert [t.part for t in again.things] == [p for part in reversed(job.parts()) for p in [part.name] * sum(
        1 for k in job.ink_ids() if job.inked(k).part == part.id)]  # fmt: skip
    assert sum(isinstance(t, SvgBlack) for t in again.things) == len(job.rows.blacks) == 4
    with pytest.raises(SvgError, match="damaged"):
        read_svg(text.replace('stride:black="b', 'stride:black="b', 1).replace(' d="M', ' d="Mx', 99).encode())
