"""Finished inks read back from our own export. Outside: the widths that were drawn; scikit-image's distance transform on
the same pixels; pictures of its library that are no inks."""

import numpy as np
import pytest
from PIL import Image
from scipy.spatial import cKDTree

from plain_stride.job.ink_pictures import inked_of
from plain_stride.job.inks_in import inks_of
from plain_stride.job.job_files import load
from plain_stride.job.opening import open_store
from plain_stride.job.print_seen import darkness
from plain_stride.job.shapes import Shapes
from plain_stride.pencils.inks import InksError, read_inks
from tests.proof import bases
from tests.proof.scoring import proofed

PER_MM = 600 / 25.4


def pictured(folder, sheet):
    """Darkness (uint8) of a drawing at 600 dpi."""
    proofed(folder, sheet, ("gap",))
    store = open_store(folder / "planted.stride", write=False)
    try:
        job = load(store)
        shapes = Shapes(job, store)
        dark = darkness([ink for ink, _ in inked_of(job, shapes)], (0.0, 0.0, *sheet.size), PER_MM)
        return np.rint(255 * dark).astype(np.uint8)
    finally:
        store.close()


@pytest.mark.parametrize("name", ["figures", "hills", "hatching"])
def test_widths_come_back_as_they_were_drawn(name, tmp_path):
    sheet = getattr(bases, name)(5)
    dark = pictured(tmp_path, sheet)
    read = read_inks(dark, PER_MM)
    assert 0.9 * len(sheet.lines) <= len(read.lines) <= 1.2 * len(sheet.lines)
    drawn = np.vstack([one["points"] for one in sheet.lines])
    widths = np.concatenate([one["widths"] for one in sheet.lines])
    inner = np.concatenate([_inner(one) for one in sheet.lines])
    off = []
    for line in read.lines:
        far, nearest = cKDTree(drawn).query(line.points)
        off.append(np.abs(line.left + line.right - widths[nearest])[(far < 0.25) & inner[nearest]])
    every = np.concatenate(off)
    assert np.median(every) <= 0.01 and np.percentile(every, 95) <= 0.03


def _inner(one):
    """Places that are no ends."""
    k = np.arange(len(one["points"]))
    return np.ones(len(k), bool) if one["closed"] else np.minimum(k, k[::-1]) > 8


def test_widths_agree_with_a_distance_transform(tmp_path):
    """Outside: twice the distance to paper at the middle (scipy's exact transform, as scikit-image's medial axis has
    it), which is whole pixels."""
    from skimage.morphology import medial_axis

    sheet = bases.Sheet(0, (60.0, 40.0))
    sheet.lay([[10, 20], [50, 20]], 0.9, swell=0.4)
    dark = pictured(tmp_path, sheet)
    (line,) = read_inks(dark, PER_MM).lines
    axis, far = medial_axis(dark >= 128, return_distance=True)
    rows, columns = np.nonzero(axis)
    at = np.column_stack([columns + 0.5, rows + 0.5]) / PER_MM
    near, nearest = cKDTree(at).query(line.points)
    inside = (near < 0.06) & (line.points[:, 0] > 14) & (line.points[:, 0] < 46)
    wide = (2.0 * far[rows, columns] - 1.0)[nearest] / PER_MM
    assert inside.sum() > 100
    assert np.median(np.abs(line.left + line.right - wide)[inside]) < 1.0 / PER_MM


def saved(path, picture, **more):
    Image.fromarray(picture).save(path, dpi=(300, 300), **more)
    return path.read_bytes()


def test_what_is_no_finished_ink_is_told_so(tmp_path):
    from skimage import data

    path, rng = tmp_path / "p.png", np.random.default_rng(0)
    big = np.asarray(Image.fromarray(data.camera()).resize((1400, 1400)))
    for picture, words in ((np.asarray(Image.fromarray(data.astronaut()).resize((1200, 1200))), "in colour"),
                           (big, "grey and not black"), (np.full((900, 900), 255, np.uint8), "no inked lines"),
                           (np.where(rng.random((2400, 2400)) > 0.5, 255, 0).astype(np.uint8), "no inked lines"),
                           (np.full((900, 900), 10, np.uint8), "dark")):  # fmt: skip
        with pytest.raises(InksError, match=words):
            inks_of(saved(path, picture), None)
    Image.fromarray(np.full((300, 300), 255, np.uint8)).save(path)
    with pytest.raises(InksError, match="resolution"):
        inks_of(path.read_bytes(), None)
    with pytest.raises(InksError, match="dpi"):
        inks_of(saved(path, np.full((900, 900), 255, np.uint8)), 20.0)


def test_inks_upside_down_are_the_same_inks(tmp_path):
    sheet = bases.houses(2)
    dark = pictured(tmp_path, sheet)
    one, other = read_inks(dark, PER_MM), read_inks(np.ascontiguousarray(dark[::-1, ::-1]), PER_MM)
    assert abs(len(one.lines) - len(other.lines)) <= 3
