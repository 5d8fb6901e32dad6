"""Other pencils and other scans: one drawing as it comes back hard or soft, restated, shaded, smudged, on lined paper,
folded, with the back showing through, finer and coarser. Each turns a scan's bytes, or how it is drawn, into others."""

import io
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from plain_stride.pencils.scanner import ROUGH, SOFT, Scanning

Change = Callable[[Image.Image, float, np.random.Generator], Image.Image]
"""(picture, pixels a mm, chance) to a picture."""


@dataclass(frozen=True)
class Paper:
    """how: it is drawn and scanned; dpi; changed: what happens to the sheet; pencils: 'clean' or 'rough', whose figures
    it is held against."""

    how: Scanning
    pencils: str
    dpi: float = 300.0
    changed: Change | None = None

    def scanned(self, data: bytes, seed: int) -> bytes:
        """A scan (PNG) after what happens to its sheet."""
        if self.changed is None:
            return data
        picture = self.changed(Image.open(io.BytesIO(data)).convert("L"), self.dpi / 25.4, np.random.default_rng(seed))
        out = io.BytesIO()
        picture.save(out, "PNG", dpi=(self.dpi, self.dpi))
        return out.getvalue()


def lined(picture: Image.Image, per_mm: float, rng: np.random.Generator) -> Image.Image:
    """Pale lines 8 mm apart."""
    page = Image.new("L", picture.size, 255)
    draw = ImageDraw.Draw(page)
    for y in np.arange(float(rng.uniform(3.0, 8.0)), picture.height / per_mm, 8.0):
        draw.line([(0, y * per_mm), (picture.width, y * per_mm)], fill=222, width=max(1, round(0.2 * per_mm)))
    return _darker(picture, page)


def through(picture: Image.Image, per_mm: float, rng: np.random.Generator) -> Image.Image:
    """Its own mirror image, blurred and pale, as from the back."""
    back = picture.transpose(Image.Transpose.FLIP_LEFT_RIGHT).filter(ImageFilter.GaussianBlur(0.25 * per_mm))
    grey = np.asarray(back, float)
    return _darker(picture, Image.fromarray((255.0 - 0.16 * (grey.max() - grey)).astype(np.uint8)))


def folded(picture: Image.Image, per_mm: float, rng: np.random.Generator) -> Image.Image:
    """Two creases, a dark side and a light one each."""
    x, y = np.arange(picture.width) / per_mm, np.arange(picture.height) / per_mm
    shade = np.zeros((picture.height, picture.width))
    for at, along in ((picture.width / per_mm / 2.0, x[None, :]), (picture.height / per_mm / 2.0, y[:, None])):
        off = along - at - rng.uniform(-4.0, 4.0)
        shade = shade + 26.0 * np.exp(-((off / 1.2) ** 2)) * np.sign(off)
    return Image.fromarray(np.clip(np.asarray(picture, float) - shade, 0, 255).astype(np.uint8))


def smudged(picture: Image.Image, per_mm: float, rng: np.random.Generator) -> Image.Image:
    """Graphite rubbed along by the hand: a pale haze of what was drawn."""
    grey = np.asarray(picture, float)
    wiped = np.asarray(picture.filter(ImageFilter.GaussianBlur(1.6 * per_mm)), float)
    return Image.fromarray(np.clip(grey - 0.5 * (wiped.max() - wiped), 0, 255).astype(np.uint8))


def shaded(picture: Image.Image, per_mm: float, rng: np.random.Generator) -> Image.Image:
    """Soft tone laid over a third of the sheet with the side of the pencil."""
    h, w = picture.height, picture.width
    y, x = np.mgrid[0:h, 0:w]
    centre, size = rng.uniform(0.3, 0.7, 2) * (w, h), 0.3 * min(w, h)
    tone = 34.0 * np.exp(-((((x - centre[0]) ** 2 + (y - centre[1]) ** 2) / size**2) ** 2))
    tooth = np.clip(1.0 + 0.35 * rng.normal(0.0, 1.0, (h, w)), 0.0, 2.0)
    return Image.fromarray(np.clip(np.asarray(picture, float) - tone * tooth, 0, 255).astype(np.uint8))


def _darker(one: Image.Image, other: Image.Image) -> Image.Image:
    a, b = np.asarray(one, float), np.asarray(other, float)
    return Image.fromarray((a * b / 255.0).astype(np.uint8))


PAPERS: dict[str, Paper] = {
    "600 dpi": Paper(SOFT, "clean", 600.0),
    "150 dpi": Paper(SOFT, "clean", 150.0),
    "hard pencil": Paper(Scanning(1, 0.04, 0.0, 0.2, softness=0.9), "clean"),
    "lined paper": Paper(SOFT, "clean", changed=lined),
    "back shows": Paper(SOFT, "clean", changed=through),
    "smudged": Paper(SOFT, "clean", changed=smudged),
    "folded": Paper(ROUGH, "rough", changed=folded),
    "shaded": Paper(ROUGH, "rough", changed=shaded),
    "two passes": Paper(Scanning(2, 0.12, 0.1, 0.8), "rough"),
    "five passes": Paper(Scanning(5, 0.3, 0.2, 1.6), "rough"),
}
"""By what happens to a sheet."""
