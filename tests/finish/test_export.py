"""Exports. Outside: svgelements and resvg read our SVG, Pillow our PNG; a 16 x 16 supersampled mask for coverage."""

import io
import json
import xml.etree.ElementTree as ET

import numpy as np
import pytest
import resvg_py
import svgelements
from PIL import Image

from plain_stride.cli import main
from plain_stride.finish.art import ExportStopped
from plain_stride.finish.svg import SvgError, svg_text
from plain_stride.finish.svg_in import read_svg
from plain_stride.finish.write import WriteError, write_whole
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.job.art import art_of
from plain_stride.render.export import Pixels, png_of
from plain_stride.render.raster import grey_page

U = np.linspace(0, 1, 60)


@pytest.fixture
def drawn(open_job):
    """Pulled lines in two parts, one far, one with white ink above a thick black line; a closed line; a hidden part."""
    from plain_stride.hand.pull import Pull
    from plain_stride.lines.curve import circle
    from plain_stride.lines.given import form_of_width

    for k in range(4):
        target = np.column_stack([10 + 100 * U, 15 + 14 * k + 6 * np.sin(5 * U + k)])
        samples = pulled(target, HANDS["average"], "normal", k)
        open_job.do("pull", pull=Pull(samples), part="waves & <hills>", role="outer", id=f"wave {k}")
    nib = open_job.job.nibs()["3"]
    open_job.do("line", form=form_of_width(circle((60, 45), 25), True, 3.0), nib=nib, part="ring", id="ring")
    open_job.pull((40, 45), (80, 45), part="scratch", id="scratch", pressure=1.0)
    open_job.do("part", name="scratch", ink="white")
    open_job.do("part", name="scratch", tier="near")
    open_job.pull((0, 0), (120, 90), part="ghost", id="ghost")
    open_job.do("part", name="ghost", hidden=True)
    open_job.do("trim", line="wave 1", at=[100.0, 25.0])
    open_job.do("swell", line="wave 2", factor=1.6, **{"from": 20.0, "to": 60.0})
    return open_job


def art(opened):
    return art_of(opened.job, opened.shapes)


def test_svg_is_in_mm_with_a_group_a_part(drawn):
    root = ET.fromstring(svg_text(art(drawn)))
    assert (root.get("width"), root.get("height"), root.get("viewBox")) == ("120mm", "90mm", "0 0 120 90")
    groups = [g.get("{urn:plain-stride:1}part") for g in root.findall("{http://www.w3.org/2000/svg}g")]
    assert groups == ["ring", "waves & <hills>", "scratch"]
    assert "ghost" not in svg_text(art(drawn))


def test_svg_outlines_are_curves(drawn):
    shapes = [
        e
        for e in svgelements.SVG.parse(io.StringIO(svg_text(art(drawn)))).elements()
        if isinstance(e, svgelements.Path)
    ]
    assert len(shapes) == 6
    assert max(len(s) for s in shapes) < 200


def test_svg_brings_lines_back_to_a_millionth(drawn, tmp_path):
    text = svg_text(art(drawn))
    (tmp_path / "o.svg").write_text(text)
    back = tmp_path / "back.stride"
    assert main(["new", str(back), "--size", "120x90mm", "--dpi", "300"]) == 0
    assert main(["import", str(back), str(tmp_path / "o.svg")]) == 0
    from plain_stride.job.job_files import opened
    from plain_stride.job.shapes import Shapes

    with opened(back) as (job, store):
        shapes = Shapes(job, store)
        wanted = [line for part in art(drawn).parts for line in part.lines]
        assert [*job.rows.lines] == [line.id for line in wanted]
        for line in wanted:
            ours, theirs = line.shape, shapes[line.id]
            assert theirs.curve == pytest.approx(ours.curve, abs=1e-6)
            assert theirs.closed == ours.closed
            assert theirs.ends == ours.ends
            at = np.linspace(0, ours.length, 500)
            for a, b in zip(ours.widths.at(at), theirs.widths.at(at), strict=True):
                assert b == pytest.approx(a, abs=1e-6)
            assert job.rows.lines[line.id].form is not None
        again = svg_text(art_of(job, shapes))
    assert again.count("<path") == text.count("<path")


def test_svg_pixels_agree_with_ours(drawn):
    """resvg draws the SVG at the board's dpi."""
    page = art(drawn).page
    theirs = resvg_py.svg_to_bytes(svg_string=svg_text(art(drawn)), dpi=page.dpi, background="#ffffff")
    theirs = np.asarray(Image.open(io.BytesIO(bytes(theirs))).convert("L"), float)
    ours = np.asarray(Image.open(io.BytesIO(png_of(art(drawn), False, False))), float)
    rows = min(len(ours), len(theirs))
    assert np.abs(ours[:rows] - theirs[:rows]).mean() / 255 < 0.002
    assert (np.abs(ours[:rows] - theirs[:rows]) > 96).mean() < 0.0005


def test_a_textured_line_is_the_same_in_svg_and_pixels_and_comes_back_so(open_job):
    """Outside: resvg draws the SVG; Pillow reads our PNG."""
    from plain_stride.hand.nib import Nib
    from plain_stride.hand.pull import Pull

    samples = pulled(np.array([[10.0, 20.0], [110.0, 60.0]]), HANDS["average"], "normal", 1)
    open_job.do("pull", pull=Pull(samples, Nib("dry", 0.3, 1.4, grain=0.1)), part="reeds", id="reed")
    text = svg_text(art(open_job))
    theirs = resvg_py.svg_to_bytes(svg_string=text, dpi=art(open_job).page.dpi, background="#ffffff")
    theirs = np.asarray(Image.open(io.BytesIO(bytes(theirs))).convert("L"), float)
    ours = np.asarray(Image.open(io.BytesIO(png_of(art(open_job), False, False))), float)
    rows = min(len(ours), len(theirs))
    assert np.abs(ours[:rows] - theirs[:rows]).sum() < 0.02 * (255.0 - ours).sum()
    (line,) = read_svg(text.encode()).things
    assert line.grain == 0.1
    pictured = svg_text(art(open_job), grain=Pixels().picture)
    drawn = resvg_py.svg_to_bytes(svg_string=pictured, dpi=art(open_job).page.dpi, background="#ffffff")
    drawn = np.asarray(Image.open(io.BytesIO(bytes(drawn))).convert("L"), float)
    assert pictured.count("<image ") == 1 and len(read_svg(pictured.encode()).things) == 1
    assert np.abs(ours[:rows] - drawn[:rows]).sum() < 0.05 * (255.0 - ours).sum()
    with pytest.raises(SvgError):
        read_svg(text.replace('stride:grain="0.1"', 'stride:grain="9"').encode())


@pytest.mark.parametrize(
    "text",
    [
        "",
        "<svg",
        "<svg xmlns='http://www.w3.org/2000/svg'/>",
        "<!DOCTYPE svg [<!ENTITY a 'b'>]><svg>&a;</svg>",
        "<svg xmlns:s='urn:plain-stride:1'><g s:part='a'><path s:id='x' s:centre='1 2 3' s:widths=''/></g></svg>",
        "<svg xmlns:s='urn:plain-stride:1'><g s:part='a'><path s:id='x' s:centre='0 0 1 1 2 2 nan 3' s:widths='0 1 1 3 1 1'/></g></svg>",
        "<svg xmlns:s='urn:plain-stride:1'><g s:part='a'><path s:id='x' s:centre='0 0 1 1 2 2 3 3' s:widths='0 1 1 3 -1 1'/></g></svg>",
    ],
)
def test_damaged_svg_is_refused(text):
    with pytest.raises(SvgError):
        read_svg(text.encode())


def test_png_is_of_the_board_with_its_dpi(drawn):
    for bw, clear, mode in ((False, False, "L"), (True, False, "1"), (False, True, "RGBA")):
        picture = Image.open(io.BytesIO(png_of(art(drawn), bw, clear)))
        assert picture.size == (1417, 1063)
        assert picture.mode == mode
        assert picture.info["dpi"] == pytest.approx((300, 300), abs=0.1)


def test_ink_on_nothing_laid_on_white_is_ink_on_white(drawn):
    clear = Image.open(io.BytesIO(png_of(art(drawn), False, True)))
    paper = Image.new("RGBA", clear.size, (255, 255, 255, 255))
    laid = np.asarray(Image.alpha_composite(paper, clear).convert("L"), int)
    solid = np.asarray(Image.open(io.BytesIO(png_of(art(drawn), False, False))), int)
    assert np.abs(laid - solid).max() <= 3


def test_black_and_white_is_the_grey_one_at_half(drawn):
    grey = np.asarray(Image.open(io.BytesIO(png_of(art(drawn), False, False))))
    one_bit = np.asarray(Image.open(io.BytesIO(png_of(art(drawn), True, False))))
    assert ((grey >= 128) == one_bit).all()


def sampled_coverage(ring: np.ndarray, width: int, height: int) -> np.ndarray:
    """0..255 (height, width): 16 scan lines a row, exact along each, of one simple ring in pixels."""
    a, b = ring, np.roll(ring, -1, axis=0)
    out = np.zeros((height, width + 1))
    for k in range(height * 16):
        y = (k + 0.5) / 16
        hit = (a[:, 1] <= y) != (b[:, 1] <= y)
        x = np.sort(a[hit, 0] + (y - a[hit, 1]) / (b[hit, 1] - a[hit, 1]) * (b[hit, 0] - a[hit, 0]))
        for x0, x1 in zip(x[::2], x[1::2], strict=True):
            columns = np.arange(int(x0), int(x1) + 1)
            out[k // 16, columns] += np.minimum(columns + 1, x1) - np.maximum(columns, x0)
    return out[:, :width] / 16 * 255


def test_coverage_agrees_with_16_x_16_samples(drawn):
    line = next(line for part in art(drawn).parts for line in part.lines if line.id == "wave 0")
    ours = 255 - grey_page([("black", line.shape.rings)], (1417, 1063), 300.0)
    truth = sampled_coverage(line.shape.rings[0] * (300 / 25.4), 1417, 700)
    edges = (truth > 2) & (truth < 253)
    assert edges.sum() > 1000
    assert np.abs(ours[:700].astype(float) - truth)[edges].mean() <= 3.0


def test_pencils_never_appear_in_an_export(drawn):
    from plain_stride.pencils.scanner import scan

    before = png_of(art(drawn), False, False), svg_text(art(drawn))
    drawn.do("pencils-add", data=scan([np.array([[5.0, 5.0], [110.0, 80.0]])], (120.0, 90.0), 100.0, 1), name="rough")
    assert (png_of(art(drawn), False, False), svg_text(art(drawn))) == before


def test_exports_can_be_stopped(drawn):
    with pytest.raises(ExportStopped):
        png_of(art(drawn), False, False, lambda share: False)
    with pytest.raises(ExportStopped):
        svg_text(art(drawn), lambda share: share < 0.5)


def test_an_export_is_whole_or_not_at_all(tmp_path):
    target = tmp_path / "o.svg"
    write_whole(target, b"one")
    write_whole(target, b"two")
    assert target.read_bytes() == b"two"
    assert [p.name for p in tmp_path.iterdir()] == ["o.svg"]
    with pytest.raises(WriteError):
        write_whole(tmp_path / "none" / "o.svg", b"x")


def test_json_export_is_what_lines_says(drawn, tmp_path, capsys):
    drawn.store.close()
    assert main(["export", str(drawn.path), str(tmp_path / "o.json")]) == 0
    assert main(["lines", str(drawn.path), "--json"]) == 0
    assert json.loads((tmp_path / "o.json").read_text()) == json.loads(capsys.readouterr().out)


def test_grain_is_written_as_pictures_by_the_command_line(open_job, tmp_path, capsys):
    from plain_stride.hand.nib import Nib
    from plain_stride.hand.pull import Pull

    samples = pulled(np.array([[10.0, 20.0], [60.0, 30.0]]), HANDS["average"], "normal", 1)
    open_job.do("pull", pull=Pull(samples, Nib("dry", 0.3, 1.4, grain=0.1)), part="reeds", id="reed")
    open_job.store.close()
    out = tmp_path / "o.svg"
    assert main(["export", str(open_job.path), str(out), "--grain", "pixels"]) == 0
    assert out.read_text().count("<image ") == 1
    assert main(["export", str(open_job.path), str(out), "--grain", "vector"]) == 0
    assert "<image" not in out.read_text()
    assert main(["export", str(open_job.path), str(tmp_path / "o.png"), "--grain", "pixels"]) == 2
    assert "goes with .svg" in capsys.readouterr().err
