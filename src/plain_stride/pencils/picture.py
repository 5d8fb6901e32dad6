"""Reading a scan: what kind of file, how large, at what dpi, how dark where."""

import io
import struct
import warnings
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

import numpy as np
from PIL import Image, ImageOps, UnidentifiedImageError

from plain_stride.pencils.errors import PencilsError

KINDS = ("PNG", "JPEG", "TIFF", "WEBP")
MAX_PIXELS = 250_000_000
DPI_RANGE = (20.0, 4800.0)
DAMAGES = (OSError, ValueError, SyntaxError, EOFError, TypeError, LookupError, ArithmeticError, AttributeError,
           RuntimeError, struct.error, zlib.error, Image.DecompressionBombError)  # fmt: skip
"""What Pillow's readers raise for damaged files: they trust what a file says of itself."""

Image.MAX_IMAGE_PIXELS = MAX_PIXELS // 2
"""Pillow refuses twice this before it decodes anything."""


class PictureError(PencilsError):
    """A file that cannot serve as pencils."""


@dataclass(frozen=True)
class PictureFacts:
    """pixels: (w, h) upright; dpi: (x, y) as the file says, None where it says nothing usable."""

    kind: str
    pixels: tuple[int, int]
    dpi: tuple[float, float] | None


def picture_facts(data: bytes) -> PictureFacts:
    """What a scan's file says of itself; the whole picture is decoded once to be sure of it. Raises PictureError."""
    with _opened(data) as picture:
        dpi = picture.info.get("dpi")
        upright = _upright(picture)
        return PictureFacts(str(picture.format), upright.size, _usable(dpi))


def darkness(data: bytes) -> np.ndarray:
    """uint8 (h, w): 0 where the paper is white, 255 where the pencil is blackest; transparency counts as paper."""
    with _opened(data) as picture:
        upright = _upright(picture)
        if upright.mode in ("I;16", "I;16B", "I;16L", "I", "F"):
            values = np.asarray(upright, float)
            top = 65535.0 if values.max() > 255.0 else 255.0
            return (255.0 - np.clip(values / top, 0.0, 1.0) * 255.0).astype(np.uint8)
        if "A" in upright.getbands() or "transparency" in upright.info:
            colour = upright.convert("RGBA")
            paper = Image.new("RGBA", colour.size, (255, 255, 255, 255))
            upright = Image.alpha_composite(paper, colour)
        if upright.mode != "L":
            grey = upright.convert("L")
            upright.close()
            upright = grey
        return 255 - np.asarray(upright)


def colours(data: bytes) -> Image.Image:
    """The picture in red, green and blue on white paper."""
    with _opened(data) as picture:
        upright = _upright(picture)
        if upright.mode in ("I;16", "I;16B", "I;16L", "I", "F"):
            return Image.fromarray(255 - darkness(data)).convert("RGB")
        if "A" not in upright.getbands() and "transparency" not in upright.info:
            return upright.convert("RGB")
        colour = upright.convert("RGBA")
        paper = Image.new("RGBA", colour.size, (255, 255, 255, 255))
        return Image.alpha_composite(paper, colour).convert("RGB")


@contextmanager
def _quiet() -> Iterator[None]:
    """Pillow warns of oddities of a file that it then reads or refuses."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        yield


def _opened(data: bytes) -> Image.Image:
    if not data:
        raise PictureError("the picture is an empty file: scan or copy it again")
    try:
        with _quiet():
            picture = Image.open(io.BytesIO(data), formats=KINDS)
    except Image.DecompressionBombError:
        raise PictureError(
            f"there are more than {MAX_PIXELS:,} pixels, too many for pencils: scan at a lower dpi"
        ) from None
    except UnidentifiedImageError:
        raise PictureError("the file is no PNG, JPEG, TIFF or WebP picture: save the scan as one of these") from None
    except DAMAGES as fault:
        raise PictureError(f"the picture cannot be read ({fault}): scan or copy it again") from None
    w, h = picture.size
    if w * h > MAX_PIXELS:
        raise PictureError(f"{w:,} x {h:,} pixels are too many for pencils: scan at a lower dpi")
    return picture


def _upright(picture: Image.Image) -> Image.Image:
    try:
        with _quiet():
            picture.load()
            # In its place: a copy of a very large scan would take as much memory again.
            ImageOps.exif_transpose(picture, in_place=True)
            return picture
    except DAMAGES as fault:
        raise PictureError(f"the picture is damaged ({fault}): scan or copy it again") from None


def _usable(dpi: Any) -> tuple[float, float] | None:
    try:
        x, y = (float(v) for v in dpi)
    except (TypeError, ValueError):
        return None
    low, high = DPI_RANGE
    return (x, y) if low <= x <= high and low <= y <= high else None
