"""Solid patches of pencil: darkness with no paper in it, wider than any pencil line. They are told as patches, with an
outline, and are no rings of lines."""

import numpy as np

from plain_stride.pencils.read.flat import Flat

PER_MM, SOFT_MM = 6.0, 0.12
SOLID, CORE_MM, SPREAD_MM = 0.5, 1.1, 0.3
"""Even darkness from which pencil is solid; half of how wide a patch is at its narrowest: passes that lie side by side
come to 1.5 mm at most; how far beyond its core's reach a patch may still be dark."""
LEAST_MM2, SIMPLE_MM, CLEAR_MM, MOST_SHARE = 7.0, 0.08, 0.45, 0.35
"""The smallest patch, how far its outline may lie off, how far round a patch nothing else is read, and of how much of a
picture that is solid it is a photo of something."""


def patches_of(flat: Flat) -> list[np.ndarray]:
    """Outlines (n, 2) mm of the scan of all solid patches, the largest first."""
    from scipy import ndimage

    small = flat.at(PER_MM)
    per_mm = small.per_mm
    solid = ndimage.gaussian_filter(small.dark, SOFT_MM * per_mm) > SOLID
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
    return [outline for k in order if (outline := _outline(areas == k, per_mm)) is not None]


def without_patches(flat: Flat, outlines: list[np.ndarray]) -> Flat:
    """The darkness with paper in the place of patches and close round them. outlines: (n, 2) mm each."""
    if not outlines:
        return flat
    from PIL import Image, ImageDraw

    h, w = flat.dark.shape
    image = Image.new("L", (w, h), 0)
    pen = ImageDraw.Draw(image)
    wide = max(1, round(2.0 * CLEAR_MM * flat.per_mm))
    for outline in outlines:
        places = [tuple(p) for p in np.vstack([outline, outline[:1]]) * flat.per_mm]
        pen.polygon(places, fill=1)
        pen.line(places, fill=1, width=wide, joint="curve")
    return Flat(np.where(np.asarray(image) > 0, np.float32(0.0), flat.dark), flat.per_mm)


def _outline(mask: np.ndarray, per_mm: float) -> np.ndarray | None:
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
