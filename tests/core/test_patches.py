"""Solid patches in the pencils: read as patches with an outline, and not as rings of lines. Outside: areas by shapely and
closed forms."""

import io

import numpy as np
import pytest
import shapely
from PIL import Image, ImageDraw, ImageFilter

from plain_stride.pencils.read.reading import ReadError, read_pencils

PER_MM = 8.0


def pencilled(solids=(), lines=(), grain=14.0, seed=3):
    """uint8 darkness of 100 x 80 mm of pencil with a paper's grain: solid shapes and strokes."""
    rng = np.random.default_rng(seed)
    image = Image.new("L", (int(100 * PER_MM), int(80 * PER_MM)), 0)
    pen = ImageDraw.Draw(image)
    for solid in solids:
        pen.polygon([tuple(p) for p in np.asarray(solid) * PER_MM], fill=190)
    for line in lines:
        pen.line([tuple(p) for p in np.asarray(line) * PER_MM], fill=190, width=round(0.5 * PER_MM))
    soft = np.asarray(image.filter(ImageFilter.GaussianBlur(1.2)), float)
    return np.clip(soft * rng.uniform(0.75, 1.0, soft.shape) + rng.normal(12, grain / 3, soft.shape), 0, 255).astype(
        np.uint8
    )


def disc(x, y, r, n=60):
    t = np.linspace(0, 2 * np.pi, n, endpoint=False)
    return np.column_stack([x + r * np.cos(t), y + r * np.sin(t)])


STROKES = [[[10, 70], [90, 66]], [[15, 10], [40, 14], [60, 8]], [[80, 20], [84, 50]]]


def test_a_filled_patch_is_a_patch_with_its_outline_and_no_ring():
    shape = disc(45, 38, 7)
    reading = read_pencils(pencilled([shape], STROKES), PER_MM)
    (patch,) = reading.patches
    told, true = shapely.Polygon(patch), shapely.Polygon(shape)
    assert told.intersection(true).area / told.union(true).area > 0.93
    assert shapely.hausdorff_distance(told.exterior, true.exterior) < 0.5
    near = [line for line in reading.lines if np.hypot(*(line.points - [45, 38]).T).min() < 8.5]
    assert not near and len(reading.lines) == len(STROKES)


def test_an_odd_shape_and_two_patches():
    boot = [[20, 30], [30, 30], [31, 42], [44, 47], [44, 52], [20, 52]]
    reading = read_pencils(pencilled([boot, disc(75, 40, 4)], STROKES), PER_MM)
    areas = [shapely.Polygon(p).area for p in reading.patches]
    assert areas == pytest.approx([shapely.Polygon(boot).area, 16 * np.pi], rel=0.1)


@pytest.mark.parametrize(
    "lines",
    [
        STROKES,
        [[[10, 40 + 0.5 * k], [80, 40 + 0.5 * k]] for k in range(3)],
        [[[20 + 1.4 * k, 20], [24 + 1.4 * k, 60]] for k in range(20)],
        [disc(50, 40, 10).tolist() + [[60, 40]]],
    ],
    ids=["lines", "passes", "hatching", "ring"],
)
def test_lines_passes_hatching_and_rings_are_no_patches(lines):
    assert read_pencils(pencilled([], lines), PER_MM).patches == []


def test_a_patch_alone_holds_no_lines():
    with pytest.raises(ReadError, match="no pencil lines"):
        read_pencils(pencilled([disc(50, 40, 9)]), PER_MM)


def test_patches_come_with_the_reading_of_a_job_and_can_be_marked_to_be_filled(open_job):
    from plain_stride.job.pencil_reading import read_job, reading_from_json, reading_json

    out = io.BytesIO()
    Image.fromarray(255 - pencilled([disc(45, 38, 7)], STROKES)).save(out, "png", dpi=(PER_MM * 25.4, PER_MM * 25.4))
    open_job.do("pencils-add", data=out.getvalue(), name="rough")
    reading = read_job(open_job.job)
    (patch,) = reading_from_json(reading_json(reading)).patches
    assert patch.mean(axis=0) == pytest.approx([45, 38], abs=0.5)
