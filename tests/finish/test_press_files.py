"""Layered and press files. Outside: TIFF by tifffile, its LZW decoded by qpdf, Group 4 by PDFium as CCITTFaxDecode, PDF boxes and layers
by PDFium, OpenRaster against its published baseline with zipfile and Pillow, SVG drawn by resvg."""

import csv
import io
import json
import xml.etree.ElementTree as ET
import zipfile
from dataclasses import replace

import numpy as np
import pikepdf
import pypdfium2
import pypdfium2.raw as raw
import pytest
import resvg_py
import tifffile
from PIL import Image
from skimage import color as skcolor

from plain_stride.cli import main
from plain_stride.finish.art import ExportStopped
from plain_stride.finish.choices import Choices
from plain_stride.finish.writers import WRITERS
from plain_stride.job.art import art_of
from plain_stride.job.finished import finished_art
from plain_stride.measure import MM_PER_INCH
from plain_stride.render.export import Pixels

PT = 72.0 / MM_PER_INCH


@pytest.fixture
def inked(open_job):
    """Parts before each other, white over black, a black, hatching, two coloured inks."""
    open_job.do("part", name="Near", tier="near")
    ring = open_job.do("draw", shape="ellipse", points=[[40, 30], [80, 65]], part="Near", role="outer")
    open_job.pull((42, 45), (78, 47), part="Near", role="inner")
    open_job.pull((5, 45), (115, 50), part="Far", role="inner")
    open_job.do("cover", name="Near", on=True)
    open_job.do("part", name="Light", tier="near", order=1, ink="white")
    open_job.pull((50, 20), (70, 70), part="Light", pressure=1.0)
    open_job.do("fill", lines=[ring] if isinstance(ring, str) else list(ring))
    open_job.do("ink", name="umber", colour="#5a3a22")
    open_job.do("part", name="Far", ink="umber")
    return open_job


def written(art, kind, **choices):
    return WRITERS[kind].write(art, Choices(**choices), Pixels(), None)


def ours(art, **choices):
    return np.asarray(Image.open(io.BytesIO(written(art, ".png", **choices))))


def fax_decoded(data):
    """The pixels of a Group 4 TIFF's one strip, decoded by PDFium."""
    with tifffile.TiffFile(io.BytesIO(data)) as file:
        page = file.pages[0]
        assert page.compression == 4
        assert len(page.dataoffsets) >= 1
        rows, planes = page.rowsperstrip, []
        for k, (start, size) in enumerate(zip(page.dataoffsets, page.databytecounts, strict=True)):
            high = min(rows, page.imagelength - k * rows)
            pdf = pikepdf.new()
            sheet = pdf.add_blank_page(page_size=(page.imagewidth, high))
            image = pdf.make_stream(data[start : start + size], Type=pikepdf.Name.XObject, Subtype=pikepdf.Name.Image,
                                    Width=page.imagewidth, Height=high, BitsPerComponent=1,
                                    ColorSpace=pikepdf.Name.DeviceGray, Filter=pikepdf.Name.CCITTFaxDecode,
                                    DecodeParms=pikepdf.Dictionary(K=-1, Columns=page.imagewidth, Rows=high,
                                                                   BlackIs1=page.photometric != 0))  # fmt: skip
            sheet.obj.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(P=image))
            sheet.obj.Contents = pdf.make_stream(f"q {page.imagewidth} 0 0 {high} 0 0 cm /P Do Q".encode())
            out = io.BytesIO()
            pdf.save(out)
            seen = pypdfium2.PdfDocument(out.getvalue())[0].render(scale=1.0, grayscale=True).to_pil()
            planes.append(np.asarray(seen) < 128)
        return np.vstack(planes)


def unpacked(data, number=0):
    """The pixels of a page of an LZW TIFF, each strip decoded by qpdf, which has no part in writing it."""
    with tifffile.TiffFile(io.BytesIO(data)) as file:
        page = file.pages[number]
        assert page.compression == 5
        pdf = pikepdf.new()
        strips = [pikepdf.Stream(pdf, data[start : start + size], Filter=pikepdf.Name.LZWDecode).read_bytes()
                  for start, size in zip(page.dataoffsets, page.databytecounts, strict=True)]  # fmt: skip
        return np.frombuffer(b"".join(strips), np.uint8).reshape(page.shape)


def test_one_bit_by_group_4_is_the_one_bit_png(inked):
    art = art_of(inked.job, inked.shapes)
    dark = fax_decoded(written(art, ".tif", bw=True, by="one"))
    assert np.array_equal(dark, ~ours(art, bw=True).astype(bool))
    assert 0.005 < dark.mean() < 0.5


def test_tiff_is_grey_or_rgb_with_its_dpi_and_a_page_for_each_part(inked):
    art = art_of(inked.job, inked.shapes)
    with tifffile.TiffFile(io.BytesIO(written(art, ".tif", by="part"))) as file:
        assert len(file.pages) == 1 + sum(1 for part in art.parts if part.lines)
        page = file.pages[0]
        assert page.tags["XResolution"].value == (300, 1) and page.tags["ResolutionUnit"].value == 2
        assert np.array_equal(unpacked(written(art, ".tif", by="part")), ours(art))
        names = [one.tags["PageName"].value for one in file.pages[1:]]
        assert names == [part.name for part in art.parts if part.lines]
    grey = unpacked(written(art, ".tif", by="one", colour="grey"))
    assert grey.ndim == 2 and np.array_equal(grey, ours(art, colour="grey"))


def test_grey_is_as_light_as_the_colours(inked):
    art = art_of(inked.job, inked.shapes)
    rgb, grey = ours(art), ours(art, colour="grey")
    umber = (np.abs(rgb.astype(int) - (0x5A, 0x3A, 0x22)).max(axis=2) == 0) & (grey > 0)
    light = [skcolor.rgb2lab(np.array([[[v / 255.0] * 3]]))[0, 0, 0] for v in np.unique(grey[umber])]
    assert umber.sum() > 300
    assert light == [pytest.approx(skcolor.rgb2lab(np.array([[[0x5A, 0x3A, 0x22]]], np.uint8))[0, 0, 0], abs=0.3)]
    inked.do("ink", name="umber", colour="#000000")
    assert not art_of(inked.job, inked.shapes).coloured


def test_pdf_has_its_boxes_marks_layers_and_one_ink(inked):
    inked.do("board", bleed_mm=3.0)
    data = written(art_of(inked.job, inked.shapes, 3.0), ".pdf", marks=True)
    page = pypdfium2.PdfDocument(data)[0]
    w, h, off = 120 * PT, 90 * PT, 11 * PT
    assert page.get_trimbox() == pytest.approx((off, off, off + w, off + h), abs=0.01)
    assert page.get_bleedbox() == pytest.approx(
        (off - 3 * PT, off - 3 * PT, off + w + 3 * PT, off + h + 3 * PT), abs=0.01
    )
    assert page.get_mediabox() == pytest.approx((0, 0, w + 2 * off, h + 2 * off), abs=0.01)
    with pikepdf.open(io.BytesIO(data)) as file:
        groups = [str(one.Name) for one in file.Root.OCProperties.OCGs]
        assert groups == [part.name for part in art_of(inked.job, inked.shapes).parts]
        content = file.pages[0].Contents.read_bytes().decode()
        assert "/Font" not in file.pages[0].Resources and " Tf" not in content and " k\n" not in content
        paints = {line for line in content.split("\n") if line.endswith((" g", " rg"))}
        assert paints == {"0 g", "1 g", "0.3529 0.2275 0.1333 rg"}
    # Marks stand outside the bleed: at a corner's height, left and above.
    picture = np.asarray(page.render(scale=4.0, grayscale=True).to_pil())
    rows = picture[round(off * 4) - 1 : round(off * 4) + 2, : round((off - 3 * PT) * 4) - 2]
    assert rows.min() < 128


def test_switching_a_layer_off_takes_its_part_away(inked):
    art = art_of(inked.job, inked.shapes)
    with pikepdf.open(io.BytesIO(written(art, ".pdf"))) as file:
        far = next(one for one in file.Root.OCProperties.OCGs if str(one.Name) == "Far")
        file.Root.OCProperties.D.OFF = pikepdf.Array([far])
        file.Root.OCProperties.D.ON = pikepdf.Array([])
        out = io.BytesIO()
        file.save(out)
    left = np.asarray(pypdfium2.PdfDocument(out.getvalue())[0].render(scale=300 / 72, grayscale=True).to_pil())
    without = replace(art, things=tuple(one for one in art.things if one.name != "Far"))
    assert np.abs(left[:1060, :1410].astype(int) - ours(without, colour="grey")[:1060, :1410]).mean() < 1.0


@pytest.mark.parametrize("kind", [".pdf", ".svg"])
def test_curves_are_drawn_elsewhere_as_our_pixels_at_600_dpi(inked, kind):
    art = art_of(inked.job, inked.shapes)
    art = replace(art, page=replace(art.page, dpi=600.0))
    mine = ours(art).astype(int)
    data = written(art, kind)
    if kind == ".pdf":
        theirs = pypdfium2.PdfDocument(data)[0].render(scale=600 / 72).to_pil().convert("RGB")
    else:
        png = resvg_py.svg_to_bytes(svg_string=data.decode(), dpi=600, background="#ffffff", width=mine.shape[1])
        theirs = Image.open(io.BytesIO(bytes(png))).convert("RGB")
    theirs = np.asarray(theirs).astype(int)
    h, w = min(mine.shape[0], theirs.shape[0]), min(mine.shape[1], theirs.shape[1])
    apart = np.abs(mine[:h, :w] - theirs[:h, :w]).max(axis=2)
    assert apart.mean() <= 1.0
    # Farther than a pixel from any edge nothing differs: there the page is of one colour round a pixel.
    from scipy.ndimage import maximum_filter, minimum_filter

    grey = mine[:h, :w].sum(axis=2)
    flat = maximum_filter(grey, 5) == minimum_filter(grey, 5)
    assert flat.mean() > 0.9 and apart[flat].max() <= 1


def test_openraster_is_laid_out_as_published(inked):
    art = art_of(inked.job, inked.shapes)
    with zipfile.ZipFile(io.BytesIO(written(art, ".ora"))) as file:
        first = file.infolist()[0]
        assert (first.filename, first.compress_type, file.read(first)) == (
            "mimetype",
            zipfile.ZIP_STORED,
            b"image/openraster",
        )
        root = ET.fromstring(file.read("stack.xml"))
        assert (root.tag, root.get("w"), root.get("h"), root.get("xres")) == ("image", "1417", "1063", "300")
        layers = root.findall("./stack/layer")
        canvas = Image.new("RGBA", (1417, 1063), "white")
        for layer in reversed(layers):
            picture = Image.open(io.BytesIO(file.read(layer.get("src"))))
            assert picture.mode == "RGBA"
            alpha = np.asarray(picture)[:, :, 3]
            assert all(edge.any() for edge in (alpha[0], alpha[-1], alpha[:, 0], alpha[:, -1])), (
                "cropped to its own box"
            )
            canvas.alpha_composite(picture, (int(layer.get("x")), int(layer.get("y"))))
        merged = Image.open(io.BytesIO(file.read("mergedimage.png")))
        assert np.abs(np.asarray(canvas.convert("RGB"), int) - np.asarray(merged.convert("RGB"), int)).max() <= 3
        assert np.array_equal(np.asarray(merged), ours(art))
        assert max(Image.open(io.BytesIO(file.read("Thumbnails/thumbnail.png"))).size) <= 256
    names = [layer.get("name") for layer in layers]
    assert names == ["Light, white over black", "Near, blacks", "Near", "Far"]


@pytest.mark.parametrize(("by", "wanted"), [("one", 1), ("tier", 4), ("role", 5)])
def test_layers_may_be_of_other_things(inked, by, wanted):
    with zipfile.ZipFile(io.BytesIO(written(art_of(inked.job, inked.shapes), ".ora", by=by))) as file:
        assert len(ET.fromstring(file.read("stack.xml")).findall(".//layer")) == wanted


def test_even_lines_are_strokes_where_asked_and_look_the_same(open_job):
    open_job.do("draw", shape="straight", points=[[10, 10], [100, 60]], nib="7", part="Even")
    open_job.do("draw", shape="ellipse", points=[[30, 30], [70, 70]], nib="7", part="Even")
    open_job.pull((10, 80), (110, 40))
    art = art_of(open_job.job, open_job.shapes)
    plain, strokes = written(art, ".svg").decode(), written(art, ".svg", strokes=True).decode()
    assert (plain.count(" stroke-width="), strokes.count(" stroke-width=")) == (0, 2)
    seen = [np.asarray(Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=text, dpi=300, background="#ffffff",
                                                                            width=1417)))).convert("L"), int)
            for text in (plain, strokes)]  # fmt: skip
    assert np.abs(seen[0] - seen[1]).mean() < 0.1


def test_writers_stop_and_leave_nothing(inked):
    art = finished_art(inked.job, inked.shapes)
    for kind in WRITERS:
        with pytest.raises(ExportStopped):
            WRITERS[kind].write(art, Choices(), Pixels(), lambda share: share < 0.3)


def test_other_sizes_are_asked_and_thin_lines_told_first(inked, tmp_path, capsys):
    inked.do("draw", shape="straight", points=[[5, 5], [60, 8]], nib="1", pressure=0.0, part="Far")
    inked.store.close()
    out = tmp_path / "s.png"
    assert main(["export", str(inked.path), str(out), "--width", "400"]) == 0
    assert Image.open(io.BytesIO(out.read_bytes())).size == (400, 300)
    assert "thinner than a pixel" in capsys.readouterr().err
    assert main(["export", str(inked.path), str(out), "--bw"]) == 0
    assert "one bit drops the colours of umber; they come out black" in capsys.readouterr().err
    for wrong in (["--dpi", "0"], ["--dpi", "nan"], ["--width", "0"], ["--width", "90000"], ["--dpi", "5000"]):
        assert main(["export", str(inked.path), str(out), *wrong]) == 2


def test_a_folder_of_jobs_is_a_page_a_job(inked, tmp_path, capsys):
    inked.store.close()
    folder = tmp_path / "jobs"
    folder.mkdir()
    for name in ("b", "a", "c"):
        (folder / f"{name}.stride").write_bytes(inked.path.read_bytes())
    out = tmp_path / "all.pdf"
    assert main(["export", str(folder), str(out)]) == 0
    document = pypdfium2.PdfDocument(out)
    assert len(document) == 3 and "3 pages: a, b, c" in capsys.readouterr().out
    assert sum(o.type == raw.FPDF_PAGEOBJ_PATH for o in document[2].get_objects()) > 3
    assert main(["export", str(folder), str(tmp_path / "all.png")]) == 2


def test_the_table_has_a_row_for_each_line_with_its_figures(inked, tmp_path):
    inked.store.close()
    out = tmp_path / "t.csv"
    assert main(["export", str(inked.path), str(out)]) == 0
    rows = list(csv.DictReader(io.StringIO(out.read_text())))
    lines = json.loads(_lines_json(inked.path, tmp_path))["lines"]
    assert [row["id"] for row in rows] == [line["id"] for line in lines]
    for row, line in zip(rows, lines, strict=True):
        points = np.array(line["points"])
        closed = np.vstack([points, points[:1]]) if line["closed"] else points
        length = np.hypot(*np.diff(closed, axis=0).T).sum()
        assert float(row["length_mm"]) == pytest.approx(length, abs=0.05)
        assert float(row["most_mm"]) == pytest.approx(max(line["widths"]), abs=0.02)
    assert {row["ink"] for row in rows} == {"black", "white", "umber"}


def _lines_json(path, tmp_path):
    out = tmp_path / "lines.json"
    assert main(["export", str(path), str(out)]) == 0
    return out.read_text()


def test_the_colour_of_a_part_comes_back_with_our_own_svg(inked, tmp_path, capsys):
    inked.store.close()
    out, other = tmp_path / "o.svg", tmp_path / "other.stride"
    assert main(["export", str(inked.path), str(out)]) == 0
    assert main(["new", str(other), "--size", "120x90mm", "--dpi", "300"]) == 0
    assert main(["import", str(other), str(out)]) == 0
    capsys.readouterr()
    assert main(["info", str(other), "--json"]) == 0
    told = {part["name"]: part["ink"] for part in json.loads(capsys.readouterr().out)["parts"]}
    assert told == {"Near": "black", "Far": "#5a3a22", "Light": "white"}


def test_flats_in_curves_reach_under_the_lines_and_pencils_go_with_layers_alone(inked, tmp_path, capsys):
    inked.store.close()
    out = tmp_path / "o.svg"
    assert main(["export", str(inked.path), str(out), "--flats"]) == 0
    text = out.read_text()
    assert text.index('id="flats"') < text.index("stride:part")
    assert main(["export", str(inked.path), str(tmp_path / "o.png"), "--pencils"]) == 2
    assert "no part of final art" in capsys.readouterr().err


def test_pencils_are_a_layer_where_they_are_asked(inked, tmp_path):
    from plain_stride.pencils.scanner import scan

    data = scan([np.array([[10.0, 10.0], [100.0, 80.0]])], (120.0, 90.0), 150.0, 1)
    inked.do("pencils-add", data=data, name="rough")
    inked.store.close()
    for more, wanted in (([], False), (["--pencils"], True)):
        assert main(["export", str(inked.path), str(tmp_path / "o.ora"), *more]) == 0
        with zipfile.ZipFile(io.BytesIO((tmp_path / "o.ora").read_bytes())) as file:
            names = [layer.get("name") for layer in ET.fromstring(file.read("stack.xml")).findall(".//layer")]
        assert ("rough" in names) is wanted and (not wanted or names[-1] == "rough")
