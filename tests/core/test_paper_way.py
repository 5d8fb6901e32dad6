"""Paper on the way, on the simulated printer, pen and scanner. Truth is what was printed and inked, never what was
read."""

import io

import numpy as np
import pypdfium2
import pytest
from PIL import Image, ImageDraw
from scipy.ndimage import map_coordinates, maximum_filter, minimum_filter

from plain_stride.finish.blue_print import blue_pdf
from plain_stride.job.paper_way import scan_back
from plain_stride.pencils.errors import PencilsError
from plain_stride.pencils.print_and_scan import PaperWay, printed_sheet, scanned
from plain_stride.pencils.register_marks import EDGE_MM, MarksError, found_marks, mark_places

SIZE, OVER = (100.0, 80.0), 3
TURNED = PaperWay(turn=3.0, scale=1.007, uneven=0.3)
PHOTO = PaperWay(turn=-3.0, scale=1.007, uneven=0.3, askew=0.04, blur_mm=0.08, noise=3.0, jpeg=85)


def drawn(lines, wide, per_mm, dark=1.0):
    """(h, w) 0..1 of lines on the printed sheet, its edge among it."""
    size = [round(side * per_mm) + 2 * round(EDGE_MM * per_mm) for side in SIZE]
    image = Image.new("L", (size[0] * OVER, size[1] * OVER), 0)
    draw = ImageDraw.Draw(image)
    for one in lines:
        places = ((one + EDGE_MM) * per_mm * OVER - 0.5).tolist()
        draw.line([*map(tuple, places)], fill=round(255 * dark), width=round(wide * per_mm * OVER), joint="curve")
    return np.asarray(image.resize(tuple(size), Image.Resampling.BOX), float) / 255.0


def curves():
    """Waves across the sheet, far enough from each other to be measured."""
    t = np.linspace(0.0, 1.0, 160)
    return [np.column_stack([8 + 84 * t, 10 + 9 * k + 2.5 * np.sin(2 * np.pi * t * (1 + k % 3))]) for k in range(7)]


def there_and_back(way, dpi, seed=3):
    per_mm = dpi / 25.4
    edge, rng = round(EDGE_MM * per_mm), np.random.default_rng(seed)
    pencils = [one + rng.normal(0, 0.25, 2) for one in curves() for _ in range(2)]
    blue = drawn(pencils, 0.5, per_mm, 0.8)[edge:-edge, edge:-edge]
    ink = drawn(curves(), 0.5, per_mm)
    data = scanned(printed_sheet(blue, per_mm, SIZE), ink, per_mm, dpi, seed, way)
    return data, ink[edge:-edge, edge:-edge], blue


@pytest.mark.parametrize(("way", "dpi"), [(PaperWay(), 300), (TURNED, 600), (PHOTO, 400)])
def test_ink_comes_back_where_it_was_drawn_without_its_blue(way, dpi):
    data, ink, _ = there_and_back(way, dpi)
    back = scan_back(data, SIZE)
    dark = 1.0 - np.asarray(Image.open(io.BytesIO(back.png)), float) / 255.0
    per = dark.shape[1] / SIZE[0]
    off = np.concatenate([_off(one, dark, per) for one in curves()])
    assert np.median(off) <= 0.04 and off.max() <= 0.1, (np.median(off), off.max())
    truth = np.asarray(Image.fromarray((ink * 255).astype(np.uint8)).resize(dark.shape[::-1]), float) / 255.0
    paper = maximum_filter(truth, round(0.25 * per) * 2 + 1) < 0.01
    core = minimum_filter(truth, round(0.08 * per) * 2 + 1) > 0.9
    assert (dark[paper] > 0.05).mean() < 0.005 and (dark[core] < 0.5).mean() < 0.005
    assert back.dpi == pytest.approx(dpi * way.scale, rel=0.02)


def _off(one, dark, per):
    """mm from a line to the middle of its ink, along it."""
    way = np.gradient(one, axis=0)
    way /= np.hypot(*way.T)[:, None]
    across = np.linspace(-1.0, 1.0, 81)
    at = one[:, None] + np.column_stack([-way[:, 1], way[:, 0]])[:, None] * across[None, :, None]
    seen = map_coordinates(dark, [at[..., 1] * per - 0.5, at[..., 0] * per - 0.5], order=1)
    return np.abs((seen * across).sum(axis=1) / np.maximum(seen.sum(axis=1), 1e-9))[4:-4]


@pytest.mark.parametrize("turn", [0.0, 90.0, 180.0, 268.0])
def test_a_sheet_laid_any_way_round_is_found(turn):
    per_mm = 150 / 25.4
    sheet = printed_sheet(np.zeros((round(SIZE[1] * per_mm), round(SIZE[0] * per_mm))), per_mm, SIZE)
    data = scanned(sheet, np.zeros(sheet.shape[:2]), per_mm, 150, 1, PaperWay(turn=turn))
    grey = np.asarray(Image.open(io.BytesIO(data)).convert("L"))
    found = found_marks(grey, SIZE)
    assert found.missing == ()
    # The first mark's middle is white: it lies where the map puts the first place.
    where = np.linalg.inv(found.to_sheet) @ np.append(mark_places(SIZE)[0], 1.0)
    x, y = (where[:2] / where[2]).astype(int)
    assert grey[y, x] > 150


def without_marks(data, *gone):
    image = Image.open(io.BytesIO(data)).convert("RGB")
    draw, per = ImageDraw.Draw(image), 300 / 25.4
    pad = 6.0
    for k in gone:
        x, y = (mark_places(SIZE)[k] + EDGE_MM + pad) * per
        draw.rectangle([x - 5 * per, y - 5 * per, x + 5 * per, y + 5 * per], fill=(250, 247, 240))
    out = io.BytesIO()
    image.save(out, "PNG", dpi=(300, 300))
    return out.getvalue()


def test_three_marks_are_enough_and_fewer_are_told():
    data, _, _ = there_and_back(PaperWay(), 300)
    back = scan_back(without_marks(data, 2), SIZE)
    assert "lower right mark was not found" in " ".join(back.words)
    dark = 1.0 - np.asarray(Image.open(io.BytesIO(back.png)), float) / 255.0
    assert max(_off(one, dark, dark.shape[1] / SIZE[0]).max() for one in curves()) < 0.15
    for gone, words in (((1, 2), "2 of 4"), ((0, 1, 2, 3), "0 of 4"), ((0,), "not the first")):
        with pytest.raises(MarksError, match=words):
            scan_back(without_marks(data, *gone), SIZE)


def test_what_is_no_inked_sheet_is_refused_in_a_sentence():
    rng = np.random.default_rng(2)
    for values in (np.full((400, 500), 255), rng.integers(0, 255, (900, 700)), np.zeros((300, 300))):
        out = io.BytesIO()
        Image.fromarray(values.astype(np.uint8)).save(out, "PNG")
        with pytest.raises(PencilsError):
            scan_back(out.getvalue(), SIZE)
    with pytest.raises(PencilsError):
        scan_back(b"no picture", SIZE)


def test_a_coarse_scan_is_told_to_be_one():
    data, _, _ = there_and_back(PaperWay(), 150)
    words = " ".join(scan_back(data, SIZE).words)
    assert "150 dpi are few" in words and "short side" in words


def test_the_blue_sheet_prints_at_true_size_with_its_marks():
    dark = np.zeros((400, 500), np.uint8)
    dark[190:210] = 255
    page = pypdfium2.PdfDocument(blue_pdf("a", SIZE, dark, (0.0, 0.0, *SIZE)))[0]
    pt = 72 / 25.4
    assert page.get_size() == pytest.approx(((SIZE[0] + 2 * EDGE_MM) * pt, (SIZE[1] + 2 * EDGE_MM) * pt), abs=0.01)
    seen = np.asarray(page.render(scale=300 / 72).to_pil().convert("RGB"))
    found = found_marks(np.asarray(Image.fromarray(seen).convert("L")), SIZE)
    assert found.missing == ()
    middle = np.linalg.inv(found.to_sheet) @ np.array([SIZE[0] / 2, SIZE[1] / 2, 1.0])
    x, y = (middle[:2] / middle[2]).astype(int)
    assert seen[y, x].tolist() == pytest.approx([158, 204, 242], abs=3)
    assert (seen[y + 60, x] > 250).all()
