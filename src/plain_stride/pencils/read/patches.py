"""Solid patches of pencil: darkness with no paper in it, wider than any pencil line. They are told as patches, with an
outline, and are no rings of lines."""

import numpy as np
from PIL import Image

from plain_stride.pencils.read.flat import Flat, resized

PER_MM, SOFT_MM = 6.0, 0.12
SOLID, CORE_MM, SPREAD_MM = 0.66, 1.4, 0.4
"""Even darkness from which pencil is solid; half of how wide a patch is at its narrowest: passes that lie side by side
come to 1.5 mm at most, a small closed shape of a blurred photo to 2.5; how far beyond its core's reach a patch may
still be dark."""
AROUND_MM, MARK, BLACK_SHARE, LEAST_BLACK = 40.0, 0.15, 0.9, 0.25
"""How far round the paper is looked for; darkness from which it is pencil; the share of it that is no blacker than
black; black of a sheet that has hardly any."""
PINHOLE_MM2, MOSTLY = 0.2, 0.6
"""Less paper than that within solid pencil is its grain; a share of dark pixels that no place in a core is below."""
LEAST_MM2, SIMPLE_MM, CLEAR_MM, MOST_SHARE = 12.0, 0.08, 0.45, 0.35
"""The smallest patch, how far its outline may lie off, how far round a patch nothing else is read, and of how much of a
picture that is solid it is a photo of something."""


def patches_of(darkness: np.ndarray, per_mm: float) -> list[np.ndarray]:
    """Outlines (n, 2) mm of all solid patches of a scan (uint8 (h, w), 0 paper to 255 black), the largest first.
    per_mm: pixels for one mm."""
    from scipy import ndimage

    dark, per_mm = _evened(darkness, per_mm)
    solid = dark > SOLID
    if not _may_be_solid(solid, per_mm):
        return []
    solid = _without_pinholes(solid, per_mm)
    core = ndimage.distance_transform_edt(solid) >= CORE_MM * per_mm
    if not core.any():
        return []
    near = ndimage.distance_transform_edt(~core) <= (CORE_MM + SPREAD_MM) * per_mm
    areas, n = ndimage.label(solid & near)
    if np.count_nonzero(areas) > MOST_SHARE * areas.size:
        return []
    # What runs off the picture is a shadow of the scan, or the table.
    border = {int(k) for edge in (areas[0], areas[-1], areas[:, 0], areas[:, -1]) for k in np.unique(edge)}
    sizes = ndimage.sum_labels(np.ones(areas.shape), areas, range(1, n + 1)) / per_mm**2
    order = [int(k) + 1 for k in np.argsort(-sizes) if sizes[k] >= LEAST_MM2 and int(k) + 1 not in border]
    return [outline for k in order if (outline := outline_of(areas == k, per_mm)) is not None]


def _evened(darkness: np.ndarray, per_mm: float) -> tuple[np.ndarray, float]:
    """(0 paper to about 1 for the blackest pencil, pixels for one mm). The paper is looked for farther round than for
    lines: within a patch there is none."""
    from scipy import ndimage

    scale = min(PER_MM, per_mm)
    light = 255.0 - resized(darkness.astype(np.float32), scale / per_mm)
    soft = ndimage.gaussian_filter(light, SOFT_MM * scale, mode="nearest")
    paper = _paper(soft, scale)
    dark = -np.log(np.clip(soft / np.maximum(paper, 1.0), 0.02, 1.0))
    marks = dark[dark > MARK]
    black = float(np.quantile(marks, BLACK_SHARE)) if marks.size else 1.0
    return dark / max(black, LEAST_BLACK), scale


def _paper(soft: np.ndarray, per_mm: float) -> np.ndarray:
    """The paper's light at each pixel (h, w): the lightest round it, evened out. It changes slowly: a pixel for each mm
    tells as much."""
    from scipy import ndimage

    by = max(1, int(per_mm))
    h, w = (-(-n // by) * by for n in soft.shape)
    framed = np.pad(soft, ((0, h - soft.shape[0]), (0, w - soft.shape[1])), mode="edge")
    lightest = framed.reshape(h // by, by, w // by, by).max(axis=(1, 3))
    wide = AROUND_MM * per_mm / by
    lightest = ndimage.maximum_filter(lightest, max(3, round(wide) | 1), mode="nearest")
    even = ndimage.gaussian_filter(lightest, wide / 4.0, mode="nearest")
    whole = Image.fromarray(even.astype(np.float32)).resize((w, h), Image.Resampling.BILINEAR)
    return np.asarray(whole)[: soft.shape[0], : soft.shape[1]]


def _may_be_solid(solid: np.ndarray, per_mm: float) -> bool:
    """Whether any square that fits into the core of every patch, wherever it lies, is dark for the most part."""
    by = max(1, int(CORE_MM / np.sqrt(2.0) * per_mm * 0.9))
    h, w = (n // by * by for n in solid.shape)
    return bool((solid[:h, :w].reshape(h // by, by, w // by, by).mean(axis=(1, 3)) > MOSTLY).any())


def _without_pinholes(solid: np.ndarray, per_mm: float) -> np.ndarray:
    """Solid pencil with the grain of its paper filled in."""
    from scipy import ndimage

    holes, n = ndimage.label(~solid)
    sizes = ndimage.sum_labels(np.ones(holes.shape), holes, range(n + 1)) / per_mm**2
    small = sizes < PINHOLE_MM2
    small[0] = False
    out: np.ndarray = solid | small[holes]
    return out


def without_patches(flat: Flat, outlines: list[np.ndarray]) -> Flat:
    """The darkness with paper in the place of patches and close round them. outlines: (n, 2) mm each."""
    if not outlines:
        return flat
    from PIL import ImageDraw

    h, w = flat.dark.shape
    image = Image.new("L", (w, h), 0)
    pen = ImageDraw.Draw(image)
    wide = max(1, round(2.0 * CLEAR_MM * flat.per_mm))
    for outline in outlines:
        places = [tuple(p) for p in np.vstack([outline, outline[:1]]) * flat.per_mm]
        pen.polygon(places, fill=1)
        pen.line(places, fill=1, width=wide, joint="curve")
    return Flat(np.where(np.asarray(image) > 0, np.float32(0.0), flat.dark), flat.per_mm)


def outline_of(mask: np.ndarray, per_mm: float) -> np.ndarray | None:
    """The outline (n, 2) mm of a mask's outer edge, its pixels' corners cut."""
    import shapely

    padded = np.pad(mask, 1)
    edges = np.diff(padded.astype(np.int8), axis=1)
    starts, ends = np.argwhere(edges > 0), np.argwhere(edges < 0)
    rows = [shapely.box(a, y - 1, b, y) for (y, a), (_, b) in zip(starts, ends, strict=True)]
    area = shapely.union_all(rows).buffer(0.5, quad_segs=4).buffer(-0.5, quad_segs=4)
    whole = max(shapely.get_parts(area), key=lambda part: part.area)
    ring = shapely.get_coordinates(whole.simplify(SIMPLE_MM * per_mm).exterior)[:-1]
    return ring / per_mm if len(ring) > 2 else None
