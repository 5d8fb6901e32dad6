"""A simulated printer, pen and scanner for paper on the way: a pale blue sheet printed, inked, scanned back."""

import io
from dataclasses import dataclass

import numpy as np
from PIL import Image

from plain_stride.pencils.blue_out import PALE_BLUE
from plain_stride.pencils.placing import homography, warped
from plain_stride.pencils.register_marks import (
    DISC_MM,
    EDGE_MM,
    MIDDLE_MM,
    RING_MM,
    RING_WIDE_MM,
    mark_places,
)

INK, TABLE = 0.06, 0.36
"""Light that ink leaves of the paper's; that the table beyond the sheet gives."""


@dataclass(frozen=True)
class PaperWay:
    """turn: degrees clockwise; scale: how much larger it comes back; uneven: share of light lost towards one corner;
    blur_mm: sigma; noise: of 255; paper: red, green, blue of 255; askew: share of its width by which its lower edge is
    seen narrower, as a photo has it; jpeg: quality, None for PNG."""

    turn: float = 0.0
    scale: float = 1.0
    uneven: float = 0.0
    blur_mm: float = 0.05
    noise: float = 1.5
    paper: tuple[float, float, float] = (250.0, 247.0, 240.0)
    askew: float = 0.0
    jpeg: int | None = None


def printed_sheet(dark: np.ndarray, per_mm: float, size_mm: tuple[float, float]) -> np.ndarray:
    """(h, w, 3) 0..1: the sheet as it comes out of a printer, marks and all. dark: (h, w) 0..1 of the pencils on the
    finished size."""
    edge = round(EDGE_MM * per_mm)
    share = np.pad(dark.astype(np.float32), edge)
    out = 1.0 - share[:, :, None] * (1.0 - np.array(PALE_BLUE, np.float32))
    y, x = np.mgrid[0 : out.shape[0], 0 : out.shape[1]].astype(np.float32)
    for k, (u, v) in enumerate(mark_places(size_mm)):
        r = np.hypot((x + 0.5) / per_mm - EDGE_MM - u, (y + 0.5) / per_mm - EDGE_MM - v)
        black = (r < DISC_MM) | ((r < RING_MM) & (r > RING_MM - RING_WIDE_MM))
        if k == 0:
            black &= r > MIDDLE_MM
        out[black] = INK
    return np.asarray(out, np.float32)


def scanned(sheet: np.ndarray, ink: np.ndarray, per_mm: float, dpi: float, seed: int, way: PaperWay) -> bytes:
    """A file of the sheet inked and scanned. sheet: of `printed_sheet`; ink: (h, w) 0..1 on the same pixels."""
    from scipy.ndimage import gaussian_filter

    rng = np.random.default_rng(seed)
    seen = sheet * (1.0 - ink.astype(np.float32)[:, :, None] * (1.0 - INK))
    high, wide = seen.shape[:2]
    per = dpi / 25.4 / per_mm * way.scale
    turn = np.radians(way.turn)
    corners = np.array([[0, 0], [wide, 0], [wide, high], [0, high]], float)
    moved = corners.copy()
    moved[2, 0] -= way.askew * wide / 2.0
    moved[3, 0] += way.askew * wide / 2.0
    spin = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    moved = (moved - (wide / 2.0, high / 2.0)) @ spin * per
    pad = 6.0 * dpi / 25.4
    size = tuple(np.ceil(np.ptp(moved, axis=0) + 2.0 * pad).astype(int).tolist())
    moved += pad - moved.min(axis=0)
    to_sheet = homography(moved, corners)
    planes = []
    on = warped(np.full((high, wide), 255, np.uint8), size, to_sheet).astype(np.float32) / 255.0
    for c in range(3):
        plane = warped(np.rint(seen[:, :, c] * 255.0).astype(np.uint8), size, to_sheet).astype(np.float32) / 255.0
        plane = (plane * on + TABLE * (1.0 - on)) * way.paper[c]
        planes.append(gaussian_filter(plane, way.blur_mm * dpi / 25.4) if way.blur_mm else plane)
    whole = np.dstack(planes)
    if way.uneven:
        y, x = np.mgrid[-1 : 1 : size[1] * 1j, -1 : 1 : size[0] * 1j]
        whole *= (1.0 - way.uneven * (0.5 + 0.35 * x + 0.15 * y * y))[:, :, None]
    whole += rng.normal(0.0, way.noise, whole.shape)
    image = Image.fromarray(np.clip(np.rint(whole), 0, 255).astype(np.uint8))
    out = io.BytesIO()
    if way.jpeg is None:
        image.save(out, "PNG", dpi=(dpi, dpi))
    else:
        image.save(out, "JPEG", dpi=(round(dpi), round(dpi)), quality=way.jpeg)
    return out.getvalue()
