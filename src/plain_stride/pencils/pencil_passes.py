"""Pencil passes: loose strokes of the inker's own, on a sheet of their own, drawn as a soft pencil would."""

from collections.abc import Sequence

import numpy as np
from PIL import Image, ImageDraw

from plain_stride.pencils.errors import PencilsError

LIGHTEST_MM, HEAVIEST_MM, PALEST = 0.25, 0.9, 0.35
FINER = 2
"""The picture is drawn so much finer and made smaller, which softens edges."""
MOST_POINTS = 20_000


class PassError(PencilsError):
    """A pencil stroke that cannot be."""


def checked_stroke(points: object) -> np.ndarray:
    """(n, 3): x, y mm, pressure 0..1. Raises PassError."""
    try:
        out = np.array(points, float)
    except (TypeError, ValueError):
        out = np.zeros(0)
    if out.ndim != 2 or out.shape[1] != 3 or not 1 <= len(out) <= MOST_POINTS or not np.isfinite(out).all():
        raise PassError("a pencil stroke is a list of [x mm, y mm, pressure 0..1]")
    if np.abs(out[:, :2]).max() > 1e5 or out[:, 2].min() < 0.0 or out[:, 2].max() > 1.0:
        raise PassError("a pencil stroke lies far off the sheet, or its pressure outside 0 to 1")
    return out


def stroke_width(pressure: np.ndarray) -> np.ndarray:
    """mm across, of a pencil's point. pressure: (n,) or one, 0..1."""
    return LIGHTEST_MM + (HEAVIEST_MM - LIGHTEST_MM) * pressure


def stroke_darkness(pressure: np.ndarray) -> np.ndarray:
    """0..1: a light pass is paler than a firm one. pressure: (n,) or one, 0..1."""
    return PALEST + (1.0 - PALEST) * np.sqrt(pressure)


def drawn_passes(
    strokes: Sequence[np.ndarray], origin: tuple[float, float], size: tuple[int, int], per_mm: float
) -> np.ndarray:
    """The darkness (uint8 (h, w)) of strokes on a picture of `size` (w, h) whose upper left corner lies at `origin`
    mm on the sheet."""
    fine = per_mm * FINER
    image = Image.new("L", (size[0] * FINER, size[1] * FINER), 0)
    pen = ImageDraw.Draw(image)
    for stroke in strokes:
        at = (stroke[:, :2] - origin) * fine
        wide, dark = stroke_width(stroke[:, 2]) * fine, stroke_darkness(stroke[:, 2]) * 255.0
        for k in range(len(at)):
            r, tone = wide[k] / 2.0, round(float(dark[k]))
            x, y = at[k]
            pen.ellipse((x - r, y - r, x + r, y + r), fill=tone)
            if k:
                pen.line((*at[k - 1], x, y), fill=tone, width=max(1, round(2.0 * r)))
    return np.asarray(image.reduce(FINER))
